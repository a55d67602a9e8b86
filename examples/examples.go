// Package examples holds the example projects, so that the demo can load them without their folder.
package examples

import (
	"embed"
	"io/fs"
	"path/filepath"

	"oddtick/core/spec"
)

//go:embed ostlewick/*.yaml sheds/*.yaml
var files embed.FS

// The projects, by their folders: those of the practice sites.
const (
	Ostlewick = "ostlewick"
	Sheds     = "sheds"
)

// Files are the documents of a project.
func Files(project string) ([]spec.File, error) {
	var out []spec.File
	err := fs.WalkDir(files, project, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := fs.ReadFile(files, path)
		out = append(out, spec.File{Name: filepath.Base(path), Text: text})
		return err
	})
	return out, err
}
