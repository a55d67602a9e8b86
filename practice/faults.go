package practice

import (
	"fmt"
	"slices"
	"strings"
)

// Fault is one planted fault: a switch, off by default.
type Fault struct {
	Name string
	Form string
	// Check is the one of the seven checks that should turn odd.
	Check string
	Wrong string
}

// hides are the faults that nobody can see where another is on, by its name: with that mask no right number can be sent from the page,
// and these show only once one is.
var hides = map[string][]string{"help-mask": {"help-switch", "help-thanks", "help-script-error", "help-state-kept", "help-network-silent", "help-button-stuck", "help-twice"}}

// Hides tells whether another fault cannot be seen where this one is on.
func (f Fault) Hides(other Fault) bool { return slices.Contains(hides[f.Name], other.Name) }

// Faults are all planted faults.
var Faults = []Fault{
	{"username-cut", "join", "stored_data", "usernames of up to 190 characters are taken and stored cut to 20"},
	{"username-two", "join", "outcome", "usernames of 2 characters are taken"},
	{"password-characters", "join", "outcome", "the password's 72 bytes are counted as characters"},
	{"born-day-early", "join", "outcome", "the 18th birthday counts a day early"},
	{"plots-five", "join", "outcome", "5 plots are taken"},
	{"plots-half", "join", "outcome", "2.5 plots are taken and stored as 2"},
	{"email-case-kept", "join", "stored_data", "the e-mail address keeps its capitals"},
	{"username-untrimmed", "join", "outcome", "spaces around the username are not trimmed and make it invalid"},
	{"membership-zeros", "join", "stored_data", "leading zeros of the membership number are lost"},
	{"born-swapped", "join", "stored_data", "day and month of birth are swapped where both can be a month"},
	{"heard-label", "join", "stored_data", "the answer's label is stored for its code"},
	{"heard-empty", "join", "stored_data", "no answer is stored as the empty text, not as NULL"},
	{"terms-reversed", "join", "stored_data", "acceptance of the rules is stored reversed"},
	{"username-case", "join", "outcome", "a username that differs in case only counts as new"},
	{"email-spaces-new", "join", "outcome", "an e-mail address with spaces around it counts as new"},
	{"message-text", "join", "messages", "the membership number's message talks of letters"},
	{"message-missing", "join", "messages", "nothing is said about a date of birth that is too late"},
	{"message-misplaced", "join", "messages", "the date of birth's message stands at the plots"},
	{"message-hidden", "join", "messages", "the e-mail address's messages are in the page, but hidden"},
	{"message-first-only", "join", "messages", "only the first of several messages is shown"},
	{"message-untied", "join", "messages", "the username's field does not refer to its message"},
	{"reply-again", "join", "messages", "the waiting list greets on every visit, not once"},
	{"reply-missing", "join", "messages", "the waiting list does not greet who has just joined"},
	{"refill-lost", "join", "refilled_values", "all values are lost after a rejection"},
	{"refill-email-lost", "join", "refilled_values", "the e-mail address is lost after a rejection"},
	{"refill-password", "join", "refilled_values", "the password is filled in again after a rejection"},
	{"secret-plain", "join", "secrets", "the password is stored as it is"},
	{"secret-base64", "join", "secrets", "the password is stored in base64"},
	{"secret-fast-hash", "join", "secrets", "the password is stored as a SHA-256 digest without salt"},
	{"secret-one-salt", "join", "secrets", "all passwords share one salt"},
	{"secret-in-redirect", "join", "secrets", "the password is part of the redirect's address"},
	{"long-input-fails", "join", "outcome", "input of more than 1000 characters ends in a server error"},
	{"no-redirect", "join", "response", "the answer to the submission is the page itself, so that a reload submits again"},
	{"redirect-nowhere", "join", "response", "the redirect leads to a page that does not exist"},
	{"token-unchecked", "join", "outcome", "submissions without the token are taken"},
	{"token-any", "join", "outcome", "the token of any session will do"},
	{"token-lost", "join", "outcome", "the form that comes back with messages lacks its token"},
	{"get-joins", "join", "outcome", "a request by GET joins too"},
	{"list-fails", "join", "outcome", "a list in place of a value ends in a server error"},
	{"username-race", "join", "outcome", "the username's unique index is missing, so that two who join at the same moment may get one name"},
	{"harvest-weight-zero", "harvest", "outcome", "0 kg are taken"},
	{"harvest-weight-rounded", "harvest", "stored_data", "the weight is stored with one decimal"},
	{"harvest-tomorrow", "harvest", "outcome", "a harvest of tomorrow is taken"},
	{"harvest-leap-day", "harvest", "outcome", "29 February is called no date"},
	{"harvest-hour-off", "harvest", "stored_data", "the time is stored an hour late"},
	{"harvest-bed-zeros", "harvest", "stored_data", "leading zeros of the bed number are lost"},
	{"harvest-note-line", "harvest", "stored_data", "the note is cut at its first line end"},
	{"harvest-note-wide", "harvest", "stored_data", "characters of four bytes in the note are lost"},
	{"harvest-note-empty", "harvest", "stored_data", "no note is stored as the empty text, not as NULL"},
	{"harvest-note-lost", "harvest", "refilled_values", "the note is lost after a rejection"},
	{"harvest-crop-label", "harvest", "stored_data", "the crop's label is stored for its code"},
	{"harvest-crop-unlisted", "harvest", "outcome", "crops that are not offered are taken"},
	{"harvest-picture-large", "harvest", "outcome", "pictures of up to 400 kB are taken"},
	{"harvest-reply-wrong", "harvest", "messages", "a large harvest gets the usual reply"},
	{"harvest-again", "harvest", "outcome", "a form that is sent once more logs the harvest a second time"},
	{"help-browser-lax", "help", "outcome", "the page sends names of more than 60 characters"},
	{"help-browser-strict", "help", "outcome", "the page refuses names of more than 40 characters"},
	{"help-mask", "help", "outcome", "the mask takes ten digits only"},
	{"help-switch", "help", "response", "the switch sends the opposite"},
	{"help-thanks", "help", "messages", "the thanks do not name who offered"},
	{"help-script-error", "help", "response", "a script fails on submitting"},
	{"help-language", "help", "messages", "the page speaks Welsh to all"},
	{"help-key-shown", "help", "messages", "in Welsh the message of the hours is the key of its text"},
	{"help-state-kept", "help", "refilled_values", "after a reload the thanks still stand in place of the form"},
	{"help-server-trusts", "help", "outcome", "the server does not check what the page checks"},
	{"help-thanks-without-row", "help", "outcome", "thanks are given and no row is written"},
	{"help-network-silent", "help", "messages", "nothing is said when no answer comes"},
	{"help-button-stuck", "help", "response", "after an answer that did not come the button stays disabled"},
	{"help-late", "help", "messages", "messages come only on submitting, not as a field is left"},
	{"help-stays", "help", "messages", "a message stays until the form is submitted, though the value is corrected"},
	{"help-twice", "help", "stored_data", "the button can be pressed again while the answer is waited for, and the offer is kept twice"},
	{"booking-touching", "booking", "outcome", "a booking that begins on another's last day is taken"},
	{"booking-fifteen-days", "booking", "outcome", "a tool is lent for 15 days"},
	{"booking-yesterday", "booking", "outcome", "a booking from yesterday on is taken"},
	{"booking-tool-unknown", "booking", "outcome", "tools that do not exist are booked"},
	{"booking-malformed", "booking", "outcome", "a body that is no JSON ends in a server error"},
	{"booking-null-missing", "booking", "messages", "null is called missing"},
	{"booking-errors-text", "booking", "response", "errors are one text a field, not a list"},
	{"booking-id-text", "booking", "response", "the answer's id is a text"},
	{"booking-day-off", "booking", "response", "the answer's last day is a day later than the stored one"},
	{"booking-internal", "booking", "response", "the answer shows a column that is not for visitors"},
	{"booking-status", "booking", "response", "a booking is answered with 200 for 201"},
	{"session-kept", "sign_in", "session", "signing in keeps the session's id"},
	{"cookie-readable", "sign_in", "session", "scripts can read the session's cookie"},
	{"cookie-trusted", "access", "session", "the cookie says who is signed in, and is believed"},
	{"mistakes-apart", "sign_in", "messages", "an unknown name and a wrong password are told apart"},
	{"password-any-case", "sign_in", "outcome", "small letters and capitals of the password are not told apart"},
	{"never-locked", "sign_in", "outcome", "an account is not locked after five failed attempts"},
	{"open-redirect", "sign_in", "response", "after signing in one may be sent to another site"},
	{"sign-out-keeps", "access", "session", "signing out leaves the session alive on the server"},
	{"members-open", "access", "access", "the members' page is open to guests"},
	{"members-either", "access", "access", "the members' page asks for a confirmed address or wishes, not for both"},
	{"wishes-skipped", "access", "access", "the members' page can be opened without having said one's wishes"},
	{"stewards-open", "access", "access", "the stewards' page is open to all who are signed in"},
	{"other-record", "access", "access", "a holder can open another holder's record"},
	{"menu-stewards", "access", "access", "the menu offers the stewards' page to all who are signed in"},
	{"menu-members-lost", "access", "access", "the menu does not offer members the members' page"},
	{"back-shows", "access", "session", "pages may be kept by the browser, and its back button shows them after signing out"},
	{"confirm-twice", "confirm", "outcome", "a confirmation's link works twice"},
	{"confirm-other", "confirm", "stored_data", "a confirmation's link confirms another holder"},
	{"mail-secret", "confirm", "secrets", "the mail holds the password"},
	{"me-readonly", "me", "stored_data", "the membership number, which is read-only, is stored as it is sent"},
	{"hidden-trusted", "me", "stored_data", "the hidden key says whose details are saved"},
	{"me-second-row", "me", "stored_data", "another holder's display name is changed too"},
	{"me-touches", "me", "stored_data", "saving details changes the referral"},
	{"blank-overwrites", "me", "stored_data", "a blank new password replaces the present one"},
	{"present-unchecked", "me", "outcome", "a new password is taken with any present one"},
	{"me-own-refused", "me", "outcome", "one's own e-mail address counts as taken"},
	{"me-unique-unchecked", "me", "outcome", "another holder's e-mail address is taken"},
	{"password-present-unchecked", "password", "outcome", "the present password is not compared"},
	{"password-hash-kept", "password", "stored_data", "success is said and the password is not changed"},
	{"sessions-stay", "password", "session", "other sessions go on after the password is changed"},
	{"wishes-step", "wishes", "outcome", "sizes between two steps are taken"},
	{"wishes-first-neighbour", "wishes", "stored_data", "of several choices only the first is stored"},
	{"role-taken", "join", "stored_data", "a parameter named role is stored"},
}

// Of are the names of a list that are faults of one site.
func Of(faults []Fault, names []string) []string {
	return slices.DeleteFunc(slices.Clone(names), func(name string) bool {
		return !slices.ContainsFunc(faults, func(f Fault) bool { return f.Name == name })
	})
}

// Switches are the faults that are on, by name.
type Switches map[string]bool

// ReadSwitches reads a list of the names of faults; one that is not among a site's faults is an error.
func ReadSwitches(faults []Fault, names []string) (Switches, error) {
	on := Switches{}
	for _, name := range names {
		name = strings.TrimSpace(name)
		if name == "" {
			continue
		}
		if !slices.ContainsFunc(faults, func(f Fault) bool { return f.Name == name }) {
			return nil, fmt.Errorf("there is no fault %q; --list-faults lists them", name)
		}
		on[name] = true
	}
	return on, nil
}
