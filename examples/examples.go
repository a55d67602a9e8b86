// Package examples holds the example projects, so that the demo can load them without their folder.
package examples

import (
	"embed"
	"io/fs"
	"path/filepath"
)

//go:embed ostlewick/*.yaml sheds/*.yaml
var files embed.FS

// The projects, by their folders: those of the practice sites.
const (
	Ostlewick = "ostlewick"
	Sheds     = "sheds"
)

// Documents are the texts of a project's documents, by their files' names.
func Documents(project string) (map[string][]byte, error) {
	out := map[string][]byte{}
	err := fs.WalkDir(files, project, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := fs.ReadFile(files, path)
		out[filepath.Base(path)] = text
		return err
	})
	return out, err
}
