package job

import (
	"fmt"
	"math"
	"time"

	"freshanvil/core/descale"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// thrown is the water that is thrown away after the proof, L: nickel and lead come loose
// with the scale (Müller 2015, Food Addit. Contam. A 32, from memory).
const thrown = 0.5

// finish puts everything back, brings the machine to its heat, and looks it over.
func (l *laying) finish() {
	// how much the proof took, and what it let into the jugs, nobody knows
	l.placed, l.lateDrawn = map[string]bool{}, math.Inf(1)
	l.fillLast()
	l.throwAway()
	l.add(Step{
		ID: "gauze", Title: "look for what is left", Head: "Look inside",
		Button: "That is how it looks", Takes: 2 * time.Minute,
		Cautions: []reason.Caution{scald},
		Body: Choose{Ways: []Way{
			{Answer: Clean, Text: "Clean"},
			{Answer: Dusting, Text: "A dusting of white", Marks: GauzeDusted},
			{Answer: Crusted, Text: "Crusted", Marks: GauzeCrusted},
		}, Sight: inspect.Gauze},
	}.with(l.window()...))
	late := l.late
	l.late = nil
	for _, w := range late {
		l.renewing(w)
	}
	l.putTreatmentBack()
	if l.d.Plant.Mains {
		l.add(Step{
			ID: "supply", Title: "hose back, supply open", Head: "Hose back, supply open",
			Button: "Open, and no leak", Takes: 4 * time.Minute, Body: Act{},
			Cautions: []reason.Caution{{
				Danger: "pressure", Text: "Mains water: local codes and licensed people go first.",
			}},
		}.with(
			does("Take the intake out of the bucket and put it back where it was. Mains hose back on.",
				act(plant.PutIntake, "")),
			does("Open the supply. Look for leaks.", act(plant.OpenSupply, "")),
		))
	}
	l.fillLast()
	l.switchOn()
	l.check()
	l.drawFirst()
	l.wipe()
}

// window is where a look goes inside: the gauze of the hot-water tap, the tip of the wand, or the opening of a boiler
// that is filled by it.
func (l *laying) window() []doing {
	part, what := "gauze", "gauze of the hot-water tap"
	switch {
	case l.prog.Empties == descale.ByPouring:
		return []doing{say("With a torch, look at the walls of the boiler.")}
	case l.d.Plant.FindLoose("gauze") < 0, l.heldOff(): // that boiler is warm by now: its tap is not opened
		part, what = "tip", "tip of the steam wand"
	}
	var list []doing
	if l.p.Plug {
		list = append(list, pullPlug())
	}
	return append(list, does(fmt.Sprintf("Unscrew the %s and look behind it. Rinse flakes out.", what),
		act(plant.TakeOff, part)), does("Screw it back, snug.", act(plant.FitOn, part)))
}

// thrownAway is said of that water.
var thrownAway = say("The rinse is proven. This water is thrown away too: nickel and lead come loose with scale.")

// throwAway lets half a litre more through the brew side, once its rinse is proven.
func (l *laying) throwAway() {
	i := l.brews()[0]
	if !l.d.Plant.HasPump {
		l.pourOut(i, thrownAway)
		l.pourIn(i, "water", false)
		return
	}
	each := thrown / float64(len(l.brews()))
	for n, i := range l.brews() {
		group := groupOf(&l.d.Plant.Vessels[i])
		if n == 0 && l.tapOpen() && !l.withTap(i) {
			l.add(Step{
				ID: "tap-shut", Title: "steam tap closed", Head: "Close the steam tap", Button: "It is closed",
				Takes: 10 * time.Second, Cautions: []reason.Caution{gloves}, Body: Act{},
			}.with(does("The rinse is proven: close the steam tap.", act(plant.Close, steamTap))))
		}
		l.through(group, each, "water", thrownAway)
	}
}

// fillLast brings every boiler up to where it is kept, once nothing in it is acid.
func (l *laying) fillLast() {
	s := l.steamAt()
	if s == nil || !l.d.Plant.HasPump {
		return
	}
	v := &l.d.Plant.Vessels[l.d.Plant.Find("steam")]
	for goes := 0; !s.Full && s.Litres < 0.97*v.Working && goes < 8 && l.err == nil; goes++ {
		t := math.Min((v.Working-s.Litres)/l.flow()+1, l.longestPush().Seconds())
		l.fill(math.Max(3, t), "water")
		s = l.steamAt()
	}
}

// switchOn closes what is open, and only then lets the machine heat.
func (l *laying) switchOn() {
	var list []doing
	if l.prog.Empties == descale.ByPouring {
		list = append(list, does("Is the boiler filled as usual? Screw the cap on, tight.", act(plant.Close, "cap")))
	}
	if l.prog.Empties == descale.ByDrain {
		list = append(list, say("Try every drain by hand: closed and tight, not hard. Wipe the machine dry underneath."))
	}
	if l.tapOpen() {
		list = append(list, l.closeTap())
	} else if !l.dial() {
		list = append(list, say("The steam tap is closed."))
	}
	if l.d.Plant.HasPump && !l.d.Plant.Mains {
		list = append(list, l.fillUp())
	}
	list = append(list, l.heatersBack("Turn the heater of the %s on again, once the machine is on.")...)
	if !l.p.Plug {
		list = append(list, does("Dry hands: plug in.", act(plant.PlugIn, "")))
	}
	list = append(list, does("Switch on, and leave it on.", act(plant.SwitchOn, "")))
	if l.d.Plant.HasPump && l.d.Plant.Find("steam") >= 0 {
		list = append(list,
			say("Its pump may run for a moment: it fills up to the probe. An alarm that it has filled for too "+
				"long is reset by off and on."))
	}
	l.add(Step{
		ID: "on", Title: "closed, full, switched on", Head: "Closed and full: switch on", Button: "It is on",
		Takes: time.Minute, Cautions: []reason.Caution{dryHeat, steamy}, Body: Act{},
	}.with(list...))
	heat := l.heatUp()
	l.add(Step{
		ID: "heat", Title: "it comes to its heat", Head: "It heats up", Button: "It heats: the clock runs",
		Do:       []string{"Stay with it. Anything that drips, hisses or smells: switch off, pull the plug."},
		Cautions: []reason.Caution{scald},
		Body: Wait{
			For:   time.Duration(math.Ceil(heat.Value+1)) * time.Minute,
			Early: true, Ends: "It is at its usual heat", Length: &heat,
		},
	})
}

// heatUp is how long the slowest of its boilers takes to its heat.
func (l *laying) heatUp() reason.Worked {
	var most reason.Worked
	for i := range l.d.Plant.Vessels {
		v := &l.d.Plant.Vessels[i]
		if v.Watts == 0 {
			continue
		}
		w := descale.HeatUp(units.Litres(v.Working+v.Metal), units.Power(v.Watts), units.Temperature(v.Set))
		if w.Value > most.Value {
			most = w
		}
	}
	return most
}

// atPressure is how long it is watched at its pressure.
const atPressure = 10 * time.Minute

// check watches it at pressure.
func (l *laying) check() {
	what := []string{fmt.Sprintf("At pressure for ten minutes. "+fromAway, "every drain and joint"),
		"The vacuum breaker has closed: no hiss. The relief valve is dry."}
	if l.d.Plant.Find("steam") < 0 && l.f.Layout != machine.LeverManual {
		what = []string{fmt.Sprintf("Ten minutes at its heat. "+fromAway, "every joint underneath")}
	}
	red := fmt.Sprintf("Above %.1f bar, or steam from the relief valve: switch off, pull the plug, call a technician.",
		float64(l.f.RedMark))
	if l.f.RedMark > 0 {
		what = append(what, red)
	}
	l.add(Step{
		ID: "watch", Title: "ten minutes at its heat", Head: "Watch it", Button: "The clock runs", Do: what,
		Cautions: []reason.Caution{scald, relief}, Body: Wait{For: atPressure, Early: true, Ends: "Ten minutes are over"},
	})
	leave, flow := "Switch off, pull the plug. Let it cool.", "let water run for ten seconds by the group"
	if l.d.Plant.Mains {
		leave = "Switch off, pull the plug, shut the supply. Let it cool."
	}
	if !l.d.Plant.HasPump {
		flow = "lift the lever and press it down"
	} else if l.f.Valve == machine.Cam {
		flow = "lift the lever for ten seconds"
	}
	stop := reason.Refuse(NotCleared, "It leaks: switch it off").
		Why(reason.Trade, "A seal did not seat, or scale had kept a leak closed.").
		Instead(leave, "A technician looks at it before it is used.")
	l.add(Step{
		ID: "dry", Title: "everything dry?", Head: "Is everything dry?", Button: "That is what I see",
		Takes: time.Minute, Cautions: []reason.Caution{scald},
		Do: []string{
			fmt.Sprintf("Look once more, from a step away. Then %s: is it as much as before, or more?", flow),
		},
		Body: Choose{Ways: []Way{
			{Answer: Dry, Text: "Dry, and it flows"},
			{Answer: Drips, Text: "It drips, hisses, or hardly flows", Stop: &stop.Finding},
		}},
	})
}

// leverFirst is what a lever without a pump lets by its group at first pressure, L (our own engineering choice):
// its pipe
// held acid.
const leverFirst = 0.1

// mostDrawn is the share of the fill that is drawn off at once at most, so that the element
// stays covered (our own engineering choice).
const mostDrawn = 0.25

// relief is said wherever a boiler is watched under pressure.
var relief = reason.Caution{
	Danger: "pressure", Text: "Never plug or adjust a relief valve. Pressure vessels: local codes and licensed people.",
}

// drawFirst draws off by the tap and the wand of a boiler that makes steam, which got no acid,
// before any drink, and proves them.
func (l *laying) drawFirst() {
	i, outlets := l.d.Plant.Find("steam"), []string{steamTap, hotTap}
	if l.prog.Empties == descale.ByPouring {
		i = l.brews()[0]
		outlets = []string{groupOf(&l.d.Plant.Vessels[i]), steamTap}
	}
	if i < 0 {
		return
	}
	v := &l.d.Plant.Vessels[i]
	if v.Set < 100 {
		return
	}
	c := l.d.Circuit(part(v.ID))
	draw := math.Min(outletRise, math.Min(mostDrawn*v.Working, 90*l.flow()))
	for _, id := range outlets {
		o := Outlet{ID: id, Title: l.outlet(id)}
		jug, what := l.jugUnder(id), fmt.Sprintf("Draw %s by the hot-water tap into it, slowly.", Litres(draw))
		take, again, less := draw, "", 0.0
		if id == steamTap {
			jug = does("Put half a cup of clean water in a jug, and the jug under the steam wand, the tip in the water.",
				act(plant.Empty, l.d.Plant.Vessels[l.opening(id).Into].ID))
			what = "Open the steam tap for ten seconds, close it, and take the jug away at once."
			take = cupTakes
		} else if l.opening(id).Kind == plant.Group {
			// what stood in its pipe is drawn, too
			take = math.Min(leverFirst, v.Working/7)
			what = fmt.Sprintf("Lift the lever, let %s by the group, and put it down. Stand clear: it is hotter than coffee. "+
				"The last of it is for the strip; nobody drinks it.", Litres(take))
			again, less = "Lift the lever for another half cup, and put it down.", take/2
		}
		l.add(Step{
			ID: "first-" + id, Title: "strip: the " + o.Title + ", before any drink", Head: "Strip: " + o.Title,
			Button: "That is what it reads", Takes: 2 * time.Minute, Cautions: []reason.Caution{steamy, scald},
			Body: Measure{Reads: Proof, Circuit: c.Part, Outlet: id},
		}.with(jug, does(what, amount(plant.Sample, id, take)),
			say("Let a cup of it cool. A strip in it, a strip in the clean water: do both read the same?")))
		if again == "" {
			again, less = what, take
		}
		more := Step{
			ID: "more-" + id, Title: "draw more by the " + o.Title, Head: "Draw more", Button: "Drawn",
			Activity: descaleID, Lane: Hands, Phase: After,
			Takes: 2 * time.Minute, Cautions: []reason.Caution{steamy, scald}, Body: Act{},
		}.with(jug, does(again, amount(plant.Sample, id, less)))
		o.More = []Step{more}
		c.Firsts = append(c.Firsts, o)
	}
}

func (l *laying) wipe() {
	light := "A light that asks for descaling stays on: only the machine's own program puts it out. That is normal."
	if l.prog.Empties == descale.ByMachine {
		light = "Its own program has put its light out."
	}
	l.add(Step{
		ID: "wipe", Title: "chrome and stone wiped, gloves off", Head: "Wipe chrome and stone", Button: "Wiped",
		Takes: 2 * time.Minute, Cautions: []reason.Caution{sponge}, Body: Act{},
		Do: []string{"Clean water and a cloth over tray, chrome and the stone around it: acid marks them.", light},
	})
	if l.in.Wash == nil || l.in.Dirty {
		l.add(Step{
			ID: "first-shot", Title: "pour the first drink away", Head: "Pour the first drink away",
			Button: "Poured away", Takes: time.Minute, Cautions: []reason.Caution{scald}, Body: Act{},
			Do: []string{"Put the handle back, pull one shot as usual, and pour it away."},
		})
	}
}

// putTreatmentBack adds the steps that fit what treats the water again, new or as it was.
func (l *laying) putTreatmentBack() {
	s := l.in.Setting
	_, any := Renews(s)
	switch {
	case l.in.Dirty && RenewsBeside(s):
		l.filterBack()
	case l.in.Dirty:
	case s.Kind != machine.InTank && l.in.Renew:
		r := saltRinse()
		r.ID = "salt-rinse"
		l.renewing(r)
		l.renewing(Step{
			ID: "back", Title: "softener back in", Head: "Softener back in", Button: "It is in", Takes: time.Minute,
			Cautions: []reason.Caution{dryFilter}, Body: Act{},
		}.with(does("Put the softener back into the tank.", act(plant.FilterIn, ""))))
	case l.in.Renew && any:
		l.renewing(Step{
			ID: "fit", Title: "new filter in", Head: "New filter in", Button: "It is in", Takes: time.Minute,
			Cautions: []reason.Caution{dryFilter}, Body: Act{},
		}.with(does("Take the new filter out of its water and fit it into the tank, to its mark.", act(plant.FilterIn, ""))))
		l.renewing(renewal{l.f, s, l.in.Now.In(l.in.Zone)}.month())
	case RenewsBeside(s):
		l.filterBack()
	}
}

// filterBack puts what treats the water back as it was.
func (l *laying) filterBack() {
	l.add(Step{
		ID: "filter-back", Title: "filter back in", Head: "Filter back in", Button: "It is in",
		Takes: time.Minute, Body: Act{}, Cautions: []reason.Caution{dryFilter},
	}.with(does("Take it out of its water, wet through, and put it back into the tank.", act(plant.FilterIn, ""))))
}
