package engine

import (
	"context"
	"errors"
	"slices"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/schema"
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
	LookUp(ctx context.Context, l oracle.LookUp, same func(a, b string) bool) (bool, error)
	Close() error
}

// preparing is a database in which rows can be looked for and written, by some columns' values.
type preparing interface {
	Holds(ctx context.Context, table string, values map[string]string) (bool, error)
	Put(ctx context.Context, table string, values map[string]string) error
}

// finding is a database in which a row can be found by a value.
type finding interface {
	Find(ctx context.Context, table, column, value string) ([]observation.Cell, error)
}

// undoing is a database in which changes can be taken back.
type undoing interface {
	Undo(ctx context.Context, changes []observation.Change) (*database.Undone, error)
}

// databases are several watched databases as one. A table belongs to the first that has it.
type databases []Database

func (d databases) tables() []string {
	var out []string
	for _, one := range d {
		out = append(out, one.Tables()...)
	}
	return out
}

func (d databases) of(table string) Database {
	for _, one := range d {
		if slices.Contains(one.Tables(), table) {
			return one
		}
	}
	return d[0]
}

func (d databases) begin(ctx context.Context) error {
	for _, one := range d {
		if err := one.Begin(ctx); err != nil {
			return err
		}
	}
	return nil
}

func (d databases) changes(ctx context.Context) ([]observation.Change, error) {
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

func (d databases) close() error {
	var errs []error
	for _, one := range d {
		errs = append(errs, one.Close())
	}
	return errors.Join(errs...)
}
