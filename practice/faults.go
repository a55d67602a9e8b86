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
	{"username-cut", "join", "Stored data", "usernames of up to 190 characters are taken and stored cut to 20"},
	{"username-two", "join", "Outcome", "usernames of 2 characters are taken"},
	{"password-characters", "join", "Outcome", "the password's 72 bytes are counted as characters"},
	{"born-day-early", "join", "Outcome", "the 18th birthday counts a day early"},
	{"plots-five", "join", "Outcome", "5 plots are taken"},
	{"plots-half", "join", "Outcome", "2.5 plots are taken and stored as 2"},
	{"email-case-kept", "join", "Stored data", "the e-mail address keeps its capitals"},
	{"username-untrimmed", "join", "Outcome", "spaces around the username are not trimmed and make it invalid"},
	{"membership-zeros", "join", "Stored data", "leading zeros of the membership number are lost"},
	{"born-swapped", "join", "Stored data", "day and month of birth are swapped where both can be a month"},
	{"heard-label", "join", "Stored data", "the answer's label is stored for its code"},
	{"heard-empty", "join", "Stored data", "no answer is stored as the empty text, not as NULL"},
	{"terms-reversed", "join", "Stored data", "acceptance of the rules is stored reversed"},
	{"username-case", "join", "Outcome", "a username that differs in case only counts as new"},
	{"email-spaces-new", "join", "Outcome", "an e-mail address with spaces around it counts as new"},
	{"message-text", "join", "Messages", "the membership number's message talks of letters"},
	{"message-missing", "join", "Messages", "nothing is said about a date of birth that is too late"},
	{"message-misplaced", "join", "Messages", "the date of birth's message stands at the plots"},
	{"message-hidden", "join", "Messages", "the e-mail address's messages are in the page, but hidden"},
	{"message-first-only", "join", "Messages", "only the first of several messages is shown"},
	{"message-untied", "join", "Messages", "the username's field does not refer to its message"},
	{"reply-again", "join", "Messages", "the waiting list greets on every visit, not once"},
	{"reply-missing", "join", "Messages", "the waiting list does not greet who has just joined"},
	{"refill-lost", "join", "Refilled values", "all values are lost after a rejection"},
	{"refill-email-lost", "join", "Refilled values", "the e-mail address is lost after a rejection"},
	{"refill-password", "join", "Refilled values", "the password is filled in again after a rejection"},
	{"secret-plain", "join", "Secrets", "the password is stored as it is"},
	{"secret-base64", "join", "Secrets", "the password is stored in base64"},
	{"secret-fast-hash", "join", "Secrets", "the password is stored as a SHA-256 digest without salt"},
	{"secret-one-salt", "join", "Secrets", "all passwords share one salt"},
	{"secret-in-redirect", "join", "Secrets", "the password is part of the redirect's address"},
	{"long-input-fails", "join", "Outcome", "input of more than 1000 characters ends in a server error"},
	{"no-redirect", "join", "Response", "the answer to the submission is the page itself, so that a reload submits again"},
	{"redirect-nowhere", "join", "Response", "the redirect leads to a page that does not exist"},
	{"token-unchecked", "join", "Outcome", "submissions without the token are taken"},
	{"token-any", "join", "Outcome", "the token of any session will do"},
	{"token-lost", "join", "Outcome", "the form that comes back with messages lacks its token"},
	{"get-joins", "join", "Outcome", "a request by GET joins too"},
	{"list-fails", "join", "Outcome", "a list in place of a value ends in a server error"},
	{"username-race", "join", "Outcome", "the username's unique index is missing, so that two who join at the same moment may get one name"},
	{"harvest-weight-zero", "harvest", "Outcome", "0 kg are taken"},
	{"harvest-weight-rounded", "harvest", "Stored data", "the weight is stored with one decimal"},
	{"harvest-tomorrow", "harvest", "Outcome", "a harvest of tomorrow is taken"},
	{"harvest-leap-day", "harvest", "Outcome", "29 February is called no date"},
	{"harvest-hour-off", "harvest", "Stored data", "the time is stored an hour late"},
	{"harvest-bed-zeros", "harvest", "Stored data", "leading zeros of the bed number are lost"},
	{"harvest-note-line", "harvest", "Stored data", "the note is cut at its first line end"},
	{"harvest-note-wide", "harvest", "Stored data", "characters of four bytes in the note are lost"},
	{"harvest-note-empty", "harvest", "Stored data", "no note is stored as the empty text, not as NULL"},
	{"harvest-note-lost", "harvest", "Refilled values", "the note is lost after a rejection"},
	{"harvest-crop-label", "harvest", "Stored data", "the crop's label is stored for its code"},
	{"harvest-crop-unlisted", "harvest", "Outcome", "crops that are not offered are taken"},
	{"harvest-picture-large", "harvest", "Outcome", "pictures of up to 400 kB are taken"},
	{"harvest-reply-wrong", "harvest", "Messages", "a large harvest gets the usual reply"},
	{"harvest-again", "harvest", "Outcome", "a form that is sent once more logs the harvest a second time"},
	{"help-browser-lax", "help", "Outcome", "the page sends names of more than 60 characters"},
	{"help-browser-strict", "help", "Outcome", "the page refuses names of more than 40 characters"},
	{"help-mask", "help", "Outcome", "the mask takes ten digits only"},
	{"help-switch", "help", "Response", "the switch sends the opposite"},
	{"help-thanks", "help", "Messages", "the thanks do not name who offered"},
	{"help-script-error", "help", "Response", "a script fails on submitting"},
	{"help-language", "help", "Messages", "the page speaks Welsh to all"},
	{"help-key-shown", "help", "Messages", "in Welsh the message of the hours is the key of its text"},
	{"help-state-kept", "help", "Refilled values", "after a reload the thanks still stand in place of the form"},
	{"help-server-trusts", "help", "Outcome", "the server does not check what the page checks"},
	{"help-thanks-without-row", "help", "Outcome", "thanks are given and no row is written"},
	{"help-network-silent", "help", "Messages", "nothing is said when no answer comes"},
	{"help-button-stuck", "help", "Response", "after an answer that did not come the button stays disabled"},
	{"help-late", "help", "Messages", "messages come only on submitting, not as a field is left"},
	{"help-stays", "help", "Messages", "a message stays until the form is submitted, though the value is corrected"},
	{"help-twice", "help", "Stored data", "the button can be pressed again while the answer is waited for, and the offer is kept twice"},
	{"booking-touching", "booking", "Outcome", "a booking that begins on another's last day is taken"},
	{"booking-fifteen-days", "booking", "Outcome", "a tool is lent for 15 days"},
	{"booking-yesterday", "booking", "Outcome", "a booking from yesterday on is taken"},
	{"booking-tool-unknown", "booking", "Outcome", "tools that do not exist are booked"},
	{"booking-malformed", "booking", "Outcome", "a body that is no JSON ends in a server error"},
	{"booking-null-missing", "booking", "Messages", "null is called missing"},
	{"booking-errors-text", "booking", "Response", "errors are one text a field, not a list"},
	{"booking-id-text", "booking", "Response", "the answer's id is a text"},
	{"booking-day-off", "booking", "Response", "the answer's last day is a day later than the stored one"},
	{"booking-internal", "booking", "Response", "the answer shows a column that is not for visitors"},
	{"booking-status", "booking", "Response", "a booking is answered with 200 for 201"},
	{"session-kept", "sign_in", "Session", "signing in keeps the session's id"},
	{"cookie-readable", "sign_in", "Session", "scripts can read the session's cookie"},
	{"cookie-trusted", "access", "Session", "the cookie says who is signed in, and is believed"},
	{"mistakes-apart", "sign_in", "Messages", "an unknown name and a wrong password are told apart"},
	{"password-any-case", "sign_in", "Outcome", "small letters and capitals of the password are not told apart"},
	{"never-locked", "sign_in", "Outcome", "an account is not locked after five failed attempts"},
	{"open-redirect", "sign_in", "Response", "after signing in one may be sent to another site"},
	{"sign-out-keeps", "access", "Session", "signing out leaves the session alive on the server"},
	{"members-open", "access", "Access", "the members' page is open to guests"},
	{"members-either", "access", "Access", "the members' page asks for a confirmed address or wishes, not for both"},
	{"wishes-skipped", "access", "Access", "the members' page can be opened without having said one's wishes"},
	{"stewards-open", "access", "Access", "the stewards' page is open to all who are signed in"},
	{"other-record", "access", "Access", "a holder can open another holder's record"},
	{"menu-stewards", "access", "Access", "the menu offers the stewards' page to all who are signed in"},
	{"menu-members-lost", "access", "Access", "the menu does not offer members the members' page"},
	{"back-shows", "access", "Session", "pages may be kept by the browser, and its back button shows them after signing out"},
	{"confirm-twice", "confirm", "Outcome", "a confirmation's link works twice"},
	{"confirm-other", "confirm", "Stored data", "a confirmation's link confirms another holder"},
	{"mail-secret", "confirm", "Secrets", "the mail holds the password"},
	{"me-readonly", "me", "Stored data", "the membership number, which is read-only, is stored as it is sent"},
	{"hidden-trusted", "me", "Stored data", "the hidden key says whose details are saved"},
	{"me-second-row", "me", "Stored data", "another holder's display name is changed too"},
	{"me-touches", "me", "Stored data", "saving details changes the referral"},
	{"blank-overwrites", "me", "Stored data", "a blank new password replaces the present one"},
	{"present-unchecked", "me", "Outcome", "a new password is taken with any present one"},
	{"me-own-refused", "me", "Outcome", "one's own e-mail address counts as taken"},
	{"me-unique-unchecked", "me", "Outcome", "another holder's e-mail address is taken"},
	{"password-present-unchecked", "password", "Outcome", "the present password is not compared"},
	{"password-hash-kept", "password", "Stored data", "success is said and the password is not changed"},
	{"sessions-stay", "password", "Session", "other sessions go on after the password is changed"},
	{"wishes-step", "wishes", "Outcome", "sizes between two steps are taken"},
	{"wishes-first-neighbour", "wishes", "Stored data", "of several choices only the first is stored"},
	{"role-taken", "join", "Stored data", "a parameter named role is stored"},
}

type switches map[string]bool

// Switches reads a list of fault names; an unknown one is an error that lists those known.
func parseFaults(names []string) (switches, error) {
	on := switches{}
	for _, name := range names {
		name = strings.TrimSpace(name)
		if name == "" {
			continue
		}
		if !slices.ContainsFunc(Faults, func(f Fault) bool { return f.Name == name }) {
			return nil, fmt.Errorf("there is no fault %q; --list-faults lists them", name)
		}
		on[name] = true
	}
	return on, nil
}
