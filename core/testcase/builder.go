package testcase

import (
	"context"
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// Omission is something that was meant to be covered and has no case, with the reason.
type Omission struct {
	About string     `json:"about"`
	Why   prose.Text `json:"why"`
	// Role is that of the case it would have been, "" where it is about a rule, a field or a table.
	Role string `json:"-"`
}

// OmitCase says why there is no case of a role.
func (b *Builder) OmitCase(role string, why prose.Text) {
	b.Omitted = append(b.Omitted, Omission{About: b.ID(role), Role: role, Why: why})
}

// notATime: the recipe makes no day.
func notATime(r Recipe) bool {
	_, err := values.ParseDate(r.Text)
	return r.Make == Absent || r.Make == Null || r.Make == Fixed && err != nil
}

type fulfilment struct {
	replace map[string]Recipe
	ok      bool
}

// NewBuilder is an empty one. Drafts may be shared with another.
func (m *Maker) NewBuilder(ctx context.Context, drafts map[Draft]string) *Builder {
	return &Builder{Ctx: ctx, Maker: m, Seen: map[string]*Case{}, names: map[string]Name{}, Placed: map[SentValue]string{}, Alone: map[string]bool{}, fulfilled: map[*spec.PreparedField]fulfilment{}, Drafts: drafts, Layer: spec.OnServer, Driver: submission.HTTP}
}

// Builder collects the cases.
type Builder struct {
	Ctx     context.Context
	Maker   *Maker
	Cases   []*Case
	Omitted []Omission
	Seen    map[string]*Case // by id; nil for one that cannot be built
	// names are the parts of the ids that were made.
	names  map[string]Name
	Placed map[SentValue]string // cases of boundary values by what they send
	Alone  map[string]bool      // ids of rules that a case breaks alone
	// fulfilled are the recipes of other fields with which a field is filled at all.
	fulfilled map[*spec.PreparedField]fulfilment
	Drafts    map[Draft]string
	Layer     spec.Layer        // whose rules are being covered
	Driver    submission.Driver // by which they are covered
}

// maxID is the length of the longest id.
const maxID = 200

// Name is what a case's id is made of.
type Name struct {
	Form, Role, Language string
	Driver               submission.Driver
}

func (n Name) id() string {
	role := n.Role
	if n.Language != "" {
		role += "@" + n.Language
	}
	return n.Form + "/" + role + "/" + string(n.Driver)
}

// ID is that of a case about a role of the form. Of one that is too long the end is replaced by a digest.
func (b *Builder) ID(role string) string {
	n := Name{Form: b.Maker.Form.Form.Form, Role: role, Driver: b.Driver}
	if most := maxID - len(n.Form) - len(n.Driver) - 2; len(role) > most {
		n.Role = role[:most-9] + "~" + values.Token(values.Seed(0, role), 8)
	}
	b.names[n.id()] = n
	return n.id()
}

// Twin is a copy of a case under another name, and covers something else.
func (b *Builder) Twin(c *Case, n Name, covers []Cover) *Case {
	twin := *c
	twin.ID, twin.Name, twin.Twin, twin.Covers = n.id(), n, c.Covers, covers
	twin.Steps = slices.Clone(c.Steps)
	return &twin
}

// AddCoverage lets a case that is there cover more, from a depth on.
func (b *Builder) AddCoverage(id string, depth Depth, covers ...Cover) {
	c := b.Seen[id]
	if c == nil {
		return
	}
	c.Level = min(c.Level, slices.Index(Depths, depth))
	for _, what := range covers {
		if !slices.Contains(c.Covers, what) {
			c.Covers = append(c.Covers, what)
		}
	}
}

// Inputs are the base's with one field's recipe replaced; the others' copies point to the given step.
func (b *Builder) Inputs(step int, replace map[string]Recipe) []Input {
	out := make([]Input, len(b.Maker.Base))
	for i, in := range b.Maker.Base {
		if r, ok := replace[in.Field]; ok {
			in.Recipe = r
		} else if in.Recipe.Make == Same {
			in.Recipe.Step = step
		}
		out[i] = in
	}
	return out
}

// AddFieldCase adds a case of a single submission in which one field differs from the base, and returns its id.
func (b *Builder) AddFieldCase(depth Depth, f *spec.PreparedField, role string, title prose.Text, t Technique, covers []Cover, r Recipe, m Mark) string {
	id := b.ID(f.ID + "." + role)
	fulfilled, ok := b.fulfilled[f]
	if !ok {
		fulfilled.replace, fulfilled.ok = b.Maker.fulfilling(f)
		b.fulfilled[f] = fulfilled
	}
	if !fulfilled.ok {
		b.Omitted = append(b.Omitted, Omission{About: f.ID + "." + role, Why: phrases.NoValuesForThat.With("condition", f.When)})
		return id
	}
	replace := maps.Clone(fulfilled.replace)
	replace[f.ID] = r
	if o := RuleOf(f, spec.RuleNoOverlap); o != nil && notATime(r) {
		replace[o.Other.ID] = Recipe{Make: Fresh} // it cannot follow
	}
	b.Add(depth, &Case{
		ID: id, Title: phrases.OfField.With("label", f.Label, "what", title), Row: f.ID, Technique: t, Covers: covers, Mark: m,
		Steps: []Step{{Do: Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}},
	})
	return id
}

// fulfilling are the recipes of other fields that make a field's condition hold, so that it is filled at all; none where it has no
// condition, or holds by itself.
func (m *Maker) fulfilling(f *spec.PreparedField) (map[string]Recipe, bool) {
	out := map[string]Recipe{}
	if f.When == "" {
		return out, true
	}
	choices := make([][]Recipe, len(f.WhenNames))
	for i, n := range f.WhenNames {
		choices[i], _ = m.Candidates(n, f.When)
	}
	at := make([]int, len(choices))
	for more := true; more; more = Next(at, choices) {
		inputs := slices.Clone(m.Base)
		for i, n := range f.WhenNames {
			for k := range inputs {
				if inputs[k].Field == n.ID {
					inputs[k].Recipe = choices[i][at[i]]
				}
			}
		}
		probe := &Case{ID: f.ID, Steps: []Step{{Do: Submit, Driver: submission.HTTP, Inputs: inputs}}}
		if r, err := m.Resolve(probe, 0, &Env{Now: ReferenceDay, OnPage: map[string]string{}}); err == nil && !m.LeftOut(r)[f.ID] {
			for i, n := range f.WhenNames {
				out[n.ID] = choices[i][at[i]]
			}
			return out, true
		}
	}
	return nil, false
}

// Add asks the oracle what the case leads to, on the reference day, and keeps it. A case that cannot be built is told.
func (b *Builder) Add(depth Depth, c *Case) {
	if _, known := b.Seen[c.ID]; known {
		return
	}
	b.Seen[c.ID] = nil
	if n, named := b.names[c.ID]; named {
		c.Name = n
	}
	c.Level = slices.Index(Depths, depth)
	if b.expectations(c) == nil {
		return
	}
	b.ruleBroken(c)
	b.Seen[c.ID] = c
	b.Cases = append(b.Cases, c)
}

// expectations asks the oracle what each submission of a case leads to, on the reference day, and writes it into its steps; nil, and
// an omission, for a case that cannot be built.
func (b *Builder) expectations(c *Case) (out []*oracle.Expectation) {
	env := b.Maker.ReferenceEnv(b.Drafts)
	var earlier []*submission.Submission
	for i := range c.Steps {
		step := &c.Steps[i]
		if step.Do == Reload {
			step.Expect = oracle.NothingFurther
			continue
		}
		r, err := b.Maker.Resolve(c, i, env)
		if err != nil {
			b.Omitted = append(b.Omitted, Omission{About: c.ID, Role: b.names[c.ID].Role, Why: prose.Text(err.Error())})
			return nil
		}
		env.Earlier = append(env.Earlier, r)
		sub := b.Maker.ReferenceSubmission(step, r)
		world := b.Maker.ReferenceWorld(sub, earlier)
		world.Unchecked, world.AccountLocked, world.AlreadySubmitted, world.TooMany = step.Unchecked, step.AccountLocked, step.Back, step.TooMany
		e := oracle.Expect(b.Maker.Form, world, sub)
		if step.SetupOnly {
			e = &oracle.Expectation{Outcome: oracle.Answered}
		}
		step.Expect = e.Outcome
		step.Breaks = nil
		out = append(out, e)
		for _, f := range e.Failing {
			step.Breaks = append(step.Breaks, f.Rule)
		}
		if e.Outcome == oracle.Accepted {
			earlier = append(earlier, sub)
		}
	}
	return out
}

// ruleBroken adds the rule that a case's last submission breaks alone to what it covers.
func (b *Builder) ruleBroken(c *Case) {
	if broken := c.Last().Breaks; len(broken) == 1 && b.Maker.Kinds[broken[0]] != "" {
		b.Alone[broken[0]] = true
		c.Covers = append(Covering(CoversRule, broken[0], ""), c.Covers...)
	}
}

// Expect asks the oracle what the base with some recipes replaced leads to.
func (b *Builder) Expect(replace map[string]Recipe) (*oracle.Expectation, bool) {
	probe := &Case{ID: "probe", Steps: []Step{{Do: Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}}}
	resolved, err := b.Maker.Resolve(probe, 0, b.Maker.ReferenceEnv(b.Drafts))
	if err != nil {
		return nil, false
	}
	sub := b.Maker.ReferenceSubmission(&probe.Steps[0], resolved)
	return oracle.Expect(b.Maker.Form, b.Maker.ReferenceWorld(sub, nil), sub), true
}

// Next counts up, the last place changing fastest; false at the end.
func Next(at []int, choices [][]Recipe) bool {
	for i := len(at) - 1; i >= 0; i-- {
		if at[i]++; at[i] < len(choices[i]) {
			return true
		}
		at[i] = 0
	}
	return false
}

// SentValue names what a case of boundary values sends: a field, the driver, and the value.
type SentValue struct {
	Field  *spec.PreparedField
	Driver submission.Driver
	Value  string
}
