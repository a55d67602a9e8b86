package phrases

// What was found by looking further at an odd case, and where a site's limit lies.
var (
	NoLimitPromised    = phrase("limit.none_promised", "no limit is promised{found}")
	NothingTaken       = phrase("limit.nothing_taken", ", and not even a usual value is taken")
	TakenStoredTo      = phrase("limit.taken_stored_to", "; taken to {max}, and stored whole only to {whole}")
	NoneFoundTo        = phrase("limit.none_found_to", ", and none was found as far as {max}")
	TakenTo            = phrase("limit.taken_to", "; taken to {max}")
	LimitAsPromised    = phrase("limit.as_promised", "as promised: {promised}")
	UnlimitedNotWhole  = phrase("limit.unlimited_not_whole", "promised {promised}; no limit was found, and beyond {whole} values are not stored whole")
	Unlimited          = phrase("limit.unlimited", "promised {promised}; no limit was found as far as {max}")
	NothingNear        = phrase("limit.nothing_near", "promised {promised}; nothing near it is taken")
	PromisedTakenWhole = phrase("limit.promised_taken_whole", "promised {promised}; taken to {max}, and stored whole only to {whole}")
	PromisedTaken      = phrase("limit.promised_taken", "promised {promised}; taken to {max}")
	AlwaysShown        = phrase("further.always", "always: {n} of {times}")
	NotShownAgain      = phrase("further.not_shown_again", "not shown again: {n} of {times}, which does not say that it is mended")
	Intermittent       = phrase("further.intermittent", "intermittent: {n} of {times}")
	UsualShowIt        = phrase("further.usual_show_it", "; usual values show it")
	UnusualFields      = phrase("further.unusual_fields", "; it takes no more than an unusual {fields}")
	AndLimit           = phrase("further.and_limit", "; {limit}")
)
