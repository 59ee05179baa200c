package walk

import (
	"testing"

	"myriapod/shelf/shelftest"
)

func TestMain(m *testing.M) { shelftest.Main(m) }
