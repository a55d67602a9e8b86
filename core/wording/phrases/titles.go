package phrases

// ColumnOutcomes are what comes of the conditions in a column of a decision table, by their codes.
var ColumnOutcomes = Registered("column_outcome.", map[string]string{"holds": "rule satisfied", "fails": "rule broken", "asked": "field shown", "not asked": "field not shown"})

// Forgeries are the titles of cases in which a request does what the page's own form never does, by what that is.
var Forgeries = Registered("forgery.", map[string]string{
	"another session's token": "sent with another session's token", "another method": "sent with another HTTP method", "another content type": "sent with another content type",
	"lists for values": "sent with lists instead of values", "each parameter twice": "sent with each parameter twice", "too large": "sent with more bytes than are allowed", "not in UTF-8": "sent with a value that is not in UTF-8", "another method by a parameter": "sent with a parameter that asks to delete",
	"nobody signed in":   "sent by somebody who is not signed in",
	"objects for values": "sent with objects instead of values", "truth values for values": "sent with true instead of values", "each member twice": "sent with each member twice",
})

// Titles of cases. Most are what is tried, behind the label of the field it is tried in.
var (
	OfField = phrase("title.of_field", "{label}: {what}")

	UsualValue      = phrase("title.usual_value", "a typical value")
	AnyValue        = phrase("title.any_value", "any value")
	AnyValues       = phrase("title.any_values", "any values")
	LeftBlank       = phrase("title.left_blank", "left blank")
	NothingButSpace = phrase("title.nothing_but_spaces", "only spaces")
	NothingChosen   = phrase("title.nothing_chosen", "nothing chosen")
	AllChosen       = phrase("title.all_chosen", "all chosen")

	CheckedThenUnchecked = phrase("title.checked_then_unchecked", "saved checked, then saved unchecked")
	UncheckedThenChecked = phrase("title.unchecked_then_checked", "saved unchecked, then saved checked")
	OneThenAnother       = phrase("title.one_then_another", "saved as {first}, then saved as {last}")
	AllThenOne           = phrase("title.all_then_one", "saved with all chosen, then with one")
	OneThenAll           = phrase("title.one_then_all", "saved with one chosen, then with all")
	FilledThenBlank      = phrase("title.filled_then_blank", "saved filled in, then saved blank")
	Checked              = phrase("title.ticked", "checked")
	NotChecked           = phrase("title.not_ticked", "not checked")
	BreaksAlone          = phrase("title.breaks_alone", "only this rule broken")

	SpacesAround     = phrase("title.spaces_around", "with spaces around it")
	WithSpacesAround = phrase("title.with_spaces_around", "with spaces around it")
	OtherCapitals    = phrase("title.other_capitals", "in other capitals")
	SignInside       = phrase("title.sign_inside", "with “{sign}” inside, which is taken out")
	NationalNumber   = phrase("title.national_number", "a number with 0 in place of {code}")
	TwoZeros         = phrase("title.two_zeros", "a number with 00 in place of +")
	DigitsInGroups   = phrase("title.digits_in_groups", "a number with spaces between groups of digits")

	LettersForNumber = phrase("title.letters_for_number", "letters instead of a number")
	TwoNumbers       = phrase("title.two_numbers", "two numbers")
	NoSuchDay        = phrase("title.no_such_day", "a day that does not exist")
	LettersForDate   = phrase("title.letters_for_date", "letters instead of a date")
	LettersForTime   = phrase("title.letters_for_time", "letters instead of a time")
	InNoRow          = phrase("title.in_no_row", "a value that is in no row")
	InARow           = phrase("title.in_a_row", "a value that is in a row")
	ValueNotOffered  = phrase("title.value_not_offered", "a value that is not an option")
	LabelForValue    = phrase("title.label_for_value", "an option's label instead of its value")

	NameOfNobody      = phrase("title.name_of_nobody", "a name that nobody has")
	AnotherSecret     = phrase("title.another_secret", "a wrong password")
	OneCharacterMore  = phrase("title.one_character_more", "the right one with one character more")
	OneCharacterFewer = phrase("title.one_character_fewer", "the right one without its last character")

	OnLower           = phrase("title.on_lower", "at the lower limit")
	BelowLower        = phrase("title.below_lower", "just below the lower limit")
	AboveLower        = phrase("title.above_lower", "just above the lower limit")
	OnUpper           = phrase("title.on_upper", "at the upper limit")
	BelowUpper        = phrase("title.below_upper", "just below the upper limit")
	AboveUpper        = phrase("title.above_upper", "just above the upper limit")
	AtPoint           = phrase("title.at_point", "{value}, {point}")
	LengthAtPoint     = phrase("title.length_at_point", "{n} {unit}, {point}")
	WideAtPoint       = phrase("title.wide_at_point", "{n} {unit}, {point}, in multi-byte characters")
	LengthFarAbove    = phrase("title.length_far_above", "{n} {unit}, far above the upper limit")
	FarAbove          = phrase("title.far_above", "far above the upper limit")
	FarAfter          = phrase("title.far_after", "far after the latest date")
	Negative          = phrase("title.negative", "a negative number")
	SomeLength        = phrase("title.some_length", "{n} {unit}")
	LengthAndSpaces   = phrase("title.length_and_spaces", "{n} {unit} with spaces around")
	BetweenSteps      = phrase("title.between_steps", "{value}, between two steps")
	WithDecimals      = phrase("title.with_decimals", "{value}, {n} decimals")
	LeftOutBySummer   = phrase("title.left_out_by_summer_time", "a time that the change to summer time skips")
	LeapDay           = phrase("title.leap_day", "29 February")
	NoFile            = phrase("title.no_file", "no file")
	UsualFile         = phrase("title.usual_file", "a typical file")
	OddFileName       = phrase("title.odd_file_name", "a file name with spaces, quotes and accents")
	FileOfAnotherType = phrase("title.file_of_another_type", "a file of another type")
	BytesAtPoint      = phrase("title.bytes_at_point", "{n} bytes, {point}")
	BytesFarAbove     = phrase("title.bytes_far_above", "{n} bytes, far above the upper limit")

	WouldPass    = phrase("title.would_pass", "accepted if {change}")
	WouldRefuse  = phrase("title.would_refuse", "rejected if {change}")
	Absent       = phrase("title.absent", "parameter not sent")
	Null         = phrase("title.null", "null")
	Mistaken     = phrase("title.mistaken", "a mistake ({rule}), corrected before submitting")
	Altered      = phrase("title.altered", "changed, although the page does not allow it")
	AlteredAlone = phrase("title.altered_alone", "changed, with read-only fields not sent")

	SameAgain      = phrase("title.same_again", "the same")
	AnotherValue   = phrase("title.another_value", "another value")
	CapitalsDiffer = phrase("title.capitals_differ", "only the capitals differ")
	SameAs         = phrase("title.same_as", "{label} is the same as {other}")
	ApartBehind    = phrase("title.apart", "{label}: {distance} {other}")
	TogetherWith   = phrase("title.apart_not", "{label}: {distance} as {other}")
	SameDay        = phrase("title.same_day", "the same day")
	DayAfter       = phrase("title.day_after", "a day after")
	DayBefore      = phrase("title.day_before", "a day before")
	DaysAfter      = phrase("title.days_after", "{n} days after")
	DaysBefore     = phrase("title.days_before", "{n} days before")
	SameMinute     = phrase("title.same_minute", "the same minute")
	MinuteAfter    = phrase("title.minute_after", "a minute after")
	MinuteBefore   = phrase("title.minute_before", "a minute before")
	MinutesAfter   = phrase("title.minutes_after", "{n} minutes after")
	MinutesBefore  = phrase("title.minutes_before", "{n} minutes before")
	SameHour       = phrase("title.same_hour", "the same hour")
	HourAfter      = phrase("title.hour_after", "an hour after")
	HourBefore     = phrase("title.hour_before", "an hour before")
	HoursAfter     = phrase("title.hours_after", "{n} hours after")
	HoursBefore    = phrase("title.hours_before", "{n} hours before")

	OwnValue            = phrase("title.own_value", "the account's own value")
	OwnInCapitals       = phrase("title.own_in_capitals", "its own value in other capitals")
	OfAnotherInCapitals = phrase("title.of_another_in_capitals", "the value of another row in other capitals")
	OfAnotherRow        = phrase("title.of_another_row", "the value of another row")
	TwiceNew            = phrase("title.twice_new", "after one {label}, another")
	TwiceElsewhere      = phrase("title.twice_elsewhere", "the same {label} again, with another {other}")
	TwiceSame           = phrase("title.twice_same", "the same {label} again")
	TwiceCapitals       = phrase("title.twice_capitals", "the same {label} in other capitals")
	TwiceSpaces         = phrase("title.twice_spaces", "the same {label} with spaces around it")
	TwiceSigns          = phrase("title.twice_signs", "the same {label} with a sign inside that is taken out")
	TwiceNational       = phrase("title.twice_national", "the same {label} with 0 in place of the calling code")
	SecondPeriod        = phrase("title.second_period", "{label}: a second period {how}")
	AtOnce              = phrase("title.at_once", "{label}: one new value submitted {n} times at the same moment")
	SameTime            = phrase("title.same_time", "equal to the first")
	BeginningAfter      = phrase("title.beginning_after", "starting right after the first")
	EndingBefore        = phrase("title.ending_before", "ending right before the first")
	BeginningAtEnd      = phrase("title.beginning_at_end", "starting when the first ends")
	EndingAtBegin       = phrase("title.ending_at_begin", "ending when the first starts")
	Within              = phrase("title.within", "inside the first")
	Around              = phrase("title.around", "around the first")
	SameForTwo          = phrase("title.same_for_two", "{label}: the same for two visitors")
	PresentOneAgain     = phrase("title.present_one_again", "{label}: the current one again")

	AllAsAskedFor    = phrase("title.all_as_asked_for", "all values valid")
	AllBlank         = phrase("title.all_blank", "everything blank")
	WithoutToken     = phrase("title.without_token", "without the token")
	PutRight         = phrase("title.put_right", "corrected and resubmitted on the page that shows the rejection")
	Surplus          = phrase("title.surplus", "extra parameters named like other columns")
	CutOffBody       = phrase("title.cut_off_body", "a truncated body")
	ListForObject    = phrase("title.list_for_object", "a list instead of an object")
	EmptyBody        = phrase("title.empty_body", "an empty body")
	ReloadAfter      = phrase("title.reload_after", "page reloaded after success")
	BackAndForth     = phrase("title.back_and_forth", "back to the first step and forward again before submitting")
	LoadedAgain      = phrase("title.loaded_again", "page opened again after success")
	SentAgain        = phrase("title.sent_again", "submitted again from the same page")
	NetworkLost      = phrase("title.network_lost", "network lost while sending")
	ServerError      = phrase("title.server_error", "the server answers with an error (500)")
	Unauthorized     = phrase("title.unauthorized", "the server answers “not signed in” (401)")
	SlowAnswer       = phrase("title.slow_answer", "a slow answer, with the button pressed again meanwhile")
	ToWantedPage     = phrase("title.to_wanted_page", "leads to the page the visitor wanted")
	NeverElsewhere   = phrase("title.never_elsewhere", "never leads to another site (address written {how})")
	AddressElsewhere = phrase("title.address_elsewhere", "address of another site, written {how}")
	OtherSession     = phrase("title.other_session", "another session of the account is open")
	LockedOut        = phrase("title.locked_out", "the right password after {n} wrong ones")
	LockReleased     = phrase("title.lock_released", "the right password {time} after {n} wrong ones")
	UncheckedTwin    = phrase("title.unchecked_twin", "{title}, from the browser with its checks switched off")
	BeyondDoubles    = phrase("title.beyond_doubles", "a whole number that floating point cannot hold")
	LongText         = phrase("title.long_text", "{n} characters, where no limit is promised")
	Stale            = phrase("title.stale", "filled in although it is not asked for")
	OfOtherTable     = phrase("title.of_other_table", "a value that another table holds")
	HoneypotFilled   = phrase("title.honeypot_filled", "filled in by a program")
	SaidUnder        = phrase("title.said_under", "{title}, where {condition}")
	JustBelow        = phrase("title.just_below", "just below {value}, with which a condition compares")
	JustAt           = phrase("title.just_at", "{value}, with which a condition compares")
	JustAbove        = phrase("title.just_above", "just above {value}, with which a condition compares")
	OtherRecord      = phrase("title.other_record", "valid values for another record: {record}")
	InLanguage       = phrase("title.in_language", "{title}, in {language}")
	BrowsedBy        = Registered("title.browsed_by.", map[string]string{"narrow": "{title}, on the screen of a phone", "keyboard": "{title}, by the keyboard alone"})
	LanguageBy       = Registered("title.language_by.", map[string]string{
		"query": "{title}, in {language} by the address's query", "cookie": "{title}, in {language} by a cookie", "path": "{title}, in {language} by the path",
		"weights": "{title}, in {language}, which weighs most in Accept-Language", "unknown": "{title}, in {language} as no language is asked for that the site speaks",
	})
	Combined          = phrase("title.combined", "combined: {levels}")
	GivenConditions   = phrase("title.given_conditions", "{outcome}: {conditions}")
	ConditionNot      = phrase("title.condition_not", "not {condition}")
	ConditionFalse    = phrase("title.condition_false", "{condition} is false")
	ConditionTrue     = phrase("title.condition_true", "{condition} is true")
	LevelOf           = phrase("title.level_of", "{label} {level}")
	WrittenWhole      = phrase("title.written_whole", "in full")
	WrittenSlashes    = phrase("title.written_slashes", "with two slashes")
	WrittenBackslash  = phrase("title.written_backslash", "with a backslash")
	TwoBackslashes    = phrase("title.written_two_backslashes", "with two backslashes")
	WithoutSlashes    = phrase("title.written_without_slashes", "without slashes")
	WithTab           = phrase("title.written_with_tab", "with a tab between the slashes")
	EncodedSlashes    = phrase("title.written_encoded", "with encoded slashes")
	BehindAName       = phrase("title.written_behind_a_name", "after a name that looks like the site")
	FieldWhen         = phrase("title.field_when", "{label} when {condition}")
	LettersOnly       = phrase("title.letters_only", "letters only")
	DigitsOnly        = phrase("title.digits_only", "digits only")
	SignsOnly         = phrase("title.signs_only", "symbols only")
	CharacterRange    = phrase("title.character_range", "{first} to {last}")
	SuccessReplyTable = phrase("title.success_reply_table", "Success reply")
)

// Why something that was meant to be covered has no case.
var (
	NoValuesForCondition  = phrase("omitted.no_values_for_condition", "no values were found that meet its condition")
	NoValuesForThat       = phrase("omitted.no_values_for_that_condition", "no values were found that meet its condition: {condition}")
	FilesTooLarge         = phrase("omitted.files_too_large", "files of {n} bytes are too large to generate; at most {most}")
	NoFileOfType          = phrase("omitted.no_file_of_type", "no file of this type can be generated")
	EveryTypeAllowed      = phrase("omitted.every_type_allowed", "every type that can be generated is allowed")
	BreaksAnotherToo      = phrase("omitted.breaks_another_too", "every value that breaks it also breaks another rule")
	NoOtherValue          = phrase("omitted.no_other_value", "no two values of {label} are known")
	NoAccountToLock       = phrase("omitted.no_account_to_lock", "no account of the site may be locked; write may_be_locked: true at one")
	TooManyToSend         = phrase("omitted.too_many_to_send", "{n} submissions in a minute are more than a case makes ({most}); test it by hand")
	TooManyAccepted       = phrase("title.too_many", "one more than the {n} that are accepted in a minute")
	LockTooLong           = phrase("omitted.lock_too_long", "the lock lasts {time} and a run waits at most {most}; test it by hand")
	OtherOfItsName        = phrase("omitted.other_of_its_name", "a control before it has the same request name")
	NoTextOfMessage       = phrase("omitted.no_text_of_message", "the document gives no text by which to recognise its message")
	NothingTyped          = phrase("omitted.nothing_typed", "nothing is typed to leave a field blank")
	NoCaseBreaksAlone     = phrase("omitted.no_case_breaks_alone", "no case breaks this rule alone through its own field")
	NoTwoFields           = phrase("omitted.no_two_fields", "fewer than two fields have several valid values to combine")
	TooManyCombinations   = phrase("omitted.too_many_combinations", "{n} combinations in at least {rows} rows; so many are computed only on request")
	AtLeastRows           = phrase("omitted.at_least_rows", "at least {rows}")
	ValuesCannotBeMade    = phrase("omitted.values_cannot_be_made", "its values cannot be generated")
	NotAcceptedFor        = phrase("omitted.not_accepted_for", "rejected because of the rule {rule}")
	TooManyConditions     = phrase("omitted.too_many_conditions", "{n} conditions are too many to combine; split the expression")
	TableNotDrawn         = phrase("omitted.table_not_drawn", "a table of {n} conditions would have {columns} columns and is not shown; the effect of each condition is tested")
	NoValuesBreakThatOnly = phrase("omitted.no_values_break_that_only", "no values were found that break this rule and no other")

	NeverChangesOutcome  = phrase("omitted.never_changes_outcome", "it never changes the outcome")
	NoTwoInputsDiffer    = phrase("omitted.no_two_inputs_differ", "no two inputs differ only in it and in the outcome; {proof}")
	AllTriedNoneAccepted = phrase("omitted.all_tried_none_accepted", "all {n} combinations of the fields' values were tried, and none is accepted")
	AllValuesTried       = phrase("omitted.all_values_tried", "all {n} combinations of the fields' values were tried")
	NeverSo              = phrase("omitted.never_so", "{condition} never holds: {proof}")
	NeverTogether        = phrase("omitted.never_together", "{conditions} never hold together: {proof}")
	And                  = phrase("omitted.and", " and ")
	NoneFoundAmong       = phrase("omitted.none_found_among", "none were found among {n} combinations of the fields' values")
)

// Misses are what was done to a value so that it misses its rule, by values.MissEdit; Characters name what was put in, by
// values.Sign.
var (
	Misses = map[string]Phrase{
		"fewer":        phrase("miss.fewer", "one character fewer"),
		"lower":        phrase("miss.lower", "a capital in lower case"),
		"upper":        phrase("miss.upper", "a lower-case letter as a capital"),
		"without_sign": phrase("miss.without_sign", "without its {sign}"),
		"inside":       phrase("miss.inside", "{character} inside"),
		"more":         phrase("miss.more", "{character} added"),
	}
	Characters = map[string]Phrase{
		"space":       phrase("character.space", "a space"),
		"underscore":  phrase("character.underscore", "an underscore"),
		"dot":         phrase("character.dot", "a dot"),
		"quote":       phrase("character.quote", "a quotation mark"),
		"accent":      phrase("character.accent", "an accented letter"),
		"look_alike":  phrase("character.look_alike", "a Cyrillic look-alike letter"),
		"other_digit": phrase("character.other_digit", "a digit of another script"),
		"digit":       phrase("character.digit", "a digit"),
		"letter":      phrase("character.letter", "a letter"),
		"capital":     phrase("character.capital", "a capital letter"),
		"emoji":       phrase("character.emoji", "an emoji"),
	}
)

// Slips are mistakes in writing a pattern, as they stand behind "would pass if", by values.Mistake.
var Slips = map[string]Phrase{
	"line_end_after":   phrase("slip.line_end_after", "a line end were allowed at the end"),
	"more_before":      phrase("slip.more_before", "anything were allowed before it"),
	"more_after":       phrase("slip.more_after", "anything were allowed after it"),
	"ignoring_case":    phrase("slip.ignoring_case", "capitals did not matter"),
	"any_for_dot":      phrase("slip.any_for_dot", "the dot stood for any character"),
	"class_less":       phrase("slip.class_less", "{characters} were not allowed"),
	"optional":         phrase("slip.optional", "a character were optional"),
	"fewer":            phrase("slip.fewer", "one repetition fewer were enough"),
	"at_least_more":    phrase("slip.at_least_more", "one repetition more were needed"),
	"more":             phrase("slip.more", "one repetition more were allowed"),
	"at_most_less":     phrase("slip.at_most_less", "one repetition fewer were allowed"),
	"alternative_less": phrase("slip.alternative_less", "an alternative were missing"),
	"look_ahead_less":  phrase("slip.look_ahead_less", "a look-ahead were missing"),
}
