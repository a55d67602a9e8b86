// Package design computes the cases that would prove a form's promises wrong (ISO/IEC/IEEE 29119-4).
//
//	case.go        a case: its id, what it is about, its steps
//	recipe.go      how a value is made when the case is submitted, and the resolving of recipes
//	sets.go        the sets of values of a field: all rules kept, or exactly one broken
//	realistic.go   what values should look like
//	design.go      all techniques together, by depth
//	partitions.go  equivalence partitions      boundaries.go  boundary values      choices.go  each choice
//	agreement.go   rules over several fields   uniqueness.go  values that must be new
//	requests.go    the whole form: tokens, surplus parameters, reload, everything blank
//	scale.go       the line on which a field's inputs lie
//
// The cases are a pure function of the form and the depth: the same input gives the same cases with the same ids.
package design
