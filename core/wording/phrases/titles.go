package phrases

// Titles of cases. Most are what is tried, behind the label of the field it is tried in.
var (
	OfField = phrase("title.of_field", "{label}: {what}")

	UsualValue      = phrase("title.usual_value", "a usual value")
	AnyValue        = phrase("title.any_value", "any value")
	AnyValues       = phrase("title.any_values", "any values")
	LeftBlank       = phrase("title.left_blank", "left blank")
	NothingButSpace = phrase("title.nothing_but_spaces", "nothing but spaces")
	NothingChosen   = phrase("title.nothing_chosen", "nothing chosen")
	AllChosen       = phrase("title.all_chosen", "all of them")
	Ticked          = phrase("title.ticked", "ticked")
	NotTicked       = phrase("title.not_ticked", "not ticked")
	BreaksAlone     = phrase("title.breaks_alone", "breaks this rule alone")

	SpacesAround     = phrase("title.spaces_around", "spaces around")
	WithSpacesAround = phrase("title.with_spaces_around", "with spaces around")
	OtherCapitals    = phrase("title.other_capitals", "in the other case")

	LettersForNumber = phrase("title.letters_for_number", "letters for a number")
	TwoNumbers       = phrase("title.two_numbers", "two numbers")
	NoSuchDay        = phrase("title.no_such_day", "a day that does not exist")
	LettersForDate   = phrase("title.letters_for_date", "letters for a date")
	LettersForTime   = phrase("title.letters_for_time", "letters for a time")
	InNoRow          = phrase("title.in_no_row", "a value that no row holds")
	InARow           = phrase("title.in_a_row", "a value that a row holds")
	ValueNotOffered  = phrase("title.value_not_offered", "a value that is not offered")
	LabelForValue    = phrase("title.label_for_value", "a label for its value")

	NameOfNobody  = phrase("title.name_of_nobody", "a name that nobody has")
	AnotherSecret = phrase("title.another_secret", "another secret")

	OnLower           = phrase("title.on_lower", "on the lower boundary")
	BelowLower        = phrase("title.below_lower", "just below the lower boundary")
	AboveLower        = phrase("title.above_lower", "just above the lower boundary")
	OnUpper           = phrase("title.on_upper", "on the upper boundary")
	BelowUpper        = phrase("title.below_upper", "just below the upper boundary")
	AboveUpper        = phrase("title.above_upper", "just above the upper boundary")
	AtPoint           = phrase("title.at_point", "{value}, {point}")
	LengthAtPoint     = phrase("title.length_at_point", "{n} {unit}, {point}")
	WideAtPoint       = phrase("title.wide_at_point", "{n} {unit}, {point}, of characters with several bytes")
	LengthFarAbove    = phrase("title.length_far_above", "{n} {unit}, far above the upper boundary")
	FarAbove          = phrase("title.far_above", "far above the upper boundary")
	FarAfter          = phrase("title.far_after", "far after the upper boundary")
	Negative          = phrase("title.negative", "a negative number")
	SomeLength        = phrase("title.some_length", "{n} {unit}")
	LengthAndSpaces   = phrase("title.length_and_spaces", "{n} {unit} and spaces around")
	BetweenSteps      = phrase("title.between_steps", "{value}, between two steps")
	WithDecimals      = phrase("title.with_decimals", "{value}, {n} decimals")
	LeftOutBySummer   = phrase("title.left_out_by_summer_time", "a time that summer time leaves out")
	LeapDay           = phrase("title.leap_day", "29 February")
	NoFile            = phrase("title.no_file", "no file")
	UsualFile         = phrase("title.usual_file", "a usual file")
	OddFileName       = phrase("title.odd_file_name", "a name with spaces, quotes and accents")
	FileOfAnotherType = phrase("title.file_of_another_type", "a file of another type")
	BytesAtPoint      = phrase("title.bytes_at_point", "{n} bytes, {point}")
	BytesFarAbove     = phrase("title.bytes_far_above", "{n} bytes, far above the upper boundary")

	WouldPass    = phrase("title.would_pass", "would pass if {change}")
	WouldRefuse  = phrase("title.would_refuse", "would be refused if {change}")
	Absent       = phrase("title.absent", "the parameter left out")
	Null         = phrase("title.null", "null")
	Mistaken     = phrase("title.mistaken", "a mistake ({rule}), corrected before sending")
	Altered      = phrase("title.altered", "altered, though the page does not let one")
	AlteredAlone = phrase("title.altered_alone", "altered, and what is read-only left out")

	SameAgain      = phrase("title.same_again", "the same")
	AnotherValue   = phrase("title.another_value", "another value")
	CapitalsDiffer = phrase("title.capitals_differ", "differs in case only")
	SameAs         = phrase("title.same_as", "{label} is the same as {other}")
	ApartBehind    = phrase("title.apart", "{label}: {distance} {other}")
	TogetherWith   = phrase("title.apart_not", "{label}: {distance} as {other}")
	SameDay        = phrase("title.same_day", "the same day")
	DayAfter       = phrase("title.day_after", "a day after")
	DayBefore      = phrase("title.day_before", "a day before")
	DaysAfter      = phrase("title.days_after", "{n} days after")
	DaysBefore     = phrase("title.days_before", "{n} days before")
	SameHour       = phrase("title.same_hour", "the same hour")
	HourAfter      = phrase("title.hour_after", "a hour after")
	HourBefore     = phrase("title.hour_before", "a hour before")
	HoursAfter     = phrase("title.hours_after", "{n} hours after")
	HoursBefore    = phrase("title.hours_before", "{n} hours before")

	OwnValue        = phrase("title.own_value", "the account's own value")
	OfAnotherRow    = phrase("title.of_another_row", "one that another row holds")
	Twice           = phrase("title.twice", "{label}, a second time: {how}")
	TwiceNew        = phrase("title.twice_new", "new")
	TwiceSame       = phrase("title.twice_same", "same")
	TwiceCapitals   = phrase("title.twice_capitals", "case")
	AtOnce          = phrase("title.at_once", "{label}: one new value submitted {n} times at the same moment")
	SameTime        = phrase("title.same_time", "the same time")
	BeginningAfter  = phrase("title.beginning_after", "beginning right after it")
	EndingBefore    = phrase("title.ending_before", "ending right before it")
	BeginningAtEnd  = phrase("title.beginning_at_end", "beginning as it ends")
	EndingAtBegin   = phrase("title.ending_at_begin", "ending as it begins")
	Within          = phrase("title.within", "within it")
	Around          = phrase("title.around", "around it")
	SameForTwo      = phrase("title.same_for_two", "{label}: the same for two visitors")
	PresentOneAgain = phrase("title.present_one_again", "{label}: the present one again")

	AllAsAskedFor     = phrase("title.all_as_asked_for", "everything as asked for")
	AllBlank          = phrase("title.all_blank", "everything left blank")
	WithoutToken      = phrase("title.without_token", "without the token")
	PutRight          = phrase("title.put_right", "everything put right after a rejection, on the page that says so")
	Surplus           = phrase("title.surplus", "surplus parameters named like other columns")
	CutOffBody        = phrase("title.cut_off_body", "a body that is cut off")
	ListForObject     = phrase("title.list_for_object", "a list in place of an object")
	EmptyBody         = phrase("title.empty_body", "an empty body")
	ReloadAfter       = phrase("title.reload_after", "reload after acceptance")
	LoadedAgain       = phrase("title.loaded_again", "the page loaded again after acceptance")
	SentAgain         = phrase("title.sent_again", "sent once more from the same page")
	AnswerReplaced    = phrase("title.answer_replaced", "the answer replaced: {by}")
	ToWantedPage      = phrase("title.to_wanted_page", "to the page that was wanted")
	NeverElsewhere    = phrase("title.never_elsewhere", "never to another site, written {how}")
	AddressElsewhere  = phrase("title.address_elsewhere", "another site's address, written {how}")
	OtherSession      = phrase("title.other_session", "another session of the account stands by")
	LockedOut         = phrase("title.locked_out", "the right password after {n} wrong ones")
	LockReleased      = phrase("title.lock_released", "the right password {time} after {n} wrong ones")
	UncheckedTwin     = phrase("title.unchecked_twin", "{title}, from the browser with its own checks off")
	InLanguage        = phrase("title.in_language", "{title}, asked for in {language}")
	Combined          = phrase("title.combined", "together: {levels}")
	GivenConditions   = phrase("title.given_conditions", "{outcome}: {conditions}")
	ConditionNot      = phrase("title.condition_not", "not {condition}")
	LevelOf           = phrase("title.level_of", "{label} {level}")
	WrittenWhole      = phrase("title.written_whole", "whole")
	WrittenSlashes    = phrase("title.written_slashes", "with two slashes")
	WrittenBackslash  = phrase("title.written_backslash", "with a backslash")
	TwoBackslashes    = phrase("title.written_two_backslashes", "with two backslashes")
	WithoutSlashes    = phrase("title.written_without_slashes", "without slashes")
	WithTab           = phrase("title.written_with_tab", "with a tab between the slashes")
	EncodedSlashes    = phrase("title.written_encoded", "with encoded slashes")
	BehindAName       = phrase("title.written_behind_a_name", "behind a name that looks like the site")
	FieldWhen         = phrase("title.field_when", "{label} when {condition}")
	LettersOnly       = phrase("title.letters_only", "letters only")
	DigitsOnly        = phrase("title.digits_only", "digits only")
	SignsOnly         = phrase("title.signs_only", "signs only")
	CharacterRange    = phrase("title.character_range", "{first} to {last}")
	SuccessReplyTable = phrase("title.success_reply_table", "Success reply")
)

// Why something that was meant to be covered has no case.
var (
	NoValuesForCondition  = phrase("omitted.no_values_for_condition", "no values were found that make its condition hold")
	NoValuesForThat       = phrase("omitted.no_values_for_that_condition", "no values were found that make its condition hold: {condition}")
	FilesTooLarge         = phrase("omitted.files_too_large", "files of {n} bytes are larger than are made; the most is {most}")
	NoFileOfType          = phrase("omitted.no_file_of_type", "no file of this type can be made")
	EveryTypeAllowed      = phrase("omitted.every_type_allowed", "every type that can be made is allowed")
	BreaksAnotherToo      = phrase("omitted.breaks_another_too", "every value that breaks it breaks another rule too")
	NoAccountToLock       = phrase("omitted.no_account_to_lock", "the site document names no account that may be locked; say spare: true at one")
	LockTooLong           = phrase("omitted.lock_too_long", "the lock lasts {time}, and a run waits {most} at most; try it by hand")
	NoTextOfMessage       = phrase("omitted.no_text_of_message", "no text is promised by which its message would be known")
	NothingTyped          = phrase("omitted.nothing_typed", "to leave a field blank nothing is typed")
	NoCaseBreaksAlone     = phrase("omitted.no_case_breaks_alone", "no case breaks the rule alone by the value of its field alone")
	NoTwoFields           = phrase("omitted.no_two_fields", "there are no two fields with several valid values to combine")
	TooManyCombinations   = phrase("omitted.too_many_combinations", "they are {n} combinations in at least {rows} rows, and so many are computed only when they are asked for")
	AtLeastRows           = phrase("omitted.at_least_rows", "at least {rows}")
	ValuesCannotBeMade    = phrase("omitted.values_cannot_be_made", "its values cannot be made")
	NotAcceptedFor        = phrase("omitted.not_accepted_for", "it is not accepted, for the rule {rule}")
	TooManyConditions     = phrase("omitted.too_many_conditions", "{n} conditions are more than can be combined; split the expression")
	TableNotDrawn         = phrase("omitted.table_not_drawn", "a table of {n} conditions has {columns} columns and is not drawn; each condition's own effect is tested")
	NoValuesBreakThatOnly = phrase("omitted.no_values_break_that_only", "no values of its fields were found that break this rule and no other")

	NeverChangesOutcome  = phrase("omitted.never_changes_outcome", "whether it holds never changes the outcome")
	NoTwoInputsDiffer    = phrase("omitted.no_two_inputs_differ", "no two inputs differ in it and in the outcome alone; {proof}")
	AllTriedNoneAccepted = phrase("omitted.all_tried_none_accepted", "all {n} combinations of the fields' values were tried, and none is accepted")
	AllValuesTried       = phrase("omitted.all_values_tried", "all {n} combinations of the fields' values were tried")
	NeverSo              = phrase("omitted.never_so", "{condition} is never so: {proof}")
	NeverTogether        = phrase("omitted.never_together", "{conditions} are never so together: {proof}")
	And                  = phrase("omitted.and", " and ")
	NoneFoundAmong       = phrase("omitted.none_found_among", "none were found among {n} combinations of the fields' values")
)

// Misses are what was done to a value so that it misses its rule, by values.MissEdit; Characters name what was put in, by
// values.Sign.
var (
	Misses = map[string]Phrase{
		"fewer":        phrase("miss.fewer", "one character fewer"),
		"lower":        phrase("miss.lower", "a capital made small"),
		"upper":        phrase("miss.upper", "a small letter made capital"),
		"without_sign": phrase("miss.without_sign", "without its {sign}"),
		"inside":       phrase("miss.inside", "{character} inside"),
		"more":         phrase("miss.more", "{character} more"),
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
	"line_end_after":   phrase("slip.line_end_after", "a line end might follow"),
	"more_before":      phrase("slip.more_before", "anything might stand before"),
	"more_after":       phrase("slip.more_after", "anything might follow"),
	"ignoring_case":    phrase("slip.ignoring_case", "small and capital letters were alike"),
	"any_for_dot":      phrase("slip.any_for_dot", "any character might stand for the dot"),
	"class_less":       phrase("slip.class_less", "{characters} were not among the characters"),
	"optional":         phrase("slip.optional", "a character might be left out"),
	"fewer":            phrase("slip.fewer", "it were repeated one time less"),
	"at_least_more":    phrase("slip.at_least_more", "it had to be repeated one time more"),
	"more":             phrase("slip.more", "it might be repeated one time more"),
	"at_most_less":     phrase("slip.at_most_less", "it might be repeated one time less at most"),
	"alternative_less": phrase("slip.alternative_less", "an alternative were missing"),
	"look_ahead_less":  phrase("slip.look_ahead_less", "a look-ahead were missing"),
}
