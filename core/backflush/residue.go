package backflush

import (
	"math"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Limit is the residue accepted in the head before the discarded drink, in
// milligrams a litre (our own engineering choice).
const Limit = 10.0

// RinseFlush is the flush that ends a rinse.
const RinseFlush units.Volume = 50

// pulses it takes to dissolve the powder; they rinse nothing yet
const dissolving = 2

// mostRinse bounds the count: with the heads we know it is never near.
const mostRinse = 40

// Residue is the detergent left in the head, in mg/L, after so many full
// detergent and rinse pulses and a flush.
//
// Each full pulse leaves the fraction stays ÷ (stays + vents) of what was in
// the head. The first two detergent pulses dissolve the powder. A flush of V
// leaves e^(−V ÷ stays). Our own engineering model; it agrees with practice:
// 3 g, five and five pulses and 50 mL leave 9 mg/L.
func Residue(dose units.Mass, stays, vents units.Volume, detergent, rinse int, flush units.Volume) float64 {
	head := float64(stays + vents)
	counted := max(0, detergent-dissolving) + max(0, rinse-max(0, dissolving-detergent))
	return float64(
		dose,
	) * 1e6 / head * math.Pow(
		float64(stays)/head,
		float64(counted),
	) * math.Exp(
		-float64(flush)/float64(stays),
	)
}

// Rinse is how many rinse pulses a group needs before the cup may be judged.
type Rinse struct {
	Least   int           // the larger of the method's own count and the model's
	Shown   reason.Worked // Least, with how it came about
	Method  int           // the method's own count
	Model   reason.Worked // pulses the residue model asks for
	Residue reason.Worked // mg/L left after Least pulses and the flush
	Because []reason.Reason
}

// LeastRinse is the larger of the method's own count and what the residue
// model asks for after so many detergent pulses. A detergent count of 0 takes
// all the powder as still lying in the group.
func LeastRinse(m Method, dose units.Mass, f machine.Facts, detergent int) Rinse {
	inputs := []reason.Input{
		{Symbol: "dose", Label: "detergent in the group", Value: float64(dose), Unit: "g", Source: m.Source},
		{Symbol: "stays", Label: "stays behind in the head", Value: float64(f.Stays), Unit: "mL", Source: reason.Ours},
		{Symbol: "vents", Label: "vents a pulse", Value: float64(f.Vents), Unit: "mL", Source: reason.Ours},
		{
			Symbol: "pulses",
			Label:  "full detergent pulses, before and after a soak",
			Value:  float64(detergent),
			Unit:   "pulses",
			Source: m.Source,
		},
		{Symbol: "flush", Label: "flush afterwards", Value: float64(RinseFlush), Unit: "mL", Source: reason.Ours},
		{Symbol: "limit", Label: "limit before the discarded drink", Value: Limit, Unit: "mg/L", Source: reason.Ours},
	}
	need := 0
	for need < mostRinse && Residue(dose, f.Stays, f.Vents, detergent, need, RinseFlush) > Limit {
		need++
	}
	model := reason.Worked{
		Name: "rinse pulses by the residue model", Value: float64(need), Unit: "pulses",
		Formula: "max(0, ceil(ln(dose × 1000000 ÷ (stays + vents) × exp(−flush ÷ stays) ÷ limit) ÷ ln((stays + vents) ÷ " +
			"stays)) − (pulses − 2))",
		Inputs: inputs, Source: reason.Ours,
		WouldChange: []string{"a larger dose", "fewer detergent pulses", "a group whose head holds more water"},
	}.Exact()
	r := Rinse{Method: m.Rinse.Count, Model: model, Least: max(m.Rinse.Count, need)}
	r.Residue = reason.Worked{
		Name:  "detergent left before the discarded drink",
		Value: Residue(dose, f.Stays, f.Vents, detergent, r.Least, RinseFlush), Unit: "mg/L",
		Formula: "dose × 1000000 ÷ (stays + vents) × (stays ÷ (stays + vents))^(pulses − 2 + rinse) × exp(−flush ÷ stays)",
		Inputs: append(
			inputs[:5:5],
			reason.Input{
				Symbol: "rinse",
				Label:  "full rinse pulses",
				Value:  float64(r.Least),
				Unit:   "pulses",
				Source: m.Source,
			},
		),
		Source: reason.Ours, WouldChange: []string{"another rinse pulse more than halves it"},
	}.Exact()
	r.Shown = reason.Worked{
		Name: "least rinse pulses before the cup is judged", Value: float64(r.Least), Unit: "pulses",
		Formula: "max(method, model)", Source: reason.Ours,
		Inputs: []reason.Input{
			{
				Symbol: "method",
				Label:  m.Name + ": its own count",
				Value:  float64(m.Rinse.Count),
				Unit:   "pulses",
				Source: m.Source,
			},
			model.AsInput("model"),
		},
		WouldChange: []string{"a larger dose", "fewer detergent pulses", "what the cup shows: unclear adds two"},
	}.Exact()
	if need > m.Rinse.Count {
		r.Because = append(
			r.Because,
			reason.Reason{
				Text:   "The method's own rinse would leave more than the limit, so pulses are added.",
				Source: reason.Ours,
			},
		)
	} else {
		r.Because = append(r.Because, reason.Reason{Text: "The method's own rinse meets the limit by the model; the cup " +
			"has the last word.", Source: reason.Ours})
	}
	return r
}

// Colour, Foam and Grains grade the discharge caught in a clear cup, cleanest
// first.
type (
	Colour string
	Foam   string
	Grains string
)

// The grades.
const (
	ColourClear Colour = "clear"
	ColourPale  Colour = "pale"
	ColourBrown Colour = "brown"
	ColourDark  Colour = "dark"

	FoamNone Foam = "none"
	FoamSome Foam = "some"
	FoamMuch Foam = "much"

	GrainsNone Grains = "0"
	GrainsFew  Grains = "1-3"
	GrainsSome Grains = "4-10"
	GrainsMany Grains = "more"
)

// Cup is what was seen in the cup.
type Cup struct {
	Colour Colour `json:"colour"`
	Foam   Foam   `json:"foam"`
	Grains Grains `json:"grains"`
}

// Check refuses a grade that does not exist; the error is a *units.OutOfRange.
func (c Cup) Check() error {
	switch c.Colour {
	case ColourClear, ColourPale, ColourBrown, ColourDark:
	default:
		return &units.OutOfRange{Field: "cup.colour", Value: string(c.Colour), Allowed: "clear, pale, brown, dark"}
	}
	switch c.Foam {
	case FoamNone, FoamSome, FoamMuch:
	default:
		return &units.OutOfRange{Field: "cup.foam", Value: string(c.Foam), Allowed: "none, some, much"}
	}
	switch c.Grains {
	case GrainsNone, GrainsFew, GrainsSome, GrainsMany:
	default:
		return &units.OutOfRange{Field: "cup.grains", Value: string(c.Grains), Allowed: "0, 1-3, 4-10, more"}
	}
	return nil
}

// Clear says whether the rinse may end: no colour, no foam, three grains at
// most (common practice).
func (c Cup) Clear() bool {
	return c.Colour == ColourClear && c.Foam == FoamNone && (c.Grains == GrainsNone || c.Grains == GrainsFew)
}

// MostPairs is how many extra pairs of pulses in a row may end in an unclear
// cup before more of the same is no longer advised.
const MostPairs = 3

// Judge is the verdict on a cup that was caught after so many extra pairs of
// pulses in a row. After MostPairs of them it says what to do next instead of
// going round for ever.
func (c Cup) Judge(pairs int) reason.Finding {
	if c.Clear() {
		return reason.Finding{
			Verdict: reason.Fine,
			Title:   "Clear",
			Because: []reason.Reason{{Text: "No colour, no foam, at most three grains.", Source: reason.Trade}},
		}
	}
	f := reason.Finding{Verdict: reason.Look, Title: "Not clear yet: two more pulses"}
	add := func(text string) {
		f.Because = append(f.Because, reason.Reason{Text: text, Source: reason.Trade})
	}
	if c.Foam != FoamNone {
		add("Foam in the discharge is detergent that is still in the group.")
	}
	if c.Colour != ColourClear {
		add("Colour in the discharge is coffee oil that still comes loose.")
	}
	if c.Grains == GrainsSome || c.Grains == GrainsMany {
		add("More than three grains: grounds sit behind the screen.")
	}
	if pairs < MostPairs {
		return f
	}
	f.Verdict, f.Title = reason.Stop, "Three pairs of pulses, and still not clear"
	f.Because = append(
		f.Because,
		reason.Reason{
			Text:   "Three pairs of pulses in a row changed too little; more of the same seldom helps.",
			Source: reason.Ours,
		},
	)
	if c.Foam != FoamNone {
		f.Next = append(
			f.Next,
			"Take the blind out, wash it in clean water, look for powder left in it, and flush the group for ten seconds.",
		)
	}
	if c.Colour != ColourClear || c.Grains == GrainsSome || c.Grains == GrainsMany {
		f.Next = append(
			f.Next,
			"When the group is cool, take the screen off, scrub it on both sides, and look behind it.",
		)
	}
	f.Next = append(
		f.Next,
		"Then go on with two more pulses and look again.",
		"If it still is not clear, stop here. The group stays marked, no drinks from it, and a technician looks at the "+
			"valve.",
	)
	return f
}

// Unseen stands for a first discharge that nobody caught.
const Unseen Colour = "unseen"

// CheckFirst refuses a grade of the first discharge that does not exist; the
// error is a *units.OutOfRange.
func CheckFirst(c Colour) error {
	switch c {
	case ColourClear, ColourPale, ColourBrown, ColourDark, Unseen:
		return nil
	}
	return &units.OutOfRange{Field: "first", Value: string(c), Allowed: "clear, pale, brown, dark, unseen"}
}
