package spec

import (
	"fmt"
	"reflect"

	"oddtick/core/values"
)

// Guess is an entry of the catalogue for error guessing: a value on which sites stumble.
type Guess struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	// Text is the value, or what a value should look like where the field's rules do not let it stand as it is.
	Text string `json:"text"`
	// Position is where in a usual value the text is put; whole, the default, takes the text for the value.
	Position string `json:"position,omitempty" was:"at" oneof:"whole,start,inside,end"`
	// Tells is a pattern that a value must match to be about this guess; where it is not given, the value must hold the text.
	Tells string `json:"pattern,omitempty" was:"tells"`
	// For are the kinds of fields; text, textarea, tel and password where none is given.
	For []Kind `json:"for,omitempty"`
	// OnlyIfRejected: only where a rule of the field rejects the value, as sites may accept it or not where none does.
	OnlyIfRejected bool `json:"only_if_rejected,omitempty" was:"refused"`
	// Depth is the least depth at which it belongs to the cases: quick, standard or thorough, which is the default.
	Depth string `json:"depth,omitempty" oneof:"quick,standard,thorough"`
}

// Pattern is what the values match that are about the guess.
func (g *Guess) Pattern() string {
	text := values.QuotePattern(g.Text)
	switch {
	case g.Tells != "":
		return g.Tells
	case g.Position == "start":
		return text + "[^]+"
	case g.Position == "inside":
		return "[^]+" + text + "[^]+"
	case g.Position == "end":
		return "[^]+" + text
	}
	return "[^]*" + text + "[^]*"
}

// GuessDocument is a file of guesses.
type GuessDocument struct {
	Guesses []Guess `json:"guesses"`
}

// ReadGuesses reads a catalogue. What is wrong with it is returned as Problems with line and column.
func ReadGuesses(file string, text []byte) ([]Guess, error) {
	docs, err := Documents(file, text)
	if err != nil {
		return nil, err
	}
	if len(docs) != 1 {
		return nil, Problems{{File: file, Message: fmt.Sprintf("the file holds %d documents", len(docs)), Remedy: "start it with guesses: and a list"}}
	}
	var doc GuessDocument
	r := &reader{source: &source{file: file, positions: map[string]position{}}}
	r.read(docs[0], reflect.ValueOf(&doc).Elem(), "")
	if len(r.problems) == 0 {
		r.checkGuesses("guesses", doc.Guesses)
	}
	return doc.Guesses, r.problems.orNil()
}

func (r *reader) checkGuesses(list string, guesses []Guess) {
	seen := map[string]bool{}
	for i, g := range guesses {
		path := fmt.Sprintf("%s[%d]", list, i)
		switch {
		case !idForm.MatchString(g.ID):
			r.fail(path+".id", "write small letters, digits and _, a letter first", "%q is not an id", g.ID)
		case seen[g.ID]:
			r.fail(path+".id", "give each guess its own id", "two guesses have the id %s", g.ID)
		case g.Text == "":
			r.fail(path, "write text: and the value", "the guess %s has no text", g.ID)
		}
		seen[g.ID] = true
		if _, err := values.Pattern(g.Pattern(), values.DialectV); err != nil {
			where := path + ".text"
			if g.Tells != "" {
				where = path + ".pattern"
			}
			r.fail(where, "", "%s", err)
		}
	}
}
