package spec

import (
	"fmt"
	"slices"
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
