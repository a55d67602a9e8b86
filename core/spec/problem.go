package spec

import (
	"fmt"
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
