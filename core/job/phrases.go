package job

import (
	"fmt"

	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/speak"
)

// doing is one thing to do: what is said, and what it does to the machine. They are written
// as one, so that no sentence says what the model does not do.
type doing struct {
	text string
	acts []plant.Action
}

func say(text string, args ...any) doing { return doing{text: fmt.Sprintf(text, args...)} }

func does(text string, acts ...plant.Action) doing { return doing{text, acts} }

// with puts what is to be done into a step.
func (s Step) with(list ...doing) Step {
	for _, d := range list {
		if d.text != "" {
			s.Do = append(s.Do, d.text)
		}
		s.Acts = append(s.Acts, d.acts...)
	}
	return s
}

func act(verb plant.Verb, what string) plant.Action { return plant.Action{Verb: verb, What: what} }

func amount(verb plant.Verb, what string, v float64) plant.Action {
	return plant.Action{Verb: verb, What: what, Amount: v}
}

func offAndOut() doing {
	return does("Switch the machine off and pull the plug.", act(plant.SwitchOff, ""), act(plant.Unplug, ""))
}

func pullPlug() doing { return does("Pull the plug.", act(plant.SwitchOff, ""), act(plant.Unplug, "")) }

func plugIn() doing {
	return does("Dry hands: plug in. Leave the machine switched off.", act(plant.SwitchOff, ""), act(plant.PlugIn, ""))
}

func openSteamTap() doing { return does("Open the steam tap.", act(plant.Open, steamTap)) }

func closeSteamTap() doing { return does("Close the steam tap.", act(plant.Close, steamTap)) }

// dial says whether a dial turns the water to the wand, where others have a tap.
func (l *laying) dial() bool { return l.f.Layout == machine.Thermoblock }

// openTap lets what is pushed leave by the wand, closeTap ends it.
func (l *laying) openTap() doing {
	if l.dial() {
		return does("Turn the dial to the wand.", act(plant.Open, steamTap))
	}
	return openSteamTap()
}

func (l *laying) closeTap() doing {
	if l.dial() {
		return does("Turn the dial back to the group.", act(plant.Close, steamTap))
	}
	return closeSteamTap()
}

// tapStays is what is said of it while acid stands.
func (l *laying) tapStays() string {
	if l.dial() {
		return "The dial stays on the wand, its tip above the liquid in its jug: gas must leave."
	}
	return "The steam tap stays open into its jug, the tip above the liquid: gas must leave."
}

// steamTap is the opening by which gas leaves a boiler.
const steamTap = "steam_tap"

// jugUnder puts an empty jug under an outlet.
func (l *laying) jugUnder(opening string) doing {
	o := l.opening(opening)
	tip := ""
	if o.Kind == plant.SteamTap {
		tip = ", its tip above the liquid"
	}
	return does(fmt.Sprintf("Put an empty jug under the %s%s.", l.outlet(opening), tip),
		act(plant.Empty, l.d.Plant.Vessels[o.Into].ID))
}

// wandOpen puts the jug under the wand and opens its tap.
func (l *laying) wandOpen() doing {
	how := ", and open the steam tap."
	if l.dial() {
		how = ", and turn the dial to the wand."
	}
	return does("Put an empty jug under the steam wand, its tip above the liquid"+how,
		act(plant.Empty, l.d.Plant.Vessels[l.opening(steamTap).Into].ID), act(plant.Open, steamTap))
}

// opening is what is fixed of one.
func (l *laying) opening(id string) *plant.Opening {
	return &l.d.Plant.Openings[l.d.Plant.FindOpening(id)]
}

// outlet is what an opening is called in a sentence.
func (l *laying) outlet(id string) string {
	switch o := l.opening(id); o.Kind {
	case plant.SteamTap:
		return "steam wand"
	case plant.HotTap:
		return "hot-water tap"
	case plant.Group:
		return l.groupName(id)
	case plant.Cap:
		return "cap"
	default:
		return o.Title
	}
}

// groupName is "group" where there is one, else its number too.
func (l *laying) groupName(id string) string {
	if l.f.Groups == 1 {
		return "group"
	}
	return "group " + id[len("group-"):]
}

// start is how a hand lets the pump bring something to an outlet: by the lever of a group that
// has one.
func (l *laying) start(to string) string {
	if l.opening(to).Lever {
		return "lift the lever"
	}
	return "press " + l.switchOf(to)
}

// switchOf is the switch by which the pump brings something to an outlet: the brew switch opens the group's valve, too.
func (l *laying) switchOf(to string) string {
	if l.opening(to).Kind == plant.Group {
		return "the brew switch"
	}
	return "the hot-water switch"
}

// keep is how it goes on with it.
func (l *laying) keep(to string) string {
	if l.opening(to).Lever {
		return "keep the lever up"
	}
	return "leave " + l.switchOf(to) + " on"
}

// stop is how it ends it.
func (l *laying) stop(to string) string {
	if l.opening(to).Lever {
		return "put the lever down"
	}
	return "put it off"
}

// What the screen says of its own clock.
const (
	tapBegin     = "Tap Begin and switch "
	tapAndSwitch = "Tap Begin, switch on "
	atOff        = "when the screen shows OFF."
)

// beginWords is what is said of the moment in which a pump starts.
func (l *laying) beginWords(to string) doing {
	if to == "" {
		return say(tapBegin + "the machine on: the boiler fills by itself. Switch it off " + atOff)
	}
	return say(tapAndSwitch+"and %s at once. %s and switch off "+atOff, l.start(to), speak.Upper(l.stop(to)))
}
