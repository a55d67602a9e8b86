package contradiction

import "fmt"

// states: one that no account is in, no journey leads to, and that is not where visitors begin.
func (f *finder) states() {
	site := f.a.Site
	if site == nil || len(site.States) == 0 {
		return
	}
	reached := map[string]bool{site.States[0].ID: true}
	for _, a := range site.Accounts {
		reached[a.State] = true
	}
	for _, j := range site.Journeys {
		for _, s := range j.Steps {
			reached[s.Then] = true
		}
	}
	for _, s := range site.States {
		if !reached[s.ID] {
			f.add(Contradiction{
				Kind: StateUnreachable, Path: "state", Other: "the site's states[" + s.ID + "]", Words: fmt.Sprintf("No path reaches the state %s.", s.ID), Proof: "no account is in it and no journey's step leads to it", Remedy: "say then: " + s.ID + " in a journey, or give an account this state",
			})
		}
	}
}
