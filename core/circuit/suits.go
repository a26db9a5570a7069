package circuit

import (
	"fmt"

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
}

// OfferKind is what is done in the place of a descale.
type OfferKind string

// The offers: treating the water, drawing off the steam boiler, booking a workshop.
const (
	Treats   OfferKind = "treat_water"
	DrawsOff OfferKind = "draw_off"
	Books    OfferKind = "workshop"
)

// Offer is one of them, and why.
type Offer struct {
	Kind  OfferKind
	Title string
	Why   string
}

// instead is what may be done with a machine that is not descaled here.
func (s Suits) instead(f machine.Facts) []Offer {
	if s.Way != Workshop && s.Way != TreatWater {
		return nil
	}
	list := []Offer{
		{Treats, "Treat the water", "What never gets in need not come out: see what each treatment leaves."},
	}
	if f.SteamBoiler > 0 && f.Condition != "leaks" {
		list = append(
			list,
			Offer{
				DrawsOff,
				"Draw off the steam boiler",
				"Steam leaves its salts behind; drawing off by the tap carries them out before they set.",
			},
		)
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

// Judge says who should descale a machine.
func Judge(f machine.Facts) Suits {
	s := Suits{Way: AtHome}
	because := func(source reason.Source, text string, args ...any) {
		s.Finding.Because = append(s.Finding.Because, reason.Reason{Text: fmt.Sprintf(text, args...), Source: source})
	}
	next := func(text string) { s.Finding.Next = append(s.Finding.Next, text) }
	atLeast := func(w Way) {
		if rankOf[w] > rankOf[s.Way] {
			s.Way = w
		}
	}
	boiler := max(f.BrewBoiler, f.SteamBoiler)
	switch f.Layout {
	case machine.Thermoblock, machine.SingleBoiler:
		because(reason.Trade, "A small heated path that is flushed through: owners descale it as a matter of course.")
	case machine.LeverManual:
		because(
			reason.Trade,
			"It is poured out and filled by hand: acid and rinse water come out the way they went in.",
		)
	case machine.DualHome:
		atLeast(WithCare)
		because(
			reason.Trade,
			"Schools disagree about home dual boilers: on schedule; or never, on low-mineral water, because draining "+
				"invites air locks and leaks; or in a workshop. By default on schedule, drained by its screws.",
		)
	case machine.HXHome, machine.LeverCam:
		atLeast(WithCare)
		because(reason.Trade, "A heat exchanger's boiler must be drained and refilled, not just flushed.")
	default:
		atLeast(Workshop)
		because(
			reason.Trade,
			"A trade machine is a pressure vessel, often on the mains: a licensed technician descales it.",
		)
	}
	switch f.Stance {
	case "nobody, low-mineral water":
		atLeast(TreatWater)
		because(reason.Said, "You chose not to descale, and low-mineral water instead.")
	case "a workshop":
		atLeast(Workshop)
		because(reason.Said, "You chose to leave it to a workshop.")
	}
	if f.Plumbed && !f.Layout.Commercial() {
		atLeast(WithCare)
		because(
			reason.Trade,
			"It is on the mains: acid never goes into a mains line. Only with the intake moved to a bucket and the hose "+
				"off and capped.",
		)
	}
	if f.Drain == "flushing only" && boiler > undrained {
		atLeast(Workshop)
		because(
			reason.Trade,
			"A boiler of %.1f L without a drain cannot be rinsed: over about %.1f L it needs one.",
			boiler.Litres(),
			undrained.Litres(),
		)
	}
	if f.Drain == "technician" {
		atLeast(Workshop)
	}
	switch f.Material {
	case "aluminium":
		atLeast(WithCare)
		because(reason.Trade, "Aluminium: only a product its maker approves for it, never sulfamic acid.")
		because(reason.Ours, "With aluminium at most 20 g/L and 20 minutes.")
	case "not said":
		because(reason.Ours, "What the boiler is made of is not said: find out before any acid goes in.")
	}
	switch f.Warranty {
	case "forbids descaling":
		atLeast(Workshop)
		because(reason.Said, "Its warranty forbids descaling: ask the maker.")
	}
	switch f.Condition {
	case "flow is weak":
		atLeast(Workshop)
		because(reason.Trade, "The flow is weak already: flakes will block jets and valves.")
	case "leaks":
		atLeast(Workshop)
		because(reason.Trade, "It leaks, or is unsafe otherwise: switched off, and a technician first.")
	}
	switch s.Way {
	case Workshop:
		next("Book a workshop for the date; treat the water meanwhile.")
	case TreatWater:
		next("Choose a water that leaves no scale, and look into the tap's gauze once a year.")
	case WithCare:
		next("The maker's manual first; cold, unplugged, gauge at 0 before anything is opened.")
	}
	verdicts := map[Way]reason.Verdict{
		AtHome:     reason.Fine,
		WithCare:   reason.Look,
		Workshop:   reason.Refused,
		TreatWater: reason.Refused,
	}
	s.Finding.Verdict, s.Finding.Title = verdicts[s.Way], s.Way.Title()
	s.Instead = s.instead(f)
	return s
}

var rankOf = map[Way]int{AtHome: 0, WithCare: 1, TreatWater: 2, Workshop: 3}
