package documents

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/knownlist"
	"oddtick/formats/result"
)

// ReadSite reads a site document, or that of a folder. Forms beside it are not read.
func ReadSite(path string) (*spec.Site, error) {
	names := []string{path}
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		names = nil
		entries, err := os.ReadDir(path)
		if err != nil {
			return nil, fmt.Errorf("%s cannot be read: %w", path, err)
		}
		for _, e := range entries {
			if !e.IsDir() && spec.IsDocument(e.Name()) && spec.IsSiteFile(e.Name()) {
				names = append(names, filepath.Join(path, e.Name()))
			}
		}
	}
	if len(names) == 0 {
		return nil, fmt.Errorf("%s contains no site document; its name is site.yaml", path)
	}
	text, err := os.ReadFile(names[0])
	if err != nil {
		return nil, err
	}
	project, err := spec.ReadProject([]spec.File{{Name: names[0], Text: text}})
	if err != nil {
		return nil, err
	}
	return project.Site, nil
}

// ReadProject reads a document, or all documents of a folder. A form document alone takes the site document of its folder, where
// there is one.
func ReadProject(path string) (*spec.Project, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", path, errors.Unwrap(err))
	}
	var names []string
	folder := path
	if !info.IsDir() {
		folder = filepath.Dir(path)
		names = append(names, path)
	}
	entries, err := os.ReadDir(folder)
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", folder, err)
	}
	for _, e := range entries {
		full := filepath.Join(folder, e.Name())
		if !e.IsDir() && spec.IsDocument(e.Name()) && !slices.Contains(names, full) && (info.IsDir() || spec.IsSiteFile(e.Name())) {
			names = append(names, full)
		}
	}
	var files []spec.File
	for _, name := range names {
		text, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		if info.IsDir() && (result.Is(text) || knownlist.Is(text)) {
			continue // results and lists of known findings may be kept beside the documents
		}
		files = append(files, spec.File{Name: name, Text: text})
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("%s contains no document; their names end in .yaml, .yml or .json", path)
	}
	p, err := spec.ReadProject(files)
	if err != nil {
		return nil, err
	}
	if len(p.Forms) == 0 {
		return nil, fmt.Errorf("%s contains no form document", path)
	}
	if p.Site == nil {
		p.Site = &spec.Site{Site: "site"}
	}
	return p, nil
}

// Below are the files that can hold documents: those that are named, and those in the folders that are named.
func Below(paths []string) ([]string, error) {
	var out []string
	for _, path := range paths {
		info, err := os.Stat(path)
		if err != nil {
			return nil, fmt.Errorf("%s cannot be read: %w", path, errors.Unwrap(err))
		}
		if !info.IsDir() {
			out = append(out, path)
			continue
		}
		entries, err := os.ReadDir(path)
		if err != nil {
			return nil, fmt.Errorf("%s cannot be read: %w", path, errors.Unwrap(err))
		}
		for _, e := range entries {
			if !e.IsDir() && spec.IsDocument(e.Name()) {
				out = append(out, filepath.Join(path, e.Name()))
			}
		}
	}
	return out, nil
}

// DepthOf reads a depth's name.
func DepthOf(name string) (testcase.Depth, error) {
	if !slices.Contains(testcase.Depths, testcase.Depth(name)) {
		return "", fmt.Errorf("the depth %q is not known; write quick, standard or thorough", name)
	}
	return testcase.Depth(name), nil
}

func DesignerOf(project *spec.Project, f *spec.Form) (*design.Designer, error) {
	p, err := f.Prepare()
	if err != nil {
		return nil, err
	}
	return design.New(p, project.Site)
}
