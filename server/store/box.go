package store

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
)

// box encrypts secrets at rest with AES-256-GCM. Its key file holds a key a line: the first encrypts, the others still decrypt.
type box struct {
	file string
	mu   sync.Mutex
	read time.Time // the key file's time when it was read
	keys []cipher.AEAD
}

// openBox takes the keys from a file. One is made where it is missing, but not where sealed tells that something is encrypted already.
func openBox(keyFile string, sealed bool) (*box, error) {
	b := &box{file: keyFile}
	if _, err := os.Stat(keyFile); errors.Is(err, os.ErrNotExist) {
		if sealed {
			return nil, fmt.Errorf("the key file %s is not there, and the secrets in Odd Tick's database were encrypted with it; put it back, or name it with ODDTICK_KEY_FILE", keyFile)
		}
		if err := os.MkdirAll(filepath.Dir(keyFile), 0o700); err != nil {
			return nil, fmt.Errorf("make the folder of the key file: %w", err)
		}
		if err := writeKeys(keyFile, newKey()); err != nil {
			return nil, err
		}
	}
	return b, b.refresh()
}

func newKey() string {
	key := make([]byte, 32)
	_, _ = rand.Read(key)
	return hex.EncodeToString(key)
}

// writeKeys puts keys in the place of those in a file, wholly or not at all.
func writeKeys(keyFile string, keys ...string) error {
	next := keyFile + ".new"
	if err := os.WriteFile(next, []byte(strings.Join(keys, "\n")+"\n"), 0o600); err != nil {
		return fmt.Errorf("write the key file: %w", err)
	}
	if err := os.Rename(next, keyFile); err != nil {
		return fmt.Errorf("write the key file: %w", err)
	}
	return nil
}

func readKeys(keyFile string) ([]string, error) {
	text, err := os.ReadFile(keyFile)
	if err != nil {
		return nil, fmt.Errorf("the key file: %w", err)
	}
	return strings.Fields(string(text)), nil
}

// refresh reads the key file again where it has changed since.
func (b *box) refresh() error {
	b.mu.Lock()
	defer b.mu.Unlock()
	info, err := os.Stat(b.file)
	if err != nil {
		return fmt.Errorf("the key file: %w", err)
	}
	if info.Mode().Perm()&0o077 != 0 {
		return fmt.Errorf("the key file %s can be read by others on this machine (%s); make it yours alone with chmod 600", b.file, info.Mode().Perm())
	}
	if len(b.keys) > 0 && info.ModTime().Equal(b.read) {
		return nil
	}
	texts, err := readKeys(b.file)
	if err != nil {
		return err
	}
	var keys []cipher.AEAD
	for _, text := range texts {
		key, err := hex.DecodeString(text)
		if err != nil || len(key) != 32 {
			return fmt.Errorf("the key file %s holds a line that is not 64 hexadecimal digits", b.file)
		}
		block, err := aes.NewCipher(key)
		if err != nil {
			return err
		}
		aead, err := cipher.NewGCM(block)
		if err != nil {
			return err
		}
		keys = append(keys, aead)
	}
	if len(keys) == 0 {
		return fmt.Errorf("the key file %s holds no key", b.file)
	}
	b.keys, b.read = keys, info.ModTime()
	return nil
}

func (b *box) all() []cipher.AEAD {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.keys
}

// seal encrypts with the newest key that the file holds.
func (b *box) seal(plain []byte) ([]byte, error) {
	if err := b.refresh(); err != nil {
		return nil, err
	}
	aead := b.all()[0]
	nonce := make([]byte, aead.NonceSize())
	_, _ = rand.Read(nonce)
	return aead.Seal(nonce, nonce, plain, nil), nil
}

// errOtherKey says that none of the keys opens a secret.
var errOtherKey = errors.New("a secret cannot be opened with this key file; it was sealed with another")

func (b *box) open(sealed []byte) ([]byte, error) {
	plain, err := openWith(b.all(), sealed)
	if errors.Is(err, errOtherKey) { // the keys may have been changed meanwhile
		if err := b.refresh(); err != nil {
			return nil, err
		}
		return openWith(b.all(), sealed)
	}
	return plain, err
}

func openWith(keys []cipher.AEAD, sealed []byte) ([]byte, error) {
	for _, aead := range keys {
		n := aead.NonceSize()
		if len(sealed) < n {
			return nil, errors.New("a sealed secret is too short")
		}
		if plain, err := aead.Open(nil, sealed[:n], sealed[n:], nil); err == nil {
			return plain, nil
		}
	}
	return nil, errOtherKey
}

// RotateKey makes a new key and encrypts every secret with it. The one before stays in the key file, for what a server seals meanwhile;
// older ones are gone. Servers that run take the new key up by themselves.
func RotateKey(ctx context.Context, s *Store) (sites int, err error) {
	old, err := readKeys(s.box.file)
	if err != nil {
		return 0, err
	}
	fresh := newKey()
	if err := writeKeys(s.box.file, append([]string{fresh}, old...)...); err != nil {
		return 0, err
	}
	err = s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		rows := []struct {
			ID      int64  `db:"id"`
			Secrets []byte `db:"secrets"`
		}{}
		if err := tx.SelectContext(ctx, &rows, "SELECT id, secrets FROM sites WHERE secrets <> '' ORDER BY id FOR UPDATE"); err != nil {
			return err
		}
		for _, r := range rows {
			plain, err := s.box.open(r.Secrets)
			if err != nil {
				return err
			}
			sealed, err := s.box.seal(plain)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, "UPDATE sites SET secrets = ? WHERE id = ?", sealed, r.ID); err != nil {
				return err
			}
		}
		sites = len(rows)
		return nil
	})
	if err != nil {
		return 0, fmt.Errorf("encrypt the secrets anew: %w; the key file holds the old keys still", err)
	}
	return sites, writeKeys(s.box.file, fresh, old[0])
}
