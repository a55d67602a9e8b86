package spec

import (
	"fmt"
	"reflect"
	"slices"

	"oddtick/core/values"
)

// CaseEdit is what a tester changed about one case. It is kept apart from the case and joined with it by its id, so that it survives
// when cases are computed anew.
type CaseEdit struct {
	Case string `json:"case"`
	// Off switches the case off and says why.
	Skip string `json:"skip,omitempty" was:"off"`
	// Kept takes the case into every depth.
	EveryDepth bool     `json:"every_depth,omitempty" was:"kept"`
	Tags       []string `json:"tags,omitempty"`
	// Title replaces the computed one.
	Title string `json:"title,omitempty"`
	// Inputs are values typed instead of the computed ones, by field id; Absent are fields whose parameters are left out.
	Inputs map[string]string `json:"inputs,omitempty"`
	Absent []string          `json:"absent,omitempty"`
	// Own tells that the case is written by hand: the usual submission with the inputs.
	Added bool `json:"added,omitempty" was:"own"`
	// Driver is how such a case is submitted; http where nothing is said.
	Driver string `json:"driver,omitempty" oneof:"http,browser"`
	// Says is the outcome that its source, such as a sheet, expects; the oracle's own stands beside it.
	Expect string `json:"expect,omitempty" was:"says" oneof:"accepted,rejected"`
	// Note is where the case comes from.
	Note string `json:"note,omitempty"`
}

// CaseDocument holds the edits of a form's cases.
type CaseDocument struct {
	// Cases is the form's id.
	Cases string     `json:"cases"`
	Edits []CaseEdit `json:"edits"`

	source *source
}

// check names what is wrong with the edits for a form; nil form: only what can be told without.
func (d *CaseDocument) check(form *Form) Problems {
	var out Problems
	seen := map[string]bool{}
	for i := range d.Edits {
		e := &d.Edits[i]
		path := fmt.Sprintf("edits[%d]", i)
		switch {
		case e.Case == "":
			out = append(out, d.source.problem(path, "write case: and the id of a case", "the edit names no case"))
		case seen[e.Case]:
			out = append(out, d.source.problem(path+".case", "keep one edit for each case", "the case %s is edited twice", e.Case))
		}
		seen[e.Case] = true
		if form == nil {
			continue
		}
		for id := range e.Inputs {
			if !slices.ContainsFunc(form.Fields, func(f Field) bool { return f.ID == id }) {
				out = append(out, d.source.problem(path+".inputs."+id, "use the ids of the form's fields", "the form %s has no field %q", form.Form, id))
			}
		}
	}
	return out
}

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

// UnusualDecision is what a team makes of something unusual: of what breaks a promise that holds on every form.
type UnusualDecision struct {
	Promise PromiseID `json:"promise" oneof:"secret_stored_plain,secret_stored_reversible,secret_stored_fast,secret_salt_shared,secret_shown,secret_stored_elsewhere,secret_filled_in_again,stored_cut,stored_rounded,stored_altered,stored_other_day,stored_other_time,rejected_and_stored,accepted_and_not_stored,other_rows_changed,page_limit_ignored,server_error,internals_shown,redirect_broken,reload_repeats,get_writes,hidden_control_lost,session_cookie_readable,session_id_kept,accounts_told_apart,secret_not_checked,secret_in_any_capitals,token_not_checked,token_of_another_session,surplus_parameter_stored,sent_again_and_stored_twice,message_missing,message_hidden,message_at_other_field,message_not_linked,markup_unescaped,values_lost,unique_but_for_capitals,unique_but_for_spaces,unique_without_index,label_missing,language_missing"`
	// Field is the id of the field that it is about; without it, it is about all fields, and the whole form.
	Field string `json:"field,omitempty"`
	// Is says whether it is a defect, or as it should be.
	Is  Decision `json:"is" oneof:"wrong,usual"`
	Why string   `json:"why,omitempty"`
}

// PromiseID names a promise that holds on every form; core/universal holds them.
type PromiseID string

// Decision is what is decided of something unusual.
type Decision string

// The decisions: it is a defect, or it is as it should be here.
const (
	Wrong Decision = "wrong"
	Usual Decision = "usual"
)

// Decided is the first decision of some about a promise and a field, "" for none.
func Decided(list []UnusualDecision, promise PromiseID, field string) Decision {
	for _, d := range list {
		if d.Promise == promise && (d.Field == "" || d.Field == field) {
			return d.Is
		}
	}
	return ""
}
