package phrases

// What is there to be covered, and why it is not.
var (
	RuleOfField     = phrase("cover.rule_of_field", "{label}, {rule}")
	InTheBrowser    = phrase("cover.in_the_browser", "{what}, in the browser")
	RuleWithMessage = phrase("cover.rule_with_message", "{what}: “{message}”")
	ValidValue      = phrase("cover.valid_value", "a valid value")
	ValidOnlyAfter  = phrase("cover.valid_only_after", "valid only after {step}")
	NotAsked        = phrase("cover.not_asked", "not shown, because {condition} does not hold")
	LengthOf        = phrase("cover.length", "{n} {unit}")
	BytesOf         = phrase("cover.bytes", "{n} bytes")
	DecimalsOf      = phrase("cover.decimals", "{n} decimals")
	ColumnOfTable   = phrase("cover.column_of_table", "{title} → {outcome}, {entries}")
	EntryOfTable    = phrase("cover.entry_of_table", "{condition}: {entry}")
	AloneHolds      = phrase("cover.alone_holds", "{title}: only {condition} holds")
	AloneFails      = phrase("cover.alone_fails", "{title}: only {condition} fails")
	NotCoveredAs    = phrase("cover.not_covered_as", "{what}: {why}")
	NoValueHas      = phrase("cover.no_value_has", "no value has {value}")
	ValueBreaks     = phrase("cover.value_breaks", "the value breaks {rules}")
)
