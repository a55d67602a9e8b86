package design

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// boundaries are the values on both sides of each bound: two at depth quick, three from standard on, and one far beyond.
func boundaries(b *testcase.Builder, f *spec.PreparedField) {
	if testcase.RuleOf(f, spec.RuleSameAs) != nil {
		return
	}
	for _, r := range f.Rules {
		if r.Layer != b.Layer {
			continue
		}
		switch {
		case r.Kind == spec.RuleLength:
			lengths(b, f, r)
			normalisedLengths(b, f, r)
			someLength(b, f, r)
		case r.MinNumber != nil || r.MaxNumber != nil:
			numbers(b, f, r)
		case r.MinDay != nil || r.MaxDay != nil:
			days(b, f, r)
		case r.MinMoment != nil || r.MaxMoment != nil:
			moments(b, f, r)
		case r.Kind == spec.RuleStep:
			steps(b, f, r)
		case r.Kind == spec.RuleDecimals:
			decimals(b, f, r)
		}
	}
}

// coversBoundary is what a case on a point of a rule covers.
func coversBoundary(p testcase.Boundary, r *spec.PreparedRule) []testcase.Cover {
	return testcase.Covering(testcase.CoversBoundary, r.ID, p.Role())
}

// boundaryTitle says where a point lies.
func boundaryTitle(p testcase.Boundary) prose.Text {
	of := map[testcase.End][3]phrases.Phrase{
		testcase.Lower: {phrases.BelowLower, phrases.OnLower, phrases.AboveLower},
		testcase.Upper: {phrases.BelowUpper, phrases.OnUpper, phrases.AboveUpper},
	}[p.End]
	return of[cmp.Compare(p.Offset, 0)+1].Text()
}

func lengths(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	id := testcase.LocalID(r)
	length := func(p testcase.Boundary, n int, role string, wide bool) {
		recipe := testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: n, Wide: wide}
		if n < r.Limit.Min || r.Limit.Max >= 0 && n > r.Limit.Max {
			recipe.Breaks = id
		}
		title := phrases.LengthAtPoint
		mark := testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(n), Label: strconv.Itoa(n)}
		if wide {
			title = phrases.WideAtPoint
			mark.At, mark.Variant = mark.At+0.3, testcase.WideMark
		}
		addOrMerge(b, f, strings.TrimSpace(r.ID+" "+mark.Label+" "+mark.Variant), p, r, func() string {
			return b.AddFieldCase(p.Depth, f, id+"."+role, title.With("n", n, "unit", phrases.UnitOf(string(r.Limit.Unit), n).Text(), "point", boundaryTitle(p)), testcase.Boundaries, coversBoundary(p, r), recipe, mark)
		})
	}
	if r.Limit.Min > 0 {
		for _, p := range testcase.LowerBoundaries {
			if n := r.Limit.Min + p.Offset; n > 0 {
				length(p, n, p.Role(), false)
			}
		}
	}
	if r.Limit.Max < 0 {
		return
	}
	for _, p := range testcase.UpperBoundaries {
		if n := r.Limit.Max + p.Offset; n > 0 && n >= r.Limit.Min {
			length(p, n, p.Role(), false)
		}
	}
	if wideTells(b, f, r) {
		length(testcase.Boundary{End: testcase.Upper, Offset: 0, Depth: testcase.Standard}, r.Limit.Max, "max.wide", true)
		length(testcase.Boundary{End: testcase.Upper, Offset: 1, Depth: testcase.Standard}, r.Limit.Max+1, "max+1.wide", true)
	}
	if b.Layer != spec.OnServer {
		return // the server's own limit comes in between
	}
	far := max(testcase.FarLength, r.Limit.Max*10)
	b.AddFieldCase(testcase.Standard, f, id+".max.far", phrases.LengthFarAbove.With("n", far, "unit", phrases.UnitOf(string(r.Limit.Unit), far).Text()), testcase.Boundaries, testcase.Covering(testcase.CoversBoundary, r.ID, testcase.MaxFarPoint),
		testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: far, Breaks: id}, testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(far), Label: strconv.Itoa(far)})
}

// maxLength is how far from a limit another length is looked for.
const maxLength = 60

// someLength breaks a rule of length by the nearest value that there is, where the other rules leave none next to its limits.
func someLength(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	if b.Alone[r.ID] {
		return
	}
	id := testcase.LocalID(r)
	for away := 2; away <= maxLength; away++ {
		for _, n := range []int{r.Limit.Min - away, r.Limit.Max + away} {
			if n < 1 || n >= r.Limit.Min && (r.Limit.Max < 0 || n <= r.Limit.Max) {
				continue
			}
			recipe := testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: n, Breaks: id}
			if _, ok := draft(b, f, recipe); ok {
				b.AddFieldCase(testcase.Quick, f, id+".broken", phrases.SomeLength.With("n", n, "unit", phrases.UnitOf(string(r.Limit.Unit), n).Text()), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint), recipe, testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(n), Label: strconv.Itoa(n)})
				return
			}
		}
	}
}

// normalisedLengths are values whose length is within the limits only before, or only after, the server's steps.
func normalisedLengths(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	if !slices.Contains(f.Normalize, spec.Trim) || b.Layer != spec.OnServer {
		return
	}
	id := testcase.LocalID(r)
	covers := func(role string) []testcase.Cover { return testcase.Covering(testcase.CoversBoundary, r.ID, role) }
	if r.Limit.Max > 0 && r.Limit.Max < testcase.FarLength {
		b.AddFieldCase(testcase.Standard, f, id+".max.trimmed", phrases.LengthAndSpaces.With("n", r.Limit.Max, "unit", phrases.UnitOf(string(r.Limit.Unit), r.Limit.Max).Text()), testcase.Boundaries, covers(testcase.MaxTrimmed),
			testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: r.Limit.Max, Change: testcase.SpacesAround}, testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(r.Limit.Max) + 0.5, Label: strconv.Itoa(r.Limit.Max), Variant: testcase.TrimmedMark})
	}
	if r.Limit.Min > 1 {
		b.AddFieldCase(testcase.Standard, f, id+".min-1.trimmed", phrases.LengthAndSpaces.With("n", r.Limit.Min-1, "unit", phrases.UnitOf(string(r.Limit.Unit), r.Limit.Min-1).Text()), testcase.Boundaries, covers(testcase.BelowMinTrimmed),
			testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: r.Limit.Min - 1, Breaks: id, Change: testcase.SpacesAround}, testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(r.Limit.Min) - 0.5, Label: strconv.Itoa(r.Limit.Min - 1), Variant: testcase.TrimmedMark})
	}
}

// wideTells: the field takes characters that count differently in bytes than in characters.
func wideTells(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) bool {
	if f.Kind == spec.Email || f.Kind == spec.URL { // few sites take such addresses, and none promises to
		return false
	}
	v, ok := b.Maker.Sets[f.ID].Valid.Member(values.Want{Unit: r.Limit.Unit, Length: r.Limit.Max, Wide: true})
	return ok && len(v) > len([]rune(v))
}

func numbers(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	id := testcase.LocalID(r)
	by := testcase.StepOf(f)
	number := func(p testcase.Boundary, bound values.Decimal) {
		n := bound
		switch {
		case p.Offset < 0:
			n = bound.Sub(by)
		case p.Offset > 0:
			n = bound.Add(by)
		}
		addOrMerge(b, f, n.String(), p, r, func() string {
			return b.AddFieldCase(p.Depth, f, id+"."+p.Role(), phrases.AtPoint.With("value", n, "point", boundaryTitle(p)), testcase.Boundaries, coversBoundary(p, r), testcase.Recipe{Make: testcase.Fixed, Text: n.String()}, testcase.Mark{Scale: testcase.ScaleOf(f), At: n.Float(), Label: n.String()})
		})
	}
	if r.MinNumber != nil {
		for _, p := range testcase.LowerBoundaries {
			number(p, *r.MinNumber)
		}
		if _, known := b.Placed[testcase.SentValue{Field: f, Driver: b.Driver, Value: "-1"}]; !known && r.MinNumber.Cmp(values.Whole(0)) > 0 {
			b.AddFieldCase(testcase.Standard, f, id+".negative", phrases.Negative.Text(), testcase.Boundaries, testcase.Covering(testcase.CoversBoundary, r.ID, "negative"), testcase.Recipe{Make: testcase.Fixed, Text: "-1"}, testcase.Mark{Scale: testcase.ScaleOf(f), At: -1, Label: "-1"})
		}
	}
	if r.MaxNumber != nil {
		for _, p := range testcase.UpperBoundaries {
			number(p, *r.MaxNumber)
		}
		far := values.Whole(1_000_000_000)
		if far.Cmp(*r.MaxNumber) > 0 && (testcase.RuleOf(f, spec.RuleStep) == nil || far.Fits(testcase.RuleOf(f, spec.RuleStep).From, testcase.RuleOf(f, spec.RuleStep).By)) {
			b.AddFieldCase(testcase.Standard, f, id+".max.far", phrases.FarAbove.Text(), testcase.Boundaries, testcase.Covering(testcase.CoversBoundary, r.ID, testcase.MaxFarPoint), testcase.Recipe{Make: testcase.Fixed, Text: far.String()}, testcase.Mark{Scale: testcase.ScaleOf(f), At: far.Float(), Label: "1e9"})
		}
	}
}

func steps(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	base, err := values.ParseDecimal(testcase.BaseNumber(f))
	if err != nil {
		return
	}
	points := []struct {
		role  string
		depth testcase.Depth
		value values.Decimal
	}{{"half", testcase.Quick, base.Add(r.By.Half())}, {"eighth", testcase.Thorough, base.Add(r.By.Half().Half().Half())}}
	if one := values.Whole(1); r.By.Cmp(one) > 0 { // a whole number that is no step is seen by what reads whole numbers only
		points = append(points, struct {
			role  string
			depth testcase.Depth
			value values.Decimal
		}{"one", testcase.Standard, base.Add(one)})
	}
	for _, p := range points {
		role, n := p.role, p.value
		b.AddFieldCase(p.depth, f, testcase.LocalID(r)+"."+role, phrases.BetweenSteps.With("value", n), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint),
			testcase.Recipe{Make: testcase.Fixed, Text: n.String()}, testcase.Mark{Scale: testcase.ScaleOf(f), At: n.Float(), Label: n.String()})
	}
}

// decimals are the most digits behind the point, and one more.
func decimals(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	base, err := values.ParseDecimal(testcase.BaseNumber(f))
	if err != nil {
		return
	}
	id := testcase.LocalID(r)
	for i, digits := range []int{r.Rule.Decimals.Max, r.Rule.Decimals.Max + 1} {
		tail, err := values.ParseDecimal("1e-" + strconv.Itoa(digits))
		if err != nil {
			return
		}
		n := base
		if digits > 0 {
			n = base.Add(tail)
			if !testcase.Passes(f, n.String(), r, testcase.ReferenceDay) {
				n = base.Sub(tail)
			}
		}
		p := testcase.Boundary{End: testcase.Upper, Offset: i, Depth: testcase.Quick}
		addOrMerge(b, f, n.String(), p, r, func() string {
			return b.AddFieldCase(testcase.Quick, f, id+"."+p.Role(), phrases.WithDecimals.With("value", n, "n", digits), testcase.Boundaries, coversBoundary(p, r), testcase.Recipe{Make: testcase.Fixed, Text: n.String()}, testcase.Mark{Scale: testcase.ScaleOf(f), At: n.Float(), Label: n.String()})
		})
	}
}

// minutes from a bound that moves with the clock at which a case is still certain of its side.
const minutesApart = 5

// moments are times around their bounds: a minute apart, or some minutes where the bound moves with the clock.
func moments(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	id := testcase.LocalID(r)
	moment := func(p testcase.Boundary, bound *values.MomentBound, text string) {
		apart := p.Offset
		if bound.Relative() {
			if f.Kind == spec.Time || p.Offset == 0 {
				return // on the bound itself the clock has moved on when the answer comes
			}
			apart *= minutesApart
		}
		at := bound.On(testcase.ReferenceDay.In(r.Zone)).Add(time.Duration(apart) * time.Minute)
		recipe := testcase.Recipe{Make: testcase.Moment, Text: text, Shift: apart, Zone: r.Rule.Range.Zone}
		label := momentLabel(bound, text, apart, at.Format("15:04"))
		addOrMerge(b, f, label+at.String(), p, r, func() string {
			return b.AddFieldCase(p.Depth, f, id+"."+p.Role(), boundaryTitle(p), testcase.Boundaries, coversBoundary(p, r), recipe, testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(at.Unix()) / 60, Label: label})
		})
	}
	if r.MinMoment != nil {
		for _, p := range testcase.LowerBoundaries {
			moment(p, r.MinMoment, string(r.Rule.Range.Min))
		}
	}
	if r.MaxMoment != nil {
		for _, p := range testcase.UpperBoundaries {
			moment(p, r.MaxMoment, string(r.Rule.Range.Max))
		}
	}
	clockChange(b, f, r)
}

func momentLabel(bound *values.MomentBound, text string, apart int, absolute string) string {
	if !bound.Relative() {
		return absolute
	}
	return fmt.Sprintf("%s %+d min", text, apart)
}

// clockChange is a local time that does not exist, in the hour that is left out when summer time begins.
func clockChange(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	if f.Kind != spec.DateTime || r.Rule.Range.Zone == "" {
		return
	}
	for hour := range 2 * 366 * 24 {
		at := testcase.ReferenceDay.Add(time.Duration(hour-366*24) * time.Hour).In(r.Zone)
		_, before := at.Add(-time.Hour).Zone()
		_, after := at.Zone()
		if after <= before {
			continue
		}
		gap := at.Truncate(time.Hour).Add(-time.Duration(after-before)*time.Second + 30*time.Minute).Format("2006-01-02T15:04")
		if testcase.Passes(f, gap, nil, testcase.ReferenceDay) {
			b.AddFieldCase(testcase.Thorough, f, "guess.clock_change", phrases.LeftOutBySummer.Text(), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, "clock change"), testcase.Recipe{Make: testcase.Fixed, Text: gap}, testcase.Mark{Scale: "guessed", At: 200, Label: "clock change"})
			return
		}
	}
}

func days(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	id := testcase.LocalID(r)
	day := func(p testcase.Boundary, end string) {
		text := end
		if p.Offset != 0 {
			text = testcase.ShiftText(end, p.Offset)
		}
		addOrMerge(b, f, text, p, r, func() string {
			return b.AddFieldCase(p.Depth, f, id+"."+p.Role(), boundaryTitle(p), testcase.Boundaries, coversBoundary(p, r), testcase.Recipe{Make: testcase.Day, Text: text, Zone: r.Rule.Range.Zone}, dayMark(f, text))
		})
	}
	if r.MinDay != nil {
		for _, p := range testcase.LowerBoundaries {
			day(p, string(r.Rule.Range.Min))
		}
	}
	if r.MaxDay != nil {
		for _, p := range testcase.UpperBoundaries {
			day(p, string(r.Rule.Range.Max))
		}
		far := "2999-12-31"
		b.AddFieldCase(testcase.Standard, f, id+".max.far", phrases.FarAfter.Text(), testcase.Boundaries, testcase.Covering(testcase.CoversBoundary, r.ID, testcase.MaxFarPoint), testcase.Recipe{Make: testcase.Fixed, Text: far}, dayMark(f, far))
	}
	leapDay(b, f)
}

// leapDay is a 29 February within the range.
func leapDay(b *testcase.Builder, f *spec.PreparedField) {
	for _, day := range []string{"2004-02-29", "1996-02-29", "2024-02-29", "2028-02-29"} {
		if testcase.Passes(f, day, nil, testcase.ReferenceDay) {
			b.AddFieldCase(testcase.Standard, f, "guess.leap_day", phrases.LeapDay.Text(), testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, "leap day"), testcase.Recipe{Make: testcase.Fixed, Text: day}, dayMark(f, day))
			return
		}
	}
}

func dayMark(f *spec.PreparedField, text string) testcase.Mark {
	b, err := values.ParseDateBound(text)
	if err != nil {
		return testcase.Mark{Scale: testcase.ScaleOf(f), At: 0, Label: text}
	}
	return testcase.Mark{Scale: testcase.ScaleOf(f), At: float64(b.On(testcase.ReferenceDay).Unix()) / 86400, Label: text}
}

// addOrMerge adds the case of a point, or lets the one that sends the same cover it too: where bounds are near to each other, one value is a
// point of several.
func addOrMerge(b *testcase.Builder, f *spec.PreparedField, value string, p testcase.Boundary, r *spec.PreparedRule, add func() (id string)) {
	here := testcase.SentValue{Field: f, Driver: b.Driver, Value: value}
	if id, known := b.Placed[here]; known {
		b.AddCoverage(id, p.Depth, coversBoundary(p, r)...)
		return
	}
	b.Placed[here] = add()
}

// Lengths and a number at which what a site does without a promised limit often goes wrong: more than a page of memory, more than 16 bits
// count, and the first whole number that a double cannot hold (IEEE 754).
const (
	longText      = 4097
	veryLongText  = 65_536
	beyondDoubles = "9007199254740993"
)

// unlimited are long texts and a large number in fields for which no limit is promised. A site may refuse them, but neither fail nor store
// something else.
func unlimited(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind.Untouched() || f.Secret || !storedAsIs(b.Maker.Form.Form, f) {
		return
	}
	if f.Kind == spec.Number {
		v := f.ValueOf(beyondDoubles, true)
		if f.Format == "" && len(refusing(f, &v)) == 0 {
			unpromised(b, testcase.Thorough, f, "beyond_doubles", phrases.BeyondDoubles.Text(), testcase.Recipe{Make: testcase.Fixed, Text: beyondDoubles}, 9e15)
		}
		return
	}
	if f.Kind != spec.Text && f.Kind != spec.Textarea || b.Maker.Sets[f.ID] == nil || testcase.RuleOf(f, spec.RuleLength) != nil || testcase.RuleOf(f, spec.RuleSameAs) != nil {
		return
	}
	for _, n := range []int{longText, veryLongText} {
		depth := testcase.Standard
		if n > longText {
			depth = testcase.Thorough
		}
		recipe := testcase.Recipe{Make: testcase.Fresh, Unit: values.Characters, Length: n}
		if _, ok := draft(b, f, recipe); ok {
			unpromised(b, depth, f, fmt.Sprintf("long_%d", n), phrases.LongText.With("n", n), recipe, float64(n))
		}
	}
}

// storedAsIs tells whether a column holds a field's value.
func storedAsIs(form *spec.Form, f *spec.PreparedField) bool {
	return slices.ContainsFunc(form.Stored, func(s spec.Stored) bool {
		return slices.ContainsFunc(s.Sorted(), func(c spec.NamedSource) bool { return c.From == f.ID })
	})
}

// unpromised adds a case with a value that the site may refuse, but must store unchanged if it accepts it.
func unpromised(b *testcase.Builder, depth testcase.Depth, f *spec.PreparedField, role string, title prose.Text, recipe testcase.Recipe, at float64) {
	id := b.AddFieldCase(depth, f, "guess."+role, title, testcase.ErrorGuessing, testcase.Covering(testcase.CoversGuess, f.ID, role), recipe, testcase.Mark{Scale: "guessed", At: 300 + at, Label: strings.ReplaceAll(role, "_", " ")})
	if c := b.Seen[id]; c != nil {
		c.Steps[0].MayRefuse = true
	}
}
