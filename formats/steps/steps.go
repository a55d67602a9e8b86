// Package steps words what a case did so that a person can do it too: step by step with the values to copy, and as a command for curl.
// Values of secrets are left out.
package steps

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
)

// Value is a value to be entered.
type Value struct {
	Field string `json:"field"` // its label, or its request name where it has none
	Text  string `json:"text"`
	// Choice is the label of the option to be chosen, where it has one; Text is then what is sent.
	Choice string `json:"choice,omitempty"`
	// Secret: Text says what the value is like.
	Secret bool `json:"secret,omitempty"`
}

// Step is what a person does, and the values that are entered doing it.
type Step struct {
	Do     string  `json:"do"`
	Values []Value `json:"values,omitempty"`
}

// say is what a person does, in words.
func say(code string, places ...any) string { return string(phrases.Steps[code].With(places...)) }

// Of are the steps of a case as it was made.
func Of(r *report.Report, result *report.Result) []Step {
	var out []Step
	if in := r.SignIn; in != nil && len(result.Steps) > 0 {
		out = append(out, Step{Do: say("sign_in", "page", in.Page), Values: []Value{{Field: in.NameIn, Text: in.Name}, {Field: in.SecretIn, Text: say("password_of", "account", in.Account), Secret: true}}})
	}
	for i := range result.Steps {
		s := &result.Steps[i]
		o := s.Observation
		switch {
		case o == nil:
		case s.Do == testcase.Reload:
			out = append(out, Step{Do: say("reload")})
		case o.Sent != nil:
			if o.Before != nil && o.Before.URL != "" {
				out = append(out, Step{Do: say("open", "page", o.Before.URL)})
			}
			out = append(out, mistake(r, o.Sent.Mistake)...)
			out = append(out, enter(r, o), Step{Do: send(s, o)})
		}
	}
	return out
}

// mistake is what is entered first, if anything.
func mistake(r *report.Report, m *submission.Mistake) []Step {
	if m == nil {
		return nil
	}
	return []Step{{Do: say("mistake"), Values: []Value{valueOf(r, m.Name, m.Value)}}}
}

func valueOf(r *report.Report, name, text string) Value {
	v := Value{Field: name, Text: text, Choice: r.Choices[name][text]}
	if label := r.Labels[name]; label != "" {
		v.Field = label
	}
	if slices.Contains(r.Secrets, name) && text != "" {
		v.Text, v.Secret = say("any_password", "n", utf8.RuneCountInString(text)), true
	}
	return v
}

// Shown is a value as it is written in one line, not marked up: the choice with what is sent for it.
func (v Value) Shown() string {
	if v.Choice != "" {
		return say("choice", "label", Visible(v.Choice), "value", Visible(v.Text))
	}
	return Visible(v.Text)
}

func enter(r *report.Report, o *observation.Step) Step {
	step := Step{Do: say("enter")}
	tokens := map[string]bool{}
	if o.Before != nil && o.Before.Form != nil {
		for _, c := range o.Before.Form.Controls {
			tokens[c.Name+"="+c.Value] = c.Type == "hidden"
		}
	}
	for _, p := range o.Sent.Pairs {
		if tokens[p.Name+"="+p.Value] || p.Value == "" && slices.Contains(r.Honeypots, p.Name) {
			continue // the page itself sends it, or nobody sees it
		}
		step.Values = append(step.Values, valueOf(r, p.Name, p.Value))
	}
	return step
}

func send(s *report.StepResult, o *observation.Step) string {
	first := o.First()
	switch {
	case o.Sent.Forged != "":
		return say("forged", "how", o.Sent.Forged)
	case o.Sent.Driver == submission.Browser || first == nil:
		return say("submit")
	}
	return say("submit_to", "method", first.Method, "path", path(first.URL))
}

func path(url string) string {
	if i := strings.Index(url, "://"); i >= 0 {
		if k := strings.IndexByte(url[i+3:], '/'); k >= 0 {
			return url[i+3+k:]
		}
	}
	return url
}

// Difference is an odd part of a result: what was expected and what was observed.
type Difference struct {
	Check    prose.Text `json:"check"`
	Part     prose.Text `json:"part"`
	Expected prose.Text `json:"expected"`
	Observed prose.Text `json:"observed"`
	// Follows: it is odd because another is.
	Follows bool `json:"follows,omitempty"`

	moment int // in which order it happened
}

// Differences are the odd parts of a result in the order in which they happened, those that follow from another last.
func Differences(result *report.Result) []Difference {
	var out []Difference
	for i := range result.Steps {
		if result.Steps[i].Judgement == nil {
			continue
		}
		for _, c := range result.Steps[i].Judgement.Checks {
			for _, p := range c.Parts {
				if p.Verdict == judge.Odd {
					out = append(out, Difference{wording.Check(c.Check), p.Words.Name, p.Words.Expected, p.Words.Observed, p.Follows, moment(&p)})
				}
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Difference) int { return cmp.Compare(a.moment, b.moment) })
	return out
}

// moment orders odd parts: what showed before anything was sent, what came of it, and what follows from that.
func moment(p *judge.Part) int {
	switch {
	case p.Follows:
		return 2
	case p.Aspect == judge.BeforeSubmitting || p.Aspect == judge.MessageComes || p.Aspect == judge.MessageGoes || p.Aspect == judge.SentValue || p.Aspect == judge.SentValues:
		return 0
	}
	return 1
}

// Curl is the last submission as commands for a POSIX shell: the page is opened for its cookies, then the values are sent as they were.
// What the page put in a hidden control must be copied from the opened page; ok is false where nothing was sent.
func Curl(r *report.Report, result *report.Result) (command string, ok bool) {
	for i := len(result.Steps) - 1; i >= 0; i-- {
		o := result.Steps[i].Observation
		if o == nil || o.Sent == nil || o.First() == nil {
			continue
		}
		return curl(r, o), true
	}
	return "", false
}

func curl(r *report.Report, o *observation.Step) string {
	first := o.First()
	var b strings.Builder
	hidden := map[string]string{}
	if in := r.SignIn; in != nil {
		// a token of the sign-in form, if it has one, is to be copied too
		fmt.Fprintf(&b, "curl -s -c cookies.txt %s\n", quote(in.Page))
		fmt.Fprintf(&b, "curl -s -L -b cookies.txt -c cookies.txt --data-urlencode %s --data-urlencode %s %s\n", quote(in.NameIn+"="+in.Name), quote(in.SecretIn+"=SECRET"), quote(in.Page))
	}
	if o.Before != nil && o.Before.URL != "" {
		read := ""
		if r.SignIn != nil {
			read = " -b cookies.txt"
		}
		fmt.Fprintf(&b, "curl -s%s -c cookies.txt %s\n", read, quote(o.Before.URL))
		if o.Before.Form != nil {
			for _, c := range o.Before.Form.Controls {
				if c.Type == "hidden" && c.Value != "" {
					hidden[c.Name] = c.Value
				}
			}
		}
	}
	b.WriteString("curl -i -b cookies.txt")
	if first.Method != "POST" && first.Method != "GET" {
		b.WriteString(" -X " + quote(first.Method))
	}
	switch {
	case first.Method == "GET":
		b.WriteString(" -G")
	case contentType(first) != "" && !strings.HasPrefix(contentType(first), "multipart/") && contentType(first) != "application/x-www-form-urlencoded":
		b.WriteString(" -H " + quote("Content-Type: "+contentType(first)) + " --data-raw " + quote(masked(r, o, first.RequestBody)) + " " + quote(target(first)) + "\n")
		return b.String()
	}
	flag := " --data-urlencode "
	if o.Sent.Encoding == "multipart" {
		flag = " --form-string "
	}
	for _, p := range o.Sent.Pairs {
		value := p.Value
		switch {
		case slices.Contains(r.Secrets, p.Name) && value != "":
			value = "SECRET"
		case hidden[p.Name] == value && len(value) >= shortestToken:
			value = "COPIED-FROM-THE-PAGE"
		}
		b.WriteString(flag + quote(p.Name+"="+value))
	}
	b.WriteString(" " + quote(target(first)) + "\n")
	return b.String()
}

// shortestToken: a hidden value this long is taken for one that every visitor gets anew.
const shortestToken = 16

// target is the address without what the form itself puts into it.
func target(x *observation.Exchange) string {
	if x.Method == "GET" {
		address, _, _ := strings.Cut(x.URL, "?")
		return address
	}
	return x.URL
}

func contentType(x *observation.Exchange) string {
	for _, h := range x.RequestHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			kind, _, _ := strings.Cut(h.Value, ";")
			return strings.TrimSpace(kind)
		}
	}
	return ""
}

func masked(r *report.Report, o *observation.Step, body string) string {
	for _, p := range o.Sent.Pairs {
		if slices.Contains(r.Secrets, p.Name) && p.Value != "" {
			body = strings.ReplaceAll(body, p.Value, "SECRET")
		}
	}
	return body
}

// quote makes one word of a text for a POSIX shell.
func quote(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }
