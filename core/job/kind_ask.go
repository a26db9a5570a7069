package job

import (
	"slices"
	"time"

	"freshanvil/core/inspect"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// asked is what the kinds that ask have alike: the hands take their time, and
// nothing runs.
type asked struct{}

// Spell is what the hands take.
func (asked) Spell(takes time.Duration, pump *Pump) time.Duration {
	pump.Idle(takes)
	return takes
}

// Water is none.
func (asked) Water(units.Volume) units.Volume { return 0 }

// Sight is what a look is at.
type Sight string

// The sights: the first dirty water, which teaches how often; the cup after the
// rinse, which ends it.
const (
	FirstWater Sight = "first"
	RinseCup   Sight = "cup"
)

// Look asks what is seen.
type Look struct {
	asked
	At Sight
}

// Kind is LookKind.
func (Look) Kind() StepKind { return LookKind }

// Answer is one that a choice may be given.
type Answer string

// The answers. Of the valve: Flows, NoClick, Clicks. Of the gauze: Clean, Dusting,
// Crusted. Of the pump, tried cold: Flows, Waits. Of a boiler: Cold, Hot; Drained,
// NotDrained. Of a machine at pressure: Dry, Drips.
const (
	Waits      Answer = "waits_for_heat"
	Cold       Answer = "cold"
	Hot        Answer = "hot"
	Drained    Answer = "drained"
	NotDrained Answer = "not_drained"
	Gone       Answer = "gone" // of a tablet: Gone, SomeLeft; of a handle: Opens, Stuck
	SomeLeft   Answer = "some_left"
	Opens      Answer = "opens"
	Stuck      Answer = "stuck"
	Dry        Answer = "dry"
	Drips      Answer = "drips"
	Came       Answer = "came" // of what is let off: Came, NoneCame; of heaters that were turned off: StillOff, OnAgain
	NoneCame   Answer = "none_came"
	RunsOn     Answer = "runs_on"
	StillOff   Answer = "still_off"
	OnAgain    Answer = "on_again"
	// of a pump that built no pressure twice: what was found
	NoWater   Answer = "water_was_missing"
	WrongIn   Answer = "blind_was_wrong"
	NotLocked Answer = "handle_was_loose"
)

// Mends are what may have been found where a pump built no pressure twice: without one of them nothing goes on.
func Mends() []Answer { return []Answer{NoWater, WrongIn, NotLocked} }

// More answers.
const (
	Flows   Answer = "flows"
	NoClick Answer = "no_click"
	Clicks  Answer = "clicks"
	// of a pump that is heard, and of a boiler that fills itself
	PumpUsual   Answer = "pump_usual"
	PumpScreams Answer = "pump_screams"
	PumpSilent  Answer = "pump_silent"
	FillStops   Answer = "fill_stops"
	FillsOn     Answer = "fills_on"
	Clean       Answer = "clean"
	Dusting     Answer = "dusting"
	Crusted     Answer = "crusted"
)

// Answers lists them.
func Answers() []Answer {
	return []Answer{Flows, NoClick, Clicks, Clean, Dusting, Crusted, Waits, Cold, Hot, Drained, NotDrained, Dry, Drips,
		Gone, SomeLeft, Opens, Stuck, PumpUsual, PumpScreams, PumpSilent, FillStops, FillsOn,
		Came, NoneCame, RunsOn, StillOff, OnAgain, NoWater, WrongIn, NotLocked}
}

// Found lists the answers that are verdicts of a look, beside those of above.
func Found() []Answer {
	var list []Answer
	for _, row := range inspect.All() {
		for _, s := range row.Seen {
			if a := Answer(s.Verdict); !slices.Contains(Answers(), a) && !slices.Contains(list, a) {
				list = append(list, a)
			}
		}
	}
	return list
}

// Mark is something seen in a run that is written down.
type Mark string

// The marks.
const (
	GauzeDusted  Mark = "gauze_dusted"
	GauzeCrusted Mark = "gauze_crusted"
	CopperSeen   Mark = "copper_seen"
)

// Text is a mark in the sentences of the log.
func (m Mark) Text() string {
	return map[Mark]string{
		GauzeDusted: "gauze dusted", GauzeCrusted: "gauze crusted", CopperSeen: "blue or green solution",
	}[m]
}

// Way is one answer to a choice. Without tries and a stop it leads on.
type Way struct {
	Answer Answer
	Text   string
	// Tries is what is gone through before it is asked again, the first time, the
	// second and so on; when they are used up, Stop is what there is to do, or without one
	// it leads on.
	Tries [][]Step
	Stop  *reason.Finding
	Marks Mark // what is remembered of it; empty for nothing
}

// Choose asks which of several it is.
type Choose struct {
	asked
	Ways []Way
	// Sight is what is looked at, where what is found is kept; its answers are the sight's verdicts.
	Sight inspect.Sight
}

// Kind is ChooseKind.
func (Choose) Kind() StepKind { return ChooseKind }

// Pads are the pH values that the strip for a reading shows (common practice of the
// trade: a strip of the narrow range that is wanted there).
func (r Reads) Pads() []float64 {
	switch r {
	case Feed:
		return []float64{6, 6.5, 7, 7.5, 8, 8.5}
	case Spent:
		return []float64{1.5, 2, 2.5, 3, 3.5, 4, 5}
	}
	return []float64{4, 5, 6, 6.5, 7, 7.5, 8}
}

// Reads is what a measurement of a descale is of.
type Reads string

// The readings: the pH of the water that goes in, of the spent solution, of the
// rinse water with its taste.
const (
	Feed  Reads = "feed"
	Spent Reads = "spent"
	Proof Reads = "proof"
)

// Measure asks what a strip or a meter reads.
type Measure struct {
	asked
	Reads   Reads
	Circuit machine.Part // the whole machine for the feed
	// Outlet is the opening that a proof is taken at; Last says that with it every outlet
	// of its circuit is proven.
	Outlet string
	Last   bool
}

// Kind is MeasureKind.
func (Measure) Kind() StepKind { return MeasureKind }
