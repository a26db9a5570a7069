// Package task is the one table of the kinds of care: what each is called, which part it is
// of, what wears it, what the machine must be like meanwhile, what it does besides, and
// whether a run leads it. Everything else asks here: a new kind of care is a row, a rule of
// package care, and, to be led, an activity of package job.
//
// It does not decide when a task is due (package care) or how it is done (package job).
package task

import (
	"fmt"
	"slices"
	"strings"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// ID names a task, in the log, in the contract and on the command line.
type ID string

// The tasks.
const (
	Wash           ID = "wash"            // with detergent
	WaterBackflush ID = "water_backflush" // without
	Rinse          ID = "rinse"           // of detergent that was left in
	Unblock        ID = "unblock"         // of a group from which no water comes
	Descale        ID = "descale"
	LookForScale   ID = "look_for_scale"
	AcidRinse      ID = "acid_rinse" // of acid that was left in
	DrawOff        ID = "draw_off"   // of the steam boiler, in the place of a descale
	FilterChange   ID = "filter_change"
	Regenerate     ID = "regenerate" // of a softener
	Screen         ID = "screen"
	Soak           ID = "soak"
	Seal           ID = "seal"
	Tank           ID = "tank"
	Brush          ID = "brush"
	Wand           ID = "wand"
	Tray           ID = "tray"
	Waste          ID = "waste"
	TankWater      ID = "tank_water"
)

// Scope is what of a machine a task is of.
type Scope int

// The whole machine, or each of its groups.
const (
	Whole Scope = iota
	EachGroup
)

// Clock is what wears: what a task is counted by.
type Clock string

// The clocks.
const (
	ByShots   Clock = "shots"
	ByCoffee  Clock = "coffee"
	ByCounter Clock = "counter"
	ByLitres  Clock = "litres"
	ByScale   Clock = "scale" // mm of it
	ByDays    Clock = "days"
)

// State is what a machine must be like while a task is done.
type State string

// The states.
const (
	Hot        State = "hot"         // switched on and at pressure
	Cold       State = "cold"        // below 45 °C, off and unplugged
	SupplyShut State = "supply_shut" // where it is plumbed in
	NoChemical State = "no_chemical" // neither detergent nor acid inside
)

// Way is how a task gets done with this product.
type Way string

// A run leads it; a plan is looked at first, which starts the run; somebody does it and puts it
// on record; or it is one of the small ones, which stand beside a job and are never one.
const (
	Led      Way = "lead"
	Planned  Way = "plan"
	Recorded Way = "record"
	Small    Way = "small"
)

// Row is what is known of one task.
type Row struct {
	ID    ID
	Title string // as a heading
	Short string // in "since the last …"
	Of    Scope
	Way   Way
	// Clocks are what it may be counted by; none where it has no date of its own.
	Clocks []Clock
	Needs  []State
	// Also is what doing it does besides.
	Also []ID
	// Tells is the task whose next date is told at its end; its own where empty.
	Tells ID
	// Begins says that its clock starts when a machine is put on the bench, where nobody knows
	// better: a job that was never asked for before is not late on the first day.
	Begins bool
	// Leaves says that it leaves a chemical out of the machine and counts for nothing else.
	Leaves bool
	// How is what a hand does, for a task that no run leads.
	How string
	// Over is said when it was led to its end, After what that means for the machine; empty where
	// nothing is to be added.
	Over, After string
}

var byUse = []Clock{ByShots, ByCoffee, ByCounter, ByLitres, ByDays}

// rows in the order in which tasks press, where nothing else decides.
var rows = []Row{
	{ID: Wash, Title: "Detergent wash", Short: "wash", Of: EachGroup, Way: Led, Clocks: byUse,
		Needs: []State{Hot, NoChemical}, Also: []ID{WaterBackflush, Brush}, Over: "Washed."},
	{ID: Descale, Title: "Descale", Short: "descale", Way: Planned, Clocks: []Clock{ByScale, ByDays},
		Needs: []State{NoChemical}, Also: []ID{LookForScale}, Over: "Descaled."},
	{ID: LookForScale, Title: "Look for scale", Short: "look for scale", Way: Recorded, Clocks: []Clock{ByDays},
		Needs: []State{Cold},
		How: "Machine off, cold and unplugged. Unscrew the gauze of the hot-water tap, or look under the screen. " +
			"Clean: leave it. Crusted: it wants a descale after all."},
	{ID: FilterChange, Title: "Change the filter", Short: "filter change", Way: Led, Clocks: []Clock{ByLitres, ByDays},
		Needs: []State{SupplyShut, NoChemical}, Over: "Filter changed."},
	{ID: Regenerate, Title: "Regenerate the softener", Short: "regeneration", Way: Led, Clocks: []Clock{ByLitres},
		Needs: []State{SupplyShut, NoChemical}, Over: "Regenerated."},
	{ID: Screen, Title: "Screen off and scrubbed", Short: "scrub of the screen", Of: EachGroup, Way: Recorded,
		Clocks: byUse, Needs: []State{Cold, NoChemical}, Also: []ID{Brush}, Begins: true,
		How: "Machine off and the group cold. Screen off, scrubbed on both sides; seal brushed and looked at. " +
			"Screw snug, not tight; flush before the next drink."},
	{ID: Soak, Title: "Soak baskets and handles", Short: "soak", Way: Recorded, Clocks: []Clock{ByDays}, Begins: true,
		How: "Gloves on. Hot water and a little detergent in a tub, powder into the water. Baskets and the metal of the " +
			"handles in for 5 to 10 minutes, wood and aluminium never. Rinse them under the tap."},
	{ID: Tank, Title: "Wipe the tank out", Short: "wipe of the tank", Way: Recorded, Clocks: []Clock{ByDays},
		Begins: true,
		How:    "Tank out, old water away. Wipe the inside against slime, rinse, fill with fresh water. Strainer clear."},
	{ID: Seal, Title: "New seal", Short: "new seal", Of: EachGroup, Way: Recorded, Clocks: []Clock{ByDays},
		Needs: []State{Cold, NoChemical}, Begins: true,
		How: "Machine off, unplugged and the group cold. Shims first; the seal's flat side faces up into the group, " +
			"the bevelled side takes the screen. Sooner if it is hard, chipped, or the handle leaks at full lock."},
	{ID: WaterBackflush, Title: "Water backflush", Short: "water backflush", Of: EachGroup, Way: Small,
		Clocks: []Clock{ByDays}, Needs: []State{Hot, NoChemical}, Over: "Backflushed.",
		After: "It does not take the detergent wash's place."},
	{ID: Brush, Title: "Brush seal and screen", Short: "brush", Way: Small, Clocks: []Clock{ByDays},
		How: "Dry brush, round the seal and over the screen; flush once."},
	{ID: Wand, Title: "Purge and wipe the wand", Short: "purge of the wand", Way: Small, Clocks: []Clock{ByDays},
		Needs: []State{Hot}, Begins: true,
		How: "Steam tap open for 2 to 3 seconds, tip into a cloth or the tray, away from hands: it scalds. Shut. " +
			"Wipe with a damp cloth. Never leave it standing in liquid."},
	{ID: Tray, Title: "Empty and wash the tray", Short: "wash of the tray", Way: Small, Clocks: []Clock{ByDays},
		How: "Empty it, wash it, put it back."},
	{ID: Waste, Title: "Hot water down the waste", Short: "hot water down the waste", Way: Small,
		Clocks: []Clock{ByDays},
		How:    "Half a jug of hot water from the boiler, slowly, down the waste. It scalds."},
	{ID: TankWater, Title: "Fresh water in the tank", Short: "fresh water", Way: Small, Clocks: []Clock{ByDays},
		How: "Pour the old water away, fill with fresh."},
	{ID: Rinse, Title: "Rinse the detergent out", Short: "rinse", Of: EachGroup, Way: Led, Tells: Wash, Leaves: true,
		Over:  "Rinsed.",
		After: "Drinks may be made again. This was a rinse: the wash itself does not count as done."},
	{ID: Unblock, Title: "Free a group", Short: "freeing", Of: EachGroup, Way: Led, Tells: Wash, Leaves: true,
		Over: "Freed."},
	{ID: AcidRinse, Title: "Rinse the acid out", Short: "rinse", Way: Led, Tells: Descale, Leaves: true,
		Over:  "Rinsed.",
		After: "Drinks may be made again. This was a rinse: the descale itself does not count as done."},
	{ID: DrawOff, Title: "Draw off the steam boiler", Short: "draw-off", Way: Led, Tells: Descale,
		Needs: []State{Hot, NoChemical}, Over: "Drawn off."},
}

// Find finds a task; false where there is none of that name.
func Find(id ID) (Row, bool) {
	for _, r := range rows {
		if r.ID == id {
			return r, true
		}
	}
	return Row{}, false
}

// All lists the tasks in the order in which they press, where nothing else decides.
func All() []Row { return slices.Clone(rows) }

// Where lists those for which something holds, in the same order.
func Where(holds func(Row) bool) []ID {
	var list []ID
	for _, r := range rows {
		if holds(r) {
			list = append(list, r.ID)
		}
	}
	return list
}

// Row is what is known of the task; a zero row for one that is not in the table.
func (id ID) Row() Row { r, _ := Find(id); return r }

// Title is the task in plain words.
func (id ID) Title() string { return id.Row().Title }

// Short is what stands in "since the last …".
func (id ID) Short() string { return id.Row().Short }

// IsOfMachine says whether it is of the whole machine, not of a group.
func (id ID) IsOfMachine() bool { return id.Row().Of == Whole }

// IsSmall says whether it is one of the small ones of the day.
func (id ID) IsSmall() bool { return id.Row().Way == Small }

// Counts says whether doing it counts as another task, too.
func (id ID) Counts(as ID) bool { return id == as || slices.Contains(id.Row().Also, as) }

// Tells is the task whose next date is told at its end.
func (id ID) Tells() ID {
	if r := id.Row(); r.Tells != "" {
		return r.Tells
	}
	return id
}

// Rank is its place in the order in which tasks press, where nothing else decides.
func (id ID) Rank() int { return slices.IndexFunc(rows, func(r Row) bool { return r.ID == id }) }

// CheckPart refuses a part that the task is not of, on a machine of so many groups; the error is a
// *units.OutOfRange.
func (id ID) CheckPart(part machine.Part, groups int) error {
	if id.IsOfMachine() {
		if part.IsWhole() {
			return nil
		}
		return &units.OutOfRange{Field: "part", Value: part.String(), Allowed: "machine, for " + string(id)}
	}
	if n := part.GroupNumber(); n < 1 || n > groups {
		return &units.OutOfRange{Field: "part", Value: part.String(), Allowed: fmt.Sprintf("group-1 to group-%d", groups)}
	}
	return nil
}

// Parse reads a task that may be named in a field; another is a *units.OutOfRange.
func Parse(field, text string, allowed []ID) (ID, error) {
	if slices.Contains(allowed, ID(text)) {
		return ID(text), nil
	}
	names := make([]string, len(allowed))
	for i, id := range allowed {
		names[i] = string(id)
	}
	return "", &units.OutOfRange{Field: field, Value: text, Allowed: "one of " + strings.Join(names, ", ")}
}
