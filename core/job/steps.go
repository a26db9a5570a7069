package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// brushFlush is the water of a flush beside the brush (our own engineering choice).
const brushFlush units.Volume = 50

// prepare begins a sitting; in one whose groups overlap each needs its own blind.
func prepare(f machine.Facts, overlap bool) Step {
	do := []string{"Machine on and at pressure."}
	switch {
	case f.Tank > 0:
		do = append(do, "Tank full.")
	case f.Plumbed:
		do = append(do, "Water supply open.")
	}
	if f.Tray > 0 {
		do = append(do, "Tray empty and back in.")
	}
	if overlap {
		do = append(
			do,
			"A handle and a blind for each group. With one blind only, wash the groups one after the other instead.",
		)
	}
	switch f.Blind {
	case "none":
		do = append(
			do,
			"You have no blind on record: get one that fits before you start. A basket with holes builds no pressure.",
		)
	case "rubber with a hole":
		do = append(do, "The rubber disc and a clear cup at hand. The disc drips through its hole: that is normal.")
	default:
		do = append(do, "A blind basket and a clear cup at hand.")
	}
	return Step{
		ID:       "ready",
		Body:     Act{},
		Title:    "get ready",
		Head:     "Get ready",
		Do:       do,
		Button:   "All ready",
		Cautions: []reason.Caution{scald},
		Takes:    30 * time.Second,
	}
}

func brush() Step {
	return Step{
		ID:     "brush",
		Body:   Act{Flushes: brushFlush},
		Title:  "brush, flush",
		Head:   "Brush and flush",
		Button: "Brushed and flushed",
		Takes:  45 * time.Second,
		Do: []string{
			"Take the handle out.",
			"Brush the seal and the screen.",
			"Flush for a few seconds, so that no grounds are driven back.",
		},
		Cautions: []reason.Caution{scald},
	}
}

func dosing(d backflush.Dose, m backflush.Method) Step {
	what, put := fmt.Sprintf("%.2g g", d.Mass.Value), "Powder in, dry."
	button := "Powder is in, handle locked"
	switch {
	case d.Pinch:
		what, put = "a pinch", "A pinch of powder in, dry."
	case d.Form == backflush.Tablets:
		what, put, button = "one tablet", "One tablet in, dry.", "Tablet is in, handle locked"
	}
	blind := "Put the blind basket in the handle."
	if m.Program > 0 {
		blind = "Put the cleaning disc in the handle."
	}
	return Step{
		ID:       "dose",
		Body:     Act{},
		Title:    what + " in the blind, lock in",
		Head:     "Dose",
		Button:   button,
		Effect:   Doses,
		Takes:    40 * time.Second,
		Do:       []string{blind, put, "Lock the handle in."},
		Cautions: []reason.Caution{soap, drink},
	}
}

func soapy(id string, p backflush.Pulses, f machine.Facts) Step {
	return Step{
		ID:     id,
		Body:   Pulses{p},
		Title:  pulseTitle(p, "detergent"),
		Head:   "Detergent pulses",
		Button: "Begin: " + starts(f.Pump),
		Do: []string{
			"Stand a clear cup under the drain spout for the first dirty water.",
			"Tap Begin and start the pump together: " + starts(f.Pump) + ".",
			"Follow ON and OFF by eye.",
		},
		Cautions: []reason.Caution{lock, drain},
	}
}

// soak stands with detergent in the group, begun by the last pulse's end.
func soak(long time.Duration) Step {
	return Step{
		ID: "soak", Title: fmt.Sprintf("soak %.0f min", long.Minutes()), Head: "Soak", Button: "Go on",
		Effect:   Stands,
		Do:       []string{"Leave the handle in. Stay here: never longer unattended, or it dries hard in the valve."},
		Cautions: []reason.Caution{lock, drink},
		Body:     Soak{For: long},
	}
}

// programPulses is the water a program is taken to vent, in pulses: five with
// detergent, five without (our own engineering choice).
const programPulses = 10

func program(m backflush.Method, f machine.Facts) Step {
	return Step{
		ID: "program", Title: "the machine's own program", Head: "Start the cleaning program",
		Button: "The program has started", Effect: Stands,
		Do: []string{
			"At least 1 L in the tank, tray empty.",
			"Start the machine's cleaning program by its manual. It runs 6 to 7 minutes.",
			"Stand a clear cup under the drain spout for the first dirty water.",
		},
		Cautions: []reason.Caution{lock, drain},
		Body: Wait{
			For: m.Program, Early: true, Ends: "It has finished", Soapy: m.Detergent.Count, Lets: programPulses * f.Vents,
		},
	}
}

// first asks how the first discharge looked: it tells whether the interval fits.
func first() Step {
	return Step{
		ID:     "first",
		Body:   Look{At: FirstWater},
		Title:  "first discharge: how brown?",
		Head:   "The first discharge",
		Button: "That is how it looked",
		Takes:  10 * time.Second,
		Do: []string{
			"How brown was the first discharge, with the detergent? Foam is normal.",
			"Missed it? Say so: it only tells whether the wash comes often enough. Did nothing come at the drain at all? Tap " +
				"Nothing came out, and leave the handle locked.",
		},
		Cautions: []reason.Caution{drink, drain},
	}
}

func wiggle() Step {
	return Step{
		ID:     "wiggle",
		Body:   Act{Flushes: brushFlush},
		Title:  "loosen slightly, water on, wiggle, brush",
		Head:   "Loosen and wiggle",
		Button: "Wiggled and brushed",
		Takes:  45 * time.Second,
		Do: []string{
			"Wait until the hiss has ended.",
			"Loosen the handle a few degrees, not off. Water on for 3 seconds: it runs over the rim of the seal. Wiggle " +
				"the handle. Water off.",
			"Wait, handle out, brush seal and screen.",
		},
		Cautions: []reason.Caution{lock, scald},
	}
}

func screen() Step {
	return Step{
		ID:     "screen",
		Body:   Act{},
		Title:  "screen off, look, wash",
		Head:   "Drop the screen",
		Button: "Screen is washed and back",
		Takes:  2 * time.Minute,
		Do: []string{
			"Wait until the hiss has ended. Handle out.",
			"Screw out, screen off: are all holes open, on both sides? Wash it under clean water.",
			"Screen back, screw snug, not tight. If it does not come off easily, leave it on.",
		},
		Cautions: []reason.Caution{
			lock,
			{Danger: "scald", Text: "Screen and screw are as hot as the group: a cloth, or let it cool first."},
		},
	}
}

func empty() Step {
	return Step{
		ID:     "blind",
		Body:   Act{},
		Effect: Empties,
		Title:  "empty and rinse the blind",
		Head:   "Empty the blind",
		Button: "Blind is clean and locked in",
		Takes:  45 * time.Second,
		Do: []string{
			"Wait until the hiss has ended.",
			"Handle out. Empty the blind and rinse it under clean water.",
			"Blind back in, no powder. Lock in.",
		},
		Cautions: []reason.Caution{lock, scald},
	}
}

// blind locks the clean blind in, for water only.
func blind() Step {
	return Step{
		ID:     "blind",
		Body:   Act{},
		Effect: Empties,
		Title:  "clean blind in",
		Head:   "Blind in",
		Button: "Blind is in, no powder",
		Takes:  20 * time.Second,
		Do: []string{
			"Brush the seal and the screen.",
			"Clean blind basket in the handle, no powder. Lock in.",
		},
		Cautions: []reason.Caution{scald},
	}
}

// mostBrims is how often hot water is tried in a group that detergent dried in, the
// last time with a little powder (common practice).
const mostBrims = 3

// listen asks what happens when the pump runs for a second, in a group that detergent
// was left in. Only water that comes leads on; a valve that does not let go, or a jet
// that is blocked, is a technician's.
func listen() Step {
	var tries [][]Step
	for n := range mostBrims {
		tries = append(tries, []Step{brim(n == mostBrims-1)})
	}
	call := func(title, because string, next ...string) *reason.Finding {
		return &reason.Finding{
			Verdict: reason.Stop, Title: title, Because: []reason.Reason{{Text: because, Source: reason.Trade}},
			Next: append(next, "Stop here. The group stays marked, no drinks from it."),
		}
	}
	return Step{
		ID: "listen", Title: "does it click, does water come?", Head: "Listen: does it click?",
		Button: "That is what happens", Takes: 15 * time.Second,
		Do: []string{
			"Handle out. Pump on for one second.",
			"The valve clicks, and water comes from the group: as it should be.",
		},
		Cautions: []reason.Caution{scald, drink},
		Body: Choose{Ways: []Way{
			{Answer: Flows, Text: "It clicks, and water comes"},
			{Answer: NoClick, Text: "No click, no water", Tries: tries,
				Stop: call("Still no click: the coil",
					"Hot water and foam did not free it, so it is not dried powder.",
					"A technician measures the coil and opens the valve, unplugged and cold.")},
			{Answer: Clicks, Text: "It clicks, but no water",
				Stop: call(
					"It clicks, but no water comes: the group's jet is blocked",
					"The valve lets go. A jet of about 0.8 mm behind a small strainer is stopped, usual after standing "+
						"unused.",
					"Technician's work: unplugged, cold, supply shut, boiler gauge at 0, steam tap open.",
				)},
		}},
	}
}

// brim dissolves what has dried in the valve with hot water, and at the last try
// with the foam of a little powder.
func brim(powder bool) Step {
	s := Step{
		ID: "brim", Title: "hot water to the brim", Head: "Fill the blind to the brim",
		Button: "Locked in and waited", Takes: 3 * time.Minute,
		Do: []string{
			"Dried powder holds the valve. Fill the blind with hot water, to the brim.",
			"Lock it in, so that the water stands against the screen. Wait three minutes.",
			"Handle out, carefully.",
		},
		Cautions: []reason.Caution{scald, drink},
		Body:     Act{},
	}
	if powder {
		s.Title, s.Head, s.Effect = "hot water and a little powder", "Once more, with a little powder", Doses
		s.Do[0] = "The same with a pinch of powder in the hot water: its foam creeps where water does not."
		s.Cautions = []reason.Caution{soap, scald}
	}
	return s
}

// rest ends a water backflush.
func rest(f machine.Facts) Step {
	return Step{
		ID:     "rest",
		Body:   Act{Flushes: backflush.RinseFlush, FlushTime: flushTime(f)},
		Title:  "basket back, flush",
		Head:   "Basket back, flush",
		Button: "Flushed",
		Takes:  30 * time.Second,
		Do: []string{
			"Wait until the hiss has ended.",
			"Blind out, coffee basket in.",
			"Flush into the tray.",
		},
		Cautions: []reason.Caution{lock, scald},
	}
}

// open begins a rinse of a group that already holds detergent.
func open() Step {
	return Step{
		ID:     "open",
		Body:   Act{},
		Title:  "handle out, empty the blind",
		Head:   "Handle out, carefully",
		Button: "Handle is out, blind is clean",
		Takes:  60 * time.Second,
		Do: []string{
			"If a handle is locked in: wait until no hiss is left, cloth over it, loosen a few degrees, stop, wait, then " +
				"take it out.",
			"Empty the blind and rinse it under clean water.",
		},
		Cautions: []reason.Caution{lock, drain, drink},
	}
}

func rinsing(id string, p backflush.Pulses, begin string) Step {
	return Step{
		ID:       id,
		Body:     Pulses{p},
		Title:    pulseTitle(p, "water"),
		Head:     "Water pulses",
		Button:   "Begin: " + begin,
		Effect:   Rinses,
		Do:       []string{"Only water now.", "Catch the last discharge at the drain in the clear cup."},
		Cautions: []reason.Caution{lock, drain},
	}
}

// Cup is the look that asks for a reading; More is the pair of pulses before
// the next one. A run adds them until the cup is clear.
func Cup(id string) Step {
	return Step{
		ID:     id,
		Body:   Look{At: RinseCup},
		Title:  "cup: colour, foam, grains",
		Head:   "Look in the cup",
		Button: "That is what I see",
		Takes:  20 * time.Second,
		Do: []string{
			"Hold it against something white.",
			"Pick what you see. If in doubt, pick the dirtier one.",
		},
		Cautions: []reason.Caution{drink},
	}
}

func basket(f machine.Facts) Step {
	return Step{
		ID:       "basket",
		Body:     Act{Flushes: backflush.RinseFlush, FlushTime: flushTime(f)},
		Title:    "basket back, flush",
		Head:     "Basket back, flush",
		Button:   "Flushed",
		Effect:   Proves,
		Takes:    40 * time.Second,
		Do:       []string{"Wait until the hiss has ended.", "Blind out, coffee basket in.", "Flush into the tray."},
		Cautions: []reason.Caution{lock, scald},
	}
}

func flushTime(f machine.Facts) *reason.Worked {
	w := reason.Worked{
		Name:    "length of the flush",
		Value:   math.Ceil(float64(backflush.RinseFlush) / f.FreeFlow),
		Unit:    "s",
		Formula: "ceil(flush ÷ flow)",
		Source:  reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "flush",
				Label:  "water that ends the rinse",
				Value:  float64(backflush.RinseFlush),
				Unit:   "mL",
				Source: reason.Ours,
			},
			{Symbol: "flow", Label: "free flow from the group", Value: f.FreeFlow, Unit: "mL/s", Source: reason.Ours},
		},
		WouldChange: []string{"a group that flows faster or slower: the machine's page"},
	}.Exact()
	return &w
}

func discard() Step {
	return Step{
		ID:       "discard",
		Body:     Act{},
		Effect:   Pours,
		Title:    "discard the first drink",
		Head:     "Pour the first drink away",
		Button:   "Poured away",
		Takes:    time.Minute,
		Do:       []string{"Pull one shot as usual.", "Pour it away. Do not taste it to test for detergent."},
		Cautions: []reason.Caution{scald},
	}
}

// starts is what begins a pulse: the pump, or the lever that makes the pressure.
func starts(p machine.Pump) string {
	if p == machine.NoPump {
		return "lever on"
	}
	return "pump on"
}

func pulseTitle(p backflush.Pulses, with string) string {
	return fmt.Sprintf("%.0f s on, %.0f s off, %s", p.On.Seconds(), p.Off.Seconds(), with)
}
