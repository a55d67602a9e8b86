package access_test

import (
	"strings"
	"testing"

	"oddtick/core/access"
	"oddtick/core/spec"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/require"
)

const site = `
site: s
visitors: {table: people, key: id, name: login, has: {wishes: wants.person}}
pages:
  - {id: home, path: /}
  - {id: members, path: /members}
  - {id: record, path: "/people/{key}"}
states:
  - {id: guest, when: "!signed_in", may_open: [home], denied: /sign-in}
  - {id: member, when: "signed_in && confirmed_at != null && wishes", may_open: [home, members, record], denied: forbidden}
  - {id: awaiting, when: signed_in, may_open: [home, record], denied: /awaiting, denied_by_page: {record: forbidden}}
`

func matrix(t testing.TB) *access.Matrix {
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(site)}})
	require.NoError(t, err)
	m, err := access.New(p.Site)
	require.NoError(t, err)
	return m
}

func visitor(m *access.Matrix, account string, confirmed any, wishes bool) access.Visitor {
	v := access.Visitor{Account: account}
	m.Place(&v, map[string]any{"signed_in": account != "", "confirmed_at": confirmed, "wishes": wishes}, "")
	return v
}

func TestWhoMayOpenWhat(t *testing.T) {
	t.Parallel()
	m := matrix(t)
	require.Equal(t, []access.Page{{ID: "home", Path: "/"}, {ID: "members", Path: "/members"}, {ID: "record", Path: "/people/{key}"}, {ID: "record.others", Path: "/people/{key}", Others: true}}, m.Pages())
	guest, member, awaiting := visitor(m, "", nil, false), visitor(m, "maple", "2026-01-01", true), visitor(m, "briar", nil, true)
	require.Equal(t, []string{"guest", "member", "awaiting"}, []string{guest.State, member.State, awaiting.State})
	words := func(state string) []string {
		var out []string
		for _, p := range m.Pages() {
			out = append(out, string(promise.Access(m.Expect(state, p))))
		}
		return out
	}
	require.Equal(t, []string{"opens", "redirects to /sign-in", "redirects to /sign-in", "redirects to /sign-in"}, words("guest"))
	require.Equal(t, []string{"opens", "opens", "opens", "is refused (403)"}, words("member"))
	require.Equal(t, []string{"opens", "redirects to /awaiting", "opens", "is refused (403)"}, words("awaiting"))
	v := access.Visitor{Account: "moss"}
	m.Place(&v, map[string]any{"signed_in": true, "confirmed_at": nil, "wishes": false}, "member")
	require.Contains(t, v.Why, "document: member")
}

// TestAMixOfConditionsThatNoAccountHas is asked for, as a slip in the condition would not show without it.
func TestAMixOfConditionsThatNoAccountHas(t *testing.T) {
	t.Parallel()
	m := matrix(t)
	few := []access.Visitor{visitor(m, "", nil, false), visitor(m, "maple", "x", true), visitor(m, "dew", nil, false)}
	lacking := m.Lacking(few)
	require.NotEmpty(t, lacking)
	require.Contains(t, lacking[0], "member: no account distinguishes")
	all := append(few, visitor(m, "fern", "x", false), visitor(m, "briar", nil, true))
	require.Empty(t, m.Lacking(all))
}

func TestASlipIsNamed(t *testing.T) {
	t.Parallel()
	m := matrix(t)
	page := m.Pages()[1]
	seen := func(opened ...bool) []access.Seen {
		var out []access.Seen
		for i, v := range []access.Visitor{visitor(m, "", nil, false), visitor(m, "maple", "x", true), visitor(m, "fern", "x", false), visitor(m, "briar", nil, true), visitor(m, "dew", nil, false)} {
			out = append(out, access.Seen{Visitor: v, Opened: opened[i]})
		}
		return out
	}
	require.Empty(t, m.Explain(page, seen(false, true, false, false, false)), "nothing is odd")
	require.EqualValues(t, "as if member were (signed_in && confirmed_at != null) || wishes instead of signed_in && confirmed_at != null && wishes", m.Explain(page, seen(false, true, true, true, false)))
	require.Contains(t, m.Explain(page, seen(false, true, true, false, false)), "as if member were signed_in && confirmed_at != null instead of")
	require.Empty(t, m.Explain(page, seen(true, true, true, true, true)), "no one slip opens it to guests")
}

func TestAConditionThatCannotBeRead(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: s\nstates: [{id: a, when: 'x &&'}]\n")}})
	require.NoError(t, err)
	_, err = access.New(p.Site)
	require.ErrorContains(t, err, "the expression x && cannot be read")
}

func TestWhatMenusOffer(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(strings.Replace(site, "denied: /sign-in}", "denied: /sign-in, menu: [/members, home]}", 1))}})
	require.NoError(t, err)
	m, err := access.New(p.Site)
	require.NoError(t, err)
	ids, promised := m.Offered("guest")
	require.True(t, promised)
	require.Equal(t, []string{"home", "members"}, ids)
	_, promised = m.Offered("member")
	require.False(t, promised, "nothing is said of their menus")
	for path, want := range map[string]string{"/": "home", "": "home", "/members/": "members", "/people/7": "record", "/people/7/more": "", "/people/": "", "/else": ""} {
		require.Equal(t, want, m.At(path), path)
	}
	p.Site.States[0].Menu = []string{"home", "membrs"}
	_, err = access.New(p.Site)
	require.EqualError(t, err, `states[guest].menu: there is no page "membrs"; name it under pages:, with id and path`)
	p.Site.States[0].Menu, p.Site.States[0].MayOpen = nil, []string{"elsewhere"}
	_, err = access.New(p.Site)
	require.NoError(t, err, "what is not among the pages is not opened")
}
