package spec

// UnusualDecision is what a team makes of something unusual: of what breaks a promise that holds on every form.
type UnusualDecision struct {
	Promise PromiseID `json:"promise" oneof:"secret_stored_plain,secret_stored_reversible,secret_stored_fast,secret_salt_shared,secret_shown,secret_stored_elsewhere,secret_filled_in_again,stored_cut,stored_rounded,stored_altered,stored_other_day,stored_other_time,rejected_and_stored,accepted_and_not_stored,other_rows_changed,page_limit_ignored,server_error,internals_shown,redirect_broken,reload_repeats,get_writes,hidden_control_lost,session_cookie_readable,token_not_checked,token_of_another_session,surplus_parameter_stored,sent_again_and_stored_twice,message_missing,message_hidden,message_at_other_field,message_not_linked,markup_unescaped,values_lost,unique_but_for_capitals,unique_but_for_spaces,unique_without_index,label_missing,language_missing"`
	// Field is the id of the field that it is about; without it, it is about all fields, and the whole form.
	Field string `json:"field,omitempty"`
	// Is says whether it is a defect, or as it should be.
	Is  Decision `json:"is" oneof:"wrong,usual"`
	Why string   `json:"why,omitempty"`
}

// PromiseID names a promise that holds on every form; core/universal holds them.
type PromiseID string

// Decision is what is decided of something unusual.
type Decision string

// The decisions: it is a defect, or it is as it should be here.
const (
	Wrong Decision = "wrong"
	Usual Decision = "usual"
)

// Decided is the first decision of some about a promise and a field, "" for none.
func Decided(list []UnusualDecision, promise PromiseID, field string) Decision {
	for _, d := range list {
		if d.Promise == promise && (d.Field == "" || d.Field == field) {
			return d.Is
		}
	}
	return ""
}
