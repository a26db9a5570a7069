package run

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"freshanvil/core/job"
	"freshanvil/core/plant"
)

// Hands are a pair of hands that carries a plan out, while it is judged. The zero value
// takes no time at all; see AsSaid.
type Hands struct {
	Work   float64 // hand work takes so many times as said
	Late   float64 // what the screen calls ends so many seconds later; below 0, earlier
	Share  float64 // what goes by an amount is so much more of it
	Longer float64 // a longer wait takes so many seconds longer
	// Steps are steps whose hand work takes another factor; Answers what is said where one
	// is asked, by step; NoPressure the pushes at which no water comes, once; Differ the
	// proofs whose strip differs, once.
	Steps      map[string]float64
	Answers    map[string]job.Answer
	NoPressure map[string]bool
	// NothingCame are the pulses after which nothing comes at the drain, once; Twice says that
	// nothing comes at the second try, either.
	NothingCame map[string]bool
	Twice       bool
	// RinseNow are the steps at which no more detergent is wanted.
	RinseNow map[string]bool
	Differ   map[string]bool
	What     string // in words, for who asked

	random *rand.Rand
}

// AsSaid are hands that take the time that steps are planned for.
func AsSaid() Hands { return Hands{Work: 1, What: "with hands as planned for"} }

// Uniform are hands of one factor: ½ comes two seconds early and a tenth short, 3 ten
// seconds late, a tenth over, and ten minutes late after a wait.
func Uniform(factor float64) Hands {
	h := Hands{Work: factor, What: fmt.Sprintf("with hands that take %.3g times as long", factor)}
	switch {
	case factor < 1:
		h.Late, h.Share = -2, -0.1
	case factor > 1:
		h.Late, h.Share, h.Longer = 10*(factor-1)/2, 0.1*(factor-1)/2, 600*(factor-1)/2
	}
	return h
}

// Mixed are hands that take each step at random, from half to three times as long.
func Mixed(seed uint64) Hands {
	h := Hands{Work: 1, What: fmt.Sprintf("with a mixture of slow and quick hands (seed %d)", seed)}
	h.random = rand.New(rand.NewPCG(seed, 17))
	return h
}

// draw gives the step its own factor, where hands are a mixture.
func (h *Hands) draw() {
	if h.random == nil {
		return
	}
	h.Work = math.Exp(math.Log(0.5) + h.random.Float64()*math.Log(6))
	h.Late, h.Share, h.Longer = -2+12*h.random.Float64(), -0.1+0.2*h.random.Float64(), 600*h.random.Float64()
}

// takes is how long the hand work of a step is.
func (h *Hands) takes(s job.Step) time.Duration {
	factor := h.Work
	if own, is := h.Steps[s.ID]; is {
		factor = own
	}
	return time.Duration(float64(s.Takes) * factor)
}

// scaled are the actions with what goes by an amount a little more, or less.
func (h *Hands) scaled(list []plant.Action, step string) []plant.Action {
	share := h.Share
	if own, is := h.Steps[step]; is {
		share = map[bool]float64{true: -0.1, false: 0.1}[own < 1]
	}
	out := make([]plant.Action, len(list))
	for i, a := range list {
		if a.Amount > 0 && (a.Verb == plant.LetOut || a.Verb == plant.PourIn) {
			a.Amount *= 1 + share
		}
		out[i] = a
	}
	return out
}

func (h *Hands) overrun(long time.Duration) time.Duration {
	by := h.Longer
	if long <= 5*time.Minute {
		by = math.Max(0, h.Late)
	}
	return time.Duration(by * float64(time.Second))
}

// mixtures is how many mixtures of hands a plan is judged for.
const mixtures = 16

// uniform are hands of one factor: as planned for, quick, slow.
func uniform() []Hands { return []Hands{AsSaid(), Uniform(0.5), Uniform(3)} }

// handsFor are the hands that a plan must be safe for.
func handsFor(plan job.Plan) []Hands {
	list := uniform()
	for _, s := range plan.Steps() {
		if s.Takes > 0 && (s.Phase != "" || plan.Descaling() == nil) {
			for _, factor := range []float64{0.5, 3} {
				h := AsSaid()
				h.Steps = map[string]float64{s.ID: factor}
				h.What = fmt.Sprintf("with hands that take %.3g times as long for «%s»", factor, s.Title)
				list = append(list, h)
			}
		}
		list = append(list, answersFor(s)...)
		if plan.WashOf(s.Part) != nil {
			h := AsSaid()
			h.RinseNow, h.What = map[string]bool{s.ID: true}, fmt.Sprintf("where it is rinsed at once at «%s»", s.Title)
			list = append(list, h)
		}
	}
	for seed := range uint64(mixtures) {
		list = append(list, Mixed(seed))
	}
	return list
}

// answersFor are the hands that answer otherwise than usual at a step, or meet a detour.
func answersFor(s job.Step) []Hands {
	var list []Hands
	with := func(what string, change func(*Hands)) {
		h := AsSaid()
		h.What = fmt.Sprintf("where %s at «%s»", what, s.Title)
		change(&h)
		list = append(list, h)
	}
	switch b := s.Body.(type) {
	case job.Choose:
		for _, w := range b.Ways[1:] {
			with("the answer is «"+w.Text+"»", func(h *Hands) { h.Answers = map[string]job.Answer{s.ID: w.Answer} })
		}
	case job.Pulses:
		with("nothing comes at the drain", func(h *Hands) { h.NothingCame = map[string]bool{s.ID: true} })
		with("nothing comes twice", func(h *Hands) { h.NothingCame, h.Twice = map[string]bool{s.ID: true}, true })
	case job.Look:
		if b.At == job.FirstWater {
			with("nothing came", func(h *Hands) { h.NothingCame = map[string]bool{s.ID: true} })
		}
	case job.Push:
		with("no water comes", func(h *Hands) { h.NoPressure = map[string]bool{s.ID: true} })
	case job.Measure:
		if b.Reads == job.Proof {
			with("the strip differs", func(h *Hands) { h.Differ = map[string]bool{s.ID: true} })
		}
	}
	return list
}
