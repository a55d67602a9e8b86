package serving

import (
	"log/slog"
)

// logLevel is the least of what is logged.
var LogLevel slog.LevelVar
