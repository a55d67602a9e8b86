package spec

import (
	"fmt"
	"slices"
	"strings"
)

// Problem is one thing wrong with a document: where, what, and what to do.
type Problem struct {
	File    string `json:"file"`
	Line    int    `json:"line"`   // from 1; 0 when unknown
	Column  int    `json:"column"` // from 1
	Path    string `json:"path"`   // such as fields[2].rules[0].length.min
	Message string `json:"message"`
	Remedy  string `json:"remedy,omitempty"`
}

func (p Problem) Error() string {
	var b strings.Builder
	if p.File != "" {
		b.WriteString(p.File + ":")
	}
	if p.Line > 0 {
		fmt.Fprintf(&b, "%d:%d:", p.Line, p.Column)
	}
	if b.Len() > 0 {
		b.WriteByte(' ')
	}
	if p.Path != "" {
		b.WriteString(p.Path + ": ")
	}
	b.WriteString(p.Message)
	if p.Remedy != "" {
		b.WriteString("; " + p.Remedy)
	}
	return b.String()
}

// Problem is one of a form's, at the place of a path; items in brackets may be named by their ids.
func (f *Form) Problem(path, remedy, format string, args ...any) Problem {
	p := f.source.problem(f.byNumber(path), remedy, format, args...)
	p.Path = path
	return p
}

// byNumber turns the ids in a path into the numbers that the reader has kept places under.
func (f *Form) byNumber(path string) string {
	steps, err := SplitPath(path)
	if err != nil {
		return path
	}
	out, list := "", ""
	field := -1
	for _, s := range steps {
		if !s.Item {
			out = join(out, s.Key)
			list = s.Key
			continue
		}
		n := -1
		switch list {
		case "fields":
			n = slices.IndexFunc(f.Fields, func(x Field) bool { return x.ID == s.Key })
			field = n
		case "rules":
			if field >= 0 {
				n = slices.IndexFunc(f.Fields[field].Rules, func(r Rule) bool { return r.ID() == s.Key })
			}
		case "across":
			n = slices.IndexFunc(f.Across, func(a Across) bool { return a.ID == s.Key })
		case "stored":
			n = slices.IndexFunc(f.Stored, func(x Stored) bool { return x.Table() == s.Key })
		}
		if n < 0 {
			out += "[" + s.Key + "]"
			continue
		}
		out += fmt.Sprintf("[%d]", n)
		if list == "rules" && field >= 0 {
			out += "." + string(f.Fields[field].Rules[n].Kind())
		}
	}
	return out
}

// Problems are all problems of a document, in the order they stand in it.
type Problems []Problem

func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, one := range p {
		lines[i] = one.Error()
	}
	return strings.Join(lines, "\n")
}

func (p Problems) orNil() error {
	if len(p) == 0 {
		return nil
	}
	return p
}

// PathStep is a key, or an item by its id or number.
type PathStep struct {
	Key  string
	Item bool
}

func SplitPath(path string) ([]PathStep, error) {
	var out []PathStep
	for rest := path; rest != ""; {
		switch {
		case rest[0] == '[':
			end := strings.IndexByte(rest, ']')
			if end < 0 {
				return nil, fmt.Errorf("a ] is missing in the path")
			}
			out = append(out, PathStep{rest[1:end], true})
			rest = strings.TrimPrefix(rest[end+1:], ".")
		default:
			end := strings.IndexAny(rest, ".[")
			if end < 0 {
				end = len(rest)
			}
			if end == 0 {
				return nil, fmt.Errorf("a key is missing in the path")
			}
			out = append(out, PathStep{rest[:end], false})
			rest = strings.TrimPrefix(rest[end:], ".")
		}
	}
	return out, nil
}
