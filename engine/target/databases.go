package target

import (
	"context"
	"errors"
	"slices"

	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/submission"
	"oddtick/observe/database"
)

// Database is what the engine needs of a watched database.
type Database interface {
	Tables() []string
	Require(table string, columns ...string) error
	Schema(ctx context.Context) (*schema.Database, error)
	Begin(ctx context.Context) error
	Changes(ctx context.Context) ([]observation.Change, error)
	// Rows are some rows' values of columns, in the order of the first; NULL is the empty text.
	Rows(ctx context.Context, table string, columns []string, most int) ([][]string, error)
	LookUp(ctx context.Context, l submission.Lookup, same func(a, b string) bool) (bool, error)
	Close() error
}

// Preparer is a database in which rows can be looked for and written, by some columns' values.
type Preparer interface {
	Holds(ctx context.Context, table string, values map[string]string) (bool, error)
	Put(ctx context.Context, table string, values map[string]string) error
}

// Finder is a database in which a row can be found by what its columns hold.
type Finder interface {
	Find(ctx context.Context, table string, where ...observation.Cell) ([]observation.Cell, error)
}

// Undoer is a database in which changes can be taken back.
type Undoer interface {
	Undo(ctx context.Context, changes []observation.Change) (*database.Undone, error)
}

// Databases are several watched databases as one. A table belongs to the first that has it.
type Databases []Database

func (d Databases) Tables() []string {
	var out []string
	for _, one := range d {
		out = append(out, one.Tables()...)
	}
	return out
}

func (d Databases) Of(table string) Database {
	for _, one := range d {
		if slices.Contains(one.Tables(), table) {
			return one
		}
	}
	return d[0]
}

func (d Databases) Begin(ctx context.Context) error {
	for _, one := range d {
		if err := one.Begin(ctx); err != nil {
			return err
		}
	}
	return nil
}

func (d Databases) Changes(ctx context.Context) ([]observation.Change, error) {
	var out []observation.Change
	for _, one := range d {
		list, err := one.Changes(ctx)
		if err != nil {
			return nil, err
		}
		out = append(out, list...)
	}
	return out, nil
}

func (d Databases) Close() error {
	var errs []error
	for _, one := range d {
		errs = append(errs, one.Close())
	}
	return errors.Join(errs...)
}
