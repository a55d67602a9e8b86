package phrases

// Clash is what is said of two places that cannot hold together: what it is, what shows it, and what to do.
type Clash struct{ Words, Proof, Remedy Phrase }

func clash(code, words, proof, remedy string) Clash {
	return Clash{phrase("clash."+code, words), phrase("clash."+code+".proof", proof), phrase("clash."+code+".remedy", remedy)}
}

// Contradictions within one field.
var (
	MinimumAboveMaximum = clash("minimum_above_maximum", "The minimum {min} of {label} is above its maximum {max}: no value can pass.", "{min} is more than {max}", "swap them, or correct one")
	NothingMatches      = clash("nothing_matches", "Nothing can match the {rule} of {label}.", "its automaton accepts no text", "correct the pattern")
	NoLengthMatches     = clash("no_length_matches", "No text of the allowed length matches the {rule} of {label}.", "{matches}; {allowed}", "correct the pattern or the length")
	NoneOfAll           = clash("none_of_all", "No value satisfies all rules of {label}, although any two of them can be satisfied together.", "the automaton of all rules accepts no text", "loosen one of them")
	RulesExclude        = clash("rules_exclude", "The rules {rule} and {other} of {label} exclude each other.", "no text satisfies both", "loosen one of them")
	NoStepInRange       = clash("no_step_in_range", "No number in the range of {label} is on a step.", "the first step from {min} on is {next}, above {max}", "correct the step or the range")
	EmptyRange          = clash("empty_range", "The range of {label} is empty: both ends are the same value and excluded.", "nothing lies between {min} and {max}", "widen the range")
	SameAndDifferent    = clash("same_and_different", "{label} must be both the same as {other} and different from it.", "only a blank value satisfies both", "remove one of them")
	RequiredTrap        = clash("required_trap", "{label} is a honeypot that must stay blank, and is required.", "blank breaks the rule, anything else triggers the honeypot", "remove the rule")
	GivenRejected       = clash("given_rejected", "The {key} value of {label} breaks its rule {rule}.", "{value}", "correct the value or the rule")

	MatchesBetween   = phrase("clash.matches_between", "what matches has {min} to {max} {unit}")
	MatchesFrom      = phrase("clash.matches_from", "what matches has {min} {unit} or more")
	AllowedFrom      = phrase("clash.allowed_from", "{min} or more are allowed")
	AllowedBetween   = phrase("clash.allowed_between", "{min} to {max} are allowed")
	KeepsTheFirst    = phrase("clash.keeps_the_first", "{value} satisfies the first and breaks the second; no text satisfies both")
	BeginningOfValue = phrase("clash.beginning_of_value", "“{beginning}…”, {n} characters")
	WholeValue       = phrase("clash.whole_value", "“{value}”")
)

// Contradictions between rules over several fields, and of replies and messages.
var (
	NeverHolds       = clash("never_holds", "No valid values of its fields make {expression} true.", "{proof}", "correct the expression, or a rule of its fields")
	NeverBothHold    = clash("never_both_hold", "{expression} and {other} are never both true.", "{proof}", "loosen one of them")
	ReplyBehind      = clash("reply_behind", "The success reply {reply} is never shown: one without a condition comes before it.", "the first that applies counts", "move the one without a condition to the end")
	ReplyUnreachable = clash("reply_unreachable", "No accepted input leads to the success reply {reply}.", "{proof}", "correct its condition, or one before it")
	MessageShared    = clash("message_shared", "Note: {rules} and {last} have the same message; findings cannot tell them apart.", "{message}", "give each rule its own text if that matters")
	StateUnreachable = clash("state_unreachable", "No path reaches the state {state}.", "no account is in it and no journey's step leads to it", "write then: {state} in a journey, or give an account this state")

	AllTried         = phrase("clash.all_tried", "all {n} combinations of their values were tried")
	NoneFound        = phrase("clash.none_found", "none found within {n} combinations")
	AllOfFieldsTried = phrase("clash.all_of_fields_tried", "all {n} combinations of the fields' values were tried")
	StateOfSite      = phrase("clash.state_of_site", "the site's states[{state}]")
)

// Contradictions with the page.
var (
	MarkedNotRequired = clash("marked_not_required", "{label} is optional by its rules, but marked as required on the page.", "a blank value is accepted", "add the rule required, or remove the mark from the page")
	AttributeRequired = clash("attribute_required", "{label} is optional by its rules, but has the attribute required on the page.", "a blank value is accepted", "add the rule required, or remove the attribute from the page")
	RequiredNotMarked = clash("required_not_marked", "{label} is required by its rules, but not marked on the page, which marks other fields.", "a blank value is rejected", "mark the field on the page, or remove the rule")
	ControlUnnamed    = clash("control_unnamed", "The control {control} on the page has no name.", "what is entered there is never sent", "give the control a name on the page")
	OtherTarget       = clash("other_target", "The page sends the form to another address than the document says.", "document: {said}; page: {page}", "correct submit: or the page")
	OtherMethod       = clash("other_method", "The page sends the form with another method than the document says.", "document: {said}; page: {page}", "correct submit: or the page")
	BrowserStricter   = clash("browser_stricter", "The browser's rule {rule} of {label} is stricter than the server's.", "{proof}", "loosen the browser's rule, or give the server the same one")
	UnitsDiffer       = clash("units_differ", "Note: the browser counts {label} in {browser}, the server in {server}.", "{proof}", "count it in the same unit if that matters")

	ControlOfPage = phrase("clash.control_of_page", "the page, its control {control}")
	ActionOfPage  = phrase("clash.action_of_page", "the page, its form's action")
	MethodOfPage  = phrase("clash.method_of_page", "the page, its form's method")
	TakenValue    = phrase("clash.taken_value", "the server would accept {value}, the browser stops it")
	TakenBlank    = phrase("clash.taken_blank", "the server would accept a blank value, the browser stops it")
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
	ColumnShorter     = clash("column_shorter", "{label} allows {most}, but the column {column} holds {n}.", "{value}", columnRemedy)
	ColumnFewerBytes  = clash("column_fewer_bytes", "{label} allows {most}, but the column {column} holds {n} bytes.", "{value}", columnRemedy)
	OptionTooLong     = clash("option_too_long", "The option {option} of {label} has {n} characters, but the column {column} holds {most}.", "{value}", columnRemedy)
	OptionNotInColumn = clash("option_not_in_column", "The option {option} of {label} is not a value of the column {column}.", "{value}", columnRemedy)
	NumberAbove       = clash("number_above", "{label} allows {n}, but the column {column} holds at most {most}.", "{n}", columnRemedy)
	NumberBelow       = clash("number_below", "{label} allows {n}, but the column {column} holds at least {least}.", "{n}", columnRemedy)
	DecimalsLost      = clash("decimals_lost", "{label} allows decimals, but the column {column} holds whole numbers.", "{n}", columnRemedy)
	StepLost          = clash("step_lost", "{label} has steps of {step}, but the column {column} keeps {n} decimals.", "{step}", columnRemedy)
	NotNullOptional   = clash("not_null_optional", "{label} may be blank, but the column {column} is NOT NULL.", "a blank value cannot be stored as NULL", "make the field required, or allow NULL")
	TableMissing      = clash("table_missing", "There is no table {table}.", "the database has {n} tables, none of that name", "correct the table's name")
	ColumnMissing     = clash("column_missing", "The table {table} has no column {column}.", "its columns are {columns}", "correct the column's name")
	NotNullUnfilled   = clash("not_null_unfilled", "The column {column} must be filled, and the document does not say from what.", "it is NOT NULL and has no default", "name its source under columns:, or give it a default")
	NoLimitOfText     = clash("no_limit_of_text", "{label} has no limit in any layer.", "a text of any length is allowed", "add a length or a range")
	NoLimitOfNumber   = clash("no_limit_of_number", "{label} has no limit in any layer.", "a number of any size is allowed", "add a length or a range")

	LengthOfUnit = phrase("clash.length_of_unit", "{n} {unit}")
	AnyLength    = phrase("clash.any_length", "any length")
)

// What the layers say of a field.
var (
	Unchecked      = phrase("layer.unchecked", "not checked (novalidate)")
	Drifting       = phrase("layer.drifting", "{what} ({proof})")
	HoldsHash      = phrase("layer.holds_hash", "holds a hash")
	NotNull        = phrase("layer.not_null", "NOT NULL")
	DefaultOf      = phrase("layer.default", "default '{value}'")
	Unique         = phrase("layer.unique", "unique")
	IgnoringCase   = phrase("layer.ignoring_case", "ignoring case")
	BytesInCharset = phrase("layer.bytes_in_charset", "at most {n} bytes in {charset}")
)
