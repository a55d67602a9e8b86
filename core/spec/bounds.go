package spec

import (
	"fmt"

	"github.com/goccy/go-yaml/lexer"
	"github.com/goccy/go-yaml/token"
)

// What a document may be at most. Beyond it nothing is read or computed, as it would take more memory or time than anybody has.
const (
	maxText    = 8 << 20 // bytes of a file
	maxNesting = 100     // levels, one within another

	// MaxLength is the largest length that a rule may name, in its units: values of that length are made.
	MaxLength = 1_000_000
	// MaxAttachment is the largest file that is made and sent, in bytes.
	MaxAttachment = 64 << 20
)

// tooMuch says where a text is longer or nested deeper than is read; nil where it is not.
func tooMuch(text []byte) *Problem {
	if len(text) > maxText {
		return &Problem{Message: fmt.Sprintf("the file has %d bytes, and at most %d are read", len(text), maxText), Remedy: "put forms in files of their own"}
	}
	var columns []int // of the block collections that are open, from the outermost
	flow := 0
	for _, t := range lexer.Tokenize(string(text)) {
		switch t.Type {
		case token.MappingStartType, token.SequenceStartType:
			flow++
		case token.MappingEndType, token.SequenceEndType:
			flow = max(0, flow-1)
		case token.DocumentHeaderType, token.DocumentEndType:
			columns, flow = columns[:0], 0
		case token.CommentType, token.SpaceType:
			continue
		}
		if flow == 0 && t.Position != nil {
			for len(columns) > 0 && columns[len(columns)-1] >= t.Position.Column {
				columns = columns[:len(columns)-1]
			}
			columns = append(columns, t.Position.Column)
		}
		if depth := len(columns) + flow; depth > maxNesting {
			p := &Problem{Message: fmt.Sprintf("more than %d levels stand one within another", maxNesting), Remedy: "no document needs so many; nothing was read"}
			if t.Position != nil {
				p.Line, p.Column = t.Position.Line, t.Position.Column
			}
			return p
		}
	}
	return nil
}
