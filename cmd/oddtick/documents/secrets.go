package documents

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"oddtick/core/spec"
)

// fromVariable is where a secret is taken from an environment variable: ${NAME}.
var fromVariable = regexp.MustCompile(`\$\{([A-Za-z_][A-Za-z0-9_]*)\}`)

// MostSecret is the size of the largest file with a secret, in bytes.
const MostSecret = 64 << 10

// TakeSecrets puts secrets in their places that a site document does not hold itself: ${NAME} stands for an environment variable, and
// file:NAME, but in a DSN, for the text of a file, beside the documents where its path is relative.
func TakeSecrets(site *spec.Site, folder string) error {
	return site.ReplaceSecrets(func(place, text string) (string, error) {
		if name, ok := strings.CutPrefix(text, "file:"); ok && !strings.HasSuffix(place, ".dsn") {
			return secretFile(place, folder, name)
		}
		var missing string
		out := fromVariable.ReplaceAllStringFunc(text, func(found string) string {
			name := found[2 : len(found)-1]
			value, ok := os.LookupEnv(name)
			if !ok && missing == "" {
				missing = name
			}
			return value
		})
		if missing != "" {
			return "", fmt.Errorf("%s of the site document is taken from the environment variable %s, which is not set", place, missing)
		}
		return out, nil
	})
}

func secretFile(place, folder, name string) (string, error) {
	if !filepath.IsAbs(name) {
		name = filepath.Join(folder, name)
	}
	info, err := os.Stat(name)
	if err == nil && info.Size() > MostSecret {
		err = fmt.Errorf("it has %d bytes, and a secret at most %d", info.Size(), MostSecret)
	}
	var text []byte
	if err == nil {
		text, err = os.ReadFile(name)
	}
	if err != nil {
		return "", fmt.Errorf("%s of the site document is taken from the file %s: %w", place, name, err)
	}
	return strings.TrimRight(string(text), "\r\n"), nil
}

// FolderOf is the folder of a document, or the folder itself.
func FolderOf(path string) string {
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		return path
	}
	return filepath.Dir(path)
}
