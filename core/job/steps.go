package job

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// brushFlush is the water of a flush beside the brush, wiggled what runs over the rim of a
// loosened handle, shot what one shot lets out (our own engineering choices).
const (
	brushFlush units.Volume = 50
	wiggled                 = 3 * time.Second
	shot                    = 0.05 // L
)

// disc says whether a rubber disc in the coffee basket is what closes it.
func disc(f machine.Facts) bool {
	return strings.HasPrefix(f.Blind, "rubber") || f.Blind == machine.PressurisedDisc
}

// blindName is what stops a group, as its keeper has it.
func blindName(f machine.Facts) string {
	if disc(f) {
		return "rubber disc"
	}
	return "blind basket"
}

// putIn is how what stops the group is put in.
func (w washer) putIn(how string) string {
	if disc(w.f) {
		return "Lay the " + how + " rubber disc into the basket"
	}
	return "Put the " + how + " blind basket into the handle"
}

// cleared is how what stops the group is freed of what lies in it.
func (w washer) cleared(how string) string {
	if disc(w.f) {
		return "Take the disc out, rinse basket and disc " + strings.TrimPrefix(how, "rinse it ")
	}
	return "Empty the blind basket and " + how
}

// washer writes the steps of the wash of one group: what is said and what is done, as one.
type washer struct {
	f     machine.Facts
	m     backflush.Method
	group string // its opening
	lever bool   // its pump runs by a lever
}

func (w washer) act(verb plant.Verb) plant.Action { return act(verb, w.group) }

// begin is how the pulses are begun: the hand and the clock in the same moment.
func (w washer) begin() doing {
	if w.lever {
		return say(withLever)
	}
	return say(withPump)
}

// How the pulses are begun, as the screen leads them.
const (
	withLever = "Tap Begin and lift the lever in the same moment. Lower it at OFF, lift it at ON."
	withPump  = "Tap Begin and press the brew switch in the same moment. Switch off at OFF, on at ON."
)

// hissOver is said wherever a handle is taken out after a pulse.
const hissOver = "Wait until the hiss has ended. Take the handle out."

func (w washer) flushes(v units.Volume) plant.Action {
	return amount(plant.Flush, w.group, float64(v.Litres()))
}

// flushSeconds is how long so much water takes through an open group.
func (w washer) flushSeconds(v units.Volume) float64 { return math.Ceil(w.f.FreeFlow.Takes(v)) }

// prepare begins a sitting; in one whose groups overlap each needs its own blind. Heats is how
// long the machine takes to its heat from cold.
func prepare(f machine.Facts, overlap bool, heats time.Duration) Step {
	s := Step{
		ID: "ready", Body: Act{}, Title: "get ready", Head: "Get ready", Button: "All ready",
		Cautions: []reason.Caution{scald}, Takes: 30 * time.Second,
	}
	water := waterReady(f)
	tray := trayEmpty(f)
	each := doing{}
	if overlap {
		each = say("Each group needs its own handle and %s. With only one, wash one group after the other.", blindName(f))
	}
	blind := "Have a blind basket and a clear cup ready. A blind basket has no holes."
	switch f.Blind {
	case "none":
		blind = "You have no blind basket on record: get one that fits. A basket with holes builds no pressure."
	case "rubber without a hole":
		blind = "Have the rubber disc, its basket and a clear cup ready."
	case "rubber with a hole":
		blind = "Have the rubber disc and a clear cup ready. The disc drips through its hole: that is normal."
	case machine.PressurisedDisc:
		blind = "Have the pressurised basket with its rubber disc and a clear cup ready. A second cup stands under the spout."
	case machine.PressurisedSix:
		blind = "Have the pressurised basket and a clear cup ready. A second cup stands under the spout: it drips there. " +
			"Under 6 bar on the gauge the pulse does not count."
	}
	return s.with(
		say("The machine is on and hot. From cold that takes about %s.", spokenTime(heats)),
		water, tray, each, say("%s", blind),
	)
}

// waterReady fills the tank, or has the supply open.
func waterReady(f machine.Facts) doing {
	switch {
	case f.Tank > 0:
		return does("Fill the tank.", act(plant.FillUp, "tank"))
	case f.Plumbed:
		return say("The water supply is open.")
	}
	return doing{}
}

// trayEmpty empties the drip tray, where there is one.
func trayEmpty(f machine.Facts) doing {
	if f.Tray == 0 {
		return doing{}
	}
	return does("Empty the drip tray and put it back.", act(plant.Empty, "tray"))
}

// WholeMinutes is a time as a person counts on it: at least a minute, up to the next one, to five where it is long.
func WholeMinutes(d time.Duration) float64 {
	minutes := math.Max(1, math.Ceil(d.Minutes()))
	if minutes > 15 {
		minutes = math.Ceil(minutes/5) * 5
	}
	return minutes
}

// spokenTime is a time of minutes as a person says it.
func spokenTime(d time.Duration) string {
	minutes := WholeMinutes(d)
	if minutes == 1 {
		return "a minute"
	}
	return fmt.Sprintf("%.0f minutes", minutes)
}

func (w washer) brush() Step {
	return Step{
		ID: "brush", Body: Act{Flushes: brushFlush}, Title: "brush, flush", Head: "Brush and flush",
		Button: "Brushed and flushed", Takes: 45 * time.Second, Cautions: []reason.Caution{scald},
	}.with(
		does("Take the handle out.", w.act(plant.TakeOut)),
		say("Brush the seal and the screen."),
		does(fmt.Sprintf("Flush for %.0f seconds.", w.flushSeconds(brushFlush)), w.flushes(brushFlush)),
	)
}

// waterFirst presses clean water through before any powder, so that no grounds are driven back.
func (w washer) waterFirst() Step {
	p := backflush.WaterFirst(w.m)
	return Step{
		ID: "water", Body: Pulses{p}, Title: pulseTitle(p, "water first"), Head: "Water first",
		Button: "Begin: " + starts(w.f), Effect: Clears, Cautions: []reason.Caution{lock, drain},
	}.with(
		does(w.putIn("empty")+" and lock it in.", w.act(plant.LockBlind)),
		w.begin(),
		say("Clean water comes first, so that no grounds are driven into the valve."),
	)
}

func (w washer) dosing(d backflush.Dose) Step {
	button := "Powder is in, handle locked"
	if d.Form == backflush.Tablets {
		button = "Tablet is in, handle locked"
	}
	put := does(fmt.Sprintf("Put %s in, dry.", d.Words()), amount(plant.PutPowder, w.group, d.Mass.Value))
	if w.m.Program > 0 {
		put.text = fmt.Sprintf("Lay the cleaning disc in, if your machine has one. Put %s in, dry.", d.Words())
	}
	return Step{
		ID: "dose", Body: Act{}, Title: d.Words() + " in the blind", Head: "Dose", Button: button, Effect: Doses,
		Takes: 40 * time.Second, Cautions: []reason.Caution{lock, soap, drink},
	}.with(
		does(hissOver, w.act(plant.TakeOut)),
		does(map[bool]string{true: "Pour the water off the disc, and wipe disc and basket dry.",
			false: "Empty the blind basket and wipe it dry."}[disc(w.f)], w.act(plant.WipeBlind)), put,
		does("Lock the handle in.", w.act(plant.LockBlind)),
	)
}

// soapy is a set of pulses with detergent; soaked says that one went before it, so that the cup
// stands already.
func (w washer) soapy(id string, p backflush.Pulses, soaked bool) Step {
	stand := "Stand a clear cup under the drain spout for the first dirty water. Do not hold it."
	if soaked {
		stand = "Leave the cup under the drain spout. Do not hold it."
	}
	return Step{
		ID: id, Body: Pulses{p}, Title: pulseTitle(p, "detergent"), Head: "Detergent pulses",
		Button: "Begin: " + starts(w.f), Cautions: []reason.Caution{lock, cup, drain},
	}.with(
		say("%s", stand),
		w.begin(),
	)
}

// soak stands with detergent in the group, begun by the last pulse's end.
func soak(long time.Duration) Step {
	return Step{
		ID: "soak", Title: fmt.Sprintf("soak %.0f min", long.Minutes()), Head: "Soak", Button: "Go on",
		Effect: Stands, Body: Soak{For: long}, Cautions: []reason.Caution{lock, drink},
	}.with(say("Leave the handle in, and stay here. Left longer, detergent dries hard in the valve."))
}

// programPulses is the water a program is taken to vent, in pulses: five with
// detergent, five without (our own engineering choice).
const programPulses = 10

// programWater is what such a program wants before it starts.
func programWater(f machine.Facts) doing {
	if f.Plumbed {
		return say("The water supply is open.")
	}
	return say("At least 1 L is in the tank, and the tray is empty.")
}

func (w washer) program() Step {
	return Step{
		ID: "program", Title: "the machine's own program", Head: "Start the cleaning program",
		Button: "The program has started", Effect: Stands, Cautions: []reason.Caution{lock, cup, drain},
		Body: Wait{
			For: w.m.Program, Early: true, Ends: "It has finished", Soapy: w.m.Detergent.Count, Lets: programPulses * w.f.Vents,
			Does: []plant.Action{amount(plant.OwnWash, w.group, programPulses)},
		},
	}.with(
		programWater(w.f),
		say("Start the machine's cleaning program by its manual. It runs 6 to 7 minutes."),
		say("Stand a clear cup under the drain spout for the first dirty water. Do not hold it."),
	)
}

// first asks how the first dirty water looked: it tells whether the interval fits.
func first() Step {
	return Step{
		ID: "first", Body: Look{At: FirstWater}, Title: "first dirty water: how brown?", Head: "The first dirty water",
		Button: "That is how it looked", Takes: 10 * time.Second, Cautions: []reason.Caution{drink, cup, drain},
	}.with(
		say("How brown was the first water with detergent? Foam is normal."),
		say("Missed it? Say so: it only tells whether the wash comes often enough."),
		say("Did nothing come at the drain at all? Tap Nothing came out, and leave the handle locked."),
	)
}

// again are the detergent pulses that a tablet gets which is not gone.
const again = 5

// gone asks whether a tablet has dissolved, and gives it more pulses.
func (w washer) gone() Step {
	more := Step{
		ID: "tablet", Title: "more detergent pulses", Head: "More detergent pulses", Button: "Begin: " + starts(w.f),
		Body:     Pulses{backflush.Pulses{On: w.m.Rinse.On, Off: w.m.Rinse.Off, Count: again}},
		Cautions: []reason.Caution{lock, cup, drain},
	}.with(
		does("Leave the rest of the tablet in. Lock the handle in again.", w.act(plant.LockBlind)),
		w.begin(),
	)
	return Step{
		ID: "gone", Title: "is the tablet gone?", Head: "Is the tablet gone?", Button: "That is how it is",
		Takes: 20 * time.Second, Cautions: []reason.Caution{lock, drink},
		Body: Choose{Ways: []Way{
			{Answer: Gone, Text: "It is gone"},
			{Answer: SomeLeft, Text: "Some of it is left", Tries: [][]Step{{more}, {more}}},
		}},
	}.with(does(hissOver+" Look into the basket.", w.act(plant.TakeOut)))
}

// wiggle washes the rim of the seal, after the last rinse pulse: the handle is not turned while
// water runs.
func (w washer) wiggle() Step {
	runs := w.f.FreeFlow.Over(wiggled.Seconds())
	return Step{
		ID: "wiggle", Body: Act{Flushes: runs}, Title: "loosen, water over the rim, brush", Head: "Water over the rim",
		Button: "Handle is out, brushed", Takes: 45 * time.Second, Cautions: []reason.Caution{lock, sprays},
	}.with(
		does("Wait until the hiss has ended. Loosen the handle a little: both lugs still hold fully.", w.act(plant.Loosen)),
		does(fmt.Sprintf("Do not turn it now. Let water run for %.0f seconds, then stop it.", wiggled.Seconds()),
			w.flushes(runs)),
		does("Wait until the hiss has ended. Take the handle out.", w.act(plant.TakeOut)),
		say("Brush the seal and the screen."),
	)
}

// screenTomorrow puts off what needs a cold group.
func screenTomorrow() Step {
	return Step{
		ID: "screen", Body: Act{}, Title: "screen: tomorrow, cold", Head: "The screen comes tomorrow", Button: "I will",
		Takes: 10 * time.Second,
		Cautions: []reason.Caution{
			{Danger: "scald", Text: "Screen and screw are as hot as the group. Never above 45 °C."},
		},
	}.with(
		say("Tomorrow, before you switch on: take the screen off and look at both sides."),
		say("Wash it under clean water. Put it back; the screw snug, not tight."),
		say("If it does not come off easily, leave it on."),
	)
}

// empty takes the blind out after the detergent pulses, or has it in the hand already.
func (w washer) empty(inHand bool) Step {
	out := does(hissOver, w.act(plant.TakeOut))
	if inHand {
		out = doing{}
	}
	return Step{
		ID: "blind", Body: Act{}, Effect: Empties, Title: "empty and rinse the blind", Head: "Empty the blind",
		Button: "Blind is clean and locked in", Takes: 45 * time.Second, Cautions: []reason.Caution{lock, scald},
	}.with(
		out,
		does(w.cleared("rinse it under clean water")+". Rinse the cup, too.", w.act(plant.WipeBlind)),
		does("Lock it in again, without detergent.", w.act(plant.LockBlind)),
	)
}

// blind locks the clean blind in, for water only, after the coffee basket or with the handle in
// the hand.
func (w washer) blind(inHand bool) Step {
	out := does("Take the handle out.", w.act(plant.TakeOut))
	if inHand {
		out = doing{}
	}
	return Step{
		ID: "blind", Body: Act{}, Effect: Empties, Title: "clean blind in", Head: "Blind in",
		Button: "Blind is in, no detergent", Takes: 20 * time.Second, Cautions: []reason.Caution{scald},
	}.with(
		out,
		say("Brush the seal and the screen."),
		does(w.putIn("clean")+", without detergent. Lock it in.", w.act(plant.WipeBlind), w.act(plant.LockBlind)),
	)
}

// rest ends a water backflush.
func (w washer) rest() Step {
	s := w.basketBack(false)
	s.Takes = 30 * time.Second
	return s
}

func (w washer) basketBack(inHand bool) Step {
	out := does(hissOver, w.act(plant.TakeOut))
	if inHand {
		out = doing{}
	}
	return Step{
		ID: "basket", Body: Act{Flushes: backflush.RinseFlush, FlushTime: flushTime(w.f)}, Title: "basket back, flush",
		Head: "Basket back, flush", Button: "Flushed", Takes: 40 * time.Second, Cautions: []reason.Caution{lock, scald},
	}.with(
		out,
		does("Put the coffee basket back and lock it in.", w.act(plant.LockBasket)),
		does("", w.flushes(backflush.RinseFlush)), // it is said with its seconds
	)
}

// basket ends the rinse of a wash.
func (w washer) basket(inHand bool) Step {
	s := w.basketBack(inHand)
	s.Effect, s.Acts = Proves, append(s.Acts, w.act(plant.Rinsed))
	return s
}

// open begins a rinse of a group that already holds detergent.
func (w washer) open() Step {
	return Step{
		ID: "open", Body: Act{}, Title: "handle out, empty the blind", Head: "Handle out, carefully",
		Button: "Handle is out, blind is clean", Takes: 60 * time.Second, Cautions: []reason.Caution{lock, drain, drink},
	}.with(
		say("Is a handle locked in? Put a cloth over it."),
		does("Loosen it a few degrees. Stop, and wait until nothing hisses or drips. Then take it out.",
			w.act(plant.TakeOut)),
		does(w.cleared("rinse it under clean water")+".", w.act(plant.WipeBlind)),
	)
}

func (w washer) rinsing(id string, p backflush.Pulses) Step {
	return Step{
		ID: id, Body: Pulses{p}, Title: pulseTitle(p, "water"), Head: "Water pulses", Button: "Begin: " + starts(w.f),
		Effect: Rinses, Cautions: []reason.Caution{lock, cup, drain},
	}.with(
		say("Only water now. Stand the clear cup under the drain spout for the last of it."),
		w.begin(),
	)
}

// Cup is the look that asks for a reading; More is the pair of pulses before
// the next one. A run adds them until the cup is clear.
func Cup(id string) Step {
	return Step{
		ID: id, Body: Look{At: RinseCup}, Title: "cup: colour, foam, grains", Head: "Look in the cup",
		Button: "That is what I see", Takes: 20 * time.Second, Cautions: []reason.Caution{drink},
		Do: []string{
			"Hold it against something white.",
			"Pick what you see. If in doubt, pick the dirtier one.",
		},
	}
}

func flushTime(f machine.Facts) *reason.Worked {
	w := reason.Worked{
		Name: "length of the flush", Value: math.Ceil(f.FreeFlow.Takes(backflush.RinseFlush)), Unit: "s",
		Formula: "ceil(flush ÷ flow)", Source: reason.Ours,
		Inputs: []reason.Input{
			{Symbol: "flush", Label: "water that ends the rinse", Value: float64(backflush.RinseFlush), Unit: "mL",
				Source: reason.Ours},
			{Symbol: "flow", Label: "free flow from the group", Value: float64(f.FreeFlow), Unit: "mL/s", Source: reason.Ours},
		},
		WouldChange: []string{"a group that flows faster or slower: the machine's page"},
	}.Exact()
	return &w
}

// wipeOutside ends the wash of a machine; at a café's close the shot that is thrown away is the
// next morning's first.
func wipeOutside(f machine.Facts, close bool) Step {
	tray := say("Rinse the waste with a jug of hot water.")
	if f.Tray > 0 {
		tray = does("Empty the drip tray, wash it and put it back.", act(plant.Empty, "tray"))
	}
	s := Step{
		ID: "outside", Body: Act{}, Title: "wipe the outside, tray", Head: "Wipe the outside", Button: "Wiped",
		Takes: time.Minute, Cautions: []reason.Caution{scald},
	}
	morning := doing{}
	if close {
		morning = say("Tomorrow the first shot of each washed group goes down the sink. The bench reminds you.")
	}
	return s.with(say("Wipe the groups, the handles and the outside with a clean wet cloth."), tray, morning)
}

func (w washer) discard() Step {
	return Step{
		ID: "discard", Body: Act{Draws: shot * 1000}, Effect: Pours, Title: "pour the first shot away",
		Head:   "Pour the first shot away",
		Button: "Poured away", Takes: time.Minute, Cautions: []reason.Caution{scald},
	}.with(
		does("Pull one shot as usual.", amount(plant.Sample, w.group, shot)),
		say("Pour it away. Do not taste it to test for detergent."),
	)
}

// leverOn is what begins a pulse where a lever opens the group or makes the pressure.
const leverOn = "lever up"

// starts is what begins a pulse: the pump, or the lever.
func starts(f machine.Facts) string {
	if f.Pump == machine.NoPump || f.Valve == machine.Cam {
		return leverOn
	}
	return "pump on"
}

func pulseTitle(p backflush.Pulses, with string) string {
	return fmt.Sprintf("%.0f s on, %.0f s off, %s", p.On.Seconds(), p.Off.Seconds(), with)
}
