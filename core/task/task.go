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
	Bleed          ID = "bleed"      // of a pump that air stands in
	DrawOff        ID = "draw_off"   // of the steam boiler, in the place of a descale
	FilterChange   ID = "filter_change"
	Regenerate     ID = "regenerate" // of a softener
	Screen         ID = "screen"
	Soak           ID = "soak"
	Seal           ID = "seal"
	Tank           ID = "tank"
	Tip            ID = "tip"         // of the steam wand, with the milk circuit
	SteamJoint     ID = "steam_joint" // of the wand
	CamGrease      ID = "cam_grease"  // of a group whose valve is a cam
	BrushHead      ID = "brush_head"
	Grinder        ID = "grinder"
	DrainSeals     ID = "drain_seals" // of the screws or the plug that a boiler is drained by
	Jet            ID = "jet"         // of a group, with its strainer
	Probe          ID = "probe"       // of the level in a boiler
	Relief         ID = "relief"      // by eye
	Service        ID = "service"
	Service3       ID = "service_3"  // every third year
	Service5       ID = "service_5"  // every fifth
	Inspection     ID = "inspection" // of the pressure vessel, by law
	Brush          ID = "brush"
	Wand           ID = "wand"
	LayUp          ID = "lay_up" // for weeks
	Visit          ID = "visit"  // of a machine that is laid up
	Return         ID = "return" // into use
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

// Whose is who may do a task.
type Whose string

// Whoever keeps the machine; whoever the maker or the trade calls able to, who says so by name; whoever
// the local code names, who leaves a paper.
const (
	Anybodys  Whose = ""
	Entitled  Whose = "entitled"
	ByTheCode Whose = "by_the_code"
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
	// How is what a hand does, in short.
	How string
	// Doses says that it puts detergent into a group.
	Doses bool
	// Rests says that it belongs to standing still: it is a run of its own on its own day, joined to no other.
	Rests bool
	// Leads says of a small one that a run may lead it.
	Leads bool
	Whose Whose
	// Hands is the hand work that it takes, min (our own estimate for a usual machine).
	Hands float64
	// Tools and parts are what is laid out for it.
	Tools []string
	// Over is said when it was led to its end, After what that means for the machine; empty where
	// nothing is to be added.
	Over, After string
}

var byUse = []Clock{ByShots, ByCoffee, ByCounter, ByLitres, ByDays}

// rows in the order in which tasks press, where nothing else decides.
var rows = []Row{
	{ID: Wash, Title: "Detergent wash", Hands: 9, Short: "wash", Of: EachGroup, Way: Led, Clocks: byUse,
		Needs: []State{Hot, NoChemical}, Also: []ID{WaterBackflush, Brush}, Over: "Washed.", Doses: true},
	{ID: Descale, Title: "Descale", Hands: 90, Short: "descale", Way: Planned, Clocks: []Clock{ByScale, ByDays},
		Needs: []State{NoChemical}, Also: []ID{LookForScale}, Over: "Descaled."},
	{ID: LookForScale, Title: "Look for scale", Hands: 8, Short: "look for scale", Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Cold, NoChemical}, Over: "Looked.",
		Tools: []string{"a soft-jawed key or a cloth; a torch; a thermometer"},
		How: "Machine off, cold and unplugged. Unscrew the gauze of the hot-water tap, or look under the screen. " +
			"Clean: leave it. Crusted: it wants a descale after all."},
	{ID: FilterChange, Title: "Change the filter", Hands: 10, Short: "filter change", Way: Led,
		Clocks: []Clock{ByLitres, ByDays},
		Needs:  []State{SupplyShut, NoChemical}, Over: "Filter changed."},
	{ID: Regenerate, Title: "Regenerate the softener", Hands: 12, Short: "regeneration", Way: Led,
		Clocks: []Clock{ByLitres},
		Needs:  []State{SupplyShut, NoChemical}, Over: "Regenerated."},
	{ID: Inspection, Title: "Inspection of the pressure vessel", Hands: 15, Short: "inspection", Way: Recorded,
		Clocks: []Clock{ByDays}, Whose: ByTheCode, Begins: true,
		How: "The local code says who inspects a boiler in trade use, and how often. Put the paper on record: its date, " +
			"its number, and by whom."},
	{ID: Relief, Title: "Look at the relief valve", Hands: 1, Short: "look at the relief valve", Way: Led,
		Clocks: []Clock{ByDays},
		Needs:  []State{Hot}, Begins: true, Over: "Looked.",
		How:   "At pressure, look at its outlet: it is dry. Never plug it, never adjust it.",
		Tools: []string{"a torch"}},
	{ID: Screen, Title: "Screen off and scrubbed", Hands: 14, Short: "scrub of the screen", Of: EachGroup, Way: Led,
		Clocks: byUse, Needs: []State{Cold, NoChemical}, Also: []ID{Brush}, Begins: true, Over: "Scrubbed.",
		Tools: []string{"a blunt lever or a screwdriver that fits; a brush; a cloth; a thermometer"},
		How: "Machine off and the group cold. Screen off, scrubbed on both sides; seal brushed and looked at. " +
			"Screw snug, not tight; flush before the next drink."},
	{ID: Soak, Title: "Soak baskets and handles", Hands: 8, Short: "soak", Way: Led, Clocks: []Clock{ByDays}, Begins: true,
		Needs: []State{NoChemical}, Over: "Soaked.",
		Tools: []string{"gloves and glasses; a tub; a soft brush"},
		How: "Gloves on. Hot water and a little detergent in a tub, powder into the water. Baskets and the metal of the " +
			"handles in for 5 to 10 minutes, wood and aluminium never. Rinse them under the tap."},
	{ID: Tip, Title: "Soak the steam tip", Hands: 5, Short: "soak of the tip", Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Hot}, Also: []ID{Wand}, Begins: true, Over: "Soaked, and its holes are open.",
		How:   "Purge, wipe. Tip unscrewed into a cup of hot water, its holes opened with a soft pick. Back, purge, wipe.",
		Tools: []string{"a damp cloth and a dry one; a cup; a soft pick, never steel"}},
	{ID: Tank, Title: "Wipe the tank out", Hands: 4, Short: "wipe of the tank", Way: Led, Clocks: []Clock{ByDays},
		Begins: true, Also: []ID{TankWater}, Needs: []State{NoChemical}, Over: "Wiped.",
		Tools: []string{"a soft cloth"},
		How:   "Tank out, old water away. Wipe the inside against slime, rinse, fill with fresh water. Strainer clear."},
	{ID: Seal, Title: "New seal", Hands: 16, Short: "new seal", Of: EachGroup, Way: Led, Clocks: []Clock{ByShots, ByDays},
		Needs: []State{Cold, NoChemical}, Also: []ID{Screen, Brush}, Begins: true, Over: "The seal is new.",
		Tools: []string{"the new seal, of the same size; shims if it has any; a blunt lever or a screwdriver that fits; " +
			"a brush; a thermometer"},
		How: "Machine off, unplugged and the group cold. Shims first; the seal's flat side faces up into the group, " +
			"the bevelled side takes the screen. Sooner if it is hard, chipped, or the handle leaks at full lock."},
	{ID: CamGrease, Title: "Grease the cam", Hands: 14, Short: "grease of the cam", Of: EachGroup,
		Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Cold, SupplyShut, NoChemical}, Begins: true, Over: "Greased.",
		How:   "Cold, unplugged, gauge at 0. Cam out, old grease off, a thin film of food-safe grease on, back.",
		Tools: []string{"food-safe grease for taps; a key that fits; a cloth that leaves no lint"}},
	{ID: SteamJoint, Title: "Grease the joint of the steam wand", Hands: 12, Short: "grease of the joint", Way: Led,
		Clocks: []Clock{ByDays}, Needs: []State{Cold}, Begins: true, Over: "Greased.",
		How:   "Cold, unplugged, gauge at 0. Nut off, ball wiped and greased, a new gasket if it is flat, nut snug.",
		Tools: []string{"food-safe grease; a key that fits; a joint gasket, in case"}},
	{ID: LayUp, Title: "Close it down", Rests: true, Hands: 15, Short: "closing", Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Hot, NoChemical}, Over: "Closed down.",
		After: "Do not switch it on: it comes back by its return, water first.",
		How:   "Boiler renewed, off, handles out and seals dry, tank and tray empty, the water supply shut last.",
		Tools: []string{"a jug that bears hot water; cloths; a sign: do not switch on"}},
	{ID: Visit, Title: "Weekly visit", Rests: true, Hands: 10, Short: "visit", Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{NoChemical}, Over: "Visited.", After: "Do not switch it on before the next visit or its return.",
		How:   "Water first, a look for leaks, five minutes of water, the boiler renewed, off, water shut last.",
		Tools: []string{"a torch; dry tissues; a jug that bears hot water"}},
	{ID: Return, Title: "Bring it back into use", Rests: true, Hands: 20, Short: "return", Way: Led,
		Clocks: []Clock{ByDays},
		Needs:  []State{NoChemical}, Over: "It is back in use.",
		How:   "Water first, a look for leaks, the pump by ear, pressure, relief valve, fresh water, first drinks away.",
		Tools: []string{"a torch; dry tissues; a jug that bears hot water; fresh coffee; a new filter, where one is due"}},
	{ID: BrushHead, Title: "A new brush head", Hands: 2, Short: "new brush head", Way: Recorded, Clocks: []Clock{ByDays},
		Begins: true, How: "Bristles that are bent or bald do not reach the seal. Fit a new head, or take a new brush."},
	{ID: Grinder, Title: "Clean the grinder", Hands: 7, Short: "clean of the grinder", Way: Led, Clocks: []Clock{ByDays},
		Begins: true, Over: "Cleaned.",
		How:   "Beans out. Grinder tablets through, then coffee, and those grounds are thrown away.",
		Tools: []string{"grinder tablets, by their label; 30 g of coffee to throw away; a brush"}},
	{ID: DrainSeals, Title: "New seals of the boiler drains", Hands: 12, Short: "new drain seals",
		Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Cold, SupplyShut, NoChemical}, Whose: Entitled, Begins: true, Over: "The drain seals are new.",
		How:   "Cold, unplugged, supply shut, gauge at 0. Drained; new seals on the screws; closed gently; filled.",
		Tools: []string{"new seals of the same size; a key that fits; a jug; a cloth; a thermometer"}},
	{ID: Jet, Title: "Clean a group's jet and strainer", Hands: 18, Short: "clean of the jet", Of: EachGroup, Way: Led,
		Clocks: []Clock{ByDays}, Needs: []State{Cold, SupplyShut, NoChemical}, Whose: Entitled, Begins: true,
		Over:  "The jet is clean.",
		How:   "Cold, unplugged, supply shut, gauge at 0, steam tap open. Jet and strainer out, cleaned, back.",
		Tools: []string{"a key that fits; a wooden pick; new gaskets; a thermometer"}},
	{ID: Probe, Title: "Clean the level probe", Hands: 14, Short: "clean of the probe", Way: Led, Clocks: []Clock{ByDays},
		Needs: []State{Cold, SupplyShut, NoChemical}, Whose: Entitled, Begins: true, Over: "The probe is clean.",
		How:   "Cold, unplugged, gauge at 0. Wire off, probe out, scale rubbed off, back with its gasket, wire on.",
		Tools: []string{"a key that fits; a new gasket; fine abrasive cloth; a thermometer"}},
	{ID: Service, Title: "Yearly service", Hands: 30, Short: "yearly service", Way: Recorded, Clocks: []Clock{ByDays},
		Whose: Entitled, Begins: true,
		How: "By the maker's own list, by whoever the maker names. Put it on record: date, number of the paper, by whom."},
	{ID: Service3, Title: "Three-year service", Hands: 30, Short: "three-year service", Way: Recorded,
		Clocks: []Clock{ByDays},
		Also:   []ID{Service}, Whose: Entitled, Begins: true,
		How: "By the maker's own list: valves, gaskets and hoses that age. Put it on record: date, number, by whom."},
	{ID: Service5, Title: "Five-year service", Hands: 30, Short: "five-year service", Way: Recorded,
		Clocks: []Clock{ByDays},
		Also:   []ID{Service, Service3}, Whose: Entitled, Begins: true,
		How: "By the maker's own list: relief valve, pressure switches, wiring. Put it on record: date, number, by whom."},
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
		Leads: true, Over: "Washed.", Tools: []string{"a cloth"},
		How: "Empty it, wash it, put it back."},
	{ID: Waste, Title: "Tray and waste", Short: "tray and waste", Way: Small,
		Clocks: []Clock{ByDays}, Leads: true, Over: "Washed, and the waste is clear.", Tools: []string{"a jug; a cloth"},
		How: "Lift the tray out and wash it. Draw a jug half full at the hot-water tap: it scalds. Pour it slowly down the " +
			"waste. " +
			"Tray back."},
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
	{ID: Bleed, Title: "Bleed the pump", Hands: 4, Short: "bleed of the pump", Way: Led, Needs: []State{NoChemical},
		Over: "Water comes again.", Tools: []string{"a jug that bears hot water"},
		How: "Off first. Water there, the handle out. The pump on by the group for ten seconds at most, off, " +
			"a minute's rest."},
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
