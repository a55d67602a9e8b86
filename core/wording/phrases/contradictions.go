package phrases

// Clash is what is said of two places that cannot hold together: what it is, what shows it, and what to do.
type Clash struct{ Words, Proof, Remedy Phrase }

func clash(code, words, proof, remedy string) Clash {
	return Clash{phrase("clash."+code, words), phrase("clash."+code+".proof", proof), phrase("clash."+code+".remedy", remedy)}
}

// Contradictions within one field.
var (
	MinimumAboveMaximum = clash("minimum_above_maximum", "The minimum {min} of {label} is above its maximum {max}: no value can pass.", "{min} is more than {max}", "swap them, or correct one")
	NothingMatches      = clash("nothing_matches", "Nothing matches the {rule} of {label}.", "its automaton accepts no text", "correct the pattern")
	NoLengthMatches     = clash("no_length_matches", "No text of the allowed length matches the {rule} of {label}.", "{matches}; {allowed}", "correct the pattern or the length")
	NoneOfAll           = clash("none_of_all", "No value passes all rules of {label}, though any two of them can be kept together.", "the automaton of all of them accepts no text", "loosen one of them")
	RulesExclude        = clash("rules_exclude", "The rules {rule} and {other} of {label} exclude each other.", "no text keeps both", "loosen one of them")
	NoStepInRange       = clash("no_step_in_range", "No number of the range of {label} lies on its step.", "the first step from {min} on is {next}, above {max}", "correct the step or the range")
	EmptyRange          = clash("empty_range", "The range of {label} leaves out both its ends, which are the same.", "nothing lies between {min} and {max}", "widen the range")
	SameAndDifferent    = clash("same_and_different", "{label} must be the same as {other} and must differ from it.", "only a blank value keeps both", "remove one of them")
	RequiredTrap        = clash("required_trap", "{label} is a trap, which must stay blank, and is required.", "blank breaks the rule, anything else springs the trap", "remove the rule")
	GivenRejected       = clash("given_rejected", "The {key} value of {label} breaks its rule {rule}.", "{value}", "correct the value or the rule")

	MatchesBetween   = phrase("clash.matches_between", "what matches has {min} to {max} {unit}")
	MatchesFrom      = phrase("clash.matches_from", "what matches has {min} {unit} or more")
	AllowedFrom      = phrase("clash.allowed_from", "{min} or more are allowed")
	AllowedBetween   = phrase("clash.allowed_between", "{min} to {max} are allowed")
	KeepsTheFirst    = phrase("clash.keeps_the_first", "{value} keeps the first and breaks the second; no text keeps both")
	BeginningOfValue = phrase("clash.beginning_of_value", "“{beginning}…”, {n} characters")
	WholeValue       = phrase("clash.whole_value", "“{value}”")
)

// Contradictions between rules over several fields, and of replies and messages.
var (
	NeverHolds       = clash("never_holds", "No values that keep their own rules make {expression} hold.", "{proof}", "correct the expression, or a rule of its fields")
	NeverBothHold    = clash("never_both_hold", "{expression} and {other} never hold together.", "{proof}", "loosen one of them")
	ReplyBehind      = clash("reply_behind", "The success reply {reply} is never reached: one without a condition stands before it.", "the first that applies counts", "move the one without a condition to the end")
	ReplyUnreachable = clash("reply_unreachable", "No accepted input leads to the success reply {reply}.", "{proof}", "correct its condition, or one before it")
	MessageShared    = clash("message_shared", "The rules {rules} and {last} have the same message; findings cannot tell them apart.", "{message}", "where it matters, give each rule a text of its own")
	StateUnreachable = clash("state_unreachable", "No path reaches the state {state}.", "no account is in it and no journey's step leads to it", "say then: {state} in a journey, or give an account this state")

	AllTried         = phrase("clash.all_tried", "all {n} combinations of their values were tried")
	NoneFound        = phrase("clash.none_found", "none found within {n} combinations")
	AllOfFieldsTried = phrase("clash.all_of_fields_tried", "all {n} combinations of the fields' values were tried")
	StateOfSite      = phrase("clash.state_of_site", "the site's states[{state}]")
)

// Contradictions with the page.
var (
	MarkedNotRequired = clash("marked_not_required", "{label} is optional by its rules, and on the page it is marked as required.", "a blank value is taken", "add the rule required, or take the mark off the page")
	AttributeRequired = clash("attribute_required", "{label} is optional by its rules, and on the page it has the attribute required.", "a blank value is taken", "add the rule required, or take the mark off the page")
	RequiredNotMarked = clash("required_not_marked", "{label} is required by its rules, and the page does not mark it, though it marks others.", "a blank value is rejected", "mark the field on the page, or remove the rule")
	ControlUnnamed    = clash("control_unnamed", "The control {control} of the page has no request name.", "what is entered there never arrives", "give the control a name on the page")
	OtherTarget       = clash("other_target", "The page's form is sent elsewhere than the document says.", "said {said}, on the page {page}", "correct submit: or the page")
	OtherMethod       = clash("other_method", "The page's form is sent with another method than the document says.", "said {said}, on the page {page}", "correct submit: or the page")
	BrowserStricter   = clash("browser_stricter", "The browser's rule {rule} of {label} is stricter than the server's.", "{proof}", "loosen the browser's rule, or say the same of the server")

	ControlOfPage = phrase("clash.control_of_page", "the page, its control {control}")
	ActionOfPage  = phrase("clash.action_of_page", "the page, its form's action")
	MethodOfPage  = phrase("clash.method_of_page", "the page, its form's method")
	TakenValue    = phrase("clash.taken_value", "{value} would be taken by the server and is stopped by the browser")
	TakenBlank    = phrase("clash.taken_blank", "a blank value would be taken by the server and is stopped by the browser")
	EndsDiffer    = phrase("clash.ends_differ", "the browser's {end} is {browser}, the server's {server}")
	NoBound       = phrase("clash.no_bound", "no limit")
	Minimum       = phrase("clash.minimum", "minimum")
	Maximum       = phrase("clash.maximum", "maximum")
	FirstDay      = phrase("clash.first_day", "first day")
	LastDay       = phrase("clash.last_day", "last day")
	EarliestTime  = phrase("clash.earliest_time", "earliest time")
	LatestTime    = phrase("clash.latest_time", "latest time")
)

const columnRemedy = "shorten the rule, or widen the column"

// Contradictions with the database.
var (
	ColumnShorter     = clash("column_shorter", "{label} lets {most} through, the column {column} holds {n}.", "{value}", columnRemedy)
	ColumnFewerBytes  = clash("column_fewer_bytes", "{label} lets {most} through, the column {column} holds {n} bytes.", "{value}", columnRemedy)
	OptionTooLong     = clash("option_too_long", "The option {option} of {label} has {n} characters, the column {column} holds {most}.", "{value}", columnRemedy)
	OptionNotInColumn = clash("option_not_in_column", "The option {option} of {label} is none of the values of the column {column}.", "{value}", columnRemedy)
	NumberAbove       = clash("number_above", "{label} lets {n} through, the column {column} holds up to {most}.", "{n}", columnRemedy)
	NumberBelow       = clash("number_below", "{label} lets {n} through, the column {column} holds from {least}.", "{n}", columnRemedy)
	DecimalsLost      = clash("decimals_lost", "{label} takes decimals, the column {column} holds whole numbers.", "{n}", columnRemedy)
	StepLost          = clash("step_lost", "{label} has steps of {step}, the column {column} keeps {n} decimals.", "{step}", columnRemedy)
	NotNullOptional   = clash("not_null_optional", "{label} may stay blank, and the column {column} is NOT NULL.", "a blank value cannot be stored as NULL", "make the field required, or allow NULL")
	TableMissing      = clash("table_missing", "There is no table {table}.", "the database has {n} tables, none of that name", "correct the table's name")
	ColumnMissing     = clash("column_missing", "The table {table} has no column {column}.", "its columns are {columns}", "correct the column's name")
	NotNullUnfilled   = clash("not_null_unfilled", "The column {column} must be filled, and nothing is said to fill it.", "it is NOT NULL and has no default", "name its source under columns:, or give it a default")
	NoLimitOfText     = clash("no_limit_of_text", "{label} has no limit in any layer.", "a text of any length keeps its rules", "add a length or a range")
	NoLimitOfNumber   = clash("no_limit_of_number", "{label} has no limit in any layer.", "a number of any size keeps its rules", "add a length or a range")

	LengthOfUnit = phrase("clash.length_of_unit", "{n} {unit}")
	AnyLength    = phrase("clash.any_length", "any length")
)

// What the layers say of a field.
var (
	Unchecked      = phrase("layer.unchecked", "nothing: the form says novalidate")
	Drifting       = phrase("layer.drifting", "{what} ({proof})")
	HoldsHash      = phrase("layer.holds_hash", "holds a hash")
	NotNull        = phrase("layer.not_null", "NOT NULL")
	DefaultOf      = phrase("layer.default", "default '{value}'")
	Unique         = phrase("layer.unique", "unique")
	IgnoringCase   = phrase("layer.ignoring_case", "ignoring case")
	BytesInCharset = phrase("layer.bytes_in_charset", "up to {n} bytes in {charset}")
)
