package main

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/knownlist"
	"oddtick/server/contact"

	"github.com/stretchr/testify/require"
)

var (
	fence  = regexp.MustCompile("(?ms)^```([a-z]+)\n(.*?)^```$")
	option = regexp.MustCompile(`(?:^| )(--[a-z][a-z-]*)`)
)

// examples are the fenced examples of a language in the documents, by file.
func examples(t *testing.T, language string) map[string][]string {
	files, err := filepath.Glob("../../docs/*.md")
	require.NoError(t, err)
	out := map[string][]string{}
	for _, file := range append(files, "../../README.md", "../../CONTRIBUTING.md") {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, m := range fence.FindAllStringSubmatch(string(text), -1) {
			if m[1] == language {
				out[file] = append(out[file], m[2])
			}
		}
	}
	return out
}

// TestDocumentedDocumentsAreRead: every document in the documents is one that Odd Tick reads, and a form has cases.
func TestDocumentedDocumentsAreRead(t *testing.T) {
	t.Parallel()
	forms, others := 0, 0
	for file, list := range examples(t, "yaml") {
		for _, text := range list {
			if strings.HasPrefix(text, "known:") {
				list, err := knownlist.Read([]byte(text))
				require.NoError(t, err, text)
				require.NotEmpty(t, list.Known)
				others++
				continue
			}
			if strings.HasPrefix(text, "hosts:") {
				list := filepath.Join(t.TempDir(), "contact.yaml")
				require.NoError(t, os.WriteFile(list, []byte(text), 0o600))
				_, err := contact.Read(list)
				require.NoError(t, err, text)
				others++
				continue
			}
			if !strings.HasPrefix(text, "form:") {
				_, err := spec.ReadProject([]spec.File{{Name: file, Text: []byte(withForms(text))}})
				require.NoError(t, err, text)
				others++
				continue
			}
			form, err := spec.ReadForm(file, []byte(text))
			require.NoError(t, err, text)
			prepared, err := form.Prepare()
			require.NoError(t, err, text)
			d, err := design.New(prepared, nil)
			require.NoError(t, err, text)
			require.NotEmpty(t, d.Design(design.Plan{Depth: testcase.Quick}).Cases, text)
			forms++
		}
	}
	require.GreaterOrEqual(t, forms, 4)
	require.GreaterOrEqual(t, others, 5)
}

// withForms adds the form that the examples' journeys and edits are about.
func withForms(text string) string {
	return text + "---\nform: join\npage: /join\nfields:\n  - {name: heard}\n  - {name: plots}\n  - {name: terms}\n"
}

// TestDocumentedCommandsExist, with each option that they are shown with.
func TestDocumentedCommandsExist(t *testing.T) {
	t.Parallel()
	seen := 0
	for file, list := range examples(t, "sh") {
		for line := range strings.Lines(strings.Join(list, "")) {
			words := strings.Fields(line)
			if len(words) < 2 || words[0] != "bin/oddtick" {
				continue
			}
			code, help, errs := oddtick(t, words[1], "--help")
			require.Zero(t, code, "%s: %s: %s", file, line, errs)
			for _, m := range option.FindAllStringSubmatch(line, -1) {
				require.Contains(t, help, " "+m[1]+" ", "%s: %s", file, line)
			}
			seen++
		}
	}
	require.GreaterOrEqual(t, seen, 10)
}

// TestParagraphsAreShort: at most five lines, so that they are read.
func TestParagraphsAreShort(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("../../docs/*.md")
	require.NoError(t, err)
	for _, file := range append(files, "../../README.md") {
		switch filepath.Base(file) {
		case "decisions.md", "measurements.md", "architecture.md", "headlines.md":
			continue
		}
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, paragraph := range strings.Split(fence.ReplaceAllString(string(text), ""), "\n\n") {
			if paragraph = strings.TrimSpace(paragraph); strings.HasPrefix(paragraph, "|") || strings.HasPrefix(paragraph, "-") || strings.HasPrefix(paragraph, "1.") {
				continue
			}
			require.LessOrEqual(t, strings.Count(paragraph, "\n")+1, 5, "%s: %s", file, paragraph)
		}
	}
}
