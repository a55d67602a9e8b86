package universal

import (
	"oddtick/core/judge"
	"oddtick/core/spec"
)

// ID names a promise.
type ID = spec.PromiseID

// The promises.
const (
	SecretPlain      ID = "secret_stored_plain"
	SecretReversible ID = "secret_stored_reversible"
	SecretFast       ID = "secret_stored_fast"
	SecretSalt       ID = "secret_salt_shared"
	SecretShown      ID = "secret_shown"
	SecretElsewhere  ID = "secret_stored_elsewhere"
	SecretRefilled   ID = "secret_filled_in_again"

	StoredCut        ID = "stored_cut"
	StoredRounded    ID = "stored_rounded"
	StoredAltered    ID = "stored_altered"
	StoredOtherDay   ID = "stored_other_day"
	StoredOtherTime  ID = "stored_other_time"
	RejectedStored   ID = "rejected_and_stored"
	AcceptedUnstored ID = "accepted_and_not_stored"
	OtherRowsChanged ID = "other_rows_changed"

	PageLimitIgnored ID = "page_limit_ignored"
	ServerError      ID = "server_error"
	InternalsShown   ID = "internals_shown"
	RedirectBroken   ID = "redirect_broken"
	ReloadRepeats    ID = "reload_repeats"
	GetWrites        ID = "get_writes"
	HiddenLost       ID = "hidden_control_lost"
	CookieReadable   ID = "session_cookie_readable"
	SessionKept      ID = "session_id_kept"
	AccountsTold     ID = "accounts_told_apart"
	SecretUnchecked  ID = "secret_not_checked"
	SecretAnyCase    ID = "secret_in_any_capitals"
	TokenUnchecked   ID = "token_not_checked"
	TokenForeign     ID = "token_of_another_session"
	SurplusStored    ID = "surplus_parameter_stored"
	SentAgainStored  ID = "sent_again_and_stored_twice"

	MessageMissing   ID = "message_missing"
	MessageHidden    ID = "message_hidden"
	MessageElsewhere ID = "message_at_other_field"
	MessageUnlinked  ID = "message_not_linked"
	MarkupUnescaped  ID = "markup_unescaped"
	ValuesLost       ID = "values_lost"

	UniqueCase     ID = "unique_but_for_capitals"
	UniqueSpaces   ID = "unique_but_for_spaces"
	UniqueNotIndex ID = "unique_without_index"

	LabelMissing    ID = "label_missing"
	LanguageMissing ID = "language_missing"
)

// Promise is one that holds on every form.
type Promise struct {
	ID ID `json:"id"`
	// Check is the one of the seven checks that it belongs to.
	Check judge.CheckName `json:"check" enum:"outcome,response,messages,refilled_values,stored_data,secrets,session"`
	// Source is what says so: a standard with its section, or none where it is common sense.
	Source string `json:"source,omitempty"`
}

// Promises are all of them, the gravest first: in this order what is unusual is listed.
var Promises = []Promise{
	{SecretPlain, judge.Secrets, "OWASP ASVS 4.0.3, 2.4.1"},
	{SecretReversible, judge.Secrets, "OWASP ASVS 4.0.3, 2.4.1"},
	{SecretFast, judge.Secrets, "OWASP ASVS 4.0.3, 2.4.1"},
	{SecretSalt, judge.Secrets, "OWASP ASVS 4.0.3, 2.4.2"},
	{SecretElsewhere, judge.Secrets, "OWASP ASVS 4.0.3, 8.3.4"},
	{SecretShown, judge.Secrets, "OWASP ASVS 4.0.3, 8.3.1"},
	{MarkupUnescaped, judge.Response, "OWASP ASVS 4.0.3, 5.3.3"},
	{GetWrites, judge.Outcome, "RFC 9110, 9.2.1"},
	{TokenUnchecked, judge.Outcome, "OWASP ASVS 4.0.3, 4.2.2"},
	{TokenForeign, judge.Outcome, "OWASP ASVS 4.0.3, 4.2.2"},
	{SurplusStored, judge.StoredData, "OWASP ASVS 4.0.3, 5.1.2"},
	{SecretUnchecked, judge.Outcome, "OWASP ASVS 4.0.3, 2.1.6"},
	{SecretAnyCase, judge.Outcome, "OWASP ASVS 4.0.3, 2.1.3"},
	{SessionKept, judge.Session, "OWASP ASVS 4.0.3, 3.2.1"},
	{CookieReadable, judge.Session, "OWASP ASVS 4.0.3, 3.4.2"},
	{AccountsTold, judge.Messages, "OWASP ASVS 4.0.3, 2.2.1"},
	{OtherRowsChanged, judge.StoredData, ""},
	{AcceptedUnstored, judge.StoredData, ""},
	{RejectedStored, judge.StoredData, ""},
	{StoredCut, judge.StoredData, ""},
	{StoredAltered, judge.StoredData, ""},
	{StoredOtherDay, judge.StoredData, ""},
	{StoredOtherTime, judge.StoredData, ""},
	{StoredRounded, judge.StoredData, ""},
	{ServerError, judge.Outcome, "RFC 9110, 15.6"},
	{InternalsShown, judge.Response, "OWASP ASVS 4.0.3, 7.4.1"},
	{UniqueNotIndex, judge.Outcome, "OWASP ASVS 4.0.3, 11.1.6"},
	{UniqueCase, judge.Outcome, ""},
	{UniqueSpaces, judge.Outcome, ""},
	{PageLimitIgnored, judge.Outcome, "OWASP ASVS 4.0.3, 5.1.3"},
	{RedirectBroken, judge.Response, "RFC 9110, 15.4"},
	{ReloadRepeats, judge.Response, "RFC 9110, 15.4.4"},
	{SentAgainStored, judge.Outcome, "OWASP ASVS 4.0.3, 11.1.2"},
	{HiddenLost, judge.RefilledValues, ""},
	{SecretRefilled, judge.RefilledValues, "OWASP ASVS 4.0.3, 8.2.1"},
	{ValuesLost, judge.RefilledValues, "WCAG 2.2, 3.3.7"},
	{MessageMissing, judge.Messages, "WCAG 2.2, 3.3.1"},
	{MessageHidden, judge.Messages, "WCAG 2.2, 3.3.1"},
	{MessageElsewhere, judge.Messages, "WCAG 2.2, 3.3.1"},
	{MessageUnlinked, judge.Messages, "WCAG 2.2, 1.3.1"},
	{LabelMissing, judge.Messages, "WCAG 2.2, 3.3.2"},
	{LanguageMissing, judge.Messages, "WCAG 2.2, 3.1.1"},
}

// Of is the promise of an id, and whether there is one.
func Of(id ID) (Promise, bool) {
	for _, p := range Promises {
		if p.ID == id {
			return p, true
		}
	}
	return Promise{}, false
}
