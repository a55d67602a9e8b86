package store

import (
	"context"
	"fmt"
	"time"

	"github.com/alexedwards/argon2id"
)

// User is somebody who may sign in.
type User struct {
	ID   int64  `db:"id"`
	Name string `db:"name"`
	Hash string `db:"password_hash"`
}

// PutUser makes a user, or gives them a new password.
func (s *Store) PutUser(ctx context.Context, name, password string) error {
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, "INSERT INTO users (name, password_hash, created_at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE password_hash = VALUES(password_hash)", name, hash, time.Now().UTC())
	if err != nil {
		return fmt.Errorf("keep the user %s: %w", name, err)
	}
	return nil
}

// unknownHash is compared with when there is no such user, so that the answer takes as long.
var unknownHash = func() string {
	hash, err := argon2id.CreateHash("nobody", argon2id.DefaultParams)
	if err != nil {
		panic(err)
	}
	return hash
}()

// Authenticate finds a user by name and password; ErrNotFound covers both mistakes.
func (s *Store) Authenticate(ctx context.Context, name, password string) (*User, error) {
	u, err := s.userWhere(ctx, "name = ?", name)
	hash := unknownHash
	if err == nil {
		hash = u.Hash
	}
	match, compareErr := argon2id.ComparePasswordAndHash(password, hash)
	switch {
	case err != nil:
		return nil, err
	case compareErr != nil:
		return nil, compareErr
	case !match:
		return nil, ErrNotFound
	}
	return u, nil
}

// User finds a user by id.
func (s *Store) User(ctx context.Context, id int64) (*User, error) {
	return s.userWhere(ctx, "id = ?", id)
}

func (s *Store) userWhere(ctx context.Context, where string, arg any) (*User, error) {
	var u User
	if err := s.db.GetContext(ctx, &u, "SELECT id, name, password_hash FROM users WHERE "+where, arg); err != nil {
		return nil, missing(err)
	}
	return &u, nil
}
