package serving

import (
	"log/slog"
)

// LogLevel is the least of what is logged.
var LogLevel slog.LevelVar
