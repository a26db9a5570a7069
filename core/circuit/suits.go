package circuit

import (
	"fmt"
	"slices"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Way is who takes the scale out of a machine, and how.
type Way string

// The ways.
const (
	AtHome     Way = "at_home"
	WithCare   Way = "with_care"
	Workshop   Way = "workshop"
	TreatWater Way = "treat_water" // it is not descaled: the water is treated, and somebody looks
)

// Title is the way in plain words.
func (w Way) Title() string {
	return map[Way]string{AtHome: "Descale at home", WithCare: "Descale at home, with care",
		Workshop: "A workshop descales it", TreatWater: "Do not descale: treat the water"}[w]
}

// Suits is the judgement whether a machine is descaled at home, with its
// reasons. What stands against it goes before what somebody prefers.
type Suits struct {
	Way     Way
	Finding reason.Finding
	// Instead is what to do in its place, where it is not descaled by whoever keeps it.
	Instead []Offer
	// Asks are facts, by key, that nobody has said, and that may let a descale be led, or more
	// of it: they are asked first.
	Asks    []string
	decided reason.Refusal // what refused it, where it is
}

// OfferKind is what is done in the place of a descale.
type OfferKind string

// The offers: treating the water, drawing off the steam boiler, booking a workshop.
const (
	Treats   OfferKind = "treat_water"
	DrawsOff OfferKind = "draw_off"
	Books    OfferKind = "workshop"
)

// Offer is one thing that may be done in the place of a descale, and why.
type Offer struct {
	Kind  OfferKind
	Title string
	Why   string
}

// The refusals of this package.
const (
	NotByTheKeeper reason.Code = "not_by_the_keeper"
	ByItsTap       reason.Code = "emptied_by_tap"
	DrainNotLed    reason.Code = "drain_not_led"
	ManyRefills    reason.Code = "too_many_refills"
	Leaks          reason.Code = "leaks"
	HeaterNotSaid  reason.Code = "heater_not_said"
	HeaterStaysOn  reason.Code = "heater_stays_on"
)

// Refusal is the judgement as an error; nil where whoever keeps the machine may
// descale it.
func (s Suits) Refusal() error {
	if s.Finding.Verdict != reason.Refused {
		return nil
	}
	no := s.decided
	no.Finding = s.Finding
	return &no
}

// instead is what may be done with a machine that is not descaled here.
func (s Suits) instead(f machine.Facts) []Offer {
	if s.Way != Workshop && s.Way != TreatWater {
		return nil
	}
	list := []Offer{
		{Treats, "Treat the water", "What never gets in need not come out: see what each treatment leaves."},
	}
	if _, err := DrawOf(f); err == nil {
		list = append(list, Offer{
			DrawsOff, "Draw off the steam boiler",
			"Steam leaves its salts behind; drawing off by the tap carries them out before they set.",
		})
	}
	if s.Way == Workshop {
		list = append(
			list,
			Offer{
				Books,
				"Note that a workshop is booked",
				"The note stands in the log; the date moves when it has been done.",
			},
		)
	}
	return list
}

// undrained is the boiler that may do without a drain (common practice).
const undrained units.Volume = 600

// MostRefills is how many refills a rinse takes at most at home.
const MostRefills = 6

// The refills of a rinse stop at this share of the fill while more than weak of the acid
// is left (package plant); clean is what may stay.
const (
	stops = 0.85
	weak  = 0.01
	clean = 1e-4
)

// Refills is how many drain-and-refills bring a boiler with a heel, as a share of its
// fill, down to a share of the fresh strength; a large number where that never is.
func Refills(heel, limit float64) int {
	share := 1.0
	for n := 1; n <= 50; n++ {
		if share >= weak {
			share *= heel / stops
		} else {
			share *= heel
		}
		if share <= limit {
			return n
		}
	}
	return 50
}

// rule is one thing that speaks for a way of descaling, and what decided it.
type rule struct {
	holds  func(machine.Facts) bool
	way    Way
	source reason.Source
	text   string
	code   reason.Code
	field  string // of the machine
	value  func(machine.Facts) string
	// allowed is what would be accepted there, in words.
	allowed string
	// how is true where the rule is about how a descale would be done, not whether. A
	// choice not to descale at all goes before such a rule.
	how bool
}

// rank orders the ways that rules ask for: the higher, the stricter.
func (r rule) rank() int {
	switch r.way {
	case AtHome:
		return 0
	case WithCare:
		return 1
	case TreatWater:
		return 3
	}
	if r.how {
		return 2
	}
	return 4
}

func isOf(layouts ...machine.Layout) func(machine.Facts) bool {
	return func(f machine.Facts) bool { return slices.Contains(layouts, f.Layout) }
}

func layoutOf(f machine.Facts) string    { return string(f.Layout) }
func stanceOf(f machine.Facts) string    { return f.Stance }
func drainOf(f machine.Facts) string     { return f.Drain }
func warrantyOf(f machine.Facts) string  { return f.Warranty }
func conditionOf(f machine.Facts) string { return f.Condition }
func heelOf(f machine.Facts) string      { return fmt.Sprintf("%.2g", f.Heel) }

func steamBy(f machine.Facts) string { return string(f.SteamBy) }
func brewBy(f machine.Facts) string  { return string(f.BrewHeater) }

// asked is what is said where nobody has said whether a heater can be off while a drained
// boiler fills.
func asked(heater string) string {
	return "To refill a drained boiler the machine must be on. Nobody has said whether the " + heater +
		" heater can be off then: an element would stand dry, or heat acid."
}

// staysOn is what is said where it cannot.
func staysOn(heater string) string {
	return "To refill a drained boiler the machine must be on, and then the " + heater +
		" heater is on: an element would stand dry, or heat acid."
}

// madeOf holds where a boiler of a machine is made of one of these.
func madeOf(list ...string) func(machine.Facts) bool {
	return func(f machine.Facts) bool {
		return slices.Contains(list, f.BrewMaterial) || f.SteamBoiler > 0 && slices.Contains(list, f.SteamMaterial)
	}
}

// materialOf names both, where they differ.
func materialOf(f machine.Facts) string {
	if f.SteamBoiler > 0 && f.SteamMaterial != f.BrewMaterial {
		return f.BrewMaterial + ", " + f.SteamMaterial
	}
	return f.BrewMaterial
}

// letsOut says whether the boilers of a machine are let out, not only pushed through.
func letsOut(f machine.Facts) bool {
	return f.SteamBoiler > 0 && f.Heel > 0 && f.Drain != "tap" && f.Drain != "pouring out"
}

// pumps says whether a machine has a pump that brings water through.
func pumps(f machine.Facts) bool { return f.Pump != machine.NoPump && f.FreeFlow > 0 }

// brewHeats says whether a brew heater of its own may be on while a drained boiler fills:
// nothing but a switch or a menu of its own keeps it off.
func brewHeats(f machine.Facts) bool {
	return letsOut(f) && f.BrewHeater != "" && f.BrewHeater != machine.CanBeOff
}

// steamHeats says the same of the steam heater, which may be held off until it is full, too.
func steamHeats(f machine.Facts) bool {
	return letsOut(f) && f.SteamBy != machine.CanBeOff && f.SteamBy != machine.HeldOff
}

// CannotFill says whether a boiler of a machine cannot be filled with a heater off for
// sure, or not at all.
func CannotFill(f machine.Facts) bool {
	if letsOut(f) {
		return brewHeats(f) || steamHeats(f) || !pumps(f) || f.PumpBeforeHot == machine.No
	}
	return f.SteamBoiler > 0 || pumps(f) && f.PumpBeforeHot == machine.No
}

// rules are gone through in this order. What stands against home goes before what
// somebody prefers: the strictest way that any of them asks for is the answer.
var rules = []rule{
	{holds: isOf(machine.Thermoblock, machine.SingleBoiler), way: AtHome, source: reason.Trade,
		text: "A small heated path that is flushed through: owners descale it as a matter of course."},
	{holds: isOf(machine.LeverManual), way: AtHome, source: reason.Trade,
		text: "It is poured out and filled by hand: acid and rinse water come out the way they went in."},
	{holds: isOf(machine.DualHome), way: WithCare, source: reason.Trade,
		text: "Schools disagree about home dual boilers: on schedule; or never, on low-mineral water, because draining " +
			"invites air locks and leaks; or in a workshop."},
	{holds: isOf(machine.HXHome, machine.LeverCam), way: WithCare, source: reason.Trade,
		text: "A heat exchanger's boiler must be drained and refilled, not just flushed."},
	{holds: func(f machine.Facts) bool { return f.Layout.Commercial() && !f.Entitled }, way: Workshop,
		source: reason.Trade,
		text:   "A trade machine is a pressure vessel, often on the mains: a licensed technician descales it.",
		code:   NotByTheKeeper, field: "layout", value: layoutOf, allowed: "a machine built for the home"},
	{holds: func(f machine.Facts) bool { return f.Stance == "nobody, low-mineral water" }, way: TreatWater,
		source: reason.Said, text: "You chose not to descale, and low-mineral water instead.",
		code: NotByTheKeeper, field: "stance", value: stanceOf, allowed: "by layout, the owner"},
	{holds: func(f machine.Facts) bool { return f.Layout.Commercial() && f.Entitled }, way: WithCare, source: reason.Said,
		text: "A trade machine, led for whoever records by name to be entitled: only what the model of it clears."},
	{holds: func(f machine.Facts) bool { return f.Stance == "a workshop" && !f.Entitled }, way: Workshop,
		source: reason.Said, text: "You chose to leave it to a workshop.",
		code: NotByTheKeeper, field: "stance", value: stanceOf, allowed: "by layout, the owner"},
	{holds: func(f machine.Facts) bool { return f.Plumbed && (!f.Layout.Commercial() || f.Entitled) }, way: WithCare,
		source: reason.Trade,
		text: "It is on the mains: acid never goes into a mains line. Only with the intake moved to a bucket and the " +
			"hose off and capped."},
	{holds: func(f machine.Facts) bool {
		return pumps(f) && (f.Drain == "flushing only" || f.SteamBoiler == 0) &&
			max(f.BrewBoiler, f.SteamBoiler) > undrained
	}, way: Workshop, source: reason.Trade,
		text: fmt.Sprintf("A boiler of more than about %.1f L cannot be rinsed without a drain.", undrained.Litres()),
		how:  true, code: DrainNotLed, field: "drain", value: drainOf, allowed: "a smaller boiler, or one with a drain"},
	{holds: func(f machine.Facts) bool {
		return f.Drain == "technician" && !f.Layout.Commercial() && !f.Entitled
	}, way: Workshop,
		source: reason.Said, text: "Only a technician empties its boilers.",
		code: NotByTheKeeper, field: "drain", value: drainOf, allowed: "a machine its keeper can empty"},
	{holds: func(f machine.Facts) bool { return f.SteamBoiler > 0 && f.Drain == "tap" }, way: Workshop,
		source: reason.Trade,
		text: "Its boiler is emptied by the hot-water tap, and that takes pressure: the acid would have to be heated. " +
			"Never.",
		how: true, code: ByItsTap, field: "drain", value: drainOf, allowed: "a boiler that is drained cold"},
	{holds: func(f machine.Facts) bool { return letsOut(f) && Refills(f.Heel, clean) > MostRefills }, way: Workshop,
		source: reason.Ours,
		text:   "Draining leaves too much behind: the rinse would take more than six refills.",
		how:    true, code: ManyRefills, field: "heel", value: heelOf, allowed: "a drain that leaves less behind"},
	{holds: func(f machine.Facts) bool { return steamHeats(f) && f.SteamBy == machine.NotKnown }, way: Workshop,
		source: reason.Ours, text: asked("steam"), how: true, code: HeaterNotSaid, field: "steam_heater", value: steamBy,
		allowed: "can_be_off or held_off, said on the machine's page: the maker's manual tells"},
	{holds: func(f machine.Facts) bool { return brewHeats(f) && f.BrewHeater == machine.NotKnown }, way: Workshop,
		source: reason.Ours, text: asked("brew"), how: true, code: HeaterNotSaid, field: "brew_heater", value: brewBy,
		allowed: "can_be_off, said on the machine's page: the maker's manual tells"},
	{holds: func(f machine.Facts) bool { return steamHeats(f) && f.SteamBy != machine.NotKnown }, way: Workshop,
		source: reason.Ours, text: staysOn("steam"), how: true, code: HeaterStaysOn, field: "steam_heater", value: steamBy,
		allowed: "can_be_off or held_off: a machine whose heaters can be off while it fills"},
	{holds: func(f machine.Facts) bool { return brewHeats(f) && f.BrewHeater != machine.NotKnown }, way: Workshop,
		source: reason.Ours, text: staysOn("brew"), how: true, code: HeaterStaysOn, field: "brew_heater", value: brewBy,
		allowed: "can_be_off: a machine whose heaters can be off while it fills"},
	{holds: func(f machine.Facts) bool {
		return pumps(f) && f.PumpBeforeHot == machine.No && f.Drain != "tap"
	}, way: Workshop, source: reason.Ours,
		text: "Its pump waits until the machine is hot: acid would be heated.",
		how:  true, code: HeaterStaysOn, field: "pump_before_hot",
		value:   func(f machine.Facts) string { return string(f.PumpBeforeHot) },
		allowed: "yes, or cannot_tell: then it is tried"},
	{holds: func(f machine.Facts) bool {
		return f.SteamBoiler > 0 && f.Drain == "flushing only" && max(f.BrewBoiler, f.SteamBoiler) <= undrained
	}, way: Workshop, source: reason.Ours,
		text: "Nothing empties its steam boiler cold, and while acid is in it its heater must be off.",
		how:  true, code: DrainNotLed, field: "drain", value: drainOf, allowed: "a steam boiler with a drain"},
	{holds: func(f machine.Facts) bool { return f.SteamBoiler == 0 && f.Groups > 1 }, way: Workshop, source: reason.Ours,
		text: "One boiler with several groups: each is an outlet that acid reaches, and pushing through one heats the rest.",
		how:  true, code: DrainNotLed, field: "groups",
		value: func(f machine.Facts) string { return fmt.Sprint(f.Groups) }, allowed: "1"},
	{holds: func(f machine.Facts) bool { return !pumps(f) && (f.Drain != "pouring out" || f.SteamBoiler > 0) },
		way: Workshop, source: reason.Ours,
		text: "It has no pump to push solution and rinse water through, and is not said to be poured out.",
		how:  true, code: DrainNotLed, field: "pump",
		value: func(f machine.Facts) string { return string(f.Pump) }, allowed: "a machine with a pump"},
	{holds: func(f machine.Facts) bool { return pumps(f) && f.SteamBoiler > 0 && f.Drain == "pouring out" },
		way: Workshop, source: reason.Ours, text: "A machine with a pump is not turned over to be poured out.",
		how: true, code: DrainNotLed, field: "drain", value: drainOf, allowed: "a boiler with a drain"},
	{holds: madeOf("aluminium"), way: WithCare, source: reason.Trade,
		text: "Aluminium: only a product its maker approves for it, at most 20 g/L and 20 minutes; never sulfamic acid."},
	{holds: madeOf("not_said"), way: AtHome, source: reason.Ours,
		text: "What the boiler is made of is not said, so the worst its layout is built of is taken."},
	{holds: madeOf("nickel_plated", "tinned_or_soldered"), way: Workshop, source: reason.Trade,
		text: "Acid brings nickel, tin or lead into the water from plating and solder: a workshop decides.",
		code: NotByTheKeeper, field: "brew_material", value: materialOf,
		allowed: "copper, brass, stainless or aluminium, without plating or soft solder"},
	{holds: func(f machine.Facts) bool { return f.Warranty == "forbids descaling" }, way: Workshop,
		source: reason.Said, text: "Its warranty forbids descaling: ask the maker.",
		code: NotByTheKeeper, field: "warranty", value: warrantyOf, allowed: "a machine that may be descaled"},
	{holds: func(f machine.Facts) bool { return f.Condition == "flow is weak" }, way: Workshop, source: reason.Trade,
		text: "The flow is weak already: flakes will block jets and valves.",
		code: NotByTheKeeper, field: "condition", value: conditionOf, allowed: "a machine that is sound"},
	{holds: func(f machine.Facts) bool { return f.Condition == "leaks" }, way: Workshop, source: reason.Trade,
		text: "It leaks, or is unsafe otherwise: switched off, and a technician first.",
		code: Leaks, field: "condition", value: conditionOf, allowed: "a machine that is sound"},
}

// Judge says who should descale a machine.
func Judge(f machine.Facts) Suits {
	s := Suits{Way: AtHome}
	strictest := 0
	for _, r := range rules {
		if !r.holds(f) {
			continue
		}
		s.Finding.Because = append(s.Finding.Because, reason.Reason{Text: r.text, Source: r.source})
		if r.rank() > strictest {
			strictest, s.Way = r.rank(), r.way
			if r.code != "" {
				s.decided = reason.Refusal{Code: r.code, Field: r.field, Value: r.value(f), Allowed: r.allowed}
			}
		}
	}
	s.Finding.Verdict, s.Finding.Title = verdictOf[s.Way], s.Way.Title()
	if next := nextOf[s.Way]; next != "" {
		s.Finding.Next = []string{next}
	}
	s.Instead, s.Asks = s.instead(f), s.asks(f)
	if s.decided.Code == HeaterNotSaid && s.Way == Workshop {
		s.Finding.Next = []string{"Say first what its heaters do: the maker's manual tells. If nobody can tell, a workshop."}
	}
	return s
}

// asks are the facts to be said first: none where something else speaks against it anyway.
func (s Suits) asks(f machine.Facts) []string {
	if s.Finding.Verdict == reason.Refused && s.decided.Code != HeaterNotSaid {
		return nil
	}
	var list []string
	for _, r := range rules {
		if r.code == HeaterNotSaid && r.holds(f) {
			list = append(list, r.field)
		}
	}
	if f.BrewMaterial == "not_said" {
		list = append(list, "brew_material")
	}
	if f.SteamBoiler > 0 && f.SteamMaterial == "not_said" {
		list = append(list, "steam_material")
	}
	return list
}

var verdictOf = map[Way]reason.Verdict{
	AtHome: reason.Fine, WithCare: reason.Look, Workshop: reason.Refused, TreatWater: reason.Refused,
}

var nextOf = map[Way]string{
	Workshop:   "Book a workshop for the date; treat the water meanwhile.",
	TreatWater: "Choose a water that leaves no scale, and look into the tap's gauze once a year.",
	WithCare:   "The maker's manual first; cold, unplugged, gauge at 0 before anything is opened.",
}
