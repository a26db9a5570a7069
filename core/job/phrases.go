package job

import (
	"fmt"

	"freshanvil/core/plant"
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
	return does("Put an empty jug under the steam wand, its tip above the liquid, and open the steam tap.",
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
	return "start the pump"
}

// keep is how it goes on with it.
func (l *laying) keep(to string) string {
	if l.opening(to).Lever {
		return "keep the lever up"
	}
	return "let the pump run"
}

// stop is how it ends it.
func (l *laying) stop(to string) string {
	if l.opening(to).Lever {
		return "put the lever down"
	}
	return "stop the pump"
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
		return say(tapBegin + "the machine on together: the boiler fills by itself. Switch it off " + atOff)
	}
	return say(tapAndSwitch+"and %s together. %s and switch off "+atOff, l.start(to), capital(l.stop(to)))
}
