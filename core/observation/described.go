package observation

// FormOnPage describes one form of a page: what a tester reads off it before anything is submitted.
type FormOnPage struct {
	// ByScript: scripts of the page send it.
	ByScript bool `json:"by_script,omitempty"`
	// ID and Name are the form's own; Title the text that names it: aria-label, its legend or the heading before it.
	ID    string `json:"id,omitempty"`
	Name  string `json:"name,omitempty"`
	Title string `json:"title,omitempty"`
	// Method is in capitals; Action absolute; Encoding urlencoded, multipart or text.
	Method   string `json:"method"`
	Action   string `json:"action"`
	Encoding string `json:"encoding"`
	// Unchecked: the form says novalidate, so that its constraints are not checked by the browser.
	Unchecked bool          `json:"unchecked,omitempty"`
	Fields    []FieldOnPage `json:"fields"`
	// Buttons are the texts of those that submit.
	Buttons []string `json:"buttons,omitempty"`
	// Notes say what a tester should know, each in a sentence.
	Notes []string `json:"notes,omitempty"`
}

// FieldOnPage is one field: a control, or the radio buttons or checkboxes of one name.
type FieldOnPage struct {
	// Name is the request name, "" for a control that is never sent.
	Name string `json:"name"`
	ID   string `json:"id,omitempty"`
	// Type is HTML's: text, email, …, select, textarea, radio, checkbox, checkboxes (several of one name), or role for a control
	// that is not native.
	Type  string `json:"type"`
	Role  string `json:"role,omitempty"`
	Label string `json:"label,omitempty"`
	// LabelFrom says what gave the label: label for, label around, aria-label, aria-labelledby, legend, title, placeholder.
	LabelFrom string `json:"label_from,omitempty"`
	// Group is the legend of the field set around it.
	Group   string         `json:"group,omitempty"`
	Value   string         `json:"value,omitempty"`
	Checked bool           `json:"checked,omitempty"`
	Options []OptionOnPage `json:"options,omitempty"`
	// Offers are the suggestions of a datalist.
	Offers []string `json:"offers,omitempty"`
	// The constraint attributes that apply to this type, as HTML says; those that do not are in Notes.
	Required  bool   `json:"required,omitempty"`
	MinLength *int   `json:"minlength,omitempty"`
	MaxLength *int   `json:"maxlength,omitempty"`
	Pattern   string `json:"pattern,omitempty"`
	Min       string `json:"min,omitempty"`
	Max       string `json:"max,omitempty"`
	Step      string `json:"step,omitempty"`
	Accept    string `json:"accept,omitempty"`
	Multiple  bool   `json:"multiple,omitempty"`
	ReadOnly  bool   `json:"readonly,omitempty"`
	Disabled  bool   `json:"disabled,omitempty"`
	// Guessed: the page gives the control no name, and this one is made of its label.
	Guessed bool `json:"guessed,omitempty"`
	// Marked: the label or aria-required says that it is required.
	Marked bool `json:"marked,omitempty"`
	// Token: a hidden value that seems to be a token; Honeypot: a text field that people do not see.
	Token    bool     `json:"token,omitempty"`
	Honeypot bool     `json:"trap,omitempty"`
	Notes    []string `json:"notes,omitempty"`
}

// OptionOnPage is one option of a choice.
type OptionOnPage struct {
	Label    string `json:"label"`
	Value    string `json:"value"`
	Group    string `json:"group,omitempty"`
	Selected bool   `json:"selected,omitempty"`
	Disabled bool   `json:"disabled,omitempty"`
}
