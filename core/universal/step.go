package universal

import (
	"regexp"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
)

// Ending is how a submission ended, as far as it shows.
type Ending string

// The endings.
const (
	Accepted Ending = "accepted"
	Rejected Ending = "rejected"
	Unclear  Ending = "unclear"
)

// Submitted is a submission with what was seen of it.
type Submitted struct {
	Form   *spec.Prepared
	Step   *observation.Step
	Ending Ending
	// Field is the id of the only field whose value is another than one that is accepted; "" for none, several, or where that is not known.
	Field string
	// Columns are where fields' values are stored, as table.column by the fields' ids, as far as known.
	Columns map[string]string
	// Rule is a rule of the page's own that its value breaks, "" for none.
	Rule string
}

// Step finds what is unusual of one submission.
func Step(s *Submitted) []Unusual {
	o := s.Step
	if o == nil || o.Sent == nil || o.First() == nil {
		return nil
	}
	var out []Unusual
	out = append(out, s.answer()...)
	out = append(out, s.secrets()...)
	if s.Ending == Rejected && o.Sent.Forged == "" { // a request that no page sends has no form whose values could be kept
		out = append(out, s.rejected()...)
	}
	return out
}

// answer looks at status, address and text of the answers.
func (s *Submitted) answer() (out []Unusual) {
	o := s.Step
	first, last := o.First(), o.Final()
	for i := range o.Exchanges {
		if x := &o.Exchanges[i]; x.Status >= 500 {
			out = append(out, Unusual{Promise: ServerError, Field: s.Field, Sent: s.sentFor(s.Field), Seen: status(x.Status)})
			break
		}
	}
	if inside := judge.InternalsIn(o); inside != "" {
		out = append(out, Unusual{Promise: InternalsShown, Seen: inside})
	}
	if first.Status >= 300 && first.Status < 400 && last != first && last.Status >= 400 && last.Status < 500 && last.NotFollowed == "" {
		out = append(out, Unusual{Promise: RedirectBroken, Seen: status(last.Status)})
	}
	if first.Method == "GET" && len(o.Changes) > 0 {
		out = append(out, Unusual{Promise: GetWrites, Column: o.Changes[0].Table})
	}
	signsIn := s.Ending == Accepted && s.Form.Form.Before != nil && s.Form.Form.Before.SignInWith != ""
	for i := range o.Exchanges {
		if name := readableCookie(o.Exchanges[i].ResponseHeader, signsIn); name != "" {
			out = append(out, Unusual{Promise: CookieReadable, Seen: name})
			break
		}
	}
	if signsIn && sessionKept(o) {
		out = append(out, Unusual{Promise: SessionKept})
	}
	if s.Ending == Accepted && first.Method == "POST" && first.Status < 300 && len(o.Changes) > 0 && !first.IsJSON() && !o.ByScript() && o.Drawn == nil {
		out = append(out, Unusual{Promise: ReloadRepeats, Seen: status(first.Status)})
	}
	if u, is := s.unescaped(last); is {
		out = append(out, u)
	}
	return out
}

// sessionName is how cookies of sessions are often named, otherName how those are that scripts must read.
var (
	sessionName = regexp.MustCompile(`(?i)sess|^sid$|[._-]sid$|auth|remember`)
	otherName   = regexp.MustCompile(`(?i)csrf|xsrf`)
)

// sessionKept tells whether somebody signed in who had a cookie before, and got no other.
func sessionKept(o *observation.Step) bool {
	first := o.First()
	if first.IsJSON() || first.Status < 300 || first.Status >= 400 {
		return false // what tells who it is may stand in the answer
	}
	set := false
	for i := range o.Exchanges {
		set = set || slices.ContainsFunc(o.Exchanges[i].ResponseHeader, func(h observation.Header) bool { return strings.EqualFold(h.Name, "Set-Cookie") })
	}
	return !set && slices.ContainsFunc(first.RequestHeader, func(h observation.Header) bool { return strings.EqualFold(h.Name, "Cookie") && h.Value != "" })
}

// readableCookie is the name of a session's cookie that scripts may read, "" where none is set. Where somebody signs in, what is set is the session's,
// whatever it is called.
func readableCookie(header []observation.Header, signsIn bool) string {
	for _, h := range header {
		if !strings.EqualFold(h.Name, "Set-Cookie") {
			continue
		}
		name, rest, _ := strings.Cut(h.Value, "=")
		if (signsIn || sessionName.MatchString(name)) && !otherName.MatchString(name) && !strings.Contains(strings.ToLower(rest), "httponly") && !strings.Contains(strings.ToLower(rest), "max-age=0") {
			return strings.TrimSpace(name)
		}
	}
	return ""
}

// leastMarkup is how long a value with markup is at least that is looked for.
const leastMarkup = 3

// aTag is what begins an element.
var aTag = regexp.MustCompile(`<[A-Za-z/!]`)

// unescaped finds a value that is part of a page's markup as it was sent.
func (s *Submitted) unescaped(x *observation.Exchange) (Unusual, bool) {
	if x == nil || x.IsJSON() || !strings.Contains(strings.ToLower(x.Header("Content-Type")), "html") {
		return Unusual{}, false
	}
	for _, f := range s.Form.Fields {
		v, sent := s.Step.Sent.Of(f)
		if !sent || f.Secret || len(v) < leastMarkup || !aTag.MatchString(v) || !strings.Contains(x.Body, v) {
			continue
		}
		return Unusual{Promise: MarkupUnescaped, Field: f.ID, Sent: v}, true
	}
	return Unusual{}, false
}

// rejected looks at what the visitor is told, and what is left of the values.
func (s *Submitted) rejected() (out []Unusual) {
	o := s.Step
	if o.After == nil || o.ByScript() {
		return nil
	}
	if u, is := s.untold(); is {
		out = append(out, u)
	}
	form := o.After.Form
	if form == nil {
		return out
	}
	var lost []Unusual
	others := 0
	for _, f := range s.Form.Fields {
		c := form.ControlAt(f.Name, f.Nth)
		v, sent := o.Sent.Of(f)
		switch {
		case c == nil || !sent || v == "":
		case f.Secret:
			if c.Value != "" {
				out = append(out, Unusual{Promise: SecretRefilled, Field: f.ID})
			}
		case f.ID != s.Field && f.Kind.Textual():
			if others++; c.Value == "" {
				lost = append(lost, Unusual{Promise: ValuesLost, Field: f.ID, Sent: v})
			}
		}
	}
	switch {
	case len(lost) == others && others > 1:
		out = append(out, Unusual{Promise: ValuesLost})
	default:
		out = append(out, lost...)
	}
	return append(out, s.hiddenLost(form)...)
}

// hiddenLost finds hidden controls that the form had and that it comes back without, or with nothing in them.
func (s *Submitted) hiddenLost(form *observation.Form) (out []Unusual) {
	if s.Step.Before == nil || s.Step.Before.Form == nil {
		return nil
	}
	for _, c := range s.Step.Before.Form.Controls {
		if sent, _ := s.Step.Sent.Value(c.Name); sent != c.Value {
			continue
		}
		if after := form.Control(c.Name); c.Type == "hidden" && c.Name != "" && c.Value != "" && (after == nil || after.Value == "") {
			out = append(out, Unusual{Promise: HiddenLost, Seen: c.Name})
		}
	}
	return out
}

// untold: nothing is said that can be seen.
func (s *Submitted) untold() (Unusual, bool) {
	hidden := ""
	for _, t := range s.Step.NewTexts() {
		if strings.TrimSpace(t.Text) == "" {
			continue
		}
		if !t.Hidden {
			return Unusual{}, false
		}
		if t.Field != "" || t.Alarm {
			hidden = t.Text
		}
	}
	if hidden != "" {
		return Unusual{Promise: MessageHidden, Field: s.Field, Sent: s.sentFor(s.Field), Seen: hidden}, true
	}
	return Unusual{Promise: MessageMissing, Field: s.Field, Sent: s.sentFor(s.Field)}, true
}

// counts tells whether the value of the only field that differs seems to count: it was stored, or it is blank. What a browser would send without
// the spaces around it is another value than it seems.
func (s *Submitted) counts() bool {
	sent := s.sentFor(s.Field)
	if sent != strings.TrimSpace(sent) {
		return false
	}
	if len(s.Step.Watched) == 0 || sent == "" {
		return true
	}
	cell, known := s.cell(s.Columns[s.Field])
	return known && !cell.Null && cell.Value != ""
}

// sentFor is what was sent for a field, "" for a secret.
func (s *Submitted) sentFor(id string) string {
	i := slices.IndexFunc(s.Form.Fields, func(f *spec.PreparedField) bool { return f.ID == id })
	if i < 0 || s.Form.Fields[i].Secret {
		return ""
	}
	v, _ := s.Step.Sent.Of(s.Form.Fields[i])
	return shortened(v)
}

// longestKept is how many characters of a value are kept.
const longestKept = 40

func shortened(text string) string {
	if runes := []rune(text); len(runes) > longestKept {
		return string(runes[:longestKept]) + "…"
	}
	return text
}
