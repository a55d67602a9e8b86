package phrases

import (
	"maps"
	"slices"
)

// Headlines are what a lead reads first: what happened, to what, by which input, with the numbers. They are by the code of the
// difference, or by one of their own.
//
// Their places are {subject} for the input, {label} for the field, {of} for table and column, {promise} for the rule in short, {sent} and
// {stored} for the beginnings of two values, {n} for a number, {rows}, {table}, {page}, {name}, {after}, {expected}, {observed}, {title} for
// a case's title and {note} for what a person wrote.
var Headlines = Registered("headline.", map[string]string{
	"accepted":                    "{subject} accepted (promised: {promise})",
	"accepted_required":           "{subject} accepted, although it is required",
	"accepted_unchecked":          "{subject} accepted, although it must be checked",
	"accepted_not_offered":        "{subject} accepted, although it is not one of the options",
	"accepted_cut":                "{subject} accepted (promised: {promise}), stored cut to {n} characters",
	"accepted_twice":              "{label} accepted twice, although it must be unique",
	"accepted_twice_capitals":     "{label} accepted twice when only its capitals differ",
	"accepted_twice_spaces":       "{label} accepted twice when only the spaces around it differ",
	"accepted_twice_signs":        "{label} accepted twice when only signs differ that are taken out",
	"accepted_twice_national":     "{label} accepted twice, with and without its calling code",
	"accepted_at_once":            "{label} accepted more than once when submitted at the same moment",
	"accepted_case":               "{title} – accepted; it should have been rejected",
	"accepted_across":             "Accepted, although it breaks the rule “{promise}”: {title}",
	"accepted_secret":             "Wrong {label} accepted (promised: {promise})",
	"accepted_secret_capitals":    "{label} accepted in other capitals than the stored password",
	"accepted_secret_longer":      "{label} accepted with one character more than the stored password",
	"accepted_secret_shorter":     "{label} accepted without the last character of the stored password",
	"accepted_secret_spaces":      "{label} accepted with spaces around the stored password",
	"accepted_differs":            "{label} accepted, although it is not the same as {other}",
	"accepted_differs_capitals":   "{label} accepted, although its capitals are not those of {other}",
	"rejected":                    "{subject} rejected (promised: {promise})",
	"rejected_field":              "{subject} rejected, although every rule is satisfied",
	"rejected_own":                "{subject} rejected as already taken, although it is the account's own",
	"not_stopped":                 "{subject} sent to the server, although the browser should stop it (promised: {promise})",
	"not_stopped_case":            "{title} – sent to the server, although the browser should stop it",
	"rejected_case":               "{title} – rejected; it should have been accepted",
	"failed":                      "{subject}: the site fails ({why})",
	"failed_case":                 "{title} – the site fails ({why})",
	"silent":                      "Nothing happens after submitting {subject}",
	"silent_case":                 "{title} – nothing happens",
	"contradictory":               "Success and an error shown at once for {subject}",
	"contradictory_case":          "{title} – success and an error shown at once",
	"success_without_row":         "Success shown for {subject}, but no row was written",
	"success_without_row_case":    "{title} – success shown, but no row was written",
	"success_without_answer":      "Success shown for {subject}, although no answer came",
	"success_without_answer_case": "{title} – success shown, although no answer came",
	"error_with_row":              "An error shown for {subject}, although a row was written",
	"error_with_row_case":         "{title} – an error shown, although a row was written",
	"other_rows_written":          "Other rows than promised written for {subject}: {rows}",
	"other_rows_written_case":     "{title} – other rows than promised written: {rows}",
	"not_answered":                "{title} – no answer",
	"other_outcome":               "{title} – {ended}; it should have been {should}",
	"step_outcome":                "{ended}; it should have been {should}",
	"submitted_again":             "Reloading the page after success submits the form again",
	"odd_by_hand":                 "Judged odd by hand",
	"odd_with_note":               "Judged odd by hand: {note}",

	"cut_short":          "{subject} stored cut to {n} characters ({of})",
	"cut_short_column":   "{of} cut to {n} characters",
	"other_value":        "{label}: {stored} stored instead of {sent} ({of})",
	"null":               "{label} not stored: {of} is NULL",
	"not_null":           "{label}: {stored} stored instead of NULL ({of})",
	"emptied":            "{label} lost: {of} is empty",
	"not_blank":          "{label}: {stored} stored instead of a blank ({of})",
	"spaces_kept":        "{label} stored with the spaces around it ({of})",
	"other_line_ends":    "{label} stored with other line ends ({of})",
	"other_capitals":     "{label} stored with other capitals than promised ({of})",
	"leading_zeros_lost": "{label} loses its leading zeros ({of})",
	"characters_lost":    "{label} loses characters: {sent} stored as {stored} ({of})",
	"stored_as_markup":   "{label} stored escaped for HTML: {stored} ({of})",
	"other_time":         "{of} holds another time: {observed}, expected {expected}",
	"no_time":            "{of} holds no time: {stored}",
	"no_column":          "{of} does not exist",
	"not_default":        "{of} does not hold its default: {stored} instead of {sent}",
	"changed":            "{label} changed, although it should stay as it was ({of})",
	"other_value_column": "{of} holds {stored} instead of {sent}",
	"not_null_column":    "{of} holds {stored} instead of NULL",
	"not_blank_column":   "{of} holds {stored} instead of a blank",
	"changed_column":     "{of} changed, although it should stay as it was",
	"other_key":          "{of} holds the key of another row: {stored} instead of {sent}",
	"no_number":          "{of} holds no number: {stored}",
	"other_address":      "{of} holds another address than the visitor's: {stored}",
	"no_uuid":            "{of} holds no UUID: {stored}",
	"no_row":             "{ended}, but no row was written to {table}",
	"no_row_changed":     "{ended}, but no row was changed in {table}",
	"row_inserted":       "{ended}, but a row was written: {rows}",
	"row_inserted_case":  "{title} – a row was written: {rows}",
	"row_changed":        "{ended}, but a row was changed: {rows}",
	"row_deleted":        "{ended}, but a row was deleted: {rows}",
	"other_row_inserted": "One row too many written: {rows}",
	"other_row_changed":  "Another row changed as well: {rows}",
	"other_row_deleted":  "Another row deleted as well: {rows}",

	"secret_shown":      "{label} shown {observed}",
	"secret_stored":     "{label} also stored {observed}",
	"stored_otherwise":  "{label} stored {observed} ({of})",
	"other_text_hashed": "{of} holds the hash {observed}, not of the {label} that was sent",
	"too_little_work":   "{label} hashed with too little work ({of}): {observed}, promised {expected}",
	"other_header":      "Header {member} is {observed} instead of {expected} {after}",
	"salt_reused":       "Two values of {label} stored with one salt ({of})",
	"same_hash_twice":   "The same {label} stored twice gives the same hash ({of})",

	"missing":              "No message for {subject}",
	"missing_accepted":     "No message for {subject}",
	"hidden":               "Message for {label} is in the page, but hidden",
	"other_text":           "Wrong message for {subject}: {observed}",
	"other_language":       "Message for {label} in another language: {observed}",
	"other_blank":          "{subject}: the message is that of another kind of blank: {observed}",
	"other_rule":           "Wrong message for {label}: that of the rule “{rule}”",
	"other_place":          "Message for {label} shown at the wrong place: {observed}",
	"not_linked":           "Message for {label} is not linked to its field (aria-describedby)",
	"too_late":             "Message for {label} comes too late: {observed}",
	"too_early":            "Message for {label} comes too early: {observed}",
	"stays":                "Message for {label} stays after the value is corrected",
	"not_expected":         "Message that no rule promises: {observed}",
	"shown_before":         "Message shown before anything is submitted: {observed}",
	"shown_again":          "The success reply is shown again after a reload",
	"not_shown":            "The saved value is not shown on {page}",
	"missing_not_accepted": "The success reply is missing, as it was not accepted",
	"reply_missing":        "{ended}, but the success reply is missing",
	"reply_hidden":         "{ended}, but the success reply is hidden",

	"form_gone":     "The form is gone {after}",
	"form_not_gone": "The form is still there {after}",
	"control_gone":  "{label} is gone from the page {after}",
	"not_refilled":  "{label} is lost {after}",
	"filled":        "{label} is still filled in {after}",
	"refilled":      "{label} is changed {after}: {observed} instead of {expected}",
	"form_filled":   "The form is still filled in {after}",
	"not_filled":    "{label} is not filled in {after}",
	"form_unfilled": "The form is not filled in {after}",
	"not_as_opened": "{label} is not as it was when the page was opened",
	"all_lost":      "All values are lost {after}",

	"no_answer":          "No answer to the submission",
	"sent_twice":         "Pressed again before the answer came, the submit button sends the form again",
	"button_stuck":       "The submit button cannot be pressed again {after}",
	"server_error":       "Server error: {observed}",
	"other_status":       "Status {observed} instead of {expected} {after}",
	"other_host":         "The redirect leads to another host: {observed} instead of {expected}",
	"other_target":       "The redirect leads to {observed} instead of {expected}",
	"no_redirect":        "No redirect {after}; it should lead {expected}",
	"target_missing":     "The redirect leads to a page that does not exist: {observed}",
	"internals_shown":    "Stack trace or server internals shown: {observed}",
	"script_error":       "Script error on the page: {observed}",
	"request_failed":     "A part of the page does not load: {observed}",
	"focus_elsewhere":    "The focus is not {expected} {after}, but on the control {observed}",
	"focus_nowhere":      "The focus is not {expected} {after}, but on no control",
	"altered":            "{label}: the browser sends {observed} instead of {expected}",
	"not_json":           "The answer is not JSON",
	"against_schema":     "The answer does not follow its schema: {observed}",
	"member_missing":     "{member} is missing from the answer",
	"member_surplus":     "{member} should not be in the answer",
	"member_not_stored":  "{member} in the answer is not what is stored: {observed} instead of {expected}",
	"not_renewed":        "The session id is not renewed at sign-in",
	"not_signed_in":      "{ended}, but nobody is signed in",
	"flag_missing":       "Cookie {member} lacks the attribute {flag}",
	"sessions_go_on":     "Other sessions of the account go on",
	"does_not_open":      "The page does not open: {observed}",
	"other_state":        "The visitor's state is {observed}, expected: {expected}",
	"other_access":       "{member}: {observed}, expected: {expected}",
	"judged_differently": "{name}: {observed}, expected: {expected}",
})

// Inputs are what stands in a headline's place {subject}: a field with what was sent in it. {where} is a stretch of values.
var Inputs = Registered("input.", map[string]string{
	"field": "{label}", "length": "{label} of {n} {unit}", "lengths": "{label} of {where}", "value": "{label} {value}", "text": "{label} “{value}”", "values": "{label} {where}",
	"empty": "empty {label}", "spaces": "{label} of nothing but spaces", "missing": "missing {label}", "checked": "checked {label}", "unchecked": "unchecked {label}",
})

// SomeValue stands for a field in a headline about a column that comes from no field.
var SomeValue = phrase("input.some_value", "value")

// Afters are what stands in a headline's place {after}, by how the step ended.
var Afters = Registered("after.", map[string]string{
	"accepted": "after success", "rejected": "after a rejection", "otherwise": "after submitting", "reloaded": "after a reload",
})

// Registered are phrases by their codes behind a beginning, in the order of the codes.
func Registered[K ~string](beginning string, words map[K]string) map[K]Phrase {
	out := map[K]Phrase{}
	for _, code := range slices.Sorted(maps.Keys(words)) {
		out[code] = phrase(beginning+string(code), words[code])
	}
	return out
}
