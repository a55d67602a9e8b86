package wording

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// terms are the words of each term. Their places are {text} and {short} for the text of the value, {quoted} for it within quotation
// marks, {code} as Go quotes it, {of} for its name, {label} for the label of the field of that name, {n} for its number, {rows} for its
// rows, and {place} for where the part is to stand.
var terms = phrases.Registered("term.", map[judge.Term]string{
	judge.AsText: "{text}", judge.ShortText: "{short}", judge.Quoted: "“{text}”", judge.Number: "{n}", judge.Blank: "blank", judge.EmptyText: "the empty text",
	judge.Null: "NULL", judge.NullOrEmpty: "NULL or the empty text", judge.FilledIn: "filled in", judge.Checked: "checked", judge.NotChecked: "not checked", judge.None: "none",
	judge.Unchanged: "unchanged", judge.Anything: "anything", judge.Defaults: "their defaults", judge.NoChange: "no change",

	judge.OutcomeIs: "{of}", judge.NothingFurtherWritten: "nothing more is written",
	judge.RefusedByThePage:  "the page itself refuses it, so the server's answer cannot be seen",
	judge.RefusedUnreadable: "rejected as unreadable, or because of its values", judge.RefusedOrWithout: "rejected, or accepted without the altered value",
	judge.FailedWith: "{text}", judge.StatusIs: "status {n}", judge.SentTimes: "sent {n} times", judge.StatusTo: "{n} to {text}", judge.RedirectedTo: "redirected to {text}",
	judge.ShowsInternals: "the page shows server internals: {text}", judge.PageSays: "the page says {code}", judge.OtherPageSays: "a page without the form says {code}",
	judge.BrowserSays: "the browser says {code}", judge.RowsWritten: "rows were written", judge.OtherRowsWritten: "other rows than promised were written: {rows}",
	judge.RowsChanged: "{rows}", judge.NoRowIsWritten: "no row was written", judge.NothingNew: "nothing was written and no new message is shown",
	judge.NoAnswerCame: "no answer came", judge.FormHasGone: "the form is gone", judge.FormAsBefore: "the form is as it was before", judge.NoRequestMade: "no request was made",
	judge.ControlRefused: "{of}: {text}", judge.ControlMakes: "the control {of} turned {was} into {code}", judge.NoRequestSeen: "no request was seen", judge.SeenByHand: "seen by a person",

	judge.AnAnswer: "an answer", judge.NoServerError: "no server error", judge.TheSites: "the site's host", judge.LeadsTo: "to {text}", judge.APage: "a page that exists",
	judge.PageAnswers: "{text} answers {n}", judge.NotSeen: "not shown", judge.RequestLost: "{text}: {of}", judge.OnSummary: "on the error summary", judge.OnField: "on {label}",
	judge.AsEntered: "as they were entered", judge.AsTyped: "as entered", judge.NotAsTyped: "changed", judge.CanBePressed: "can be pressed again", judge.Disabled: "is disabled",
	judge.JSON: "JSON", judge.FollowsIt: "follows it", judge.Violation: "{of}: {text}", judge.AMember: "a member", judge.Members: "{n} members", judge.WhatColumnHolds: "what {of} holds",

	judge.NoMessage: "no message", judge.SomethingLike: "a message like “{text}”", judge.SomeMessage: "any message", judge.PromisedPlace: "{place}", judge.SeenInPlace: "shown {place}",
	judge.QuotedInPlace: "“{text}” {place}", judge.LikeInPlace: "a message like “{text}” {place}", judge.SomeInPlace: "any message {place}", judge.QuotedAtControl: "“{text}” at the control {of}",
	judge.Seen: "shown", judge.ButHidden: "in the page, but hidden", judge.RefersToIt: "linked to its field", judge.DoesNotRefer: "not linked to its field",
	judge.Elsewhere: "elsewhere on the page", judge.AtControl: "at the control {of}", judge.MatchesPattern: "a text that matches {text}", judge.AsPromised: "as promised", judge.WithoutForm: "a page without the form", judge.TheForm: "the form", judge.ACookie: "a cookie", judge.AMail: "a mail", judge.MailsSent: "{n} mails", judge.NoReceiver: "no mails are received; write mail: in the site document", judge.PageWithoutIt: "not on the page {text}", judge.NoLonger: "no longer “{text}”",
	judge.WhileTyping: "while typing", judge.OnLeaving: "on leaving the field", judge.OnSubmitting: "only on submitting", judge.GoneOnceCorrected: "goes once the value is corrected", judge.ItStays: "it stays",

	judge.FormFilledIn: "the form with its values filled in", judge.FormAsOpened: "the form as it was opened", judge.PageWithoutForm: "a page without the form", judge.FormIs: "{of}",
	judge.Gone: "gone", judge.There: "still there", judge.TheControl: "the control {of}",

	judge.NewRow: "1 new row", judge.OneChangedRow: "1 changed row", judge.ChangedOrSame: "1 changed row, or one that already holds these values",
	judge.TheColumn: "the column {of}", judge.NotInTable: "not in the table", judge.AUUID: "a UUID", judge.ANumber: "a new number", judge.VisitorsAddress: "the visitor's address",
	judge.KeyOfRow: "the key of the row in {of}: {text}", judge.NowWithin: "now, within {duration}", judge.Moment: "{text} ({seconds} s)",

	judge.Nowhere: "not found", judge.InRedirect: "in the redirect to {text} ({form})", judge.InHeader: "in the header {text} ({form})", judge.InPage: "in the page {text} ({form})",
	judge.InColumn: "in {text} ({form})", judge.InMailText: "{of}", judge.PlainText: "in plain text", judge.PlainWithin: "in plain text, with other text around it", judge.Reversible: "in a reversible form ({of})",
	judge.FastHash: "as a fast hash without salt ({of})", judge.FastHashSalted: "as a fast hash ({of}) with the salt in {text}", judge.FastOrUnknown: "as a fast or unknown hash ({of} bytes)",
	judge.UnknownForm: "in an unknown form", judge.HashKind: "{of}", judge.SlowHash: "a salted slow hash", judge.OneOf: "{names}", judge.AtLeast: "at least {n}", judge.WorkNotRead: "its work is not read from such a hash", judge.FreshSalt: "a fresh salt each time",
	judge.SharedSalt: "two secrets share one salt", judge.AnotherSalt: "another salt", judge.StoredSameTwice: "the same value was stored twice", judge.StoredDifferently: "stored differently",
	judge.WhatWasSent: "of what was sent", judge.UnknownText: "of another, unknown text", judge.SecretBlank: "of the empty text", judge.SecretTrimmed: "of the secret without the spaces around it",
	judge.SecretLowered: "of the secret in lower case", judge.SecretRaised: "of the secret in upper case", judge.SecretBytes: "of its first {n} bytes", judge.SecretCharacters: "of its first {n} characters",
	judge.SecretEscaped: "of the secret escaped for HTML", judge.SecretForm: "of the secret in Unicode form {of}", judge.ValueOfField: "of the value of {label}", judge.SentBefore: "of the one sent before",

	judge.Renewed: "renewed", judge.CookieChanged: "the cookie changed", judge.NoCookieChanged: "no cookie changed", judge.PageIsOpen: "{text} opens",
	judge.FlagSet: "{flag}", judge.FlagNotSet: "not {flag}", judge.SessionIsEnded: "ended", judge.SessionIsOn: "still open",

	judge.StateIs: "{of}", judge.OpensAs: "{text}",

	judge.Because: "{text}", judge.NothingPromisedOfRows: "the document promises nothing about the database", judge.NothingPromisedOfValues: "the document promises nothing about the form's values here",
	judge.NothingPromisedOfSession: "the document promises nothing about the session here", judge.NoPageSendsIt: "the document promises nothing about requests that no page sends",
	judge.HoldsNUL: "the request contains a NUL character and was refused as a bad request", judge.WasRefused: "the request was refused", judge.OutcomeDiffers: "the outcome was not the expected one",
	judge.NoDatabaseWatched: "no database is watched", judge.MayHoldItAlready: "no row changed; it may already hold these values", judge.JudgedUnderSecrets: "judged under Secrets",
	judge.JudgedByHand: "judged by a person, under Outcome", judge.PromiseNotKnown: "what the column should hold is not known here", judge.DefaultNotKnown: "the column's default is not known here",
	judge.NoRowWritten: "no row in {of} was written", judge.NoRowSeen: "no row of {of} was read",
	judge.HostsNotAllowed: "parts of the page come from {text}, which the site's settings do not allow", judge.NoMember: "the request has no member {of}", judge.AnswerTooLong: "the answer is too long to be kept whole",
	judge.NoPageCame: "no page came back", judge.SiteFailed: "the site failed", judge.OnOtherStep: "it stands on another step of the form", judge.ButtonDisabled: "the button is disabled, so no message can be expected", judge.ControlKeptOut: "the control does not accept the value, so no message can be expected",
	judge.ControlRemade: "the control changed the value when it was entered", judge.RefusedUnread: "the request is refused whatever its values, in the site's own words",
	judge.OnlyJSON: "the page's script shows it; over HTTP there is only a JSON answer", judge.JSONHasNoForm: "an answer in JSON holds no form", judge.PageNotOpened: "the page was not opened",
	judge.NotNative: "not a native control; its state cannot be read", judge.NotOffered: "the page does not offer what was sent", judge.NotLoadedAnew: "the page was not loaded again",
	judge.ListNotRead: "which options of a list are selected is not read yet", judge.NothingChosen: "nothing was chosen, and the page's own choice is not promised",
	judge.NoMistakeMade: "no mistake was made", judge.MistakeImpossible: "the mistake cannot be made: {text}", judge.NoSecretSent: "no secret was sent",
	judge.ShortOrInnocent: "too short to tell, or part of a text that may be shown", judge.Peppered: "the site adds a pepper, so the hash cannot be verified", judge.NotVerified: "it is not verified: {text}",
	judge.VisitorNotKnown: "what is stored about the visitor is not known", judge.NoPagePromised: "no page is promised after signing in", judge.NotSetHere: "not set in this step", judge.NoOtherSession: "no other session was open",
})

// longer are the words of terms where their value tells something more than usual.
var longer = phrases.Registered("longer.", map[judge.Term]string{
	judge.RowsWritten: "rows were written: {rows}", judge.ButHidden: "in the page, but {text}", judge.Seen: "shown for a while, gone after {n} ms",
	judge.NewRow: "1 new row for {short}", judge.OneChangedRow: "1 changed row for {short}", judge.HashKind: "{of}, cost {text}",
	judge.Moment: "{text} ({seconds} s by the site's clock, which is {of} away)",
})

// tellsMore tells whether a value is worded by its longer words.
func tellsMore(v *judge.Value) bool {
	switch v.Is {
	case judge.RowsWritten:
		return len(v.Rows) > 0
	case judge.Seen:
		return v.N > 0
	case judge.Moment:
		return v.Of != ""
	case judge.ButHidden, judge.NewRow, judge.OneChangedRow, judge.HashKind:
		return v.Text != ""
	}
	return false
}

// writer words what is judged of one form.
type writer struct {
	form   *spec.Prepared
	labels map[string]string // of fields by id, where the form is not known
}

// value is the words of a value of a part.
func (w writer) value(p *judge.Part, v *judge.Value) string {
	template := terms[v.Is].Template()
	if tellsMore(v) {
		template = longer[v.Is].Template()
	}
	if v.Is == judge.OutcomeIs {
		return outcomeName(oracle.Outcome(v.Of))
	}
	return fill(template, places{
		"text": v.Text, "short": short(v.Text), "code": strconv.Quote(v.Text), "was": strconv.Quote(v.Was), "of": v.Of, "names": strings.Join(v.Names, phrases.OrKind.Template()), "label": w.label(v.Of), "n": strconv.Itoa(v.N), "rows": changedRows(v),
		"place": w.place(p), "form": secretForm(v.Of), "duration": (time.Duration(v.N) * time.Millisecond).String(), "seconds": fmt.Sprintf("%+.1f", float64(v.N)/1000), "flag": flags[judge.CookieAttribute(v.Of)].Template(),
	})
}

// secretForm words how a secret is written where it was found.
func secretForm(code string) string {
	if words, own := phrases.SecretForms[code]; own {
		return words.Template()
	}
	return code
}

// flags are the words of a cookie's attributes.
var flags = phrases.Registered("flag.", map[judge.CookieAttribute]string{judge.HTTPOnly: "HttpOnly", judge.Secure: "Secure", judge.SameSiteLax: "SameSite=Lax", judge.SameSiteStrict: "SameSite=Strict"})

// label is a field's label, and else its id.
func (w writer) label(id string) string {
	if w.form != nil {
		if f := w.form.Field(id); f != nil {
			return f.Label
		}
	}
	return cmp.Or(w.labels[id], id)
}

// place is where a message is to stand.
func (w writer) place(p *judge.Part) string {
	switch {
	case p.Place == string(spec.AtField) && p.Field != "":
		return fill(phrases.AtField.Template(), places{"label": w.label(p.Field)})
	case p.Place == string(spec.OnNextPage):
		return phrases.OnNextPage.Template()
	}
	return phrases.InSummary.Template()
}

// changedRows names the rows of a value.
func changedRows(v *judge.Value) string {
	var out []string
	for _, r := range v.Rows {
		out = append(out, fill(phrases.ChangedRow.Template(), places{"key": r.Key, "kind": phrases.RowChanges[string(r.Kind)].Template(), "table": r.Table}))
	}
	if v.N > len(v.Rows) {
		out = append(out, "…")
	}
	return strings.Join(out, ", ")
}

// signals is an outcome with the signals by which it was told.
func (w writer) signals(p *judge.Part, of string) string {
	var out []string
	for i := range p.Signals {
		out = append(out, w.value(p, &p.Signals[i]))
	}
	return fill("{outcome}: {signals}", places{"outcome": of, "signals": strings.Join(out, phrases.AndSignal.Template())})
}

// SecretStored says how a secret is stored.
func SecretStored(v *judge.Value) prose.Text { return prose.Text(writer{}.value(&judge.Part{}, v)) }

// Value is a value that is a text for people.
func Value(is judge.Term, text prose.Text) judge.Value {
	return judge.Value{Is: is, Text: string(text)}
}
