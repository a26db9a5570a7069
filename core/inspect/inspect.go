// Package inspect is what a look at a part finds and what that moves: a verdict for each thing that is
// looked at, the reason behind it, the tasks that come forward by it, the interval that gets longer or
// shorter, the part to fit.
//
// It does not decide when a task is due (package care) nor how it is done (package job).
package inspect

import (
	"slices"
	"strings"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// Sight names what is looked at.
type Sight string

// The sights.
const (
	Under     Sight = "under"      // the machine: whether it is wet there
	Glass     Sight = "glass"      // of a gauge: whether it is misted inside
	SteamBar  Sight = "steam_bar"  // the gauge of the steam boiler, hot
	PumpBar   Sight = "pump_bar"   // the gauge of the pump, against the blind or a puck
	HeatUp    Sight = "heat_up"    // the minutes from cold to its heat
	Flow      Sight = "flow"       // through an open group in ten seconds
	Discharge Sight = "discharge"  // the first dirty water of a backflush with clean water
	Cup       Sight = "cup"        // of clean water from the group
	Screen    Sight = "screen"     // against the light, both sides
	Wetting   Sight = "wetting"    // how the group wets in a flush
	Seal      Sight = "seal"       // pressed with a fingernail
	LockAngle Sight = "lock_angle" // how far the handle turns
	Gauze     Sight = "gauze"      // of the hot-water tap: a free look at the boiler's inside
	Tip       Sight = "tip"        // of the steam wand
	Strainer  Sight = "strainer"   // at the tank's inlet
	TankWall  Sight = "tank_wall"  // inside
	Spring    Sight = "spring"     // of the handle: whether the basket stays in
	Rim       Sight = "rim"        // of the basket
	Spouts    Sight = "spouts"     // of the handle, from inside
	Lever     Sight = "lever"      // of a group with a cam
	Joint     Sight = "joint"      // of the steam wand, at pressure
	Screws    Sight = "screws"     // of the boiler drains, at pressure
	Relief    Sight = "relief"     // the relief valve, by eye
	Probe     Sight = "probe"      // the level probe of a boiler
)

// Verdict is one thing that a look may find.
type Verdict string

// The verdicts, each of the sights in whose row it stands.
const (
	Clean       Verdict = "clean"
	Stained     Verdict = "stained"
	SomeBlocked Verdict = "some_blocked"
	Blocked     Verdict = "blocked"
	Even        Verdict = "even"
	OneSided    Verdict = "one_sided"
	Springy     Verdict = "springy"
	Stiff       Verdict = "stiff"
	Brittle     Verdict = "brittle"
	Chipped     Verdict = "chipped"
	Dusting     Verdict = "dusting"
	Crusted     Verdict = "crusted"
	Slimy       Verdict = "slimy"
	Flakes      Verdict = "flakes"
	Holds       Verdict = "holds"
	DropsOut    Verdict = "drops_out"
	Smooth      Verdict = "smooth"
	Dented      Verdict = "dented"
	Easy        Verdict = "easy"
	Squeaks     Verdict = "squeaks"
	Dry         Verdict = "dry"
	Drips       Verdict = "drips"
	Blows       Verdict = "blows"
	Wet         Verdict = "wet"
	Clear       Verdict = "clear"
	Misted      Verdict = "misted"
	None        Verdict = "none"
	Low         Verdict = "low"
	Usual       Verdict = "usual"
	High        Verdict = "high"
	Over        Verdict = "over"
	Shakes      Verdict = "shakes"
	Slower      Verdict = "slower"
	Never       Verdict = "never"
	Weaker      Verdict = "weaker"
	Weak        Verdict = "weak"
	Pale        Verdict = "pale"
	Brown       Verdict = "brown"
	Dark        Verdict = "dark"
	Foamy       Verdict = "foamy"
	Grainy      Verdict = "grainy"
	Short       Verdict = "short"
	AtMark      Verdict = "at_mark"
	Past        Verdict = "past"
	FarPast     Verdict = "far_past"
	Ringed      Verdict = "ringed"
	Cracked     Verdict = "cracked"
)

// Pull is by how much a finding brings a task forward.
type Pull int

// A task comes now, or within a month of the look.
const (
	Now Pull = iota
	Soon
)

// SoonDays is how long a task may wait that a finding asks for soon (our own engineering choice).
const SoonDays = 30

// Move is a task that a finding brings forward.
type Move struct {
	Task task.ID
	By   Pull
}

// Seen is one verdict of a sight.
type Seen struct {
	Verdict Verdict
	Text    string // as an answer
	Means   string // in one sentence
	Bad     bool
	// Moves are the tasks that come forward, Fit the part to fit, Times what the interval of the
	// sight's own task is multiplied by where this is found; 0 for nothing.
	Moves []Move
	Fit   string
	Times float64
	// Stops is set where the machine is not to be used on.
	Stops  *reason.Finding
	Source reason.Source
	// Do is what follows, in a few words; Next what a hand does about it where no task does; Symptom what
	// a cause is looked for of (package diagnose).
	Do      string
	Next    []string
	Symptom string
}

// Row is what is known of one sight.
type Row struct {
	Sight Sight
	Title string
	Of    task.Scope
	// Wears is the task whose interval it judges; empty for none.
	Wears task.ID
	Seen  []Seen
	// Ask is the question of a walk round, How what a hand does to see it, At what the machine is like
	// meanwhile; empty where only a job that opens the machine looks at it.
	Ask      string
	How      []string
	At       Posture
	Cautions []reason.Caution
	// Measure is what is read in numbers; nil where nothing is.
	Measure *Measure
	fits    func(machine.Facts) bool
}

// Find finds a sight; false where there is none of that name.
func Find(s Sight) (Row, bool) {
	for _, r := range rows {
		if r.Sight == s {
			return r, true
		}
	}
	return Row{}, false
}

// All lists the sights.
func All() []Row { return slices.Clone(rows) }

// Seen is a verdict of a sight; false where that is none of its own.
func (r Row) Find(v Verdict) (Seen, bool) {
	for _, x := range r.Seen {
		if x.Verdict == v {
			return x, true
		}
	}
	return Seen{}, false
}

// Found is what somebody saw of a part at an instant.
type Found struct {
	Sight   Sight
	Part    machine.Part // the whole machine, or a group
	Verdict Verdict
	At      time.Time
	// Number is what was read, in the unit of the sight's measure; nil where only the picture was chosen.
	Number *float64
}

// Seen is what it means; a zero value where sight or verdict is not known any more.
func (f Found) Seen() Seen {
	row, _ := Find(f.Sight)
	seen, _ := row.Find(f.Verdict)
	return seen
}

// Check refuses what is no verdict of the sight, or a part that it is not of on a machine of so many
// groups; the error is a *units.OutOfRange.
func (f Found) Check(groups int) error {
	row, known := Find(f.Sight)
	if !known {
		return &units.OutOfRange{Field: "sight", Value: string(f.Sight), Allowed: "one of " + names(rows,
			func(r Row) string { return string(r.Sight) })}
	}
	if _, known := row.Find(f.Verdict); !known {
		return &units.OutOfRange{Field: "verdict", Value: string(f.Verdict), Allowed: "one of " + names(row.Seen,
			func(s Seen) string { return string(s.Verdict) })}
	}
	if err := row.checkNumber(f.Number); err != nil {
		return err
	}
	n := f.Part.GroupNumber()
	if whole := row.Of == task.Whole; whole && !f.Part.IsWhole() || !whole && (n < 1 || n > groups) {
		allowed := "machine"
		if !whole {
			allowed = "a group, such as group-1"
		}
		return &units.OutOfRange{Field: "part", Value: f.Part.String(), Allowed: allowed}
	}
	return nil
}

func names[T any](list []T, of func(T) string) string {
	texts := make([]string, len(list))
	for i, x := range list {
		texts[i] = of(x)
	}
	return strings.Join(texts, ", ")
}

// Newest is what was last seen of a sight at a part, and what before; nil where that is nothing.
func Newest(list []Found, s Sight, part machine.Part, now time.Time) (last, before *Found) {
	for i := range list {
		f := &list[i]
		if f.Sight != s || f.Part != part || f.At.After(now) {
			continue
		}
		switch {
		case last == nil || f.At.After(last.At):
			last, before = f, last
		case before == nil || f.At.After(before.At):
			before = f
		}
	}
	return last, before
}
