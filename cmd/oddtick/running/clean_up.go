package running

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"slices"
	"sync"

	"oddtick/cmd/oddtick/documents"
	"oddtick/cmd/oddtick/usage"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/formats/result"

	"github.com/spf13/cobra"
)

// journal is a file beside that of a result, in which each case's changes stand from the moment they were seen: what a run that is killed
// has done can be taken back from it. A nil journal keeps nothing.
type journal struct {
	name string
	mu   sync.Mutex
	file *os.File
}

// JournalEnding is behind the name of the result's file.
const JournalEnding = ".journal"

// journalLine is a line of the file: the changes of one case.
type journalLine struct {
	Case    string               `json:"case"`
	Changes []observation.Change `json:"changes"`
}

// openJournal begins a journal beside the file that a form's result will be written to; none where it is not written to a file.
func openJournal(file string, r *report.Report, several bool) (*journal, error) {
	if file == "" || file == "-" {
		return nil, nil
	}
	name := documents.FileOf(file, r.Form, several) + JournalEnding
	f, err := os.OpenFile(name, os.O_CREATE|os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return nil, fmt.Errorf("keep what the run changes: %w", err)
	}
	return &journal{name: name, file: f}, nil
}

// end removes the journal: the result tells of the same.
func (j *journal) end() {
	if j != nil {
		_ = j.file.Close()
		_ = os.Remove(j.name)
	}
}

// journaled is a sink that keeps changes in a journal too.
type journaled struct {
	schedule.Sink
	journal *journal
}

// Done implements engine.Sink.
func (s *journaled) Done(r *report.Result) error {
	if s.journal != nil {
		line := journalLine{Case: r.Case, Changes: target.ChangesOf(r)}
		if len(line.Changes) > 0 {
			text, err := json.Marshal(line)
			if err != nil {
				return err
			}
			s.journal.mu.Lock()
			_, err = s.journal.file.Write(append(text, '\n'))
			s.journal.mu.Unlock()
			if err != nil {
				return fmt.Errorf("keep what the run changes: %w", err)
			}
		}
	}
	return s.Sink.Done(r)
}

// CleanUpCommand undoes what a run changed in the watched tables.
func CleanUpCommand() *cobra.Command {
	var f runFlags
	c := &cobra.Command{
		Use:   "clean-up RESULT PROJECT",
		Short: "Delete the rows that a run wrote, and restore those it changed",
		Long: `RESULT is a file that run --json wrote, or the journal beside it if the run was killed (RESULT.journal). PROJECT is the project folder or
site document with the databases. The newest change is undone first; what others changed stays. The database user needs the rights to
insert, update and delete.`,
		Example: "  oddtick clean-up result.json examples/ostlewick",
		GroupID: usage.Run, Annotations: usage.Exit("everything was undone", "some rows could not be undone; they are listed", usage.Failed),
		Args: cobra.ExactArgs(2),
		RunE: func(cmd *cobra.Command, args []string) error {
			changes, err := changesIn(args[0])
			if err != nil {
				return err
			}
			project, err := documents.ReadProject(args[1])
			if err != nil {
				return err
			}
			if project.Site, err = project.Site.In(f.environment); err != nil {
				return fmt.Errorf("--environment: %w", err)
			}
			if f.database != "" && len(project.Site.Databases) > 0 {
				project.Site.Databases[0].DSN = f.database
			}
			if err := documents.TakeSecrets(project.Site, documents.FolderOf(args[1])); err != nil {
				return err
			}
			done, err := target.TakeBack(cmd.Context(), project.Site, changes)
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), done)
			if len(done.Left) > 0 {
				return &documents.ExitError{Code: 1}
			}
			return nil
		},
	}
	f.addPlace(c)
	return c
}

// maxLineBytes is how long a line of a journal may be, in bytes.
const maxLineBytes = 64 << 20

// changesIn are the changes that a result tells of, or a journal.
func changesIn(name string) ([]observation.Change, error) {
	text, err := os.ReadFile(name)
	if errors.Is(err, os.ErrNotExist) {
		if beside, also := os.ReadFile(name + JournalEnding); also == nil {
			text, err = beside, nil
		}
	}
	if err != nil {
		return nil, fmt.Errorf("read the result: %w", err)
	}
	if result.Is(text) {
		r, err := result.Read(bytes.NewReader(text))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		// a result file holds them by name, so that their order is the clock's
		return target.ChangesOf(slices.SortedFunc(maps.Values(r.Results), func(a, b *report.Result) int { return a.Started.Compare(b.Started) })...), nil
	}
	var out []observation.Change
	lines := bufio.NewScanner(bytes.NewReader(text))
	lines.Buffer(nil, maxLineBytes)
	for n := 1; lines.Scan(); n++ {
		var line journalLine
		if err := json.Unmarshal(lines.Bytes(), &line); err != nil {
			if n > 1 && bytes.HasSuffix(text, lines.Bytes()) {
				break // the last one was cut off as the run was killed
			}
			return nil, fmt.Errorf("%s:%d: it is neither a result nor the journal of a run: %w", name, n, err)
		}
		out = append(out, line.Changes...)
	}
	return out, lines.Err()
}
