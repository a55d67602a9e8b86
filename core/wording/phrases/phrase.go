// Package phrases holds the sentences that other rooms of core say: titles of cases, why one is left out, contradictions, what is
// proposed for a document, how two revisions differ, journeys. It imports none of them, so that each of them can take its words here.
package phrases

import (
	"fmt"
	"strings"

	"oddtick/core/prose"
)

// Phrase is a sentence with named places, such as "{label} has no limit in any layer.", and the code by which a test and other
// languages know it.
type Phrase struct {
	Code    string
	English string
}

// all are the phrases in the order of the files.
var all []Phrase

func phrase(code, english string) Phrase {
	p := Phrase{code, english}
	all = append(all, p)
	return p
}

// All lists every phrase.
func All() []Phrase { return all }

// With is the sentence with its places filled in: names and values in turn. A place without a value stays as it is, so that a test
// finds it.
func (p Phrase) With(places ...any) prose.Text { return prose.Text(p.fill(places)) }

// Text is a sentence without places.
func (p Phrase) Text() prose.Text { return prose.Text(p.Template()) }

// Template is the sentence with its places, in the language that is used; "" of no phrase.
func (p Phrase) Template() string {
	if t := translation.Load(); t != nil {
		return (*t)[p.Code]
	}
	return p.English
}

func (p Phrase) fill(places []any) string {
	return Fill(p.Template(), func(name string) (string, bool) { return valueOf(places, name) })
}

// Fill writes a template with its places filled in; value gives what stands in a place, and whether there is such a value. A place
// without one stays as it is.
func Fill(template string, value func(place string) (string, bool)) string {
	var b strings.Builder
	rest := template
	for {
		before, after, found := strings.Cut(rest, "{")
		b.WriteString(before)
		if !found {
			return b.String()
		}
		name, behind, closed := strings.Cut(after, "}")
		text, given := value(name)
		if !closed || !given {
			b.WriteByte('{')
			rest = after
			continue
		}
		b.WriteString(text)
		rest = behind
	}
}

func valueOf(places []any, name string) (string, bool) {
	for i := 0; i+1 < len(places); i += 2 {
		if places[i] == name {
			return fmt.Sprint(places[i+1]), true
		}
	}
	return "", false
}
