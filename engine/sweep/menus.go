package sweep

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/observe/page"
)

// Menus is what is said to have been seen where menus were looked at.
const Menus = "menus"

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
		seen := SessionSeen{What: Menus, Account: v.Account, Expected: strings.Join(want, ", "), Verdict: judge.AsExpected}
		menus, any := s.menus[v.Account]
		if !any {
			seen.Verdict, seen.Why = judge.NotObserved, "no page that opened holds a menu (nav, or the role navigation)"
			s.report.Sessions = append(s.report.Sessions, seen)
			continue
		}
		var got, why []string
		for id, on := range menus {
			got = append(got, id)
			if !slices.Contains(want, id) {
				why = append(why, fmt.Sprintf("%s is offered on %s", id, on))
			}
		}
		for _, id := range want {
			if menus[id] == "" {
				why = append(why, id+" is not offered on any page")
			}
		}
		slices.Sort(got)
		slices.Sort(why)
		if seen.Observed, seen.Why = strings.Join(got, ", "), strings.Join(why, "; "); len(why) > 0 {
			seen.Verdict = judge.Odd
		}
		s.report.Sessions = append(s.report.Sessions, seen)
	}
}
