package investigate

import (
	"context"
	"slices"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/testcase"
)

// Probe is one value that was tried while a limit was looked for.
type Probe struct {
	Value string `json:"value"`
	Taken bool   `json:"taken"`
	// Whole: it was stored as it should be, as far as rows were seen.
	Whole bool       `json:"whole"`
	Case  string     `json:"case"`
	Says  prose.Text `json:"says"`
	// At is how far it lies from the promised bound, in the steps of its scale: beyond it above 0.
	At int64 `json:"at"`
}

// Limit is where a site's real limit lies.
type Limit struct {
	// Rule is the rule whose limit it is, or the field, where nothing is promised: Open then, and Promised is its usual value.
	Rule     string       `json:"rule"`
	Open     bool         `json:"open,omitempty"`
	End      testcase.End `json:"end"`
	Promised string       `json:"promised"`
	// Found is the last value taken; "" where none was, or where there is no limit as far as was looked: Unlimited then.
	Found     string `json:"found,omitempty"`
	Unlimited bool   `json:"unlimited,omitempty"`
	// As promised: the limit lies where it should.
	AsPromised bool `json:"as_promised"`
	// Whole is the last value that was stored whole, where a value beyond it was taken and was not.
	Whole  string  `json:"whole,omitempty"`
	Probes []Probe `json:"probes"`
}

// FindLimit looks for the place at which a site stops taking values, at one end of a rule of length or range, or of a field of which
// nothing is promised there: the promised bound (or the usual value) and its neighbour first, then by halving. Each value is submitted as a case of its own. What the site takes is taken by what it does, not
// by what it should.
func FindLimit(ctx context.Context, m *testcase.Maker, submit Submit, ruleID string, end testcase.End) (*Limit, error) {
	return findLimit(ctx, m, submit, ruleID, end, func() {})
}

func findLimit(ctx context.Context, m *testcase.Maker, submit Submit, ruleID string, end testcase.End, made func()) (*Limit, error) {
	scale, err := AxisOf(m, ruleID, end)
	if err != nil {
		return nil, cannot("%w", err)
	}
	l := &Limit{Rule: ruleID, Open: scale.Open, End: end, Promised: scale.Text(0)}
	taken := func(at int64) (bool, error) {
		p, err := probe(ctx, submit, scale, at)
		if err != nil {
			return false, err
		}
		if ctx.Err() != nil {
			return false, ctx.Err() // what was cut off says nothing
		}
		made()
		l.Probes = append(l.Probes, *p)
		return p.Taken, nil
	}
	on, err := taken(0)
	if err != nil {
		return nil, err
	}
	var lo, hi int64 // lo is taken, hi is not
	if on {
		if hi, err = firstRefused(scale, taken); err != nil {
			return nil, err
		}
		if hi == 0 {
			l.Unlimited = true
			err = l.whole(scale, taken)
			l.AsPromised = l.Open && l.Whole == ""
			return l, err
		}
		lo = l.nearest(hi)
	} else {
		if lo, err = firstTaken(scale, taken); err != nil {
			return nil, err
		}
		if lo == 1 {
			return l, nil // nothing is taken
		}
		hi = l.refusedAfter(lo)
	}
	for hi-lo > 1 {
		mid := lo + (hi-lo)/2
		yes, err := taken(mid)
		if err != nil {
			return nil, err
		}
		if yes {
			lo = mid
		} else {
			hi = mid
		}
	}
	l.Found, l.AsPromised = scale.Text(lo), lo == 0 && !l.Open
	return l, l.whole(scale, taken)
}

// firstRefused is a place beyond the bound that is not taken; 0 where the farthest is. A value that cannot be made ends the search.
func firstRefused(scale *Axis, taken func(int64) (bool, error)) (int64, error) {
	for _, at := range []int64{1, scale.Far} {
		if at > scale.Far || at < 1 {
			return max(1, at), nil // there is no value beyond: an empty one is another rule's
		}
		yes, err := taken(at)
		if err != nil {
			return 0, err
		}
		if !yes {
			return at, nil
		}
	}
	return 0, nil
}

// firstTaken is a place within the range that is taken; 1 where none is.
func firstTaken(scale *Axis, taken func(int64) (bool, error)) (int64, error) {
	for step := int64(1); step <= scale.Near; step *= 4 {
		yes, err := taken(-step)
		if err != nil {
			return 0, err
		}
		if yes {
			return -step, nil
		}
	}
	if scale.Near > 0 {
		if yes, err := taken(-scale.Near); err != nil || yes {
			return -scale.Near, err
		}
	}
	return 1, nil
}

// nearest is the farthest place taken before one that is not; refusedAfter the nearest that is not after one that is.
func (l *Limit) nearest(refused int64) int64 {
	best := int64(0)
	for _, p := range l.Probes {
		if p.Taken && p.At < refused && p.At > best {
			best = p.At
		}
	}
	return best
}

func (l *Limit) refusedAfter(taken int64) int64 {
	best := int64(0)
	for _, p := range l.Probes {
		if !p.Taken && p.At > taken && p.At < best {
			best = p.At
		}
	}
	return best
}

// whole finds the last value that is stored whole, where one beyond it is taken and is not: by halving what lies between.
func (l *Limit) whole(scale *Axis, taken func(int64) (bool, error)) error {
	var lo, hi *Probe
	for i := range l.Probes {
		if p := &l.Probes[i]; p.Taken && !p.Whole && (hi == nil || p.At < hi.At) {
			hi = p
		}
	}
	for i := range l.Probes {
		if p := &l.Probes[i]; p.Taken && p.Whole && hi != nil && p.At < hi.At && (lo == nil || p.At > lo.At) {
			lo = p
		}
	}
	if hi == nil || lo == nil {
		return nil
	}
	least, most := lo.At, hi.At
	for most-least > 1 {
		mid := least + (most-least)/2
		if _, err := taken(mid); err != nil {
			return err
		}
		if p := l.Probes[len(l.Probes)-1]; p.Taken && p.Whole {
			least = mid
		} else {
			most = mid
		}
	}
	l.Whole = scale.Text(least)
	return nil
}

// notWhole are the ways in which a stored value can fall short of the sent one.
var notWhole = []judge.Difference{judge.CutShort, judge.Emptied, judge.CharactersLost, judge.OtherValue}

// probe submits one value.
func probe(ctx context.Context, submit Submit, scale *Axis, at int64) (*Probe, error) {
	c, err := scale.Case(at)
	if err != nil {
		return nil, cannot("%w", err)
	}
	result, err := submit(ctx, c, 1)
	if err != nil {
		return nil, err
	}
	step := &result.Steps[len(result.Steps)-1]
	if step.Observation == nil {
		return nil, cannot("%s: %s", scale.Text(at), result.Headline)
	}
	p := &Probe{Value: scale.Text(at), Case: c.ID, Says: result.Headline, Whole: true, At: at}
	for _, check := range step.Judgement.Checks {
		for _, part := range check.Parts {
			switch {
			case check.Check == judge.Outcome:
				p.Taken = step.Judgement.Ended == oracle.Accepted || len(step.Observation.Changes) > 0
			case check.Check == judge.StoredData && part.Column != "" && slices.Contains(notWhole, part.Difference):
				p.Whole = false
			}
		}
	}
	return p, nil
}
