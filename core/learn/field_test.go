package learn_test

import (
	"context"
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"
	"time"

	"oddtick/core/learn"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// site answers as a site does that keeps the promises of a form's first field, and remembers what it took.
type site struct {
	t     *rapid.T
	form  *spec.Prepared
	now   time.Time
	held  []string
	asked int
}

func promising(t *rapid.T, field string, now time.Time) *site {
	p, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /f\nfields:\n  - "+field+"\nstored: [{insert: t, columns: {c: {from: f}}}]\n"))
	require.NoError(t, err, field)
	prepared, err := p.Prepare()
	require.NoError(t, err, field)
	return &site{t: t, form: prepared, now: now}
}

func (s *site) ask(_ context.Context, q learn.Question) (learn.Answer, error) {
	s.asked++
	f := s.form.Fields[0]
	v := f.ValueOf(q.Value, !q.Absent)
	for _, r := range f.Rules {
		ok := true
		switch {
		case r.Kind == spec.RuleUnique:
			for _, held := range s.held {
				ok = ok && r.Fold(held) != r.Fold(v.Normal)
			}
		case v.Blank && r.Kind != spec.RuleRequired:
		default:
			ok = r.Passes(&v, s.now)
		}
		if !ok {
			return learn.Answer{Message: r.Rule.Message().Text}, nil
		}
	}
	s.held = append(s.held, v.Normal)
	return learn.Answer{Accepted: true, Stored: &v.Normal}, nil
}

// TestWhatIsPromisedIsLearned: what a field with random rules answers gives back these rules.
func TestWhatIsPromisedIsLearned(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)
	rapid.Check(t, func(t *rapid.T) {
		var rules []string
		want := map[string]string{}
		add := func(kind, rule string, is bool) {
			if is {
				rules = append(rules, rule)
				want[kind] = rule
			}
		}
		f := &learn.Field{ID: "f", Label: "F", Column: "t.c"}
		normalize := ""
		add("required", "required: {message: a}", rapid.Bool().Draw(t, "required"))
		switch f.Kind = rapid.SampledFrom([]spec.Kind{spec.Text, spec.Number, spec.Date}).Draw(t, "kind"); f.Kind {
		case spec.Text:
			f.Usual = "hazel-tw6dctw"
			lo, hi := rapid.IntRange(1, 13).Draw(t, "least"), rapid.IntRange(13, 2000).Draw(t, "most")
			add("length", fmt.Sprintf("length: {min: %d, max: %d, message: b}", lo, hi), rapid.Bool().Draw(t, "length"))
			add("characters", `characters: {of: 'a-zA-Z0-9\-', message: c}`, rapid.Bool().Draw(t, "characters"))
			add("unique", "unique: {column: t.c, ignoring: [case], message: d}", rapid.Bool().Draw(t, "unique"))
			normalize = rapid.SampledFrom([]string{"[]", "[trim]", "[trim, lower]"}).Draw(t, "normalize")
		case spec.Number:
			f.Usual = "2"
			add("number", "number: {message: a}", true)
			places := rapid.IntRange(0, 3).Draw(t, "places")
			if places == 0 {
				add("step", "step: {by: 1, message: e}", true)
			} else {
				add("decimals", fmt.Sprintf("decimals: {max: %d, message: e}", places), true)
			}
			scale := int(math.Pow10(places))
			lo, hi := rapid.IntRange(-500*scale, 2*scale).Draw(t, "least"), rapid.IntRange(3*scale, 90000*scale).Draw(t, "most")
			decimal := func(n int) string { return strconv.FormatFloat(float64(n)/float64(scale), 'f', -1, 64) }
			add("range", fmt.Sprintf("range: {min: %s, max: %s, message: b}", decimal(lo), decimal(hi)), rapid.Bool().Draw(t, "range"))
			normalize = "[]"
		case spec.Date:
			f.Usual = "1985-05-17"
			years := rapid.IntRange(1, 30).Draw(t, "years")
			add("date", "date: {message: a}", true)
			add("range", fmt.Sprintf("range: {min: 1900-01-01, max: today - %d years, message: b}", years), rapid.Bool().Draw(t, "range"))
			normalize = "[]"
		}
		text := fmt.Sprintf("{id: f, name: f, label: F, kind: %s, normalize: %s, rules: [{%s}]}", f.Kind, normalize, strings.Join(rules, "}, {"))
		if len(rules) == 0 {
			text = fmt.Sprintf("{id: f, name: f, label: F, kind: %s, normalize: %s}", f.Kind, normalize)
		}
		s := promising(t, text, now)
		got, err := learn.AboutField(t.Context(), f, now, s.ask)
		require.NoError(t, err)
		require.Equal(t, s.asked, got.Asked)
		require.LessOrEqual(t, got.Asked, 75)
		for _, r := range got.Rules {
			kind := r.Kind()
			promised, is := want[string(kind)]
			require.True(t, is, "%s is promised nowhere: %+v\n%s", kind, r.Proofs, text)
			require.Equal(t, messageOf(promised), r.Message().Text)
			switch {
			case r.Length != nil:
				require.Equal(t, promised, fmt.Sprintf("length: {min: %d, max: %d, message: b}", max(1, r.Length.Min), *r.Length.Max), text)
			case r.Range != nil:
				require.Equal(t, promised, fmt.Sprintf("range: {min: %s, max: %s, message: b}", r.Range.Min, r.Range.Max), text)
			case r.Unique != nil:
				require.True(t, len(r.Unique.Ignoring) == 1 || strings.Contains(normalize, "lower"), text)
			}
			delete(want, string(kind))
		}
		require.Empty(t, want, text)
		require.Equal(t, strings.Contains(normalize, "trim"), contains(got.Normalize, spec.Trim), text)
		require.Equal(t, strings.Contains(normalize, "lower"), contains(got.Normalize, spec.Lower), text)
	})
}

func messageOf(rule string) string {
	_, rest, _ := strings.Cut(rule, "message: ")
	return strings.TrimRight(rest, "}")
}

func contains(list []spec.NormalizeStep, one spec.NormalizeStep) bool {
	for _, s := range list {
		if s == one {
			return true
		}
	}
	return false
}

// TestShapesAreLearned: what must have digits here and a capital there.
func TestShapesAreLearned(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)
	rapid.Check(t, func(t *rapid.T) {
		one := rapid.SampledFrom([]struct{ pattern, usual string }{{`\d{3}`, "444"}, {`\d{5}`, "47110"}, {`OS-\d{4}`, "OS-4711"}, {`[A-Z]{2}\/\d{2}`, "FM/47"}}).Draw(t, "shape")
		s := promising(t, fmt.Sprintf("{id: f, name: f, label: F, rules: [{pattern: {is: '%s', message: a}}]}", one.pattern), now)
		got, err := learn.AboutField(t.Context(), &learn.Field{ID: "f", Kind: spec.Text, Label: "F", Usual: one.usual, Column: "t.c"}, now, s.ask)
		require.NoError(t, err)
		require.Len(t, got.Rules, 1)
		require.NotNil(t, got.Rules[0].Pattern, "%+v", got.Rules[0])
		require.Equal(t, one.pattern, strings.ReplaceAll(got.Rules[0].Pattern.Is, "/", `\/`))
		require.Empty(t, got.Kind)
	})
}
