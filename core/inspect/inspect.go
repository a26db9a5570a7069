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
	Screen   Sight = "screen"   // against the light, both sides
	Wetting  Sight = "wetting"  // how the group wets in a flush
	Seal     Sight = "seal"     // pressed with a fingernail
	Gauze    Sight = "gauze"    // of the hot-water tap: a free look at the boiler's inside
	Tip      Sight = "tip"      // of the steam wand
	Strainer Sight = "strainer" // at the tank's inlet
	Spring   Sight = "spring"   // of the handle: whether the basket stays in
	Rim      Sight = "rim"      // of the basket
	Lever    Sight = "lever"    // of a group with a cam
	Joint    Sight = "joint"    // of the steam wand, at pressure
	Screws   Sight = "screws"   // of the boiler drains, at pressure
	Relief   Sight = "relief"   // the relief valve, by eye
	Probe    Sight = "probe"    // the level probe of a boiler
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
}

// Row is what is known of one sight.
type Row struct {
	Sight Sight
	Title string
	Of    task.Scope
	// Wears is the task whose interval it judges; empty for none.
	Wears task.ID
	Seen  []Seen
}

// How a look at the screen moves how often it comes off (our own engineering choices, as for the wash).
const (
	longer  = 1.25
	shorter = 0.85
	short   = 0.7
)

var rows = []Row{
	{Sight: Screen, Title: "Screen", Of: task.EachGroup, Wears: task.Screen, Seen: []Seen{
		{Verdict: Clean, Text: "Clean: light through every hole", Times: longer, Source: reason.Ours,
			Means: "Nothing sticks behind it. Found clean twice running, it comes off a quarter later."},
		{Verdict: Stained, Text: "Brown, every hole open", Source: reason.Trade, Means: "Oil, and no more than is usual."},
		{Verdict: SomeBlocked, Text: "Some holes blocked", Bad: true, Times: shorter, Source: reason.Ours,
			Means: "Grounds have set in it. It comes off 15 % sooner from now on."},
		{Verdict: Blocked, Text: "Heavily blocked", Bad: true, Times: short, Source: reason.Ours, Fit: "a screen",
			Moves: []Move{{task.Wash, Now}},
			Means: "Soak it for an hour. If holes stay shut, fit a new one. The group wants a wash, and the screen " +
				"comes off 30 % sooner from now on."},
	}},
	{Sight: Wetting, Title: "Water from the group", Of: task.EachGroup, Seen: []Seen{
		{Verdict: Even, Text: "Evenly, all over", Source: reason.Trade, Means: "Screen and spreader let it through."},
		{Verdict: OneSided, Text: "On one side, or in a jet", Bad: true, Source: reason.Trade,
			Moves: []Move{{task.Screen, Now}},
			Means: "Something blocks the spreader behind the screen: it comes off once more."},
	}},
	{Sight: Seal, Title: "Seal", Of: task.EachGroup, Seen: []Seen{
		{Verdict: Springy, Text: "Springy: the nail's mark goes", Source: reason.Trade, Means: "It seals."},
		{Verdict: Stiff, Text: "Stiff: the mark stays a while", Bad: true, Source: reason.Trade, Fit: "a group seal",
			Moves: []Move{{task.Seal, Soon}}, Means: "It is going hard: a new one within a month."},
		{Verdict: Brittle, Text: "Hard or cracked", Bad: true, Source: reason.Trade, Fit: "a group seal",
			Moves: []Move{{task.Seal, Now}}, Means: "A hard seal lets the handle leak: a new one now."},
		{Verdict: Chipped, Text: "A piece is missing", Bad: true, Source: reason.Trade, Fit: "a group seal",
			Moves: []Move{{task.Seal, Now}},
			Means: "Water under pressure comes through where it is chipped: a new one now. Find the piece."},
	}},
	{Sight: Gauze, Title: "Tap gauze", Seen: []Seen{
		{Verdict: Clean, Text: "Clean", Source: reason.Trade, Means: "The boiler is clean inside."},
		{Verdict: Dusting, Text: "A dusting of white", Source: reason.Trade, Means: "Some scale, as was expected."},
		{Verdict: Crusted, Text: "Crusted", Bad: true, Source: reason.Trade, Moves: []Move{{task.Descale, Now}},
			Means: "There is scale in the boiler: the descale comes now, and the last one counts only in part. Draw more " +
				"hot water from now on."},
	}},
	{Sight: Tip, Title: "Steam tip", Seen: []Seen{
		{Verdict: Clean, Text: "Every hole open", Source: reason.Trade, Means: "It steams as it should."},
		{Verdict: SomeBlocked, Text: "A hole stays blocked", Bad: true, Source: reason.Trade, Fit: "a steam tip",
			Moves: []Move{{task.Tip, Soon}}, Means: "Milk has set in it. Soak it longer; if it stays shut, fit a new tip."},
	}},
	{Sight: Strainer, Title: "Tank strainer", Seen: []Seen{
		{Verdict: Clean, Text: "Clear", Source: reason.Trade, Means: "The pump gets its water."},
		{Verdict: Slimy, Text: "Slimy", Bad: true, Source: reason.Trade, Moves: []Move{{task.Tank, Soon}},
			Means: "Water has stood too long: wipe the tank again within a month, and fill it fresh every day."},
		{Verdict: Flakes, Text: "White grains or flakes", Bad: true, Source: reason.Trade,
			Moves: []Move{{task.LookForScale, Now}}, Means: "Where flakes come from there is more scale: look for it."},
	}},
	{Sight: Spring, Title: "Basket spring", Seen: []Seen{
		{Verdict: Holds, Text: "The basket stays in", Source: reason.Trade, Means: "The spring holds."},
		{Verdict: DropsOut, Text: "It drops out when knocked", Bad: true, Source: reason.Trade, Fit: "a basket spring",
			Means: "The spring in the handle is tired: bend it out a little, or fit a new one."},
	}},
	{Sight: Rim, Title: "Basket rim", Seen: []Seen{
		{Verdict: Smooth, Text: "Smooth and round", Source: reason.Trade, Means: "It seals against the group."},
		{Verdict: Dented, Text: "Dented, worn or cracked", Bad: true, Source: reason.Trade, Fit: "a basket",
			Means: "A bad rim cuts the seal and leaks: fit a new basket."},
	}},
	{Sight: Lever, Title: "Lever", Of: task.EachGroup, Seen: []Seen{
		{Verdict: Easy, Text: "It moves easily", Source: reason.Trade, Means: "The cam is greased."},
		{Verdict: Squeaks, Text: "Stiff, or it squeaks", Bad: true, Source: reason.Trade,
			Moves: []Move{{task.CamGrease, Soon}},
			Means: "Detergent strips the cam's grease. Stiff for a few shots is normal; then it wants food-safe grease."},
	}},
	{Sight: Joint, Title: "Joint of the steam wand", Seen: []Seen{
		{Verdict: Dry, Text: "Dry, and it turns smoothly", Source: reason.Trade, Means: "It seals."},
		{Verdict: Drips, Text: "It weeps, or is stiff", Bad: true, Source: reason.Trade, Fit: "a joint gasket",
			Moves: []Move{{task.SteamJoint, Now}}, Means: "A loose nut, dry grease or a flat gasket: it wants care."},
	}},
	{Sight: Screws, Title: "Drain screws", Seen: []Seen{
		{Verdict: Dry, Text: "Dry", Source: reason.Trade, Means: "The seals hold."},
		{Verdict: Drips, Text: "A drop", Bad: true, Source: reason.Trade, Fit: "drain-screw seals",
			Moves: []Move{{task.DrainSeals, Now}},
			Means: "Do not turn the screw tighter: the seal is worn, and the thread tears."},
	}},
	{Sight: Relief, Title: "Relief valve", Seen: []Seen{
		{Verdict: Dry, Text: "Dry, nothing comes", Source: reason.Trade, Means: "It is shut, as it should be."},
		{Verdict: Drips, Text: "It weeps", Bad: true, Source: reason.Trade, Moves: []Move{{task.Service, Now}},
			Means: "Scale on its seat, or pressure too high: whoever the maker names looks at it now."},
		{Verdict: Blows, Text: "Steam or water blows from it", Bad: true, Source: reason.Trade,
			Moves: []Move{{task.Service, Now}}, Means: "The pressure is too high.",
			Stops: &reason.Finding{Verdict: reason.Stop, Title: "Switch off, and do not use it",
				Because: []reason.Reason{{Text: "A relief valve blows when the pressure is above what the boiler may hold, or " +
					"when it cannot shut any more.", Source: reason.Trade}},
				Next: []string{"Switch off and pull the plug. Stay away until the gauge is at 0.",
					"Never plug it, never adjust it. Call a technician."}}},
	}},
	{Sight: Probe, Title: "Level probe", Seen: []Seen{
		{Verdict: Clean, Text: "Clean metal", Source: reason.Trade, Means: "It feels the water."},
		{Verdict: Crusted, Text: "White with scale", Bad: true, Source: reason.Trade, Moves: []Move{{task.LookForScale, Now}},
			Means: "A crusted probe does not feel the water, and the boiler overfills. Clean it, and look for scale."},
	}},
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
