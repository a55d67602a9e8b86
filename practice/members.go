package practice

import (
	"net/http"
	"strconv"
)

// frame is what a page of somebody who is signed in shows around itself.
type frame struct {
	Token  string
	Holder *holder
	// more offers every page in the menu, less not even all that may be opened.
	more, less bool
}

func (s *Site) frame(v *session, h *holder) frame {
	return frame{Token: v.token, Holder: h, more: s.on("menu-stewards"), less: s.on("menu-members-lost")}
}

// Shown and Membership are for the pages.
func (f frame) Shown() string      { return f.Holder.shown }
func (f frame) Membership() string { return f.Holder.membership }

// Somebody tells whether anybody is signed in.
func (f frame) Somebody() bool { return f.Holder.name != "" }

// Confirmed, MembersOffered and StewardsOffered say what the menu offers.
func (f frame) Confirmed() bool       { return f.Holder.confirmed || f.Holder.steward() }
func (f frame) MembersOffered() bool  { return f.Holder.member() && !f.less || f.Holder.steward() }
func (f frame) StewardsOffered() bool { return f.Holder.steward() || f.more }

func (s *Site) awaiting(w http.ResponseWriter, r *http.Request) {
	if v, h, ok := s.pageFor(w, r); ok {
		s.render(w, http.StatusOK, "awaiting.html", map[string]any{"Frame": s.frame(v, h), "Confirmed": h.confirmed})
	}
}

// members is for those whose address is confirmed and who have said what they wish for.
func (s *Site) members(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	h, err := s.signedIn(r, v)
	if err != nil {
		s.fail(w, "find who is signed in", err)
		return
	}
	switch {
	case h == nil && s.on("members-open"):
		h = &holder{shown: "guest", confirmed: true, wishes: true}
	case h == nil:
		_, _, _ = s.pageFor(w, r)
		return
	}
	let := h.member()
	switch {
	case s.on("members-either"):
		let = h.confirmed || h.wishes
	case s.on("wishes-skipped"):
		let = h.confirmed
	}
	switch {
	case let || h.steward():
	case !h.confirmed:
		http.Redirect(w, r, "/awaiting", http.StatusSeeOther)
		return
	default:
		http.Redirect(w, r, "/wishes", http.StatusSeeOther)
		return
	}
	s.render(w, http.StatusOK, "members.html", map[string]any{"Frame": s.frame(v, h)})
}

func (s *Site) stewards(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.pageFor(w, r)
	if !ok {
		return
	}
	if !h.steward() && !s.on("stewards-open") {
		http.Error(w, "This page is for stewards.", http.StatusForbidden)
		return
	}
	s.render(w, http.StatusOK, "stewards.html", map[string]any{"Frame": s.frame(v, h)})
}

// record shows a holder's record to the holder, and to stewards.
func (s *Site) record(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.pageFor(w, r)
	if !ok {
		return
	}
	id, err := strconv.ParseInt(r.PathValue("id"), 10, 64)
	if err != nil || id != h.id && !h.steward() && !s.on("other-record") {
		http.Error(w, "There is no such record.", http.StatusNotFound)
		return
	}
	of, err := s.find(r.Context(), "h.id = ?", id)
	switch {
	case err != nil:
		s.fail(w, "find a record", err)
	case of == nil:
		http.Error(w, "There is no such record.", http.StatusNotFound)
	default:
		s.render(w, http.StatusOK, "record.html", map[string]any{"Frame": s.frame(v, h), "Name": of.shown, "Mail": of.mail})
	}
}
