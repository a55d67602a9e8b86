// Command oddtick designs and runs test cases for web forms.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"runtime/debug"
	"strings"
	"syscall"

	"github.com/spf13/cobra"
)

// exitError carries the process's exit code: 1 something odd, 2 could not run or something was not observed.
type exitError struct {
	code int
	text string
}

func (e *exitError) Error() string { return e.text }

// gcPercent lets the heap, which is small, grow more between collections: memory for speed.
const gcPercent = 400

// version is the commit that this program was built of, with its day.
func version() string {
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "of an unknown commit"
	}
	set := map[string]string{}
	for _, s := range info.Settings {
		set[s.Key] = s.Value
	}
	if set["vcs.revision"] == "" {
		return "of an unknown commit"
	}
	day, _, _ := strings.Cut(set["vcs.time"], "T")
	out := fmt.Sprintf("%.12s of %s", set["vcs.revision"], day)
	if set["vcs.modified"] == "true" {
		out += ", with changes"
	}
	return out
}

// logLevel is the least of what is logged.
var logLevel slog.LevelVar

func main() {
	debug.SetGCPercent(gcPercent)
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: &logLevel}))) // a library sets its own otherwise
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "oddtick",
		Short:         "Designs and runs test cases for web forms, and shows where page, message or row is not as promised",
		Version:       version(),
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.AddCommand(demoCommand(), serveCommand(), userCommand(), keyCommand(), openAPICommand(), wordsCommand(), schemaCommand(), runCommand(), cleanUpCommand(), compareCommand(), reportCommand(), limitCommand(), furtherCommand(), designCommand(), explainCommand(), arrayCommand(), practiceCommand())
	errs := &inert{w: os.Stderr}
	root.SetOut(&inert{w: os.Stdout})
	root.SetErr(errs)
	err := root.ExecuteContext(ctx)
	var coded *exitError
	switch {
	case err == nil:
	case errors.As(err, &coded):
		if coded.text != "" {
			fmt.Fprintln(errs, coded.text)
		}
		stop()
		os.Exit(coded.code)
	default:
		fmt.Fprintln(errs, "oddtick: "+err.Error())
		stop()
		os.Exit(2)
	}
}
