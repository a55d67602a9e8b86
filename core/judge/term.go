package judge

// Term says what a value is, or why something is so. core/wording has its words.
type Term string

// Texts and values as they stood.
const (
	AsText      Term = "as_text"    // Text as it stood
	ShortText   Term = "short_text" // Text, of which the beginning is enough
	Quoted      Term = "quoted"     // Text of a page; Of is the control or rule it belongs to
	Number      Term = "number"     // N
	Blank       Term = "blank"
	EmptyText   Term = "empty_text"
	Null        Term = "null"
	NullOrEmpty Term = "null_or_empty"
	FilledIn    Term = "filled_in" // a secret that is not told
	Checked     Term = "ticked"
	NotChecked  Term = "not_ticked"
	None        Term = "none"
	Unchanged   Term = "unchanged"
	Anything    Term = "anything"
	Defaults    Term = "defaults"
	NoChange    Term = "no_change"
)

// Outcomes, and the signals by which they are told.
const (
	OutcomeIs             Term = "outcome_is" // Of
	NothingFurtherWritten Term = "nothing_further_written"
	SentTimes             Term = "sent_times"
	RefusedByThePage      Term = "refused_by_the_page"
	RefusedUnreadable     Term = "refused_unreadable"
	RefusedOrWithout      Term = "refused_or_without"
	FailedWith            Term = "failed_with"        // Text
	StatusIs              Term = "status_is"          // N
	StatusTo              Term = "status_to"          // N, leading to Text
	RedirectedTo          Term = "redirected_to"      // Text
	ShowsInternals        Term = "shows_internals"    // Text
	PageSays              Term = "page_says"          // Text
	OtherPageSays         Term = "other_page_says"    // Text, on a page without the form
	BrowserSays           Term = "browser_says"       // Text
	RowsWritten           Term = "rows_written"       // Rows
	OtherRowsWritten      Term = "other_rows_written" // Rows
	RowsChanged           Term = "rows_changed"       // Rows
	NoRowIsWritten        Term = "no_row_is_written"
	NothingNew            Term = "nothing_new"
	NoAnswerCame          Term = "no_answer_came"
	FormHasGone           Term = "form_has_gone"
	FormAsBefore          Term = "form_as_before"
	NoRequestSeen         Term = "no_request_seen"
	NoRequestMade         Term = "no_request_made"
	ControlRefused        Term = "control_refused" // Of the control, with Text
	ControlMakes          Term = "control_makes"   // Text of what was Was, the control Of
	SeenByHand            Term = "seen_by_hand"
)

// Answers.
const (
	AnAnswer        Term = "an_answer"
	NoServerError   Term = "no_server_error"
	TheSites        Term = "the_sites"
	LeadsTo         Term = "leads_to" // Text
	APage           Term = "a_page"
	PageAnswers     Term = "page_answers" // Text, with the status N
	NotSeen         Term = "not_seen"
	RequestLost     Term = "request_lost" // Text, because of Of
	OnSummary       Term = "on_summary"
	OnField         Term = "on_field" // Of
	AsEntered       Term = "as_entered"
	AsTyped         Term = "as_typed"
	NotAsTyped      Term = "not_as_typed"
	CanBePressed    Term = "can_be_pressed"
	Disabled        Term = "disabled"
	JSON            Term = "json"
	FollowsIt       Term = "follows_it"
	Violation       Term = "violation" // Text, at Of
	AMember         Term = "a_member"
	Members         Term = "members"           // N
	WhatColumnHolds Term = "what_column_holds" // Of
)

// Messages.
const (
	NoMessage         Term = "no_message"
	SomethingLike     Term = "something_like"  // Text
	QuotedInPlace     Term = "quoted_in_place" // Text, in the part's place
	LikeInPlace       Term = "like_in_place"   // Text, in the part's place
	SomeInPlace       Term = "some_in_place"
	QuotedAtControl   Term = "quoted_at_control" // Text, at the control Of
	SomeMessage       Term = "some_message"
	PromisedPlace     Term = "promised_place" // of the part
	SeenInPlace       Term = "seen_in_place"
	Seen              Term = "seen"       // N milliseconds long, 0 for good
	ButHidden         Term = "but_hidden" // by Text
	RefersToIt        Term = "refers_to_it"
	DoesNotRefer      Term = "does_not_refer"
	Elsewhere         Term = "elsewhere"
	AtControl         Term = "at_control"      // Of
	MatchesPattern    Term = "matches_pattern" // Text, the pattern
	AsPromised        Term = "as_promised"
	WithoutForm       Term = "own_page"
	TheForm           Term = "the_form"
	ACookie           Term = "a_cookie"
	AMail             Term = "a_mail"
	MailsSent         Term = "mails_sent" // N
	NoReceiver        Term = "no_receiver"
	PageWithoutIt     Term = "page_without_it" // Text
	NoLonger          Term = "no_longer"       // Text
	WhileTyping       Term = "while_typing"
	OnLeaving         Term = "on_leaving"
	OnSubmitting      Term = "on_submitting"
	GoneOnceCorrected Term = "gone_once_corrected"
	ItStays           Term = "it_stays"
)

// Forms after an answer.
const (
	FormFilledIn    Term = "form_filled_in"
	FormAsOpened    Term = "form_as_opened"
	PageWithoutForm Term = "page_without_form"
	FormIs          Term = "form_is" // Of
	Gone            Term = "gone"
	There           Term = "there"
	TheControl      Term = "the_control" // Of
)

// Rows.
const (
	NewRow          Term = "new_row"         // for the value Text
	OneChangedRow   Term = "one_changed_row" // for the value Text
	ChangedOrSame   Term = "changed_or_same"
	TheColumn       Term = "the_column" // Of
	NotInTable      Term = "not_in_table"
	AUUID           Term = "a_uuid"
	ANumber         Term = "a_number"
	VisitorsAddress Term = "visitors_address"
	KeyOfRow        Term = "key_of_row" // in Of: Text
	NowWithin       Term = "now_within" // N milliseconds
	Moment          Term = "moment"     // Text, N milliseconds away; Of is how far the site's clock is
)

// Secrets.
const (
	Nowhere           Term = "nowhere"
	InRedirect        Term = "in_redirect"  // to Text, in the form Of
	InHeader          Term = "in_header"    // Text, in the form Of
	InPage            Term = "in_page"      // Text, in the form Of
	InColumn          Term = "in_column"    // Text, in the form Of
	InMailText        Term = "in_mail_text" // in the form Of
	PlainText         Term = "plain_text"
	PlainWithin       Term = "plain_within"
	Reversible        Term = "reversible"       // Of
	FastHash          Term = "fast_hash"        // Of
	FastHashSalted    Term = "fast_hash_salted" // Of, with the salt in the column Text
	FastOrUnknown     Term = "fast_or_unknown"  // of N bytes
	UnknownForm       Term = "unknown_form"
	HashKind          Term = "hash_kind" // Of, with the cost Text
	SlowHash          Term = "slow_hash"
	OneOf             Term = "one_of"   // Names
	AtLeast           Term = "at_least" // N
	WorkNotRead       Term = "work_not_read"
	FreshSalt         Term = "fresh_salt"
	SharedSalt        Term = "shared_salt"
	AnotherSalt       Term = "another_salt"
	StoredSameTwice   Term = "stored_same_twice"
	StoredDifferently Term = "stored_differently"
	WhatWasSent       Term = "what_was_sent"
	UnknownText       Term = "unknown_text"
	SecretBlank       Term = "secret_blank"
	SecretTrimmed     Term = "secret_trimmed"
	SecretLowered     Term = "secret_lowered"
	SecretRaised      Term = "secret_raised"
	SecretBytes       Term = "secret_bytes"      // the first N
	SecretCharacters  Term = "secret_characters" // the first N
	SecretEscaped     Term = "secret_escaped"
	SecretForm        Term = "secret_form"    // Of
	ValueOfField      Term = "value_of_field" // Of
	SentBefore        Term = "sent_before"
)

// Sessions.
const (
	Renewed         Term = "renewed"
	CookieChanged   Term = "cookie_changed"
	NoCookieChanged Term = "no_cookie_changed"
	PageIsOpen      Term = "page_is_open" // Text
	FlagSet         Term = "flag_set"     // Of
	FlagNotSet      Term = "flag_not_set" // Of
	SessionIsEnded  Term = "session_is_ended"
	SessionIsOn     Term = "session_is_on"
)

// Journeys and access.
const (
	StateIs Term = "state_is" // Of
	OpensAs Term = "opens_as" // Text
)

// Reasons.
const (
	Because                  Term = "because" // Text
	VisitorNotKnown          Term = "visitor_not_known"
	NothingPromisedOfRows    Term = "nothing_promised_of_rows"
	NothingPromisedOfValues  Term = "nothing_promised_of_values"
	NothingPromisedOfSession Term = "nothing_promised_of_session"
	NoPageSendsIt            Term = "no_page_sends_it"
	HoldsNUL                 Term = "holds_nul"
	WasRefused               Term = "was_refused"
	OutcomeDiffers           Term = "outcome_differs"
	NoDatabaseWatched        Term = "no_database_watched"
	MayHoldItAlready         Term = "may_hold_it_already"
	JudgedUnderSecrets       Term = "judged_under_secrets"
	JudgedByHand             Term = "judged_by_hand"
	PromiseNotKnown          Term = "promise_not_known"
	DefaultNotKnown          Term = "default_not_known"
	NoRowWritten             Term = "no_row_written"    // in Of
	NoRowSeen                Term = "no_row_seen"       // in Of
	HostsNotAllowed          Term = "hosts_not_allowed" // Text
	NoMember                 Term = "no_member"         // Of
	AnswerTooLong            Term = "answer_too_long"
	NoPageCame               Term = "no_page_came"
	SiteFailed               Term = "site_failed"
	ControlKeptOut           Term = "control_kept_out"
	ButtonDisabled           Term = "button_disabled"
	OnOtherStep              Term = "on_other_step"
	ControlRemade            Term = "control_remade"
	RefusedUnread            Term = "refused_unread"
	OnlyJSON                 Term = "only_json"
	JSONHasNoForm            Term = "json_has_no_form"
	PageNotOpened            Term = "page_not_opened"
	NotNative                Term = "not_native"
	NotOffered               Term = "not_offered"
	NotLoadedAnew            Term = "not_loaded_anew"
	ListNotRead              Term = "list_not_read"
	NothingChosen            Term = "nothing_chosen"
	NoMistakeMade            Term = "no_mistake_made"
	MistakeImpossible        Term = "mistake_impossible" // Text
	NoSecretSent             Term = "no_secret_sent"
	ShortOrInnocent          Term = "short_or_innocent"
	Peppered                 Term = "peppered"
	NotVerified              Term = "not_verified" // Text
	NoPagePromised           Term = "no_page_promised"
	NotSetHere               Term = "not_set_here"
	NoOtherSession           Term = "no_other_session"
)
