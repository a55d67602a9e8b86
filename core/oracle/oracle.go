package oracle

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/address"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
)

// World is all that an expectation depends on besides the form and the submission.
type World struct {
	Now      time.Time         `json:"now"`
	Language string            `json:"language,omitempty"`
	Driver   submission.Driver `json:"driver"`
	// Page: the page of the form is looked at too. Choice is how the site's visitors choose the language; nil where nothing is said.
	// ChosenBy is how this one did.
	Page     bool                 `json:"page,omitempty"`
	Choice   *spec.LanguageChoice `json:"choice,omitempty"`
	ChosenBy spec.ChosenBy        `json:"chosen_by,omitempty"`
	// Unchecked: the browser's own checks are switched off.
	Unchecked bool `json:"unchecked,omitempty"`
	// LookupResults answers the look-ups, by rule id: a row holds the value already.
	LookupResults map[string]bool `json:"taken,omitempty"`
	// SignedIn is the key of the row of whoever is signed in; "" where that is not known.
	SignedIn string `json:"signed_in,omitempty"`
	// SignedInBy is the column that holds this key, as table.column.
	SignedInBy string `json:"signed_in_by,omitempty"`
	// AccountLocked: the account has had too many wrong passwords.
	AccountLocked bool `json:"locked,omitempty"`
	// TooMany: as many as are accepted within a minute were, within the last.
	TooMany bool `json:"too_many,omitempty"`
	// AlreadySubmitted: the page was sent, and accepted, before.
	AlreadySubmitted bool `json:"spent,omitempty"`
}

// Messages that no rule of the document has: of an answer that did not come, and of a body that cannot be read.
const (
	UnansweredMessage = "unanswered"
	BodyMessage       = "body"
)

// Needs names what must be looked up to know what a submission leads to.
func Needs(p *spec.Prepared, s *submission.Submission) []submission.Lookup {
	var out []submission.Lookup
	for _, f := range p.Fields {
		for _, r := range f.Rules {
			if r.Table == "" || r.Kind == spec.RuleMatchesSecret {
				continue
			}
			l := submission.Lookup{Rule: r.ID, Table: r.Table, Column: r.Column, Ignoring: r.Ignoring, MustExist: r.Kind == spec.RuleExistsIn}
			switch r.Kind {
			case spec.RuleNoOverlap:
				l.Same, _ = held(s, p, r.Rule.NoOverlap.Same)
				if l.Span = span(s, r); l.Span != nil {
					out = append(out, l)
				}
				continue
			case spec.RuleUnique:
				var whole bool
				if l.Same, whole = held(s, p, r.Rule.Unique.Same); !whole {
					continue
				}
			}
			for _, sent := range s.Values(f.Name) {
				v := f.ValueOf(sent, true)
				if v.Blank {
					continue
				}
				l.Value = v.Normal
				out = append(out, l)
				if r.Kind == spec.RuleUnique {
					for _, also := range r.Rule.Unique.Also {
						other := l
						other.Table, other.Column, _ = strings.Cut(also, ".")
						other.Same = nil
						out = append(out, other)
					}
				}
			}
		}
	}
	return out
}

// held are the values of fields by the columns that hold them; whole is false where one is blank.
func held(s *submission.Submission, p *spec.Prepared, fields map[string]string) (values map[string]string, whole bool) {
	if len(fields) == 0 {
		return nil, true
	}
	values, whole = make(map[string]string, len(fields)), true
	for column, id := range fields {
		v := valueIn(s, p.Field(id))
		values[column] = v.Normal
		whole = whole && !v.Blank
	}
	return values, whole
}

func valueIn(s *submission.Submission, f *spec.PreparedField) spec.Value {
	sent, present := s.Of(f)
	return f.ValueOf(sent, present)
}

// span is the time that a rule looks up, nil where the submission holds none.
func span(s *submission.Submission, r *spec.PreparedRule) *submission.Span {
	from, to := valueIn(s, r.Field), valueIn(s, r.Other)
	for _, v := range []spec.Value{from, to} {
		if v.Day.IsZero() && v.Moment.IsZero() {
			return nil
		}
	}
	out := &submission.Span{From: from.Normal, To: to.Normal, Ends: r.Rule.NoOverlap.Ends}
	return out
}

// Expect computes what a submission must lead to.
func Expect(p *spec.Prepared, w *World, s *submission.Submission) *Expectation {
	values, release := s.ValuesOf(p)
	defer release()
	e := &Expectation{Language: w.Language, Outcome: Accepted, Page: pageIn(p, w)}
	if s.Body != nil {
		unreadable(p, w, e)
		return e
	}
	requests := p.Form.Requests
	if requests == nil {
		requests = &spec.Requests{}
	}
	if forged(s, requests, w, e) {
		return e
	}
	if w.TooMany {
		e.Outcome = RejectedByServer
		e.Failing = []Failure{{Rule: "too_many", Phase: spec.PhaseFormat.String(), Cause: TooMany, N: p.Form.Accepted.MaxPerMinute}}
		refused(e, w, cmp.Or(requests.TooMany, &spec.Refusal{Status: spec.TooManyRequests}))
		return e
	}
	if token := missingToken(p, s); token != "" {
		e.Outcome = RejectedByServer
		e.Failing = []Failure{{Rule: "token", Phase: spec.PhaseFormat.String(), Cause: TokenMissing, Of: token}}
		refused(e, w, requests.MissingToken)
		return e
	}
	if w.AlreadySubmitted && p.Form.Accepted.Resubmitted == spec.ResubmittedRejected {
		e.Outcome = NothingFurther
		e.Failing = []Failure{{Rule: "again", Phase: spec.PhaseFormat.String(), Cause: SentAgain}}
		refused(e, w, requests.Resubmitted)
		return e
	}
	j := judgement{p: p, w: w, values: values, altered: s.Altered}
	j.leaveOut()
	e.MayRefuse = s.Altered || s.MayRefuse || s.Forged == submission.OverridesMethod || slices.ContainsFunc(values, func(v spec.Value) bool { return strings.ContainsRune(v.Sent, 0) })
	e.OnSite = j.namesElsewhere()
	if w.AccountLocked {
		j.locked(e)
		return e
	}
	if f := j.filledHoneypot(); f != nil {
		e.Outcome, e.NoMail, e.Recipients = NothingFurther, len(p.Form.Accepted.Mails) > 0, j.recipients()
		e.Failing = []Failure{{Rule: f.ID, Phase: spec.PhaseFormat.String(), Cause: HoneypotFilled}}
		return e
	}
	failing := j.failing()
	e.Secrets, e.Recipients = j.secrets(), j.recipients()
	switch {
	case len(failing) > 0:
		j.rejected(e, failing)
		e.NoMail = len(p.Form.Accepted.Mails) > 0 && e.Outcome == RejectedByServer
	case s.Replaced != "" && s.Replaced != spec.Slow:
		j.unanswered(e, s.Replaced)
	default:
		j.accepted(e)
	}
	return e
}

// unanswered is what a page makes of an answer that it cannot use.
func (j *judgement) unanswered(e *Expectation, by spec.Replaced) {
	e.Outcome = NotAnswered
	say, _ := j.p.Form.OnFailure.Of(by)
	m := submission.Message{Rule: UnansweredMessage, Place: spec.OnNextPage, Says: say}
	m.Text, _ = say.In(j.w.Language)
	e.Messages = []submission.Message{m}
	e.Refilled = j.refilled(&spec.Rejected{ValuesKept: spec.AllButSecrets})
	for i := range e.Refilled { // the page is the same: secrets stay too
		f := j.p.Field(e.Refilled[i].Field)
		v := &j.values[f.Index]
		e.Refilled[i] = Refilled{Field: f.ID, Sent: v.Sent, Normal: v.Normal, Checked: f.Kind == spec.Checkbox && v.Present}
	}
}

// locked: after too many wrong passwords the right one is not taken either.
func (j *judgement) locked(e *Expectation) {
	lock := j.p.Form.Accepted.Session.Lock
	e.Outcome = RejectedByServer
	e.Failing = []Failure{{Rule: "locked", Phase: spec.PhaseLookup.String(), Cause: AccountLocked, N: lock.After}}
	e.Status = j.p.Form.Rejected.Status
	if lock.Message != nil {
		m := submission.Message{Rule: "locked", Place: spec.OnNextPage, Says: lock.Message}
		m.Text, _ = lock.Message.In(j.w.Language)
		e.Messages = []submission.Message{m}
	}
	e.Secrets = j.secrets()
}

// unreadable is what comes of a body that is no JSON object.
func unreadable(p *spec.Prepared, w *World, e *Expectation) {
	e.Outcome = RejectedByServer
	e.Failing = []Failure{{Rule: BodyMessage, Phase: spec.PhaseFormat.String(), Cause: BodyNotJSON}}
	if u := p.Form.Rejected.Unreadable; u != nil {
		e.Status = u.Status
		if u.Message != nil {
			m := submission.Message{Rule: BodyMessage, Place: spec.OnNextPage, Says: u.Message}
			m.Text, _ = u.Message.In(w.Language)
			e.Messages = []submission.Message{m}
		}
	}
}

func missingToken(p *spec.Prepared, s *submission.Submission) string {
	for _, name := range p.Form.Token {
		if slices.Contains(s.Without, name) {
			return name
		}
	}
	return ""
}

// secrets are the secret fields that were filled; all of them share one list.
func (j *judgement) secrets() []string {
	blank := func(id string) bool { return j.values[j.p.Field(id).Index].Blank }
	if !slices.ContainsFunc(j.p.Secrets, blank) {
		return j.p.Secrets
	}
	return slices.DeleteFunc(slices.Clone(j.p.Secrets), blank)
}

type judgement struct {
	p      *spec.Prepared
	w      *World
	values []spec.Value
	vars   map[string]any
	// altered: a value is sent that the page does not let a visitor change.
	altered bool
}

// filledHoneypot is a field that people do not see and that is filled in all the same; nil for none.
func (j *judgement) filledHoneypot() *spec.PreparedField {
	for i, f := range j.p.Fields {
		if f.Kind == spec.Honeypot && j.values[i].Sent != "" {
			return f
		}
	}
	return nil
}

// namesUntouched tells whether a text holds the value of a field that visitors cannot change.
func (j *judgement) namesUntouched(text string) bool {
	return slices.ContainsFunc(j.p.Fields, func(f *spec.PreparedField) bool {
		return f.Kind.Untouched() && strings.Contains(text, "{"+f.ID+"}")
	})
}

// failing returns the rules that fail in the first phase that has any, or in all phases when they are judged together.
func (j *judgement) failing() []*spec.PreparedRule {
	var out []*spec.PreparedRule
	together := j.p.Form.Phases == "together"
	for phase := spec.PhaseBrowser; phase <= spec.PhaseLookup; phase++ {
		if phase == spec.PhaseBrowser && (j.w.Driver == submission.HTTP || j.w.Unchecked) {
			continue // a browser's own checks are not made
		}
		for _, r := range j.p.Phase(phase) {
			if r.Layer == spec.InDatabase || r.Conditional() && r.Skipped(j.variables()) {
				continue
			}
			if !j.passes(r) {
				out = append(out, r)
			}
		}
		if len(out) > 0 && (!together || phase == spec.PhaseBrowser) {
			break
		}
	}
	return out
}

func (j *judgement) passes(r *spec.PreparedRule) bool {
	switch r.Kind {
	case spec.RuleAcross:
		return r.Holds(j.variables())
	case spec.RuleSameAs, spec.RuleDifferentFrom:
		return r.AgreesWith(&j.values[r.Field.Index], &j.values[r.Other.Index])
	case spec.RuleUnique, spec.RuleNoOverlap:
		return !j.w.LookupResults[r.ID]
	case spec.RuleExistsIn:
		return j.values[r.Field.Index].Blank || j.w.LookupResults[r.ID]
	case spec.RuleMatchesSecret:
		is, known := j.w.LookupResults[r.ID]
		return !known || is || j.values[r.Field.Index].Blank
	default:
		return r.Passes(&j.values[r.Field.Index], j.w.Now)
	}
}

// leaveOut makes the fields blank whose condition is false.
func (j *judgement) leaveOut() {
	for i, f := range j.p.Fields {
		if f.When != "" && f.Absent(j.variables()) {
			j.values[i] = spec.Value{Blank: true}
			j.vars[f.ID] = f.Var(&j.values[i])
		}
	}
}

func (j *judgement) variables() map[string]any {
	if j.vars == nil {
		j.vars = make(map[string]any, len(j.values))
		for i, f := range j.p.Fields {
			j.vars[f.ID] = f.Var(&j.values[i])
		}
	}
	return j.vars
}

func (j *judgement) rejected(e *Expectation, failing []*spec.PreparedRule) {
	e.Outcome = RejectedByServer
	if failing[0].Phase == spec.PhaseBrowser {
		e.Outcome = RejectedByBrowser
	}
	rejected := j.rejection(failing[0])
	e.Status, e.To, e.Focus, e.RefusalPage = rejected.Status, rejected.To, rejected.Focus, rejected.Page
	seen := make([]bool, len(j.p.Fields))
	e.Failing = make([]Failure, 0, len(failing))
	e.Messages = make([]submission.Message, 0, len(failing))
	for i, r := range failing {
		var v *spec.Value
		if r.Field != nil {
			v = &j.values[r.Field.Index]
		}
		failure := Failure{Rule: r.ID, Phase: r.Phase.String(), Cause: RuleBroken}
		if r.Kind == spec.RuleLength && v != nil {
			failure.N = r.Limit.Unit.Length(v.Normal)
		}
		e.Failing = append(e.Failing, failure)
		if rejected.Report == spec.FirstOfAll && i > 0 {
			continue
		}
		m := submission.Message{Rule: r.ID, Place: r.Place, Says: r.Saying(v, j.variables)}
		if v != nil {
			m.Says = m.Says.FilledWith(v.Sent)
		}
		m.Text, _ = m.Says.In(j.w.Language)
		// a rule of both layers says what the server says; a browser that stops it first speaks for itself
		m.OrBrowsers = r.Layer == spec.InBrowser && m.Says != nil && r.Rule != nil && slices.Contains(r.Rule.Layers(), spec.OnServer)
		if r.At != nil {
			if rejected.Report == spec.FirstOfEachField && seen[r.At.Index] {
				continue
			}
			seen[r.At.Index] = true
			m.Field = r.At.ID
		}
		if rejected.Page != nil {
			m.Place = spec.OnNextPage
		}
		m.Linked = rejected.Linked && m.Field != "" && m.Place == spec.AtField
		e.Messages = append(e.Messages, m)
	}
	e.Refilled = j.refilled(rejected)
}

// refilled is what the form's controls hold afterwards; nothing where nothing is said of them.
func (j *judgement) refilled(rejected *spec.Rejected) []Refilled {
	if rejected.ValuesKept == "" || rejected.Page != nil {
		return nil
	}
	out := make([]Refilled, 0, len(j.p.Fields))
	for i, f := range j.p.Fields {
		if f.Kind.Untouched() || f.Kind == spec.Upload {
			continue
		}
		v := &j.values[i]
		out = append(out, Refilled{
			Field: f.ID, Sent: v.Sent, Normal: v.Normal, Checked: f.Kind == spec.Checkbox && v.Present,
			Blank: f.Secret || rejected.ValuesKept == spec.NoValues,
		})
		if last := &out[len(out)-1]; last.Blank {
			last.Sent, last.Normal, last.Checked = "", "", false
		}
	}
	return out
}

// rejection is the form's, but for what the first failing rule says of its own.
func (j *judgement) rejection(r *spec.PreparedRule) *spec.Rejected {
	own := r.Rejection
	if own == nil {
		return &j.p.Form.Rejected
	}
	out := j.p.Form.Rejected
	if own.Status != 0 {
		out.Status = own.Status
	}
	if own.To != "" {
		out.To = own.To
	}
	if own.Focus != "" {
		out.Focus = own.Focus
	}
	if own.ValuesKept != "" {
		out.ValuesKept = own.ValuesKept
	}
	if own.Page != nil {
		out.Page = own.Page
	}
	return &out
}

func (j *judgement) accepted(e *Expectation) {
	a := &j.p.Form.Accepted
	e.Status, e.To, e.Form = a.Status, j.fill(a.To), a.Form
	if s := a.Session; s != nil {
		e.SessionRenewed, e.OthersEnd, e.SignedIn = s.ID == "renewed", s.Others == "ended", s.SignedIn != ""
		e.SessionKept, e.SessionEnded, e.NoCookies = s.ID == "kept", s.ID == "ended", s.NoCookies
		for _, c := range s.All() {
			if c.When == "" || j.p.Applies(c.When, j.variables()) {
				e.Cookies = append(e.Cookies, c)
			}
		}
		if s.ReturnTo != nil {
			j.onward(e, s.ReturnTo)
		}
	}
	for _, r := range j.p.Replies {
		if r.When == "" || r.Applies(j.variables()) {
			if !j.altered || !j.namesUntouched(r.Text) {
				e.Reply, e.ReplyExact, e.ReplyPattern = j.fill(r.In(j.w.Language)), r.Exact, r.Pattern
			}
			break
		}
	}
	for _, s := range a.Shown {
		text := s.In(j.w.Language)
		if j.altered && j.namesUntouched(text) {
			continue // what the page does not let one change is not shown as it was altered
		}
		e.Shown = append(e.Shown, Shown{Page: j.fill(s.Page), At: s.Selector, Text: j.fill(text)})
	}
	e.Mails = j.mails()
	e.NoMail = len(e.Mails) == 0 && len(a.Mails) > 0
	switch j.w.ChosenBy {
	case spec.ByQuery: // which may count for that page alone
		e.Reply, e.ReplyPattern = "", ""
	case spec.ByPath: // it may lead to a path of its own for the language, or not
		e.To = ""
	}
	for i := range j.p.Form.Stored {
		s := &j.p.Form.Stored[i]
		if s.When != "" && !j.p.Applies(s.When, j.variables()) {
			continue
		}
		if s.Each == "" {
			e.Rows = append(e.Rows, j.row(s))
		} else {
			e.Rows = append(e.Rows, j.rowsOfEach(s)...)
		}
	}
}

// RowsIfAccepted are the rows that acceptance of a submission writes, whether or not it is to be accepted; without their columns.
func RowsIfAccepted(p *spec.Prepared, s *submission.Submission) []Row {
	values, release := s.ValuesOf(p)
	defer release()
	j := judgement{p: p, w: &World{}, values: values}
	j.leaveOut()
	out := []Row{}
	for i := range p.Form.Stored {
		st := &p.Form.Stored[i]
		row := Row{Table: st.Table(), Updates: st.Update != ""}
		switch {
		case st.When != "" && !p.Applies(st.When, j.variables()):
		case st.Each == "":
			out = append(out, row)
		default:
			row.Each = st.Each
			for range len(j.rowsOfEach(st)) {
				out = append(out, row)
			}
		}
	}
	return out
}

func (j *judgement) row(s *spec.Stored) Row {
	columns := s.Sorted()
	row := Row{Table: s.Table(), Updates: s.Update != "", Columns: make([]Column, len(columns))}
	if s.Row == spec.RowSignedIn {
		row.Key = j.w.SignedIn
		if table, column, _ := strings.Cut(j.w.SignedInBy, "."); table == row.Table {
			row.KeyColumn = column
		}
	}
	row.Where, _ = j.where(s)
	for k := range columns {
		j.column(&row.Columns[k], &columns[k])
	}
	return row
}

// where is what the row holds by which an update finds it; whole is false where it hangs on who is signed in, and that is not known.
func (j *judgement) where(s *spec.Stored) (out []Condition, whole bool) {
	whole = true
	for _, column := range slices.Sorted(maps.Keys(s.Where)) {
		text := s.Where[column]
		if slices.Contains(template.Names(text), spec.RowSignedIn) {
			if j.w.SignedIn == "" {
				whole = false
				continue
			}
			text = strings.ReplaceAll(text, "{"+spec.RowSignedIn+"}", j.w.SignedIn)
		}
		out = append(out, Condition{column, j.fill(text)})
	}
	return out, whole
}

// Updated is the row of a table that a submission is to update, by what it holds in some columns; nil where that is not known.
func Updated(p *spec.Prepared, w *World, s *submission.Submission, table string) []Condition {
	values, release := s.ValuesOf(p)
	defer release()
	j := judgement{p: p, w: w, values: values}
	for i := range p.Form.Stored {
		if st := &p.Form.Stored[i]; st.Update == table && len(st.Where) > 0 {
			if out, whole := j.where(st); whole {
				return out
			}
		}
	}
	return nil
}

// rowsOfEach are a row for each value chosen; one that is sent twice is chosen once.
func (j *judgement) rowsOfEach(s *spec.Stored) []Row {
	f := j.p.Field(s.Each)
	var out []Row
	for i, chosen := range j.values[f.Index].Chosen {
		if slices.Contains(j.values[f.Index].Chosen[:i], chosen) {
			continue
		}
		row := j.row(s)
		row.Each = f.ID
		for k := range row.Columns {
			c := &row.Columns[k]
			if c.Field != f.ID {
				continue
			}
			if c.Kind, c.Value = "", chosen; s.Columns[c.Name].Option == "label" {
				c.Value = labelOf(f, chosen)
			}
		}
		out = append(out, row)
	}
	return out
}

// onward: after signing in one comes to the page one wanted, unless it is another site's. What a site makes of an address that is written
// in a way no page writes it is not promised, but that it leads nowhere else.
func (j *judgement) onward(e *Expectation, o *spec.ReturnTo) {
	switch to := j.values[j.p.Field(o.Field).Index].Normal; {
	case plainPath.MatchString(to):
		e.To = to
	case address.IsAddress(to) && !address.Elsewhere(to):
		e.To = ""
	}
}

// plainPath is a path as pages write it.
var plainPath = regexp.MustCompile(`^/([A-Za-z0-9._~-]+/?)*(\?[A-Za-z0-9._~=&%+-]*)?$`)

// namesElsewhere: a field that visitors do not fill in names another host's address, or one that is written in a way no page writes it.
func (j *judgement) namesElsewhere() bool {
	for _, f := range j.p.Fields {
		v := &j.values[f.Index]
		if f.Kind == spec.Hidden && v.Normal != "" && (address.Elsewhere(v.Normal) || address.IsAddress(v.Normal) && !plainPath.MatchString(v.Normal)) {
			return true
		}
	}
	return false
}

func (j *judgement) fill(text string) string {
	if !strings.Contains(text, "{") {
		return text
	}
	return template.Fill(text, func(id string) (string, bool) {
		f := j.p.Field(id)
		if f == nil {
			return "", false
		}
		return j.values[f.Index].Normal, true
	})
}

func (j *judgement) column(c *Column, s *spec.NamedSource) {
	c.Name, c.Source = s.Name, HoldsValue
	switch s.Kind() {
	case spec.SourceFrom:
		f := j.p.Field(s.From)
		v := &j.values[f.Index]
		c.Field, c.Kind, c.Value = f.ID, f.Kind, v.Normal
		if s.AsSent {
			c.Value = v.Sent
		}
		if f.Kind == spec.Checkbox {
			c.Value = strconv.FormatBool(!v.Blank)
		}
		if s.Option == "label" {
			c.Value = labelOf(f, v.Normal)
		}
		switch {
		case s.File == "":
		case v.File != nil && s.File == "name":
			c.Value = v.File.Name
		case v.File != nil && s.File == "size":
			c.Value = strconv.Itoa(v.File.Size)
		case v.File != nil:
			c.Source = HoldsUnknown
			return
		}
		if v.Blank && f.Kind != spec.Checkbox {
			blankColumn(c, s.Blank)
		}
	case spec.SourceSecret:
		f := j.p.Field(s.Secret)
		c.Source, c.Field, c.As, c.AtLeast, c.Pepper = HoldsHash, f.ID, s.As, s.AtLeast, s.Pepper
		if j.values[f.Index].Blank {
			c.Source = HoldsAny
			blankColumn(c, s.Blank)
		}
	case spec.SourceNow:
		c.Source, c.Within, c.Zone = HoldsNow, s.Within, s.Now.Zone
	case spec.SourceConstant:
		c.Value = string(*s.Is)
	case spec.SourceNull:
		c.Source = HoldsNull
	case spec.SourceDefault, spec.SourceUnchanged:
		c.Source = HoldsUntouched
	case spec.SourceGenerated:
		c.Source = HoldsSequence
		if s.Generated == "uuid" {
			c.Source = HoldsUUID
		}
	case spec.SourceKeyOf:
		c.Source, c.Value = HoldsKeyOf, s.KeyOf
	case spec.SourceClient:
		c.Source = HoldsAddress
	case spec.SourceSignedIn:
		if c.Value = j.w.SignedIn; c.Value == "" {
			c.Source = HoldsUnknown
		}
	case spec.SourceExpression:
		out, ok := j.p.Evaluate(s.Cel, j.variables())
		if !ok {
			c.Source = HoldsAny
			break
		}
		c.Value = fmt.Sprint(out)
	default:
		c.Source = HoldsAny
	}
}

func labelOf(f *spec.PreparedField, value string) string {
	for _, o := range f.Options {
		if o.Value == value {
			return o.Label
		}
	}
	return value
}

// blankColumn: what is stored for a blank field. Where the form does not say, NULL and the empty text both will do, as the
// promise is silent.
func blankColumn(c *Column, b spec.Blank) {
	switch b {
	case spec.BlankNull:
		c.Source = HoldsNull
	case spec.BlankEmpty:
		c.Value = ""
	case spec.BlankUnchanged:
		c.Source = HoldsUntouched
	default:
		c.Source = HoldsDefault
	}
}
