// Package spec holds what a form promises: the site document and the form document, read from YAML or JSON.
//
//	site.go, form.go, rule.go   the documents' types; their json tags are the keys in the files
//	read.go                     a document's text to those types, with every problem's line, column and path
//	former.go                   how former versions wrote documents
//	project.go                  several documents together
//	complete.go                 what a document leaves to be derived: ids, implied rules
//	check.go                    contradictions a document holds in itself
//	prepare.go, evaluate.go     the form made ready for computing: patterns as automata, bounds parsed, expressions compiled; values against its rules
package spec

import (
	"path"
	"reflect"
	"slices"
	"strings"

	"github.com/goccy/go-yaml/ast"
)

// Project is a site with its forms.
type Project struct {
	Site  *Site   `json:"site,omitempty"`
	Forms []*Form `json:"forms"`
	// Cases are the edits of the forms' cases.
	Cases []*CaseDocument `json:"cases,omitempty"`
}

// EditsOf are the edits of a form's cases.
func (p *Project) EditsOf(form string) []CaseEdit {
	var out []CaseEdit
	for _, d := range p.Cases {
		if d.Cases == form {
			out = append(out, d.Edits...)
		}
	}
	return out
}

// File is a document's name and text.
type File struct {
	Name string
	Text []byte
}

// ReadProject reads the site document and the form documents of several files; a file may hold several documents. All problems
// of all files are returned together as Problems.
func ReadProject(files []File) (*Project, error) {
	p := &Project{}
	var problems Problems
	for _, f := range files {
		docs, err := Documents(f.Name, f.Text)
		if err != nil {
			problems = append(problems, err.(Problems)...)
			continue
		}
		if len(docs) == 0 {
			problems = append(problems, Problem{File: f.Name, Message: "the file holds no document", Remedy: `write a form document, starting with "form: its id"`})
		}
		for _, doc := range docs {
			problems = append(problems, p.add(f.Name, doc)...)
		}
	}
	seen := map[string]bool{}
	for _, f := range p.Forms {
		if f.Form != "" && seen[f.Form] {
			problems = append(problems, f.source.problem("form", "give each form an id of its own", "the form %q is described twice", f.Form))
		}
		seen[f.Form] = true
	}
	if len(problems) == 0 {
		for _, d := range p.Cases {
			i := slices.IndexFunc(p.Forms, func(f *Form) bool { return f.Form == d.Cases })
			if i < 0 && len(p.Forms) > 0 {
				problems = append(problems, d.source.problem("cases", "name a form of the project", "there is no form %q whose cases are edited", d.Cases))
				continue
			}
			var form *Form
			if i >= 0 {
				form = p.Forms[i]
			}
			problems = append(problems, d.check(form)...)
		}
	}
	return p, problems.orNil()
}

func (p *Project) add(file string, doc ast.Node) Problems {
	r := &reader{source: &source{file: file, positions: map[string]position{}}}
	list, _ := MapEntries(doc)
	isForm := slices.ContainsFunc(list, func(e *ast.MappingValueNode) bool { return e.Key.GetToken().Value == "form" })
	isSite := slices.ContainsFunc(list, func(e *ast.MappingValueNode) bool { return e.Key.GetToken().Value == "site" })
	switch {
	case isForm:
		f := &Form{source: r.source}
		r.read(doc, reflect.ValueOf(f).Elem(), "")
		f.complete()
		if len(r.problems) == 0 {
			r.problems = append(r.problems, f.check()...)
		}
		p.Forms = append(p.Forms, f)
	case isSite:
		s := &Site{source: r.source}
		r.read(doc, reflect.ValueOf(s).Elem(), "")
		r.checkGuesses("guesses", s.Guesses)
		if len(r.problems) == 0 {
			r.problems = append(r.problems, s.check()...)
		}
		if p.Site != nil {
			r.fail("site", "keep one site document in a project", "there is a second site document")
		}
		p.Site = s
	case slices.ContainsFunc(list, func(e *ast.MappingValueNode) bool { return e.Key.GetToken().Value == "cases" }):
		d := &CaseDocument{source: r.source}
		r.read(doc, reflect.ValueOf(d).Elem(), "")
		p.Cases = append(p.Cases, d)
	default:
		r.mark("", doc.GetToken())
		r.fail("", `start a form document with "form: its id" and a site document with "site: its id"`, "this is neither a form nor a site document, nor one of edits of cases")
	}
	return r.problems
}

// ReadForm reads one form document.
func ReadForm(file string, text []byte) (*Form, error) {
	p, err := ReadProject([]File{{file, text}})
	if err != nil {
		return nil, err
	}
	if len(p.Forms) != 1 {
		return nil, Problems{{File: file, Message: "the file does not hold one form document", Remedy: `start it with "form: its id"`}}
	}
	return p.Forms[0], nil
}

// IsDocument tells by a file's name whether it can hold a document.
func IsDocument(name string) bool {
	ext := strings.ToLower(path.Ext(name))
	return ext == ".yaml" || ext == ".yml" || ext == ".json"
}

// IsSiteFile tells by a file's name whether it is the folder's site document.
func IsSiteFile(name string) bool {
	return strings.TrimSuffix(name, path.Ext(name)) == "site"
}
