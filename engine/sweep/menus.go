package sweep

import (
	"maps"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/wording/phrases"
	"oddtick/observe/page"
)

// menuSeen is what the menus of the pages that a visitor could open lead to, by the id of the page they lead to: where it was seen first.
type menuSeen map[string]string

// lookAtMenus takes what the menus of a page offer to a visitor; a page without a menu adds nothing, and a sweep that is part of a
// journey does not look.
func (s *sweep) lookAtMenus(account string, x *observation.Exchange) {
	addresses, ok := page.Menus(x.Body, x.URL)
	if !ok || s.menus == nil {
		return
	}
	if s.menus[account] == nil {
		s.menus[account] = menuSeen{}
	}
	for _, to := range addresses {
		if id := s.m.At(to.Path); id != "" && s.client.Allowed(to.Host) && s.menus[account][id] == "" {
			s.menus[account][id] = address.Path(x.URL)
		}
	}
}

// judgeMenus compares what the menus offered to each visitor with what its state promises.
func (s *sweep) judgeMenus() {
	for _, v := range s.report.Visitors {
		want, promised := s.m.Offered(v.State)
		if !promised || v.Why != "" || s.failed[v.Account] != "" {
			continue
		}
		seen := SessionSeen{Look: LookAtMenus, What: phrases.Menus.Text(), Account: v.Account, Expected: prose.Text(strings.Join(want, ", ")), Verdict: judge.AsExpected}
		menus, any := s.menus[v.Account]
		if !any {
			seen.Verdict, seen.Why = judge.NotObserved, phrases.NoMenu.Text()
			s.report.Sessions = append(s.report.Sessions, seen)
			continue
		}
		got := slices.Sorted(maps.Keys(menus))
		var why []prose.Text
		for _, id := range got {
			if !slices.Contains(want, id) {
				why = append(why, phrases.OfferedOn.With("page", id, "on", menus[id]))
			}
		}
		for _, id := range slices.Sorted(slices.Values(want)) {
			if menus[id] == "" {
				why = append(why, phrases.NotOffered.With("page", id))
			}
		}
		if seen.Observed, seen.Why = prose.Text(strings.Join(got, ", ")), prose.Join(why, "; "); len(why) > 0 {
			seen.Verdict = judge.Odd
		}
		s.report.Sessions = append(s.report.Sessions, seen)
	}
}
