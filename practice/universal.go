package practice

// WithoutRules are the faults that show without anybody's having written down what the form promises, each with the promise that it breaks
// and that holds on every form.
var WithoutRules = map[string]string{
	"username-cut": "stored_cut", "plots-five": "page_limit_ignored", "plots-half": "page_limit_ignored", "membership-zeros": "stored_altered",
	"born-swapped": "stored_other_day", "username-case": "unique_but_for_capitals", "email-spaces-new": "unique_but_for_spaces",
	"message-missing": "message_missing", "message-misplaced": "message_at_other_field", "message-hidden": "message_hidden", "message-untied": "message_not_linked",
	"refill-lost": "values_lost", "refill-email-lost": "values_lost", "refill-password": "secret_filled_in_again",
	"secret-plain": "secret_stored_plain", "secret-base64": "secret_stored_reversible", "secret-fast-hash": "secret_stored_fast",
	"secret-one-salt": "secret_salt_shared", "secret-in-redirect": "secret_shown", "long-input-fails": "server_error", "no-redirect": "reload_repeats",
	"redirect-nowhere": "redirect_broken", "token-lost": "hidden_control_lost", "username-race": "unique_without_index",
	"harvest-weight-rounded": "stored_rounded", "harvest-hour-off": "stored_other_time", "harvest-bed-zeros": "stored_altered", "harvest-note-line": "stored_cut",
	"harvest-note-wide": "stored_altered", "harvest-note-lost": "values_lost", "harvest-crop-unlisted": "page_limit_ignored",
	"token-unchecked": "token_not_checked", "token-any": "token_of_another_session", "get-joins": "get_writes", "list-fails": "server_error", "role-taken": "surplus_parameter_stored",
	"me-second-row": "other_rows_changed",
	"harvest-again": "sent_again_and_stored_twice",
	"wishes-step":   "page_limit_ignored",
	"session-kept":  "session_id_kept", "cookie-readable": "session_cookie_readable", "mistakes-apart": "accounts_told_apart", "password-any-case": "secret_in_any_capitals",
	"password-present-unchecked": "secret_not_checked", "present-unchecked": "secret_not_checked",
	"enter-told-apart": "accounts_told_apart", "enter-case": "secret_in_any_capitals", "details-everybody": "other_rows_changed",
}
