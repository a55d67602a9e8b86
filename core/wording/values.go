package wording

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/spec"
)

// values are the words of each term. Their places are {text} and {short} for the text of the value, {quoted} for it within quotation
// marks, {code} as Go quotes it, {of} for its name, {label} for the label of the field of that name, {n} for its number, {rows} for its
// rows, and {place} for where the part is to stand.
var values = map[judge.Term]string{
	judge.AsText: "{text}", judge.ShortText: "{short}", judge.Quoted: "“{text}”", judge.Number: "{n}", judge.Blank: "blank", judge.EmptyText: "the empty text",
	judge.Null: "NULL", judge.NullOrEmpty: "NULL or the empty text", judge.FilledIn: "filled", judge.Ticked: "ticked", judge.NotTicked: "not ticked", judge.None: "none",
	judge.Unchanged: "unchanged", judge.Anything: "anything", judge.Defaults: "their defaults", judge.NoChange: "no change",

	judge.OutcomeIs: "{of}", judge.NothingFurtherWritten: "nothing further is written",
	judge.RefusedByThePage:  "the page refuses it by itself, so that the server's answer is not seen",
	judge.RefusedUnreadable: "refused as it cannot be read, or for its values", judge.RefusedOrWithout: "refused, or taken without what was altered",
	judge.FailedWith: "{text}", judge.StatusIs: "status {n}", judge.StatusTo: "{n} to {text}", judge.RedirectedTo: "redirected to {text}",
	judge.ShowsInternals: "the page shows the program's inside: {text}", judge.PageSays: "the page says {code}", judge.OtherPageSays: "a page without the form says {code}",
	judge.BrowserSays: "the browser says {code}", judge.RowsWritten: "rows were written", judge.OtherRowsWritten: "other rows were written than acceptance promises: {rows}",
	judge.RowsChanged: "{rows}", judge.NoRowIsWritten: "no row was written", judge.NothingNew: "nothing was written and nothing new is said",
	judge.NoAnswerCame: "no answer came", judge.FormHasGone: "the form has gone", judge.FormAsBefore: "the form stands as before", judge.NoRequestMade: "no request was made",
	judge.ControlRefused: "{of}: {text}", judge.ControlMakes: "the control {of} makes {code} of {was}", judge.NoRequestSeen: "no request was seen", judge.SeenByHand: "as a person saw it",

	judge.AnAnswer: "an answer", judge.NoServerError: "no server error", judge.TheSites: "the site's", judge.LeadsTo: "to {text}", judge.APage: "a page that exists",
	judge.PageAnswers: "{text} answers {n}", judge.NotSeen: "not shown", judge.RequestLost: "{text}: {of}", judge.OnSummary: "on the summary", judge.OnField: "on {label}",
	judge.AsEntered: "as they were entered", judge.AsTyped: "as it was typed", judge.NotAsTyped: "otherwise", judge.CanBePressed: "can be pressed again", judge.Disabled: "is disabled",
	judge.JSON: "JSON", judge.FollowsIt: "follows it", judge.Violation: "{of}: {text}", judge.AMember: "a member", judge.Members: "{n} members", judge.WhatColumnHolds: "what {of} holds",

	judge.NoMessage: "no message", judge.SomethingLike: "“something like {text}”", judge.SomeMessage: "“some message”", judge.PromisedPlace: "{place}", judge.SeenInPlace: "seen {place}",
	judge.QuotedInPlace: "“{text}” {place}", judge.LikeInPlace: "“something like {text}” {place}", judge.SomeInPlace: "“some message” {place}", judge.QuotedAtControl: "“{text}” at the control {of}",
	judge.Seen: "seen", judge.ButHidden: "in the page, but hidden", judge.RefersToIt: "the control refers to it", judge.DoesNotRefer: "the control does not refer to it",
	judge.Elsewhere: "elsewhere on the page", judge.AtControl: "at the control {of}", judge.PageWithoutIt: "the page {text} without it", judge.NoLonger: "no longer “{text}”",
	judge.WhileTyping: "as one types", judge.OnLeaving: "as the field is left", judge.OnSubmitting: "not before submitting", judge.GoneOnceCorrected: "gone once the value is corrected", judge.ItStays: "it stays",

	judge.FormFilledIn: "the form, filled in", judge.FormAsOpened: "the form, as it was opened", judge.PageWithoutForm: "a page without the form", judge.FormIs: "{of}",
	judge.Gone: "gone", judge.There: "there", judge.TheControl: "the control {of}",

	judge.NewRow: "1 new row", judge.OneChangedRow: "1 changed row", judge.ChangedOrSame: "1 changed row, or one that holds the values already",
	judge.TheColumn: "the column {of}", judge.NotInTable: "the table has none", judge.AUUID: "a UUID", judge.ANumber: "a number of its own", judge.VisitorsAddress: "the visitor's address",
	judge.KeyOfRow: "the key of the row in {of}: {text}", judge.NowWithin: "now, within {duration}", judge.Moment: "{text} ({seconds} s)",

	judge.Nowhere: "nowhere", judge.InRedirect: "{of} in the redirect to {text}", judge.InHeader: "{of} in the header {text}", judge.InPage: "{of} in the page {text}",
	judge.InColumn: "{of} in {text}", judge.InMailText: "{of}", judge.PlainText: "plain", judge.PlainWithin: "plain, with more around it", judge.Reversible: "reversible ({of})",
	judge.FastHash: "a fast hash without salt ({of})", judge.FastHashSalted: "a fast hash ({of}) with the salt in {text}", judge.FastOrUnknown: "a fast hash or an unknown one ({of} bytes)",
	judge.UnknownForm: "of an unknown form", judge.HashKind: "{of}", judge.SlowHash: "a salted slow hash", judge.OneOf: "{names}", judge.FreshSalt: "a fresh salt each time",
	judge.SharedSalt: "two secrets share one salt", judge.AnotherSalt: "another salt", judge.StoredSameTwice: "the same value was stored twice", judge.StoredDifferently: "stored differently",
	judge.WhatWasSent: "of what was sent", judge.UnknownText: "of another text, which is not known", judge.SecretBlank: "of the empty text", judge.SecretTrimmed: "of it without the spaces around it",
	judge.SecretLowered: "of it in small letters", judge.SecretRaised: "of it in capitals", judge.SecretBytes: "of its first {n} bytes", judge.SecretCharacters: "of its first {n} characters",
	judge.SecretEscaped: "of it escaped for HTML", judge.SecretForm: "of it in Unicode form {of}", judge.ValueOfField: "of what {label} holds", judge.SentBefore: "of what was sent before",

	judge.Renewed: "renewed", judge.CookieChanged: "the cookie changed", judge.NoCookieChanged: "no cookie changed", judge.PageIsOpen: "{text} opens",
	judge.FlagSet: "{flag}", judge.FlagNotSet: "not {flag}", judge.SessionIsEnded: "ended", judge.SessionIsOn: "goes on",

	judge.StateIs: "{of}", judge.OpensAs: "{text}",

	judge.Because: "{text}", judge.NothingPromisedOfRows: "nothing is promised of the database", judge.NothingPromisedOfValues: "nothing is promised of the form's values here",
	judge.NothingPromisedOfSession: "nothing is promised of the session here", judge.NoPageSendsIt: "nothing is promised of a request that no page sends",
	judge.HoldsNUL: "the request holds a NUL, and was refused as a bad one", judge.WasRefused: "the request was refused", judge.OutcomeDiffers: "the outcome is another than expected",
	judge.NoDatabaseWatched: "no database is watched", judge.MayHoldItAlready: "no row changed: it may hold the same values already", judge.JudgedUnderSecrets: "judged under Secrets",
	judge.JudgedByHand: "judged by a person, under Outcome", judge.PromiseNotKnown: "what the column must hold is not known here", judge.DefaultNotKnown: "the column's default is not known here",
	judge.NoRowWritten: "no row in {of} was written", judge.NoRowSeen: "no row in {of} is seen",
	judge.HostsNotAllowed: "parts of the page would come from {text}, which is not allowed", judge.NoMember: "the request has no member {of}", judge.AnswerTooLong: "the answer is too long to be kept whole",
	judge.NoPageCame: "no page came back", judge.SiteFailed: "the site failed", judge.ControlKeptOut: "the control does not let the value in, so that there is nothing to be said",
	judge.ControlRemade: "the control made another value of it when it was entered", judge.RefusedUnread: "the request is refused whatever its values are, in words of the site's own",
	judge.OnlyJSON: "the page's script says it, over HTTP there is only the answer in JSON", judge.JSONHasNoForm: "an answer in JSON holds no form", judge.PageNotOpened: "the page was not opened",
	judge.NotNative: "it is no native control, and its state is not read", judge.NotOffered: "the page does not offer what was sent", judge.NotLoadedAnew: "the page was not loaded anew",
	judge.ListNotRead: "which of several choices a list holds is not read yet", judge.NothingChosen: "nothing was chosen, and what the page chooses by itself is not promised",
	judge.NoMistakeMade: "no mistake was made", judge.MistakeImpossible: "the mistake cannot be made: {text}", judge.NoSecretSent: "no secret was sent",
	judge.ShortOrInnocent: "too short, or part of what may be shown", judge.Peppered: "the site adds a secret of its own to it", judge.NotVerified: "it is not verified: {text}",
	judge.VisitorNotKnown: "what is stored about the visitor is not known", judge.NoPagePromised: "no page is promised after signing in", judge.NotSetHere: "it was not set here", judge.NoOtherSession: "no other session stood by",
}

// longer are the words of terms where their value tells something more than usual.
var longer = map[judge.Term]string{
	judge.RowsWritten: "rows were written: {rows}", judge.ButHidden: "in the page, but {text}", judge.Seen: "seen for a while, gone after {n} ms",
	judge.NewRow: "1 new row for {short}", judge.OneChangedRow: "1 changed row for {short}", judge.HashKind: "{of}, cost {text}",
	judge.Moment: "{text} ({seconds} s by the site's clock, which is {of} away)",
}

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
type writer struct{ form *spec.Prepared }

// value is the words of a value of a part.
func (w writer) value(p *judge.Part, v *judge.Value) string {
	template := values[v.Is]
	if tellsMore(v) {
		template = longer[v.Is]
	}
	return fill(template, places{
		"text": v.Text, "short": short(v.Text), "code": strconv.Quote(v.Text), "was": strconv.Quote(v.Was), "of": v.Of, "names": strings.Join(v.Names, " or "), "label": w.label(v.Of), "n": strconv.Itoa(v.N), "rows": changedRows(v),
		"place": w.place(p), "duration": (time.Duration(v.N) * time.Millisecond).String(), "seconds": fmt.Sprintf("%+.1f", float64(v.N)/1000), "flag": flags[judge.CookieAttribute(v.Of)],
	})
}

// flags are the words of a cookie's attributes.
var flags = map[judge.CookieAttribute]string{judge.HTTPOnly: "http only", judge.Secure: "secure", judge.SameSiteLax: "same site lax", judge.SameSiteStrict: "same site strict"}

// label is a field's label, and else its id.
func (w writer) label(id string) string {
	if w.form != nil {
		if f := w.form.Field(id); f != nil {
			return f.Label
		}
	}
	return id
}

// place is where a message is to stand.
func (w writer) place(p *judge.Part) string {
	switch {
	case p.Place == string(spec.AtField) && p.Field != "":
		return fill("at {label}", places{"label": w.label(p.Field)})
	case p.Place == string(spec.OnNextPage):
		return "on the page that follows"
	}
	return "in the summary"
}

// changedRows names the rows of a value.
func changedRows(v *judge.Value) string {
	var out []string
	for _, r := range v.Rows {
		out = append(out, fill("{key} {kind} in {table}", places{"key": r.Key, "kind": string(r.Kind), "table": r.Table}))
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
	return fill("{outcome}: {signals}", places{"outcome": of, "signals": strings.Join(out, ", and ")})
}

// SecretStored says how a secret is stored.
func SecretStored(v *judge.Value) prose.Text { return prose.Text(writer{}.value(&judge.Part{}, v)) }

// Value is a value that is a text for people.
func Value(is judge.Term, text prose.Text) judge.Value {
	return judge.Value{Is: is, Text: string(text)}
}
