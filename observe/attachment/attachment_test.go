package attachment_test

import (
	"bytes"
	"image"
	_ "image/gif"
	_ "image/jpeg"
	_ "image/png"
	"net/http"
	"strings"
	"testing"

	"oddtick/core/spec"
	"oddtick/observe/attachment"

	"github.com/stretchr/testify/require"
)

// TestFilesAreWhatTheySay: of their exact size, and of their type for whoever looks at how they begin.
func TestFilesAreWhatTheySay(t *testing.T) {
	t.Parallel()
	for kind, sniffed := range map[string]string{
		"image/png": "image/png", "image/jpeg": "image/jpeg", "image/gif": "image/gif", "application/pdf": "application/pdf", "application/zip": "application/octet-stream", "text/plain": "text/plain",
	} {
		for _, size := range []int{900, 5000, 200_001} {
			content := attachment.Content(spec.Attachment{Name: "a", Type: kind, Size: size})
			require.Len(t, content, size, kind)
			if kind != "application/zip" {
				require.Contains(t, http.DetectContentType(content), sniffed)
			} else {
				require.True(t, bytes.HasPrefix(content, []byte("PK")))
			}
			if strings.HasPrefix(kind, "image/") {
				_, format, err := image.DecodeConfig(bytes.NewReader(content))
				require.NoError(t, err, kind)
				require.Equal(t, strings.TrimPrefix(kind, "image/"), format)
			}
		}
	}
	require.Empty(t, attachment.Content(spec.Attachment{Type: "image/png"}), "an empty file is empty")
	require.Equal(t, []byte("mmm"), attachment.Content(spec.Attachment{Type: "text/csv", Size: 3}))
}
