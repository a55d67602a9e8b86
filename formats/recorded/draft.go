package recorded

import (
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"oddtick/core/address"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

var (
	tokenName  = regexp.MustCompile(`(?i)csrf|xsrf|authenticity|^_?token$|nonce`)
	secretName = regexp.MustCompile(`(?i)passw|passwd|^pass$|secret|pwd|kennwort|passwort`)
	mail       = regexp.MustCompile(`^[^@\s]+@[^@\s]+\.[^@\s]+$`)
)

// Draft is what a request says of a form: where it is sent, how, its token, and its fields with their likely kinds. site is the site's address;
// a request to another host is told of.
func (r *Request) Draft(site string) *draft.Draft {
	from := phrases.FromRequest.With("request", r.String())
	d := &draft.Draft{From: from}
	if a, err := url.Parse(r.URL); err == nil && a.IsAbs() && site != "" {
		if b, err := url.Parse(site); err == nil && a.Hostname() != b.Hostname() {
			d.Notes = append(d.Notes, phrases.OtherHost.With("host", a.Hostname()))
		}
	}
	d.Say("submit", spec.Submit{Method: r.Method, To: address.From(r.URL, r.URL), Encoding: r.Encoding}, from)
	if r.Status >= 200 && r.Status < 400 {
		d.Say("accepted.status", r.Status, from)
		if r.To != "" {
			d.Say("accepted.to", address.From(r.URL, r.To), from)
		}
	}
	var tokens []string
	var names []string
	for _, m := range r.Members {
		switch {
		case tokenName.MatchString(m.Name):
			tokens = append(tokens, m.Name)
		case slices.Contains(names, m.Name): // several choices of one name
			at := slices.IndexFunc(d.Fields, func(f draft.Field) bool { return f.Name == m.Name })
			d.Fields[at].Statements[1].Value = string(spec.MultipleChoice)
		default:
			names = append(names, m.Name)
			f := draft.Field{Name: m.Name}
			f.Say("label", label(m.Name), from)
			f.Say("kind", string(m.kind()), from)
			d.Fields = append(d.Fields, f)
		}
	}
	for i := range d.Fields { // what a choice offers is not recorded
		if kind := d.Fields[i].Statements[1]; kind.Value == string(spec.MultipleChoice) {
			d.Notes = append(d.Notes, phrases.OptionsUnknown.With("name", d.Fields[i].Name))
			d.Fields[i].Statements[1].Value = string(spec.Text)
		}
	}
	if len(tokens) > 0 {
		d.Say("token", tokens, from)
	}
	return d
}

// kind is the likely kind of a field by its name and the value that was sent.
func (m *Member) kind() spec.Kind {
	text, isText := m.Value.(string)
	switch _, isNumber := m.Value.(float64); {
	case m.File:
		return spec.Upload
	case isNumber:
		return spec.Number
	case !isText:
		if _, is := m.Value.(bool); is {
			return spec.Checkbox
		}
		if _, is := m.Value.([]any); is {
			return spec.MultipleChoice
		}
		return spec.Text
	case secretName.MatchString(m.Name):
		return spec.Password
	case mail.MatchString(text):
		return spec.Email
	case strings.Contains(text, "\n"):
		return spec.Textarea
	}
	if _, err := time.Parse(values.DateLayout, text); err == nil {
		return spec.Date
	}
	return spec.Text
}

// label is a name as words: full_name and fullName are Full name.
func label(name string) string {
	var words strings.Builder
	var before rune
	for _, c := range name {
		switch {
		case !unicode.IsLetter(c) && !unicode.IsDigit(c):
			c = ' '
		case unicode.IsUpper(c) && unicode.IsLower(before):
			words.WriteRune(' ')
			before = c
			words.WriteRune(unicode.ToLower(c))
			continue
		}
		before = c
		words.WriteRune(c)
	}
	text := strings.Join(strings.Fields(words.String()), " ")
	if text == "" {
		return name
	}
	first, size := utf8.DecodeRuneInString(text)
	return string(unicode.ToUpper(first)) + text[size:]
}
