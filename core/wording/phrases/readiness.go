package phrases

// Whether something may ship, and what stands in the way. {n} and {total} are counts.
var (
	MayShip              = phrase("readiness.ready", "ready to ship")
	MayShipAcceptedOne   = phrase("readiness.ready_accepted_one", "ready to ship, 1 finding accepted")
	MayShipAccepted      = phrase("readiness.ready_accepted", "ready to ship, {n} findings accepted")
	MayNotShip           = phrase("readiness.not_ready", "not ready to ship: {reasons}")
	MayShipNotKnown      = phrase("readiness.not_known", "not known whether it may ship: {reasons}")
	MayShipNothing       = phrase("readiness.nothing", "nothing to ship: no forms yet")
	NotReadyParts        = phrase("readiness.parts_not_ready", "not ready to ship: {n} of {total} parts not ready")
	NotReadyPartsMore    = phrase("readiness.parts_not_ready_more", "not ready to ship: {n} of {total} parts not ready, {untested} not fully tested")
	NotKnownParts        = phrase("readiness.parts_not_known", "not known whether it may ship: {n} of {total} parts not fully tested")
	ReasonNeverRun       = phrase("readiness.never_run", "never run")
	ReasonNotDesigned    = phrase("readiness.not_designed", "no cases can be designed ({why})")
	ReasonNotRunOne      = phrase("readiness.not_run_one", "1 of {total} cases not run")
	ReasonNotRun         = phrase("readiness.not_run", "{n} of {total} cases not run")
	ReasonInProgress     = phrase("readiness.in_progress", "a run is in progress ({n} of {total} cases done)")
	ReasonRulesChanged   = phrase("readiness.rules_changed", "the rules changed since the run (revision {ran}, now {now})")
	ReasonFinding        = phrase("readiness.finding", "1 {severity} finding")
	ReasonFindings       = phrase("readiness.findings", "{n} {severity} findings")
	ReasonNotObservedOne = phrase("readiness.not_observed_one", "1 case not observed")
	ReasonNotObserved    = phrase("readiness.not_observed", "{n} cases not observed")
	ReasonCoverage       = phrase("readiness.coverage", "coverage {n} % (at least {least} % needed)")
	ReasonCoverageNone   = phrase("readiness.coverage_not_known", "coverage not known (at least {least} % needed)")
	ReasonTooOld         = phrase("readiness.too_old", "last run {n} days ago (at most {most} allowed)")
	ReasonTooShallow     = phrase("readiness.too_shallow", "run at {depth} depth ({least} needed)")
	ReasonOddOne         = phrase("readiness.odd_one", "1 of {total} checks odd")
	ReasonOdd            = phrase("readiness.odd", "{n} of {total} checks odd")
	ReasonUnseen         = phrase("readiness.unseen", "{n} of {total} checks not observed")
	RequirementUntested  = phrase("readiness.requirement_untested", "1 requirement not tested")
	RequirementsUntested = phrase("readiness.requirements_untested", "{n} requirements not tested")
)

// Readiness are the states of readiness in a word or two.
var Readiness = Registered("readiness_state.", map[string]string{
	"ready":     "ready",
	"not_ready": "not ready",
	"not_known": "not known",
})

// RequirementStates are what is known of a requirement.
var RequirementStates = Registered("requirement_state.", map[string]string{
	"as_expected":  "as expected",
	"odd":          "odd",
	"not_observed": "not observed",
	"not_tested":   "not tested",
})
