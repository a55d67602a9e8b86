package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"oddtick/server/passwords"

	"github.com/jmoiron/sqlx"
)

// User is somebody who may sign in.
type User struct {
	ID   int64  `db:"id"`
	Name string `db:"name"`
	Hash string `db:"password_hash"`
	// SessionVersion is what a session must hold to be this user's still.
	SessionVersion int       `db:"session_version"`
	CreatedAt      time.Time `db:"created_at"`
	// EndedAt is since when they may not sign in any more.
	EndedAt *time.Time `db:"ended_at"`
}

// MaxUserName is how long a user's name may be, in characters.
const MaxUserName = 60

// ErrTaken says that there is such a user already.
var ErrTaken = errors.New("there is a user of this name already")

// AddUser makes a user; ErrTaken where there is one of the name, in whatever capitals, also one who has ended.
func (s *Store) AddUser(ctx context.Context, name, password string) error {
	return addUser(ctx, s.db, name, password)
}

func addUser(ctx context.Context, db sqlx.ExtContext, name, password string) error {
	hash, err := passwords.Hash(ctx, password)
	if err != nil {
		return err
	}
	if _, err = db.ExecContext(ctx, "INSERT INTO users (name, password_hash, created_at) VALUES (?, ?, ?)", name, hash, time.Now().UTC()); Duplicate(err) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("keep the user %s: %w", name, err)
	}
	return nil
}

// SetPassword gives a user a new password, and ends their sessions.
func (s *Store) SetPassword(ctx context.Context, id int64, password string) error {
	hash, err := passwords.Hash(ctx, password)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, "UPDATE users SET password_hash = ?, session_version = session_version + 1 WHERE id = ?", hash, id)
	return err
}

// EndSessions ends all sessions that a user has by now.
func (s *Store) EndSessions(ctx context.Context, id int64) error {
	_, err := s.db.ExecContext(ctx, "UPDATE users SET session_version = session_version + 1 WHERE id = ?", id)
	return err
}

// EndUser ends a user's sessions, and lets them not sign in any more. What they did stays theirs.
func (s *Store) EndUser(ctx context.Context, id int64) error {
	_, err := s.db.ExecContext(ctx, "UPDATE users SET ended_at = ?, session_version = session_version + 1 WHERE id = ? AND ended_at IS NULL", time.Now().UTC(), id)
	return err
}

// Users are all users, those too who have ended, by name.
func (s *Store) Users(ctx context.Context) ([]User, error) {
	var out []User
	err := s.db.SelectContext(ctx, &out, userColumns+" ORDER BY name")
	return out, err
}

// HasUser tells whether somebody may sign in.
func (s *Store) HasUser(ctx context.Context) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM users WHERE ended_at IS NULL")
	return n > 0, err
}

// Authenticate finds a user by name and password; ErrNotFound covers every mistake.
func (s *Store) Authenticate(ctx context.Context, name, password string) (*User, error) {
	u, err := s.UserNamed(ctx, name)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return nil, err
	}
	hash := ""
	if u != nil {
		hash = u.Hash
	}
	matches, outdated, err := passwords.Matches(ctx, password, hash)
	switch {
	case err != nil:
		return nil, err
	case !matches:
		return nil, ErrNotFound
	case outdated:
		if hash, err = passwords.Hash(ctx, password); err == nil {
			_, err = s.db.ExecContext(ctx, "UPDATE users SET password_hash = ? WHERE id = ? AND password_hash = ?", hash, u.ID, u.Hash)
		}
	}
	return u, err
}

// User finds a user by id, UserNamed by name; ErrNotFound where there is none, or where they have ended.
func (s *Store) User(ctx context.Context, id int64) (*User, error) {
	return s.userWhere(ctx, "id = ?", id)
}

// UserNamed finds a user by name.
func (s *Store) UserNamed(ctx context.Context, name string) (*User, error) {
	return s.userWhere(ctx, "name = ?", name)
}

const userColumns = "SELECT id, name, password_hash, session_version, created_at, ended_at FROM users"

func (s *Store) userWhere(ctx context.Context, where string, arg any) (*User, error) {
	var u User
	if err := s.db.GetContext(ctx, &u, userColumns+" WHERE ended_at IS NULL AND "+where, arg); err != nil {
		return nil, missing(err)
	}
	return &u, nil
}

// Invite makes the token of a link with which the first user sets name and password; earlier ones hold no more.
func (s *Store) Invite(ctx context.Context, until time.Time) (token string, err error) {
	token = rand.Text()
	return token, s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, "DELETE FROM invitations"); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, "INSERT INTO invitations (token_hash, expires_at) VALUES (?, ?)", digest(token), until.UTC())
		return err
	})
}

// Invited tells whether a token holds at a time.
func (s *Store) Invited(ctx context.Context, token string, at time.Time) (bool, error) {
	var n int
	err := s.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM invitations WHERE token_hash = ? AND expires_at > ?", digest(token), at.UTC())
	return n > 0, err
}

// Accept makes the user that a token invites, and ends the token; ErrNotFound where it does not hold at that time.
func (s *Store) Accept(ctx context.Context, token, name, password string, at time.Time) error {
	return s.inTransaction(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, "DELETE FROM invitations WHERE token_hash = ? AND expires_at > ?", digest(token), at.UTC())
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrNotFound)
		}
		return addUser(ctx, tx, name, password)
	})
}

func digest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}
