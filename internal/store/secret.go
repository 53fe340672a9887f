package store

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
)

// Seal encrypts a password for keeping (AES-256-GCM, NIST SP 800-38D). The key
// stands in a file of the data folder that only its owner may read, so that a
// copy of the database alone gives nothing away.
func (s *Store) Seal(secret string) (string, error) {
	box, err := s.box()
	if err != nil {
		return "", err
	}
	nonce := make([]byte, box.NonceSize())
	if _, err := rand.Read(nonce); err != nil {
		return "", err
	}
	return base64.StdEncoding.EncodeToString(box.Seal(nonce, nonce, []byte(secret), nil)), nil
}

// Unseal decrypts what Seal gave.
func (s *Store) Unseal(sealed string) (string, error) {
	box, err := s.box()
	if err != nil {
		return "", err
	}
	b, err := base64.StdEncoding.DecodeString(sealed)
	if err != nil || len(b) < box.NonceSize() {
		return "", errors.New("a kept password can't be read; type it in again")
	}
	plain, err := box.Open(nil, b[:box.NonceSize()], b[box.NonceSize():], nil)
	if err != nil {
		return "", errors.New("a kept password can't be decrypted with this folder's key; type it in again")
	}
	return string(plain), nil
}

// keyName is the file of the key.
const keyName = "secret.key"

// key is the folder's key, made where there is none: whole, and once, however many
// programs make one at the same time.
func (s *Store) key() ([]byte, error) {
	file := filepath.Join(s.dir, keyName)
	key, err := os.ReadFile(file)
	if !errors.Is(err, fs.ErrNotExist) {
		return key, err
	}
	next := file + "." + rand.Text()
	key = make([]byte, 32)
	if _, err := rand.Read(key); err != nil {
		return nil, err
	}
	f, err := os.OpenFile(next, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.Remove(next) }()
	_, err = f.Write(key)
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return nil, err
	}
	if err := os.Link(next, file); err != nil && !errors.Is(err, fs.ErrExist) { // another was first: theirs holds
		return nil, err
	}
	return os.ReadFile(file)
}

func (s *Store) box() (cipher.AEAD, error) {
	key, err := s.key()
	if err != nil {
		return nil, fmt.Errorf("the key for kept passwords: %w", s.Explain(err))
	}
	block, err := aes.NewCipher(key)
	if err != nil {
		return nil, err
	}
	return cipher.NewGCM(block)
}
