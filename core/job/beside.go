package job

import (
	"fmt"
	"math"
	"strings"
)

// Spelled is a length of time in minutes as people say it.
func Spelled(minutes float64) string {
	m := int(math.Round(minutes))
	switch {
	case m < 1:
		return "less than a minute"
	case m < 90:
		return fmt.Sprintf("%d min", m)
	}
	m = (m + 2) / 5 * 5
	return fmt.Sprintf("%d h %02d min", m/60, m%60)
}

// Times says how often.
func Times(n int) string {
	if n == 1 {
		return "Once"
	}
	return fmt.Sprintf("%d times", n)
}

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
	until := func(ends string) string { return "or until: " + lower(ends) + "." }
	switch b := s.Body.(type) {
	case Push:
		return []string{fmt.Sprintf("The pump runs for %.0f s: about %.0f mL.", b.Long.Value,
			math.Round(float64(b.Litres)*100)*10)}
	case Sips:
		return []string{fmt.Sprintf("%s: ON for %.0f s, then it stands for %.0f s.", Times(b.Count), b.On.Seconds(),
			b.Stand.Seconds())}
	case Pulses:
		return []string{fmt.Sprintf("%s: ON for %.0f s, OFF for %.0f s.", Times(b.Count), b.On.Seconds(), b.Off.Seconds())}
	case Act:
		if b.FlushTime != nil {
			return []string{fmt.Sprintf("Flush into the tray for about %.0f seconds.", b.FlushTime.Value)}
		}
	case Look:
		return []string{onPaper[b.At]}
	case Soak:
		if b.Early {
			return []string{"About " + Spelled(b.For.Minutes()) + ", " + until(b.Ends)}
		}
		return []string{"It stands for " + Spelled(b.For.Minutes()) + "."}
	case Wait:
		if b.Early {
			return []string{"Wait " + Spelled(b.For.Minutes()) + ", " + until(b.Ends)}
		}
		return []string{"Wait " + Spelled(b.For.Minutes()) + "."}
	}
	return nil
}
