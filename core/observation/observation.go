// Package observation is what was seen of a site, as data: requests and responses, pages, rows.
package observation

import (
	"slices"
	"strings"
	"time"

	"oddtick/core/submission"
)

// Step is everything seen of one step of a case.
type Step struct {
	// Sent is the submission as it went out, with what the page's own controls added.
	Sent *submission.Submission `json:"sent,omitempty"`
	// Left is the same as the page sent it, read from the request; nil where nobody but the visitor made it.
	Left *submission.Submission `json:"left,omitempty"`
	At   time.Time              `json:"at"`
	// Before is the page on which the form was filled.
	Before *Page `json:"before,omitempty"`
	// Exchanges are the submitting request and the redirects that were followed, in order.
	Exchanges []Exchange `json:"exchanges"`
	// After is the page on which the visitor ends. Usual are texts that everybody finds there who opens it without submitting.
	After *Page    `json:"after,omitempty"`
	Usual []string `json:"usual,omitempty"`
	// Shown are the places where saved values should be seen, with the texts found there.
	Shown []ShownAt `json:"shown,omitempty"`
	// Cookies before and after, by name. Values are digests, as they are secrets.
	CookiesBefore map[string]string `json:"cookies_before,omitempty"`
	CookiesAfter  map[string]string `json:"cookies_after,omitempty"`
	// Changes are the rows that changed in watched tables.
	Changes []Change `json:"changes"`
	// Standing are rows that were to be updated and did not change, as they stand.
	Standing []Change `json:"standing,omitempty"`
	// Watched are the watched tables; empty when no database is.
	Watched []string `json:"watched,omitempty"`
	// Drawn is what only a browser sees, nil over HTTP.
	Drawn *Drawn `json:"drawn,omitempty"`
	// Known are secret fields, by their ids, whose value stands in another value that the run has sent before: a page may show that one.
	Known []string `json:"known,omitempty"`
	// OtherSession is what became of another session of the account; "" where none stood by.
	OtherSession SessionState `json:"beside,omitempty" enum:"ended,goes on"`
	// Links are where the links of the page lead on which a rejection is told, where one is promised.
	Links []string `json:"links,omitempty"`
	// Mails are those that came after submitting and concern it; nil where none are received.
	Mails []Mail `json:"mails,omitempty"`
	// MailsReceived: mails are received, so that one that is not there was not sent.
	MailsReceived bool `json:"mails_received,omitempty"`
	// Failure says that no response came: refused, timed out, cut off.
	Failure string `json:"failure,omitempty"`
}

// Mail is a mail as it came, for one recipient. Of one that is longer, the beginning of the text is kept.
type Mail struct {
	From    string   `json:"from,omitempty"`
	To      string   `json:"to"`
	Subject string   `json:"subject"`
	Text    string   `json:"text"`
	Links   []string `json:"links,omitempty"`
}

// ByScript tells whether a script of the page sends the form.
func (s *Step) ByScript() bool {
	return s.Sent != nil && s.Sent.Encoding == "json" || s.Before != nil && s.Before.Form != nil && s.Before.Form.ByScript
}

// ShownAt is a place on a page, looked at after acceptance.
type ShownAt struct {
	Page  string   `json:"page"`
	At    string   `json:"at,omitempty"` // a CSS selector; "" is the whole page
	Texts []string `json:"texts"`
	// Failure says why the place could not be looked at.
	Failure string `json:"failure,omitempty"`
}

// Exchange is one request with its response.
type Exchange struct {
	Method         string   `json:"method"`
	URL            string   `json:"url"`
	RequestHeader  []Header `json:"request_header,omitempty"`
	RequestBody    string   `json:"request_body,omitempty"`
	Status         int      `json:"status"`
	ResponseHeader []Header `json:"response_header,omitempty"`
	// Body is the response's text, cut after a megabyte.
	Body      string        `json:"body,omitempty"`
	Truncated bool          `json:"truncated,omitempty"`
	Location  string        `json:"location,omitempty"` // absolute, of a redirect
	Took      time.Duration `json:"took"`               // nanoseconds
	// NotFollowed says why a redirect was not followed: outside the allowed addresses, too many.
	NotFollowed string `json:"not_followed,omitempty"`
}

// Header is the value of a header of the answer, its lines joined as lists are (RFC 9110, 5.2); "" where there is none.
func (x *Exchange) Header(name string) string {
	var lines []string
	for _, h := range x.ResponseHeader {
		if strings.EqualFold(h.Name, name) {
			lines = append(lines, h.Value)
		}
	}
	return strings.Join(lines, ", ")
}

// Header is one header line.
type Header struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Page is a page as it was read.
type Page struct {
	URL      string `json:"url"`
	Title    string `json:"title,omitempty"`
	Language string `json:"language,omitempty"`
	// ContentLanguage is the header of that name, of a page whose language is judged.
	ContentLanguage string `json:"content_language,omitempty"`
	// Form is the form under test, nil when the page does not hold it.
	Form  *Form  `json:"form,omitempty"`
	Texts []Text `json:"texts,omitempty"`
}

// Form is a form's controls, in page order.
type Form struct {
	Method   string    `json:"method"`
	Action   string    `json:"action"` // absolute
	Encoding string    `json:"encoding"`
	Controls []Control `json:"controls"`
	// Header are lines that the page's script sends along.
	Header []Header `json:"header,omitempty"`
	// Buttons are those that submit the form, by their labels; only the first is among the controls.
	Buttons []Button `json:"buttons,omitempty"`
	// ByScript: a script of the page makes and sends the form, so that over HTTP its answer holds none.
	ByScript bool `json:"by_script,omitempty"`
}

// Button is a button that submits a form, with what it sends of itself.
type Button struct {
	Label string `json:"label"`
	Name  string `json:"name,omitempty"`
	Value string `json:"value,omitempty"`
	// Action is where it sends the form to, where that is elsewhere.
	Action string `json:"action,omitempty"`
}

// Press makes a button the one that submits the form. It tells whether the form has one of this label.
func (f *Form) Press(label string) bool {
	for _, b := range f.Buttons {
		if b.Label != label {
			continue
		}
		f.Controls = slices.DeleteFunc(slices.Clone(f.Controls), func(c Control) bool { return c.Type == "submit" || c.Type == "image" })
		if b.Name != "" {
			f.Controls = append(f.Controls, Control{Name: b.Name, Type: "submit", Value: b.Value})
		}
		if b.Action != "" {
			f.Action = b.Action
		}
		return true
	}
	return false
}

// Control is one control as it stands on the page.
type Control struct {
	Name  string `json:"name"`
	Type  string `json:"type"`
	Value string `json:"value,omitempty"`
	// Checked is of checkboxes and radio buttons. Offered are a choice's values.
	Checked  bool     `json:"checked,omitempty"`
	Offered  []string `json:"offered,omitempty"`
	Disabled bool     `json:"disabled,omitempty"`
	Invalid  bool     `json:"invalid,omitempty"` // aria-invalid
}

// Text is one piece of text on a page, with where it stands.
type Text struct {
	Text string `json:"text"`
	// Field is the request name of the control at which it stands, "" when it stands at none. Group are the names of all controls of the
	// field set at which it stands, where there are several.
	Field string   `json:"field,omitempty"`
	Group []string `json:"group,omitempty"`
	// Linked: the control, or its field set, refers to it.
	Linked bool `json:"tied,omitempty"`
	// LeadsTo is the request name of the control that a link in it leads to, as in a list of what is wrong; "" for none.
	LeadsTo string `json:"leads_to,omitempty"`
	// Hidden: it cannot be seen. Over HTTP, markup alone tells (hidden, display: none).
	Hidden bool `json:"hidden,omitempty"`
	// Unseen says why it cannot be seen, in a browser.
	Unseen string `json:"unseen,omitempty"`
	// Native: it is a message of the browser's own checks.
	Native bool `json:"native,omitempty"`
	// Worded: the page worded such a message, and not the browser.
	Worded bool `json:"worded,omitempty"`
	// Gone is after how many milliseconds it was seen no more; 0 for a text that stays.
	Gone int `json:"gone,omitempty"`
	// Box is where it stands on the page, in CSS pixels: left, top, width, height.
	Box []int `json:"box,omitempty"`
	// Alarm: it is marked as an error: role alert, or a class that says so.
	Alarm bool `json:"alarm,omitempty"`
}

// Change is one row that was inserted, changed or deleted.
type Change struct {
	Table string     `json:"table"`
	Kind  ChangeKind `json:"kind"`
	// Key is the row's primary key, where that changed the one it had before.
	Key    string `json:"key"`
	Before []Cell `json:"before,omitempty"`
	After  []Cell `json:"after,omitempty"`
	// Defaults are what the columns of a new row hold by themselves, where that is a constant.
	Defaults []Cell `json:"defaults,omitempty"`
	// Own are the columns that the server fills: counters, generated columns, times of the last change.
	Own []string `json:"own,omitempty"`
}

// ChangeKind is what happened to a row.
type ChangeKind string

// The kinds of changes.
const (
	Inserted ChangeKind = "inserted"
	Changed  ChangeKind = "changed"
	Deleted  ChangeKind = "deleted"
)

// Cell is one column's value, as text; Null is told apart from the empty text.
type Cell struct {
	Column string `json:"column"`
	Value  string `json:"value"`
	Null   bool   `json:"null,omitempty"`
	// Either: it is NULL or the empty text, which cannot be told apart where it was read.
	Either bool `json:"either,omitempty"`
}

// CellOf finds a column's value in a row.
func CellOf(row []Cell, column string) (Cell, bool) {
	for _, c := range row {
		if c.Column == column {
			return c, true
		}
	}
	return Cell{}, false
}

// First is the answer to the submission itself.
func (s *Step) First() *Exchange {
	if len(s.Exchanges) == 0 {
		return nil
	}
	return &s.Exchanges[0]
}

// Final is the last answer, after redirects.
func (s *Step) Final() *Exchange {
	if len(s.Exchanges) == 0 {
		return nil
	}
	return &s.Exchanges[len(s.Exchanges)-1]
}

// At tells whether the text stands at a control.
func (t *Text) At(name string) bool { return t.Field == name || slices.Contains(t.Group, name) }

// Fields are the request names of the controls at which it stands.
func (t *Text) Fields() []string {
	switch {
	case len(t.Group) > 0:
		return t.Group
	case t.Field != "":
		return []string{t.Field}
	}
	return nil
}

// NewTexts are the texts of the page after that did not stand on the page before, nor on the page as an earlier step opened it, and that
// not everybody finds there. The same text twice counts twice.
func (s *Step) NewTexts(earlier ...*Step) []Text {
	if s.After == nil {
		return nil
	}
	type place struct {
		alarm bool
		text  string
	}
	known := map[place]int{}
	for _, opened := range append(slices.Clone(earlier), s) {
		if opened.Before == nil {
			continue
		}
		here := map[place]int{}
		for i := range opened.Before.Texts {
			if t := &opened.Before.Texts[i]; !t.Hidden {
				here[place{t.Alarm, t.Text}]++
			}
		}
		for at, n := range here {
			known[at] = max(known[at], n)
		}
	}
	var out []Text
	for i := range s.After.Texts {
		t := &s.After.Texts[i]
		at := place{t.Alarm, t.Text}
		if !t.Hidden && known[at] > 0 {
			known[at]--
			continue
		}
		if slices.Contains(s.Usual, t.Text) {
			continue
		}
		out = append(out, *t)
	}
	return out
}

// Control finds a control by its request name.
func (f *Form) Control(name string) *Control {
	if f == nil {
		return nil
	}
	for i := range f.Controls {
		if f.Controls[i].Name == name {
			return &f.Controls[i]
		}
	}
	return nil
}

// ControlAt finds the nth control of a request name, counted from 0.
func (f *Form) ControlAt(name string, nth int) *Control {
	if f == nil {
		return nil
	}
	for i := range f.Controls {
		if f.Controls[i].Name != name {
			continue
		}
		if nth == 0 {
			return &f.Controls[i]
		}
		nth--
	}
	return nil
}

// SessionState is what became of a session.
type SessionState string

// The states of sessions.
const (
	SessionEnded  SessionState = "ended"
	SessionGoesOn SessionState = "goes on"
)
