package walk

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestScreenshots draws the pictures of docs/screenshots anew when MYRIAPOD_SHOTS names a folder for them.
func TestScreenshots(t *testing.T) {
	folder := os.Getenv("MYRIAPOD_SHOTS")
	if folder == "" {
		t.Skip("MYRIAPOD_SHOTS is not set")
	}
	require.NoError(t, os.MkdirAll(folder, 0o755))
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.wait("the pictures", `[...document.images].length >= 2 && [...document.images].every(i => i.complete && i.naturalWidth > 0)`)
	p.shot(filepath.Join(folder, "shelf.png"))
	p.button("Quillwick")
	p.settled()
	p.key(" ")
	p.button("Mechanisms")
	p.settled()
	p.shot(filepath.Join(folder, "mechanisms.png"))
}
