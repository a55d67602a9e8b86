package design

import (
	"fmt"
	"slices"
	"strconv"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// boundaries are the values on both sides of each bound: two at depth quick, three from standard on, and one far beyond.
func (s *sheet) boundaries(f *spec.PreparedField) {
	if rule(f, spec.RuleAgrees) != nil {
		return
	}
	for _, r := range f.Rules {
		if r.Layer != s.layer {
			continue
		}
		switch {
		case r.Kind == spec.RuleLength:
			s.lengths(f, r)
			s.normalisedLengths(f, r)
			s.someLength(f, r)
		case r.MinNumber != nil || r.MaxNumber != nil:
			s.numbers(f, r)
		case r.MinDay != nil || r.MaxDay != nil:
			s.days(f, r)
		case r.MinMoment != nil || r.MaxMoment != nil:
			s.moments(f, r)
		case r.Kind == spec.RuleStep:
			s.steps(f, r)
		case r.Kind == spec.RuleDecimals:
			s.decimals(f, r)
		}
	}
}

type point struct {
	end    string // min or max
	offset int
	depth  Depth
}

var (
	lowPoints  = []point{{"min", -1, Quick}, {"min", 0, Quick}, {"min", 1, Standard}}
	highPoints = []point{{"max", -1, Standard}, {"max", 0, Quick}, {"max", 1, Quick}}
)

func (p point) role() string {
	if p.offset == 0 {
		return p.end
	}
	return fmt.Sprintf("%s%+d", p.end, p.offset)
}

func (p point) covers(r *spec.PreparedRule) []Cover {
	return cover(CoversBoundary, r.ID, p.role())
}

func (p point) title() string {
	end := map[string]string{"min": "lower", "max": "upper"}[p.end]
	switch {
	case p.offset == 0:
		return "on the " + end + " boundary"
	case p.offset < 0:
		return "just below the " + end + " boundary"
	}
	return "just above the " + end + " boundary"
}

// place names what a case of boundary values sends: a field, the driver, and the value.
type place struct {
	f      *spec.PreparedField
	driver oracle.Driver
	value  string
}

// at adds the case of a point, or lets the one that sends the same cover it too: where bounds are near to each other, one value is a
// point of several.
func (s *sheet) at(f *spec.PreparedField, value string, p point, r *spec.PreparedRule, add func() (id string)) {
	here := place{f, s.driver, value}
	if id, known := s.placed[here]; known {
		s.cover(id, p.depth, p.covers(r)...)
		return
	}
	s.placed[here] = add()
}

// farLength is a length far beyond every limit of the field.
const farLength = 5000

func (s *sheet) lengths(f *spec.PreparedField, r *spec.PreparedRule) {
	id := localID(r)
	length := func(p point, n int, role string, wide bool) {
		recipe := Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: n, Wide: wide}
		if n < r.Limit.Min || r.Limit.Max >= 0 && n > r.Limit.Max {
			recipe.Breaks = id
		}
		label := strconv.Itoa(n)
		title := fmt.Sprintf("%d %s, %s", n, r.Limit.Unit, p.title())
		if wide {
			label += " wide"
			title += ", of characters with several bytes"
		}
		at := float64(n)
		if wide {
			at += 0.3
		}
		s.at(f, r.ID+" "+label, p, r, func() string {
			return s.one(p.depth, f, id+"."+role, title, Boundaries, p.covers(r), recipe, Mark{scaleOf(f), at, label})
		})
	}
	if r.Limit.Min > 0 {
		for _, p := range lowPoints {
			if n := r.Limit.Min + p.offset; n > 0 {
				length(p, n, p.role(), false)
			}
		}
	}
	if r.Limit.Max < 0 {
		return
	}
	for _, p := range highPoints {
		if n := r.Limit.Max + p.offset; n > 0 && n >= r.Limit.Min {
			length(p, n, p.role(), false)
		}
	}
	if s.wideTells(f, r) {
		length(point{"max", 0, Standard}, r.Limit.Max, "max.wide", true)
		length(point{"max", 1, Standard}, r.Limit.Max+1, "max+1.wide", true)
	}
	if s.layer != spec.OnServer {
		return // the server's own limit comes in between
	}
	far := max(farLength, r.Limit.Max*10)
	s.one(Standard, f, id+".max.far", fmt.Sprintf("%d %s, far above the upper boundary", far, r.Limit.Unit), Boundaries, cover(CoversBoundary, r.ID, MaxFarPoint),
		Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: far, Breaks: id}, Mark{scaleOf(f), float64(far), strconv.Itoa(far)})
}

// farthestLength is how far from a limit another length is looked for.
const farthestLength = 60

// someLength breaks a rule of length by the nearest value that there is, where the other rules leave none next to its limits.
func (s *sheet) someLength(f *spec.PreparedField, r *spec.PreparedRule) {
	if s.alone[r.ID] {
		return
	}
	id := localID(r)
	for away := 2; away <= farthestLength; away++ {
		for _, n := range []int{r.Limit.Min - away, r.Limit.Max + away} {
			if n < 1 || n >= r.Limit.Min && (r.Limit.Max < 0 || n <= r.Limit.Max) {
				continue
			}
			recipe := Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: n, Breaks: id}
			if _, ok := s.draft(f, recipe); ok {
				s.one(Quick, f, id+".broken", fmt.Sprintf("%d %s", n, r.Limit.Unit), Partitioning, cover(CoversPartition, r.ID, BrokenPoint), recipe, Mark{scaleOf(f), float64(n), strconv.Itoa(n)})
				return
			}
		}
	}
}

// normalisedLengths are values whose length is within the limits only before, or only after, the server's steps.
func (s *sheet) normalisedLengths(f *spec.PreparedField, r *spec.PreparedRule) {
	if !slices.Contains(f.Sent, "trim") || s.layer != spec.OnServer {
		return
	}
	id := localID(r)
	covers := func(role string) []Cover { return cover(CoversBoundary, r.ID, role) }
	if r.Limit.Max > 0 && r.Limit.Max < farLength {
		s.one(Standard, f, id+".max.trimmed", fmt.Sprintf("%d %s and spaces around", r.Limit.Max, r.Limit.Unit), Boundaries, covers(maxTrimmed),
			Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: r.Limit.Max, Change: SpacesAround}, Mark{scaleOf(f), float64(r.Limit.Max) + 0.5, strconv.Itoa(r.Limit.Max) + " trimmed"})
	}
	if r.Limit.Min > 1 {
		s.one(Standard, f, id+".min-1.trimmed", fmt.Sprintf("%d %s and spaces around", r.Limit.Min-1, r.Limit.Unit), Boundaries, covers(belowMinTrimmed),
			Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: r.Limit.Min - 1, Breaks: id, Change: SpacesAround}, Mark{scaleOf(f), float64(r.Limit.Min) - 0.5, strconv.Itoa(r.Limit.Min-1) + " trimmed"})
	}
}

// wideTells: the field takes characters that count differently in bytes than in characters.
func (s *sheet) wideTells(f *spec.PreparedField, r *spec.PreparedRule) bool {
	if f.Kind == spec.Email || f.Kind == spec.URL { // few sites take such addresses, and none promises to
		return false
	}
	v, ok := s.d.sets[f.ID].valid.Member(values.Want{Unit: r.Limit.Unit, Length: r.Limit.Max, Wide: true})
	return ok && len(v) > len([]rune(v))
}

func (s *sheet) numbers(f *spec.PreparedField, r *spec.PreparedRule) {
	id := localID(r)
	by := StepOf(f)
	number := func(p point, bound values.Decimal) {
		n := bound
		switch {
		case p.offset < 0:
			n = bound.Sub(by)
		case p.offset > 0:
			n = bound.Add(by)
		}
		s.at(f, n.String(), p, r, func() string {
			return s.one(p.depth, f, id+"."+p.role(), n.String()+", "+p.title(), Boundaries, p.covers(r), Recipe{Make: Fixed, Text: n.String()}, Mark{scaleOf(f), n.Float(), n.String()})
		})
	}
	if r.MinNumber != nil {
		for _, p := range lowPoints {
			number(p, *r.MinNumber)
		}
		if _, known := s.placed[place{f, s.driver, "-1"}]; !known && r.MinNumber.Cmp(values.Whole(0)) > 0 {
			s.one(Standard, f, id+".negative", "a negative number", Boundaries, cover(CoversBoundary, r.ID, "negative"), Recipe{Make: Fixed, Text: "-1"}, Mark{scaleOf(f), -1, "-1"})
		}
	}
	if r.MaxNumber != nil {
		for _, p := range highPoints {
			number(p, *r.MaxNumber)
		}
		far := values.Whole(1_000_000_000)
		if far.Cmp(*r.MaxNumber) > 0 && (rule(f, spec.RuleStep) == nil || far.Fits(rule(f, spec.RuleStep).From, rule(f, spec.RuleStep).By)) {
			s.one(Standard, f, id+".max.far", "far above the upper boundary", Boundaries, cover(CoversBoundary, r.ID, MaxFarPoint), Recipe{Make: Fixed, Text: far.String()}, Mark{scaleOf(f), far.Float(), "1e9"})
		}
	}
}

// StepOf is the distance to the next number: the step, or one in the last place of the bounds or of the decimals allowed.
func StepOf(f *spec.PreparedField) values.Decimal {
	if r := rule(f, spec.RuleStep); r != nil {
		return r.By
	}
	scale := 0
	if r := rule(f, spec.RuleDecimals); r != nil {
		scale = r.Rule.Decimals.Max
	}
	if r := rule(f, spec.RuleRange); r != nil {
		for _, b := range []*values.Decimal{r.MinNumber, r.MaxNumber} {
			if b != nil {
				scale = max(scale, b.Scale())
			}
		}
	}
	d, err := values.ParseDecimal("1e-" + strconv.Itoa(scale))
	if err != nil {
		panic(err)
	}
	return d
}

func baseNumber(f *spec.PreparedField) string {
	base := values.Whole(1)
	if f.Example != "" {
		return f.Example
	}
	r := rule(f, spec.RuleRange)
	if r == nil {
		return base.String()
	}
	switch {
	case r.MinNumber != nil:
		base = r.MinNumber.Add(StepOf(f))
		if r.MaxNumber != nil && base.Cmp(*r.MaxNumber) > 0 {
			base = *r.MinNumber
		}
	case r.MaxNumber != nil && r.MaxNumber.Cmp(base) < 0:
		base = r.MaxNumber.Sub(StepOf(f))
	}
	return base.String()
}

func (s *sheet) steps(f *spec.PreparedField, r *spec.PreparedRule) {
	base, err := values.ParseDecimal(baseNumber(f))
	if err != nil {
		return
	}
	for i, n := range []values.Decimal{base.Add(r.By.Half()), base.Add(r.By.Half().Half().Half())} {
		role := []string{"half", "eighth"}[i]
		s.one([]Depth{Quick, Thorough}[i], f, localID(r)+"."+role, n.String()+", between two steps", Partitioning, cover(CoversPartition, r.ID, BrokenPoint),
			Recipe{Make: Fixed, Text: n.String()}, Mark{scaleOf(f), n.Float(), n.String()})
	}
}

// decimals are the most digits behind the point, and one more.
func (s *sheet) decimals(f *spec.PreparedField, r *spec.PreparedRule) {
	base, err := values.ParseDecimal(baseNumber(f))
	if err != nil {
		return
	}
	id := localID(r)
	for i, digits := range []int{r.Rule.Decimals.Max, r.Rule.Decimals.Max + 1} {
		tail, err := values.ParseDecimal("1e-" + strconv.Itoa(digits))
		if err != nil {
			return
		}
		n := base
		if digits > 0 {
			n = base.Add(tail)
			if !passes(f, n.String(), r, ReferenceDay) {
				n = base.Sub(tail)
			}
		}
		p := point{"max", i, Quick}
		s.at(f, n.String(), p, r, func() string {
			return s.one(Quick, f, id+"."+p.role(), fmt.Sprintf("%s, %d decimals", n, digits), Boundaries, p.covers(r), Recipe{Make: Fixed, Text: n.String()}, Mark{scaleOf(f), n.Float(), n.String()})
		})
	}
}

// minutes from a bound that moves with the clock at which a case is still certain of its side.
const minutesApart = 5

// moments are times around their bounds: a minute apart, or some minutes where the bound moves with the clock.
func (s *sheet) moments(f *spec.PreparedField, r *spec.PreparedRule) {
	id := localID(r)
	moment := func(p point, bound *values.MomentBound, text string) {
		apart := p.offset
		if bound.Relative() {
			if f.Kind == spec.Time || p.offset == 0 {
				return // on the bound itself the clock has moved on when the answer comes
			}
			apart *= minutesApart
		}
		at := bound.On(ReferenceDay.In(r.Zone)).Add(time.Duration(apart) * time.Minute)
		recipe := Recipe{Make: Moment, Text: text, Shift: apart, Zone: r.Rule.Range.Zone}
		label := momentLabel(bound, text, apart, at.Format("15:04"))
		s.at(f, label+at.String(), p, r, func() string {
			return s.one(p.depth, f, id+"."+p.role(), p.title(), Boundaries, p.covers(r), recipe, Mark{scaleOf(f), float64(at.Unix()) / 60, label})
		})
	}
	if r.MinMoment != nil {
		for _, p := range lowPoints {
			moment(p, r.MinMoment, string(r.Rule.Range.Min))
		}
	}
	if r.MaxMoment != nil {
		for _, p := range highPoints {
			moment(p, r.MaxMoment, string(r.Rule.Range.Max))
		}
	}
	s.clockChange(f, r)
}

func momentLabel(bound *values.MomentBound, text string, apart int, absolute string) string {
	if !bound.Relative() {
		return absolute
	}
	return fmt.Sprintf("%s %+d min", text, apart)
}

// clockChange is a local time that does not exist, in the hour that is left out when summer time begins.
func (s *sheet) clockChange(f *spec.PreparedField, r *spec.PreparedRule) {
	if f.Kind != spec.DateTime || r.Rule.Range.Zone == "" {
		return
	}
	for hour := range 2 * 366 * 24 {
		at := ReferenceDay.Add(time.Duration(hour-366*24) * time.Hour).In(r.Zone)
		_, before := at.Add(-time.Hour).Zone()
		_, after := at.Zone()
		if after <= before {
			continue
		}
		gap := at.Truncate(time.Hour).Add(-time.Duration(after-before)*time.Second + 30*time.Minute).Format("2006-01-02T15:04")
		if passes(f, gap, nil, ReferenceDay) {
			s.one(Thorough, f, "guess.clock_change", "a time that summer time leaves out", ErrorGuessing, cover(CoversGuess, f.ID, "clock change"), Recipe{Make: Fixed, Text: gap}, Mark{"guessed", 200, "clock change"})
			return
		}
	}
}

func (s *sheet) days(f *spec.PreparedField, r *spec.PreparedRule) {
	id := localID(r)
	day := func(p point, end string) {
		text := end
		if p.offset != 0 {
			text = shiftText(end, p.offset)
		}
		s.at(f, text, p, r, func() string {
			return s.one(p.depth, f, id+"."+p.role(), p.title(), Boundaries, p.covers(r), Recipe{Make: Day, Text: text, Zone: r.Rule.Range.Zone}, dayMark(f, text))
		})
	}
	if r.MinDay != nil {
		for _, p := range lowPoints {
			day(p, string(r.Rule.Range.Min))
		}
	}
	if r.MaxDay != nil {
		for _, p := range highPoints {
			day(p, string(r.Rule.Range.Max))
		}
		far := "2999-12-31"
		s.one(Standard, f, id+".max.far", "far after the upper boundary", Boundaries, cover(CoversBoundary, r.ID, MaxFarPoint), Recipe{Make: Fixed, Text: far}, dayMark(f, far))
	}
	s.leapDay(f)
}

// leapDay is a 29 February within the range.
func (s *sheet) leapDay(f *spec.PreparedField) {
	for _, day := range []string{"2004-02-29", "1996-02-29", "2024-02-29", "2028-02-29"} {
		if passes(f, day, nil, ReferenceDay) {
			s.one(Standard, f, "guess.leap_day", "29 February", ErrorGuessing, cover(CoversGuess, f.ID, "leap day"), Recipe{Make: Fixed, Text: day}, dayMark(f, day))
			return
		}
	}
}

func dayMark(f *spec.PreparedField, text string) Mark {
	b, err := values.ParseDateBound(text)
	if err != nil {
		return Mark{scaleOf(f), 0, text}
	}
	return Mark{scaleOf(f), float64(b.On(ReferenceDay).Unix()) / 86400, text}
}

func shiftText(text string, days int) string {
	b, err := values.ParseDateBound(text)
	if err == nil && !b.Relative() {
		return b.Shift(days).On(ReferenceDay).Format(values.DateLayout)
	}
	sign := "+"
	if days < 0 {
		sign, days = "-", -days
	}
	return fmt.Sprintf("%s %s %d day", text, sign, days)
}

// baseDay is a day well within the range, that tells day and month apart.
func baseDay(f *spec.PreparedField) Recipe {
	if f.Example != "" {
		return Recipe{Make: Fixed, Text: f.Example}
	}
	for _, day := range []string{"1974-03-07", "1990-05-07", "2020-05-07", "2026-03-07", "2035-05-07"} {
		if passes(f, day, nil, ReferenceDay) {
			return Recipe{Make: Fixed, Text: day}
		}
	}
	r := rule(f, spec.RuleRange)
	for _, bound := range []spec.Scalar{r.Rule.Range.Min, r.Rule.Range.Max} {
		if bound != "" {
			return Recipe{Make: Day, Text: string(bound), Zone: r.Rule.Range.Zone}
		}
	}
	return Recipe{Make: Fixed, Text: "2026-03-22"}
}
