package attempt

import (
	"testing"

	"oddtick/internal/localdb/dbtest"
)

func TestMain(m *testing.M) { dbtest.Main(m) }
