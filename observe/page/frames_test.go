package page_test

import (
	"testing"

	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// TestFramesOfTheSameSite are named once, in their order; those of others never.
func TestFramesOfTheSameSite(t *testing.T) {
	const body = `<iframe src="/berths/form?id=7#top"></iframe><iframe src="../tide"></iframe><iframe src="/berths/form?id=7"></iframe>
<iframe src="http://elsewhere.test/"></iframe><iframe src="http://s.test:81/"></iframe><iframe src="javascript:alert(1)"></iframe><iframe></iframe><iframe src="/berths/new"></iframe>`
	require.Equal(t, []string{"http://s.test/berths/form?id=7", "http://s.test/tide"}, page.Frames(body, "http://s.test/berths/new"))
	require.Empty(t, page.Frames("<p>none</p>", "http://s.test/"))
}
