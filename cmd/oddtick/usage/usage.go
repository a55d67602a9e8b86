// Package usage is how the command line explains itself: help in the order of work, an example and the exit codes of every command, and
// errors that say what to do.
package usage

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// The groups of commands, in the order of work.
const (
	Write       = "write"
	Design      = "design"
	Run         = "run"
	Investigate = "investigate"
	Report      = "report"
	Serve       = "serve"
)

var groups = []*cobra.Group{
	{ID: Write, Title: "Learn and write"}, {ID: Design, Title: "Design"}, {ID: Run, Title: "Run"}, {ID: Investigate, Title: "Investigate"}, {ID: Report, Title: "Report"}, {ID: Serve, Title: "Serve"},
}

const exitCodes = "exit codes"

// Exit are the exit codes of a command, as its annotations hold them: what 0, 1 and 2 mean, as many as there are.
func Exit(means ...string) map[string]string {
	var b strings.Builder
	for code, text := range means {
		if text != "" {
			fmt.Fprintf(&b, "  %d  %s\n", code, text)
		}
	}
	return map[string]string{exitCodes: b.String()}
}

// ExitOf are the lines of a command's exit codes; "" for none.
func ExitOf(c *cobra.Command) string { return c.Annotations[exitCodes] }

// Failed is what 2 means where nothing else can go wrong than that a command cannot do its work.
const Failed = "it could not be done; the error says why"

// former are the names of commands and options before they were given plainer ones.
var former = map[string]string{
	"further": "investigate", "array": "covering-array", "limit": "find-limit",
	"--anyway": "--ignore-contradictions", "--at-most": "--max-cases", "--part": "--share", "--pick": "--only", "--clean-up": "--delete-written-rows",
}

// Prepare gives a root command and all below it their help and their errors.
func Prepare(root *cobra.Command) {
	root.AddGroup(groups...)
	root.SetHelpCommandGroupID(Write)
	root.CompletionOptions.HiddenDefaultCmd = true
	root.SetHelpFunc(func(c *cobra.Command, _ []string) { help(c.OutOrStdout(), c) })
	root.SetFlagErrorFunc(flagError)
	root.SuggestionsMinimumDistance = 2
	root.Args = cobra.ArbitraryArgs
	root.RunE = func(c *cobra.Command, args []string) error {
		if len(args) > 0 {
			return unknown(c, args[0])
		}
		help(c.OutOrStdout(), c)
		return nil
	}
}

// unknown says what to do about a name that no command has.
func unknown(c *cobra.Command, name string) error {
	if now, was := former[name]; was {
		return fmt.Errorf("%q is now called %q", name, now)
	}
	if near := c.SuggestionsFor(name); len(near) > 0 {
		return fmt.Errorf("there is no command %q; did you mean %s?", name, strings.Join(near, " or "))
	}
	var names []string
	for _, one := range c.Commands() {
		if one.IsAvailableCommand() {
			names = append(names, one.Name())
		}
	}
	slices.Sort(names)
	return fmt.Errorf("there is no command %q; the commands are %s", name, strings.Join(names, ", "))
}

// flagError says what to do about an option that a command does not have.
func flagError(c *cobra.Command, err error) error {
	var missing *pflag.NotExistError
	if !errors.As(err, &missing) {
		return fmt.Errorf("%w; see %s --help", err, c.CommandPath())
	}
	name := "--" + missing.GetSpecifiedName()
	if now, was := former[name]; was {
		return fmt.Errorf("%s is now called %s", name, now)
	}
	return fmt.Errorf("%s has no option %s; see %s --help", c.CommandPath(), name, c.CommandPath())
}

// help writes what a command does: in a sentence, how it is called, an example, its options, and its exit codes.
func help(w io.Writer, c *cobra.Command) {
	fmt.Fprintf(w, "%s.\n", c.Short)
	if c.Runnable() && c.HasParent() {
		fmt.Fprintf(w, "\n  %s\n", c.UseLine())
	}
	if c.Long != "" {
		fmt.Fprintf(w, "\n%s\n", strings.TrimSpace(c.Long))
	}
	for _, g := range c.Groups() {
		list(w, g.Title, c, g.ID)
	}
	if c.HasParent() {
		list(w, "Commands", c, "")
	}
	section(w, "Example", c.Example)
	if c.HasParent() {
		section(w, "Options", c.LocalFlags().FlagUsagesWrapped(helpWidth))
	}
	if c.Runnable() {
		section(w, "Options of every command", c.InheritedFlags().FlagUsagesWrapped(helpWidth))
	}
	section(w, "Exit codes", ExitOf(c))
	if c.HasAvailableSubCommands() {
		fmt.Fprintf(w, "\nMore about one of them: %s COMMAND --help\n", c.CommandPath())
	}
}

const helpWidth = 120

func section(w io.Writer, title, text string) {
	if text != "" {
		fmt.Fprintf(w, "\n%s\n%s\n", title, strings.TrimRight(text, "\n"))
	}
}

// list writes the commands of a group.
func list(w io.Writer, title string, c *cobra.Command, group string) {
	var b strings.Builder
	for _, one := range c.Commands() {
		if one.GroupID == group && one.IsAvailableCommand() && one.Name() != "help" {
			fmt.Fprintf(&b, "  %-15s %s\n", one.Name(), one.Short)
		}
	}
	section(w, title, b.String())
}
