package job

import (
	"fmt"
	"math"
	"strings"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
	"freshanvil/core/standdown"
	"freshanvil/core/units"
)

// waterFirst brings water before power.
func (t *resting) waterFirst(before doing) Step {
	s := acting("water", "water first", "Water first", "Water is there", 2*time.Minute, supplyFirst)
	s = s.with(say("The plug is out."))
	if t.f.Plumbed {
		return s.with(before, does("Open the water supply slowly: the lever along the pipe.", act(plant.OpenSupply, "")),
			say("No water in the pipe? Let a tap beside it run until it comes clear and cold."))
	}
	return s.with(say("Rinse the tank."), before,
		does("Fill it with fresh water, and put it in to its stop.", act(plant.FillUp, "tank")))
}

// dryCold looks for leaks before there is power.
func (t *resting) dryCold() Step {
	return t.dryUnder("leaks", "The plug is still out: two minutes after the water came, a torch and a dry tissue, "+
		"under it and behind it.", livid)
}

// dryUnder looks for leaks.
func (t *resting) dryUnder(id, how string, cautions ...reason.Caution) Step {
	s := lookAt(inspect.Under, "Is it dry?", "That is what I see", 2*time.Minute, cautions...).with(say("%s", how))
	s.ID = id
	return s
}

// filterFlush lets clean water through a cartridge under the sink before it goes into the machine.
func (t *resting) filterFlush() []Step {
	if t.Answers.Treatment != machine.UnderSink || !t.f.Plumbed {
		return nil
	}
	s := acting("filter", "flush the filter", "Flush the filter", "Two litres are through", 2*time.Minute, spray).with(
		say("At its flush valve, let two litres through the cartridge into a bucket. Without a flush valve go on: the "+
			"groups' water goes through it."),
		say("Its months go on, whether it is used or not."))
	s.Body = Act{Draws: flushFilter.Millilitres()}
	return []Step{s}
}

// flushFilter is what runs through a cartridge that has stood, L (our own engineering choice: about twice what it
// holds).
const flushFilter units.Litres = 2

// screams is what there is to do where a pump screams.
var screams = reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the pump is dry",
	Because: []reason.Reason{{Source: reason.Trade,
		Text: "A pump that screams gets no water: the supply is shut, the tank is out of its seat, a filter is clogged, or " +
			"air stands in it. A dry pump wears in minutes, and an element without water burns out."}},
	Next: []string{"Switch it off now and pull the plug.",
		"Open the supply, or press the tank home. Then begin again; if it still screams, look for the cause."},
	Symptom: "pump_screams"}

var silent = reason.Finding{Verdict: reason.Stop, Title: "Switch it off: the pump does not run",
	Because: []reason.Reason{{Source: reason.Trade, Text: "Without the pump nothing refills, and an element runs dry."}},
	Next:    []string{"Switch it off now and pull the plug.", "Look for the cause, or call a technician."},
	Symptom: "no_pump_pressure"}

// powerOn switches the machine on.
func (t *resting) powerOn() Step {
	return acting("on", "plug in, on", "Plug in, and on", "It is on", 30*time.Second, supplyFirst, livid).with(
		does("Dry hands: plug in, and switch on. A scream: off at once.", act(plant.PlugIn, ""), act(plant.SwitchOn, "")))
}

// listen lets the pump run and asks how it sounds.
func (t *resting) listen() Step {
	return Step{ID: "pump", Title: "listen to the pump", Head: "How does the pump sound?", Takes: 30 * time.Second,
		Button: "That is how it sounds", Cautions: []reason.Caution{supplyFirst, scald},
		Body: Choose{Ways: []Way{{Answer: PumpUsual, Text: "As usual, and water comes"},
			{Answer: PumpScreams, Text: "It screams, or rattles", Stop: &screams},
			{Answer: PumpSilent, Text: "Not a sound", Stop: &silent}}}}.with(
		does(fmt.Sprintf("A jug under %s. Run water for three seconds, and listen. It spits at first: that is air.",
			t.oneGroup()), act(plant.Empty, "jug-group-1"), amount(plant.Sample, "group-1", 0.02)))
}

func (t *resting) oneGroup() string {
	if t.f.Groups == 1 {
		return "the group"
	}
	return "group 1"
}

// runWater switches it on, lets fresh water through the groups, before it is hot where the pump then runs, and waits
// for
// its heat.
func (t *resting) runWater() []Step {
	heat := Step{ID: "heat", Title: "to its heat", Head: "It comes to its heat", Button: "At its heat",
		Cautions: []reason.Caution{scald}, Body: Wait{For: t.heats.Round(time.Minute), Early: true, Ends: "It is at its " +
			"heat"}}
	heat = heat.with(say("It takes about %s. Stay near: the relief valve is shut, nothing drips.", spokenTime(t.heats)))
	steps := []Step{t.powerOn()}
	if t.f.PumpBeforeHot == machine.No {
		return append(append(steps, heat, t.listen()), t.groups()...)
	}
	return append(append(append(steps, t.listen()), t.groups()...), heat)
}

// groups lets water run through every group.
func (t *resting) groups() []Step {
	if t.f.Tray == 0 && t.f.Waste > 0 {
		return []Step{t.allGroups()}
	}
	var list []Step
	for g := 1; g <= t.f.Groups; g++ {
		list = append(list, t.intoJug(g)...)
	}
	return list
}

// allGroups opens the groups of a café one after the other, as many as the waste pipe takes.
func (t *resting) allGroups() Step {
	openings, together := standdown.Openings(t.f)
	s := acting("groups", "water through the groups", "Five minutes of water", "All are closed",
		openings[len(openings)-1].Shut+30*time.Second, spray, scald) // somebody stands by and watches the waste
	each := float64(t.f.FreeFlow) * standdown.RunsFor.Seconds() / 1000
	s.Body = Act{Draws: units.Volume(each * 1000 * float64(t.f.Groups))}
	s = s.with(say("Handles out. About %s a group goes down the waste: watch that it runs away.",
		Litres(units.Litres(each))))
	for i := 0; i < len(openings); i += together {
		wave := openings[i:min(len(openings), i+together)]
		var names, ids []string
		for _, o := range wave {
			names = append(names, fmt.Sprint(o.Group))
			ids = append(ids, machine.Group(o.Group).String())
		}
		text := fmt.Sprintf("Open group %s and let it run for five minutes.", names[0])
		if len(wave) > 1 {
			text = fmt.Sprintf("Open group %s, and the next each twelve seconds later (%s). Close each after five minutes, in "+
				"the same order.", names[0], strings.Join(names[1:], ", "))
		}
		s = s.with(does(text, amount(plant.Together, strings.Join(ids, " "), standdown.RunsFor.Seconds())))
	}
	return s
}

// How a group of a machine with a tank is let run: so long at a stretch, s, and so much of a jug (our own engineering
// choices).
const (
	spell   = 40.0
	jugFull = 0.7
)

// intoJug lets so much through a group that what stood there is out, in spells that pump, jug and tank take.
func (t *resting) intoJug(g int) (list []Step) {
	group := machine.Group(g).String()
	jug := "jug-" + group
	flow := float64(t.f.FreeFlow) / 1000
	most := math.Min(flow*spell, jugFull*float64(t.f.Jug.Litres()))
	if on := t.f.Duty.On.Seconds(); on > 0 {
		most = math.Min(most, flow*on/2)
	}
	n := int(math.Ceil(t.flushed.Value / most))
	each := math.Ceil(t.flushed.Value/float64(n)*20) / 20
	for i := 1; i <= n; i++ {
		id := fmt.Sprintf("run-%d-%d", g, i)
		s := acting(id, fmt.Sprintf("water through the group, %d of %d", i, n), "Run "+Litres(units.Litres(each)),
			"Run, jug empty",
			time.Duration((each/flow+30)*float64(time.Second)).Round(time.Second), spray, scald)
		s.Body = Act{Draws: units.Volume(each * 1000)}
		fill := doing{}
		if t.filled+1.2*each > 0.8*float64(t.f.Tank.Litres()) && !t.f.Plumbed {
			fill = does("Fill the tank first.", act(plant.FillUp, "tank"))
			t.filled = 0
		}
		t.filled += 1.2 * each
		list = append(list, s.with(fill,
			does(fmt.Sprintf("Handle out, the empty jug under the group. Run water for about %.0f seconds: %s. Stop.",
				math.Round(each/flow/5)*5, Litres(units.Litres(each))), act(plant.Empty, jug), amount(plant.Sample, group, each)),
			does("Pour the jug away.", act(plant.Empty, jug))))
		if t.f.Duty.On > 0 && i < n {
			list = append(list, Step{ID: id + "-rest", Title: "the pump rests", Head: "The pump rests", Button: "It has rested",
				Body: Soak{For: time.Minute}}.with(say("A pump of this kind may not run on: it rests for a minute.")))
		}
	}
	if !t.f.Plumbed && n > 0 {
		list = append(list, acting(fmt.Sprintf("tank-%d", g), "fill the tank", "Fill the tank", "It is full",
			30*time.Second).with(
			does("Fill the tank again, and put it in to its stop.", act(plant.FillUp, "tank"))))
		t.filled = 0
	}
	return list
}
