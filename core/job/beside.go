package job

import (
	"fmt"
	"math"
	"strings"

	"freshanvil/core/speak"
)

// onPaper are what is looked for, where no screen asks.
var onPaper = map[Sight]string{
	FirstWater: "[ ] clear  [ ] pale  [ ] brown  [ ] dark  [ ] missed it",
	RinseCup: "Clear is: no colour, no foam, three grains at most. If it is not: two more water pulses, and look " +
		"again. Three times not clear: stop, and take the screen off when the group is cold.",
}

// onPaperFor says without a screen what is said of its clock.
var onPaperFor = strings.NewReplacer(
	withLever, "Lift the lever; lower it and lift it again by the seconds below.",
	withPump, "Press the brew switch; switch off and on again by the seconds below.",
	tapBegin, "Switch ", tapAndSwitch, "Switch on ", atOff, "after the seconds below.",
)

// OnPaper is what to do, for whoever reads it away from the screen.
func (s Step) OnPaper() []string {
	list := make([]string, len(s.Do))
	for i, text := range s.Do {
		list[i] = onPaperFor.Replace(text)
	}
	return list
}

// Beside is what a step has beside its words, for a sheet that is read away from the screen: how often, how
// long, until what.
func (s Step) Beside() []string {
	until := func(ends string) string { return "or until: " + speak.Lower(ends) + "." }
	switch b := s.Body.(type) {
	case Push:
		return []string{fmt.Sprintf("The pump runs for %.0f s: about %.0f mL.", b.Long.Value,
			math.Round(float64(b.Litres)*100)*10)}
	case Sips:
		return []string{fmt.Sprintf("%s: ON for %.0f s, then it stands for %.0f s.", speak.Times(b.Count), b.On.Seconds(),
			b.Stand.Seconds())}
	case Pulses:
		return []string{fmt.Sprintf("%s: ON for %.0f s, OFF for %.0f s.", speak.Times(b.Count), b.On.Seconds(),
			b.Off.Seconds())}
	case Act:
		if b.FlushTime != nil {
			return []string{fmt.Sprintf("Flush into the tray for about %.0f seconds.", b.FlushTime.Value)}
		}
	case Look:
		return []string{onPaper[b.At]}
	case Soak:
		if b.Early {
			return []string{"About " + speak.Minutes(b.For.Minutes()) + ", " + until(b.Ends)}
		}
		return []string{"It stands for " + speak.Minutes(b.For.Minutes()) + "."}
	case Wait:
		if b.Early {
			return []string{"Wait " + speak.Minutes(b.For.Minutes()) + ", " + until(b.Ends)}
		}
		return []string{"Wait " + speak.Minutes(b.For.Minutes()) + "."}
	}
	return nil
}
