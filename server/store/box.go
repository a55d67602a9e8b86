package store

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// box encrypts secrets at rest with AES-256-GCM.
type box struct{ aead cipher.AEAD }

// openBox takes the key from a file. One is made where it is missing, but not where sealed tells that something is encrypted already.
func openBox(keyFile string, sealed bool) (*box, error) {
	if info, err := os.Stat(keyFile); err == nil && info.Mode().Perm()&0o077 != 0 {
		return nil, fmt.Errorf("the key file %s can be read by others on this machine (%s); make it yours alone with chmod 600", keyFile, info.Mode().Perm())
	}
	text, err := os.ReadFile(keyFile)
	if errors.Is(err, os.ErrNotExist) && sealed {
		return nil, fmt.Errorf("the key file %s is not there, and the secrets in Odd Tick's database were encrypted with it; put it back, or name it with ODDTICK_KEY_FILE", keyFile)
	}
	if errors.Is(err, os.ErrNotExist) {
		key := make([]byte, 32)
		_, _ = rand.Read(key)
		text = []byte(hex.EncodeToString(key) + "\n")
		if err := os.MkdirAll(filepath.Dir(keyFile), 0o700); err != nil {
			return nil, fmt.Errorf("make the folder of the key file: %w", err)
		}
		err = os.WriteFile(keyFile, text, 0o600)
	}
	if err != nil {
		return nil, fmt.Errorf("the key file %s: %w", keyFile, err)
	}
	key, err := hex.DecodeString(strings.TrimSpace(string(text)))
	if err != nil || len(key) != 32 {
		return nil, fmt.Errorf("the key file %s does not hold 64 hexadecimal digits", keyFile)
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	aead, err := cipher.NewGCM(block)
	if err != nil {
		return nil, err
	}
	return &box{aead}, nil
}

func (b *box) seal(plain []byte) []byte {
	nonce := make([]byte, b.aead.NonceSize())
	_, _ = rand.Read(nonce)
	return b.aead.Seal(nonce, nonce, plain, nil)
}

func (b *box) open(sealed []byte) ([]byte, error) {
	n := b.aead.NonceSize()
	if len(sealed) < n {
		return nil, errors.New("a sealed secret is too short")
	}
	plain, err := b.aead.Open(nil, sealed[:n], sealed[n:], nil)
	if err != nil {
		return nil, errors.New("a secret cannot be opened with this key file; it was sealed with another")
	}
	return plain, nil
}
