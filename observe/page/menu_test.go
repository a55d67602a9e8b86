package page_test

import (
	"testing"

	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

func TestMenusAreNavigationAndShown(t *testing.T) {
	t.Parallel()
	menus := func(body string) (list []string, ok bool) {
		found, ok := page.Menus(body, "http://site.test/beds/3")
		for _, u := range found {
			list = append(list, u.String())
		}
		return list, ok
	}
	list, ok := menus(`<a href="/beside">not in a menu</a><nav><ul><li><a href="/beds">Beds</a><li><a href="tools?x=1">Tools</a><li hidden><a href="/hidden">Hidden</a><li><a>no link</a></ul></nav>
		<div role=navigation><a href="//other.test/">Elsewhere</a></div>`)
	require.True(t, ok)
	require.Equal(t, []string{"http://site.test/beds", "http://site.test/beds/tools?x=1", "http://other.test/"}, list)
	_, ok = menus(`<p><a href="/beds">Beds</a>`)
	require.False(t, ok, "no menu")
	list, ok = menus(`<nav></nav>`)
	require.True(t, ok)
	require.Empty(t, list)
}
