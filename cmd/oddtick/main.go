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

	"oddtick/cmd/oddtick/designing"
	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/reporting"
	"oddtick/cmd/oddtick/running"
	"oddtick/cmd/oddtick/serving"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/wording/phrases"

	"github.com/spf13/cobra"
)

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

func main() {
	debug.SetGCPercent(gcPercent)
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: &serving.LogLevel}))) // a library sets its own otherwise
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "oddtick",
		Short:         "Odd Tick designs and runs test cases for web forms, and shows where page, message or database row is not as promised",
		Version:       version(),
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	usage.Prepare(root)
	language := root.PersistentFlags().String("language", "en", "language of titles, findings and reports: "+strings.Join(phrases.Languages(), " or "))
	root.PersistentPreRunE = func(cmd *cobra.Command, _ []string) error {
		if !cmd.Flags().Changed("language") {
			return nil // a server has a setting of its own
		}
		return phrases.Use(*language)
	}
	root.AddCommand(serving.DemoCommand(), serving.ServeCommand(), serving.UserCommand(), serving.KeyCommand(), serving.OpenAPICommand(), serving.WordsCommand(), designing.SchemaCommand(), designing.MigrateCommand(), running.LearnCommand(), running.RunCommand(), running.CleanUpCommand(), reporting.CompareCommand(), reporting.ReportCommand(), running.FindLimitCommand(), running.InvestigateCommand(), designing.DesignCommand(), designing.ExplainCommand(), designing.CoveringArrayCommand(), serving.PracticeCommand())
	errs := &documents.Inert{W: os.Stderr}
	root.SetOut(&documents.Inert{W: os.Stdout})
	root.SetErr(errs)
	err := root.ExecuteContext(ctx)
	var coded *documents.ExitError
	switch {
	case err == nil:
	case errors.As(err, &coded):
		if coded.Text != "" {
			fmt.Fprintln(errs, coded.Text)
		}
		stop()
		os.Exit(coded.Code)
	default:
		fmt.Fprintln(errs, "oddtick: "+err.Error())
		stop()
		os.Exit(2)
	}
}
