package phrases

// What was found by looking further at an odd case, and where a site's limit lies.
var (
	NoLimitPromised    = phrase("limit.none_promised", "no limit is promised{found}")
	NothingTaken       = phrase("limit.nothing_taken", ", and not even a typical value is accepted")
	TakenStoredTo      = phrase("limit.taken_stored_to", "; accepted up to {max}, stored whole only up to {whole}")
	NoneFoundTo        = phrase("limit.none_found_to", ", and none was found up to {max}")
	TakenTo            = phrase("limit.taken_to", "; accepted up to {max}")
	LimitAsPromised    = phrase("limit.as_promised", "as promised: {promised}")
	UnlimitedNotWhole  = phrase("limit.unlimited_not_whole", "promised {promised}; no limit was found, but beyond {whole} values are not stored whole")
	Unlimited          = phrase("limit.unlimited", "promised {promised}; no limit was found up to {max}")
	NothingNear        = phrase("limit.nothing_near", "promised {promised}; nothing near it is accepted")
	PromisedTakenWhole = phrase("limit.promised_taken_whole", "promised {promised}; accepted up to {max}, stored whole only up to {whole}")
	PromisedTaken      = phrase("limit.promised_taken", "promised {promised}; accepted up to {max}")
	AlwaysShown        = phrase("further.always", "Reproduced {n} of {times} times.")
	NotShownAgain      = phrase("further.not_shown_again", "Not reproduced ({n} of {times} times), which does not prove that it is fixed.")
	Intermittent       = phrase("further.intermittent", "Intermittent: reproduced {n} of {times} times.")
	UsualShowIt        = phrase("further.usual_show_it", " Typical values are enough to trigger it.")
	UnusualFields      = phrase("further.unusual_fields", " Simplest trigger: an unusual value in {fields}.")
	AndLimit           = phrase("further.and_limit", " Limit: {limit}.")
)
