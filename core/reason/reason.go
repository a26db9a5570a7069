// Package reason is how a number or a judgement carries its own grounds: the
// formula, the inputs, where each comes from, and what would change it.
//
// Of the trade it knows nothing: the packages that decide fill it in; a screen only
// shows it, so no sentence of the rules is written twice.
package reason

import "strings"

// Kind says how far a value is to be trusted.
type Kind string

// The kinds of source, from the firmest on.
const (
	Published Kind = "published" // a named publication stands behind it
	Practice  Kind = "practice"  // common practice of the trade, no single source
	Model     Kind = "model"     // our own engineering choice, an assumption
	Given     Kind = "given"     // the user, the log or the clock said so
)

// Source is where a value or a rule comes from.
type Source struct {
	Kind  Kind   `json:"kind"`
	Which string `json:"which"`
}

// Input is one value that went into a Worked: given, or itself worked out.
type Input struct {
	// Symbol is the name the formula uses; a letter, then letters, digits or _.
	Symbol string  `json:"symbol"`
	Label  string  `json:"label"`
	Value  float64 `json:"value"`
	Unit   string  `json:"unit"`
	Source Source  `json:"source"`
	// Range is how far a given input may lie from its value; nil where it is taken as it is.
	Range *Range `json:"range,omitempty"`
	// Worked is set where the input was itself worked out.
	Worked *Worked `json:"worked,omitempty"`
}

// Range bounds a value.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Ranged is the input with how far it may lie from its value.
func (i Input) Ranged(low, high float64) Input {
	if low < high {
		i.Range = &Range{low, high}
	}
	return i
}

// Spread is what the range of a number means; a number without a range has none.
type Spread string

// The spreads.
const (
	Chance    Spread = "chance"    // it falls within eight times out of ten
	Bounds    Spread = "bounds"    // as far as what nobody has measured may reach
	Tolerance Spread = "tolerance" // as exactly as it was read
)

// Wider is the spread of two numbers that meet in one: what is not known outweighs
// chance, and chance outweighs a tolerance.
func (s Spread) Wider(t Spread) Spread {
	for _, firm := range []Spread{Bounds, Chance, Tolerance} {
		if s == firm || t == firm {
			return firm
		}
	}
	return ""
}

// Worked is a computed number with how it was worked out. Formula is plain
// text over the inputs' symbols with + − × ÷ ^ and parentheses, and the
// functions min, max, exp, ln, floor, ceil and betainv (the Beta quantile); evaluated over
// Inputs it gives Value.
type Worked struct {
	Name    string  `json:"name"`
	Value   float64 `json:"value"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
	Spread  Spread  `json:"spread,omitempty"` // where Low is below High
	Unit    string  `json:"unit"`
	Formula string  `json:"formula"`
	Inputs  []Input `json:"inputs"`
	Source  Source  `json:"source"`
	// WouldChange says in plain words what would move the number.
	WouldChange []string `json:"would_change"`
}

// Exact sets Low and High to Value: the number has no range of its own.
func (w Worked) Exact() Worked {
	w.Low, w.High = w.Value, w.Value
	return w
}

// AsInput makes a worked number an input of another.
func (w Worked) AsInput(symbol string) Input {
	return Input{Symbol: symbol, Label: w.Name, Value: w.Value, Unit: w.Unit, Source: w.Source, Worked: &w}
}

// Reason is one sentence of why, with its source.
type Reason struct {
	Text   string `json:"text"`
	Source Source `json:"source"`
}

// Verdict is what a judgement came to.
type Verdict string

// The verdicts. Refused and Stop are shown in the stop ink.
const (
	Fine Verdict = "fine"
	Look Verdict = "look"
	// NotKnown: something was not read, and is not taken as harmless.
	NotKnown Verdict = "not_known"
	Refused  Verdict = "refused"
	Stop     Verdict = "stop"
)

// Finding is a judgement with its reasons and what to do about it.
type Finding struct {
	Verdict Verdict  `json:"verdict"`
	Title   string   `json:"title"`
	Because []Reason `json:"because"`
	// Next says what to do instead, or what to look at next.
	Next []string `json:"next,omitempty"`
	// Symptom is what a cause may be looked for of (package diagnose); empty for nothing.
	Symptom string `json:"symptom,omitempty"`
}

// Caution is a danger shown at the step where it applies.
type Caution struct {
	// Danger is what can happen: scald, pressure, poison, gas, shock, break.
	Danger string `json:"danger"`
	Text   string `json:"text"`
}

// Short is its first sentence, for where it stood in full above.
func (c Caution) Short() string {
	if first, _, more := strings.Cut(c.Text, ". "); more {
		return first + "."
	}
	return c.Text
}

// The usual sources, so that their wording is the same everywhere.
var (
	Trade = Source{Practice, "common practice of the trade"}
	Ours  = Source{Model, "our engineering choice"}
	Said  = Source{Given, "your answer"}
	Log   = Source{Given, "the log"}
)
