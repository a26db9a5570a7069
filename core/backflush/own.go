package backflush

import (
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Numbers are somebody's own of a method: grams, seconds and counts; what is zero is the
// method's. They have a name, so that the log tells whose way it was.
type Numbers struct {
	Name      string     `json:"name"`
	Grams     units.Mass `json:"grams,omitempty"`
	On        float64    `json:"on_s,omitempty"`
	Off       float64    `json:"off_s,omitempty"`
	Detergent int        `json:"detergent,omitempty"` // pulses
	Rinse     int        `json:"rinse,omitempty"`     // pulses; never fewer than the residue asks for
}

// What one's own numbers may be (our own engineering choices): a valve vents for three seconds;
// the residue is rinsed out by so many pulses at most.
const (
	leastGrams units.Mass = 0.25
	mostGrams  units.Mass = 6
	leastOn               = 3.0
	mostOn                = 20.0
	leastOff              = 3.0
	mostOff               = 60.0
	leastCount            = 3
	mostSoapy             = 20
	mostRinsed            = 30
	mostName              = 40
	dutySpare             = 5.0 // s of the pump's duty that stay
	trayShare             = 0.8 // of the tray that one pulse may fill
)

// With is the method with one's own numbers; nil leaves it as it is.
func (m Method) With(n *Numbers) Method {
	if n == nil {
		return m
	}
	seconds := func(v float64, usual time.Duration) time.Duration {
		if v == 0 {
			return usual
		}
		return time.Duration(v * float64(time.Second))
	}
	set := func(p *Pulses, count int) {
		if p.Count == 0 {
			return
		}
		p.On, p.Off = seconds(n.On, p.On), seconds(n.Off, p.Off)
		if count > 0 {
			p.Count = count
		}
	}
	set(&m.First, 0)
	if m.Program == 0 { // a program makes its own
		set(&m.Detergent, n.Detergent)
	}
	set(&m.Rinse, n.Rinse)
	set(&m.More, 0)
	if n.Grams > 0 {
		m.Dose, m.Pinch = n.Grams, false
	}
	m.Name, m.Ours = n.Name, "Your own numbers in the place of the method's: "+n.text()+"."
	m.Pattern = fmt.Sprintf("%.3g s on, %.3g s off, %d times; %d with water", m.Detergent.On.Seconds(),
		m.Detergent.Off.Seconds(), m.Detergent.Count, m.Rinse.Count)
	return m
}

// text lists what is one's own.
func (n *Numbers) text() string {
	var list []string
	say := func(given bool, text string, v any) {
		if given {
			list = append(list, fmt.Sprintf(text, v))
		}
	}
	say(n.Grams > 0, "%.3g g", float64(n.Grams))
	say(n.On > 0, "%.3g s on", n.On)
	say(n.Off > 0, "%.3g s off", n.Off)
	say(n.Detergent > 0, "%d detergent pulses", n.Detergent)
	say(n.Rinse > 0, "%d of water", n.Rinse)
	if len(list) == 0 {
		return "none"
	}
	return strings.Join(list, ", ")
}

// CheckNumbers refuses numbers that the method has not, or that residue, tray and duty of a
// machine do not allow; the error is a *units.OutOfRange with the contract's field.
func (m Method) CheckNumbers(n *Numbers, f machine.Facts) error {
	if n == nil {
		return nil
	}
	n.Name = strings.TrimSpace(n.Name)
	if length := utf8.RuneCountInString(n.Name); length < 1 || length > mostName {
		return &units.OutOfRange{Field: "numbers.name", Value: n.Name, Allowed: "1 to 40 letters: whose way it is"}
	}
	if m.Tablet && n.Grams != 0 {
		return &units.OutOfRange{Field: "numbers.grams", Value: fmt.Sprint(float64(n.Grams)),
			Allowed: "nothing: a tablet is a dose"}
	}
	if m.Program > 0 && n.Detergent != 0 {
		return &units.OutOfRange{Field: "numbers.detergent", Value: fmt.Sprint(n.Detergent),
			Allowed: "nothing: the machine's program makes its own pulses"}
	}
	on := mostOn
	if duty := f.Duty.On.Seconds(); duty > 0 && duty-dutySpare < on {
		on = duty - dutySpare
	}
	for _, x := range []struct {
		field        string
		v, low, high float64
		why          string
	}{
		{"grams", float64(n.Grams), float64(leastGrams), float64(mostGrams), ""},
		{"on_s", n.On, leastOn, on, "; the pump's duty goes first"},
		{"off_s", n.Off, leastOff, mostOff, "; the valve vents for three seconds"},
		{"detergent", float64(n.Detergent), leastCount, mostSoapy, ""},
		{"rinse", float64(n.Rinse), leastCount, mostRinsed, ""},
	} {
		if x.v != 0 && !(x.v >= x.low && x.v <= x.high) {
			return &units.OutOfRange{Field: "numbers." + x.field, Value: fmt.Sprint(x.v),
				Allowed: fmt.Sprintf("%.3g to %.3g, or nothing%s", x.low, x.high, x.why)}
		}
	}
	return m.With(n).bears(f)
}

// bears refuses what a machine's head and tray do not bear.
func (m Method) bears(f machine.Facts) error {
	if least := LeastRinse(m, m.Dose, f, m.First.Count+m.Detergent.Count).Least; least > mostRinsed {
		return &units.OutOfRange{Field: "numbers.grams", Value: fmt.Sprint(float64(m.Dose)),
			Allowed: fmt.Sprintf("less, or more detergent pulses: it would take %d pulses to rinse out, %d are the most", least,
				mostRinsed)}
	}
	if f.Tray > 0 && f.Vents > units.Volume(trayShare*float64(f.Tray)) {
		return &units.OutOfRange{Field: "numbers.rinse", Value: fmt.Sprint(m.Rinse.Count),
			Allowed: "none: a single pulse nearly fills the drip tray"}
	}
	return nil
}
