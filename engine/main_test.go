package engine_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// designerOf designs the cases of a form document, of a site of which nothing else is known.
func designerOf(t testing.TB, text string) *design.Designer {
	form, err := spec.ReadForm("form.yaml", []byte(text))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	return d
}
