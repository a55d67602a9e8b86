package observation

import "strings"

// Drawn is what only a browser sees of a step.
type Drawn struct {
	// Times is how often the page sent the form, where its button was pressed again before the answer came.
	Times int `json:"times,omitempty"`
	// Entered are the fields as they were entered, in order.
	Entered []Entered `json:"entered,omitempty"`
	// Correction is what was seen of a mistake that was corrected, nil where none was made.
	Correction *Correction `json:"correction,omitempty"`
	// Native are the messages of the browser's own checks.
	Native []Native `json:"native,omitempty"`
	// Blocked says why the form could not be submitted at all: its button was disabled.
	Blocked string `json:"blocked,omitempty"`
	// Stuck: the button that was pressed is disabled.
	Stuck bool `json:"stuck,omitempty"`
	// Errors are script errors, and Dialogs the texts of alert and its like, in the order they came.
	Errors  []string `json:"errors,omitempty"`
	Dialogs []string `json:"dialogs,omitempty"`
	// Lost are requests for parts of the page that failed.
	Lost []Lost `json:"lost,omitempty"`
	// NotAsked are hosts that parts of the page would come from and that are not allowed.
	NotAsked []string `json:"not_asked,omitempty"`
	// Focus is the request name of the control that has the focus, "" for none.
	Focus string `json:"focus,omitempty"`
	// Height is the page's, in CSS pixels.
	Height int `json:"height,omitempty"`
	// Picture names the picture of the page among the case's evidence.
	Picture string `json:"picture,omitempty"`
}

// Entered is one field as it was entered.
type Entered struct {
	Name string `json:"name"`
	// Typed is what was typed or chosen, and Stands what the control made of it.
	Typed  string `json:"typed"`
	Stands string `json:"stands,omitempty"`
	// Changed: what stands differs from what was typed.
	Changed bool `json:"changed,omitempty"`
	// Refused says why the value could not be entered.
	Refused string `json:"refused,omitempty"`
	// Missing: it could not, as the page has no such control.
	Missing bool `json:"missing,omitempty"`
	// Unreached: it could not, as the control cannot be reached by the keyboard, or on a narrow screen.
	Unreached bool `json:"unreached,omitempty"`
}

// Correction is what was seen as a mistake was made in a field and corrected: the texts at each moment that stand at the field, or that
// call for attention.
type Correction struct {
	Name string `json:"name"` // request name of the field
	// Refused says why the mistake could not be made.
	Refused string `json:"refused,omitempty"`
	// Typed and Left are seen with the mistake: when it was typed, and when the field was left; LeftAgain with the right value.
	Typed     []Text `json:"typed"`
	Left      []Text `json:"left"`
	LeftAgain []Text `json:"left_again"`
}

// Stand notes what the control holds.
func (e *Entered) Stand(value string) {
	e.Stands = value
	e.Changed = strings.ReplaceAll(value, "\r\n", "\n") != strings.ReplaceAll(e.Typed, "\r\n", "\n")
}

// Refuse notes why a value that is wanted could not be entered.
func (e *Entered) Refuse(wanted bool, why string) {
	if wanted {
		e.Refused = why
	}
}

// Native is a message of the browser's own checks (HTML Standard, constraint validation).
type Native struct {
	Field string `json:"field"` // request name
	Text  string `json:"text"`
	// Shown: the browser shows it; it does for the first control only, and not where the page prevents it.
	Shown bool `json:"shown,omitempty"`
	// Custom: a script of the page worded it (setCustomValidity).
	Custom bool `json:"custom,omitempty"`
}

// Lost is a request that failed.
type Lost struct {
	URL string `json:"url"`
	Why string `json:"why"`
}

// WithoutCookieValues is a Cookie or Set-Cookie line without the values, which are secrets.
func WithoutCookieValues(line string) string {
	parts := strings.Split(line, ";")
	for i, p := range parts {
		name, _, pair := strings.Cut(p, "=")
		switch strings.ToLower(strings.TrimSpace(name)) {
		case "path", "domain", "max-age", "expires", "samesite":
			continue
		}
		if pair {
			parts[i] = name + "=…"
		}
	}
	return strings.Join(parts, ";")
}
