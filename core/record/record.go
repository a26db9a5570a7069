// Package record tells, in sentences, what is on record: what was done to a part, what proved it, and what a longer
// time of it comes to. The log, the paper for an owner and the tables that are taken away say it by the same words. It
// judges nothing: what is on record was judged when it was written.
package record

import (
	"fmt"
	"strings"
	"time"

	"freshanvil/core/backflush"
	"freshanvil/core/machine"
	"freshanvil/core/speak"
	"freshanvil/core/task"
)

// Outcome is how an entry came about and ended.
type Outcome string

// The outcomes.
const (
	Done      Outcome = "done"           // led to its end
	Stopped   Outcome = "stopped"        // ended before, nothing harmful inside
	Unsafe    Outcome = "stopped_unsafe" // ended with detergent or acid inside
	Said      Outcome = "recorded"       // put on record, not led
	SignedOff Outcome = "signed_off"     // a person answered for it by name
	Noted     Outcome = "noted"          // only said: it moves no date
)

// Entry is one line of the log: what was done to a part of a machine.
type Entry struct {
	Task    task.ID
	Part    machine.Part
	Title   string
	At      time.Time
	Outcome Outcome
	Dose    *backflush.Dose // what went in; nil for nothing
	Soapy   int             // pulses with detergent
	Rinsed  int             // pulses of water
	First   backflush.Colour
	Cups    []backflush.Cup // what was seen in the cup, in the order in which it was looked at
	Note    string
	By      string // name or initials
	Paper   string // number of the paper that somebody left
	Machine string // its id
	Run     string // the id of the run that led it; empty where none did
}

// Sitting names what an entry was done in: the same for all of one run, and for what was put on record together.
func (e Entry) Sitting() string {
	if e.Run != "" {
		return e.Run
	}
	if e.Outcome == Said {
		return fmt.Sprintf("%s %d %s", e.Machine, e.At.UnixMilli(), e.By)
	}
	return fmt.Sprintf("%s %d %s %s", e.Machine, e.At.UnixMilli(), e.Title, e.Outcome)
}

// Holds says whether the words of a text stand in an entry, whatever their case: in its title, what was done, proven
// or noted, or by whom.
func (e Entry) Holds(text string) bool {
	all := strings.ToLower(strings.Join(append(e.Did(), e.Title, e.Proof(), e.By, e.Paper, e.Part.String()), "\n"))
	for _, word := range strings.Fields(strings.ToLower(text)) {
		if !strings.Contains(all, word) {
			return false
		}
	}
	return true
}

// Did is what was done, a sentence each; none where the title says it all.
func (e Entry) Did() []string {
	var said []string
	switch e.Outcome {
	case Stopped:
		said = append(said, "Stopped before its end.")
	case Unsafe:
		said = append(said, "Stopped: detergent or acid was left inside.")
	}
	if e.Dose != nil {
		said = append(said, fmt.Sprintf("%s, %s with it, %s of water.", speak.Upper(e.Dose.Words()), pulses(e.Soapy),
			fmt.Sprint(e.Rinsed)))
	} else if e.Rinsed > 0 {
		said = append(said, fmt.Sprintf("%s of water, no detergent.", speak.Upper(pulses(e.Rinsed))))
	}
	if e.First != "" && e.First != "unseen" {
		said = append(said, fmt.Sprintf("The first dirty water was %s.", e.First))
	}
	if e.Note != "" {
		said = append(said, e.Note)
	}
	return said
}

// Proof is what showed that it was done with: the last look into the cup. Empty where nothing did.
func (e Entry) Proof() string {
	if len(e.Cups) == 0 {
		return ""
	}
	last := e.Cups[len(e.Cups)-1]
	text := "In the cup: " + Cup(last)
	if n := len(e.Cups); n > 1 {
		text += fmt.Sprintf(", at look %d", n)
	}
	if !last.Clear() {
		text += ". Not clear"
	}
	return text + "."
}

// Cup is what was seen in a cup, in words.
func Cup(c backflush.Cup) string {
	colour, foam, grains := string(c.Colour), "no foam", "no grains"
	switch c.Colour {
	case backflush.ColourClear:
		colour = "no colour"
	}
	switch c.Foam {
	case backflush.FoamSome:
		foam = "some foam"
	case backflush.FoamMuch:
		foam = "much foam"
	}
	switch c.Grains {
	case backflush.GrainsFew:
		grains = "1 to 3 grains"
	case backflush.GrainsSome:
		grains = "4 to 10 grains"
	case backflush.GrainsMany:
		grains = "many grains"
	}
	return colour + ", " + foam + ", " + grains
}

// Sum is what the entries of one task of one part come to.
type Sum struct {
	Task        task.ID
	Part        machine.Part
	Title       string
	Times       int // that were done or put on record
	Unfinished  int // that were stopped
	First, Last time.Time
	Grams       float64 // of detergent powder, as doses came to; 0 where none was
	Tablets     int
	Clear       int // whose cup was clear at the end
	Looked      int // with a cup at all
	Dosed       int // that a dose is known of
}

// Sums are what entries come to by task and part, in the order in which each was first done. Notes and signatures
// stand for themselves and are left out.
func Sums(list []Entry) []Sum {
	var sums []Sum
	at := map[string]int{}
	for _, e := range list {
		if e.Outcome == Noted || e.Outcome == SignedOff {
			continue
		}
		key := string(e.Task) + " " + e.Part.String()
		i, known := at[key]
		if !known {
			i = len(sums)
			at[key] = i
			sums = append(sums, Sum{Task: e.Task, Part: e.Part, Title: e.Title, First: e.At, Last: e.At})
		}
		sums[i].add(e)
	}
	return sums
}

func (s *Sum) add(e Entry) {
	if e.At.Before(s.First) {
		s.First = e.At
	}
	if e.At.After(s.Last) {
		s.Last = e.At
	}
	if e.Outcome == Stopped || e.Outcome == Unsafe {
		s.Unfinished++
	} else {
		s.Times++
	}
	if e.Dose != nil {
		s.Dosed++
		if e.Dose.Form == backflush.Tablets {
			s.Tablets += e.Dose.Tablets
		} else {
			s.Grams += e.Dose.Mass.Value
		}
	}
	if n := len(e.Cups); n > 0 {
		s.Looked++
		if e.Cups[n-1].Clear() {
			s.Clear++
		}
	}
}

// Count is how often, in words.
func (s Sum) Count() string {
	switch s.Times {
	case 0:
		return "Not finished"
	case 1:
		return "Once"
	}
	return fmt.Sprintf("%d times", s.Times)
}

// Words are what it comes to besides, a sentence each; day writes a date.
func (s Sum) Words(day func(time.Time) string) []string {
	said := []string{"On " + day(s.Last) + "."}
	if first, last := day(s.First), day(s.Last); first != last {
		said[0] = "From " + first + " to " + last + "."
	}
	if s.Unfinished > 0 {
		said = append(said, fmt.Sprintf("%s stopped before its end.", speak.Upper(counted(s.Unfinished, "was", "were"))))
	}
	var used []string
	if s.Grams > 0 {
		used = append(used, fmt.Sprintf("about %.0f g of detergent", s.Grams))
	}
	if s.Tablets > 0 {
		used = append(used, tablets(s.Tablets))
	}
	if len(used) > 0 {
		text := speak.Upper(strings.Join(used, " and "))
		if s.Dosed < s.Times+s.Unfinished {
			text += fmt.Sprintf(" in the %d that were led", s.Dosed)
		}
		said = append(said, text+".")
	}
	switch {
	case s.Looked == 0:
	case s.Clear == s.Looked && s.Looked == 1:
		said = append(said, "The cup that was looked at was clear at the end.")
	case s.Clear == s.Looked:
		said = append(said, fmt.Sprintf("All %d cups that were looked at were clear at the end.", s.Looked))
	default:
		said = append(said, fmt.Sprintf("%d of %d cups were clear at the end.", s.Clear, s.Looked))
	}
	return said
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func pulses(n int) string { return counted(n, "pulse", "pulses") }

func tablets(n int) string { return counted(n, "tablet", "tablets") }
