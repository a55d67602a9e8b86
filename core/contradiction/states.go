package contradiction

import (
	"oddtick/core/wording/phrases"
)

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
			f.add(Contradiction{Kind: StateUnreachable, Path: "state", Other: phrases.StateOfSite.With("state", s.ID)}, &phrases.StateUnreachable, "state", s.ID)
		}
	}
}
