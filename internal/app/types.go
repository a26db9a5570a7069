package app

import (
	"context"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/treat"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// What is kept, under the names by which it is shown. Whoever shows something knows these, and
// not the rows behind them.
type (
	Machine        = store.Machine
	HardnessAnswer = store.HardnessAnswer
	Run            = store.Run
	Ended          = store.Ended
	EndedGroup     = store.EndedGroup
	EndedDescale   = store.EndedDescale
	Entry          = store.Entry
	Hazard         = store.Hazard
	UseLine        = store.UseLine
	Kept           = store.Kept
	Away           = store.Away
	Source         = store.Source
	Reading        = store.Reading
	Today          = store.Today
	Change         = store.Change
	Moved          = store.Moved
	Share          = store.Share
	Tub            = store.Tub
	Look           = store.Look
	Person         = store.Person
)

// What a change of the interval is, what a line of the log is, and what may be in a part.
const (
	Chosen   = store.Chosen
	Learned  = store.Learned
	Oily     = store.Oily
	Party    = store.Party
	Undone   = store.Undone
	Recorded = store.Recorded
	Pressure = store.Pressure
	Stopped  = store.Stopped
	Visited  = store.Visited
)

// Errors of what is asked for.
var (
	ErrNotFound = store.ErrNotFound
	ErrConflict = store.ErrConflict
)

// Busy says whether an error is only that somebody else writes: nothing was changed, and the same
// may be asked again.
func Busy(err error) bool { return store.Busy(err) }

// Disk is what the disk under the database will not do.
type Disk = store.Disk

// What may be wrong with it; empty where nothing is.
const (
	DiskFull     = store.DiskFull
	DiskReadOnly = store.DiskReadOnly
	DiskDamaged  = store.DiskDamaged
	DiskFails    = store.DiskFails
)

// DiskOf tells an error of the disk from any other.
func DiskOf(err error) Disk { return store.DiskOf(err) }

// Contents is what is in a machine, by the hazards on record.
func Contents(list []Hazard, machineID string) job.Contents { return store.Contents(list, machineID) }

// Reads is what may be looked at as it is kept, without a use case of its own.
type Reads interface {
	Machines(ctx context.Context, archived bool) ([]Machine, error)
	Aways(ctx context.Context, machineID string) ([]Away, error)
	Changes(ctx context.Context, machineID string) ([]Change, error)
	Clock(r Run, wall time.Time) time.Time
	EachEntry(ctx context.Context, f func(Entry) error) error
	EachLook(ctx context.Context, f func(Look) error) error
	EachUse(ctx context.Context, f func(UseLine) error) error
	EventsOf(ctx context.Context, m Machine, since time.Time, days []time.Time) ([]use.Event, error)
	Hazards(ctx context.Context) ([]Hazard, error)
	LastReading(ctx context.Context, machineID string, until time.Time) (*use.Reading, error)
	Ledger(ctx context.Context, machineID string, limit int) ([]use.Event, error)
	Log(ctx context.Context, machineID string, small bool, limit int) ([]Entry, error)
	Meta(ctx context.Context, key string) (string, error)
	MovedOf(ctx context.Context, machineID string) ([]Moved, error)
	OpenRuns(ctx context.Context, machines ...string) ([]Run, error)
	RunLooks(ctx context.Context, runID string) ([]Look, error)
	Placings(ctx context.Context, machineID string) (map[string][]care.Placing, error)
	Products(ctx context.Context) ([]descale.Product, error)
	Ready(ctx context.Context) error
	Shares(ctx context.Context, machineID string) ([]Share, error)
	Sources(ctx context.Context) ([]Source, error)
	Todays(ctx context.Context, list []Machine, zone *time.Location, since time.Time) (map[string]Today, error)
	Treatments(ctx context.Context) ([]treat.Setting, error)
	Tub(ctx context.Context) (Tub, error)
}
