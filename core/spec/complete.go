package spec

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// complete fills in what a document leaves to be derived.
func (f *Form) complete() {
	for i := range f.Fields {
		f.Fields[i].complete()
	}
	for i := range f.Across {
		if f.Across[i].ID == "" {
			f.Across[i].ID = fmt.Sprintf("across_%d", i+1)
		}
	}
	for i := range f.Stored {
		st := &f.Stored[i]
		for _, name := range slices.Sorted(maps.Keys(st.Columns)) {
			named := NamedSource{Name: name, Source: st.Columns[name]}
			named.Within, _ = named.Now.tolerance() // a wrong one is told by Prepare
			st.sorted = append(st.sorted, named)
		}
	}
	if f.Title == "" {
		f.Title = f.Form
	}
	if f.Rejected.Place == "" {
		f.Rejected.Place = AtField
	}
	if f.Rejected.Report == "" {
		f.Rejected.Report = EveryFailingRule
	}
}

func (f *Field) complete() {
	if f.ID == "" {
		f.ID = Identifier(f.Name)
	}
	if f.Name == "" {
		f.Name = f.ID
	}
	if f.Label == "" {
		f.Label = f.Name
	}
	if f.Kind == "" {
		f.Kind = Text
	}
	if f.Kind == Checkbox && f.Value == "" {
		f.Value = "on"
	}
	has := map[RuleKind]bool{}
	for i := range f.Rules {
		has[f.Rules[i].Kind()] = true
	}
	// a kind that can be missed is itself a rule, checked before the others
	var implied []Rule
	switch {
	case f.Kind == Number && !has[RuleNumber]:
		implied = append(implied, Rule{Number: &NumberRule{}})
	case f.Kind == Date && !has[RuleDate]:
		implied = append(implied, Rule{Date: &DateRule{}})
	case (f.Kind == Time || f.Kind == DateTime) && !has[RuleTime]:
		implied = append(implied, Rule{Time: &TimeRule{}})
	case (f.Kind == SingleChoice || f.Kind == MultipleChoice) && (len(f.Options) > 0 || f.OptionsFrom != nil && !has[RuleExistsIn]) && !has[RuleOneOfOptions]:
		implied = append(implied, Rule{OneOfOptions: &OneOfOptions{}})
	}
	for i := range implied {
		implied[i].Implied = true
	}
	f.Rules = append(f.Rules, implied...)
	count := map[RuleKind]int{}
	for i := range f.Rules {
		kind, base := f.Rules[i].part()
		if base == nil {
			continue
		}
		count[kind]++
		if base.ID == "" {
			base.ID = kind.ID()
			if n := count[kind]; n > 1 {
				base.ID = fmt.Sprintf("%s_%d", base.ID, n)
			}
		}
		if len(base.Layers) == 0 {
			base.Layers = []Layer{OnServer}
		}
	}
}

// IsSecret tells whether the value must never be shown.
func (f *Field) IsSecret() bool {
	if f.Secret != nil {
		return *f.Secret
	}
	return f.Kind == Password
}

// Identifier makes an id of a name: small letters, digits and underscores.
func Identifier(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			b.WriteRune(r)
		} else if b.Len() > 0 && !strings.HasSuffix(b.String(), "_") {
			b.WriteByte('_')
		}
	}
	id := strings.Trim(b.String(), "_")
	if id != "" && id[0] >= '0' && id[0] <= '9' {
		id = "f" + id
	}
	return id
}
