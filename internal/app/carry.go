package app

import (
	"context"
	"path/filepath"

	"freshanvil/internal/store"
)

// What is carried from one database to another.
type (
	Table  = store.Table
	Column = store.Column
	Stage  = store.Stage
	Merged = store.Merged
)

// The kinds of a column.
const (
	TextColumn    = store.Text
	IntegerColumn = store.Integer
	RealColumn    = store.Real
	InstantColumn = store.Instant
	JSONColumn    = store.JSON
	BytesColumn   = store.Bytes
)

// Carry hands out every row of the record as one moment saw it.
func (a *App) Carry(ctx context.Context, begin func([]Table) error, row func(Table, []any) error) error {
	return a.store.Carry(ctx, begin, row)
}

// TakeIn brings a record in by way of a stage: fill puts its rows there, of the tables of a migration; then all of it
// counts, or nothing. In a trial nothing is kept. Others write meanwhile, but for the last moment.
func (a *App) TakeIn(ctx context.Context, migration int64, trial bool, fill func(*Stage) error) (Merged, error) {
	stage, err := store.NewStage(ctx, filepath.Dir(a.copying.file), migration)
	if err != nil {
		return Merged{}, err
	}
	defer func() { _ = stage.Close() }() // what was staged counts no more, whatever came of it
	if err := fill(stage); err != nil {
		return Merged{}, err
	}
	if err := stage.Finish(ctx); err != nil {
		return Merged{}, err
	}
	return a.store.Merge(ctx, stage, trial)
}
