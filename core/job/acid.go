package job

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/descale"
	"freshanvil/core/reason"
)

// Push lets the pump run until so much has gone through, and rest where it must.
const Push StepKind = "push"

// Phase is the part of a descale that a step belongs to.
type Phase string

// The phases, in their order.
const (
	Before  Phase = "before"
	Acidic  Phase = "acid"
	Rinsing Phase = "rinse"
	Proving Phase = "proof"
	After   Phase = "after"
)

// Reads is what a look of a descale asks for.
type Reads string

// The readings: the pH of the water that goes in, of the spent solution, of the
// rinse water with its taste.
const (
	Feed  Reads = "feed"
	Spent Reads = "spent"
	Proof Reads = "proof"
)

// Way is one answer to a choice. Without a detour and a stop it leads on.
type Way struct {
	What   string          `json:"what"`
	Text   string          `json:"text"`
	Detour []Step          `json:"detour,omitempty"` // gone through, then it is asked again
	Most   int             `json:"most,omitempty"`   // so often; then Stop
	Stop   *reason.Finding `json:"stop,omitempty"`   // nothing leads on from here
	Marks  string          `json:"marks,omitempty"`  // what is remembered of it
}

// Heard are the answers to Listen, in words; its ways are the run's own.
func Heard() []Way {
	return []Way{
		{What: Flows, Text: "It clicks, and water comes"},
		{What: NoClick, Text: "No click, no water"},
		{What: Clicks, Text: "It clicks, but no water"},
	}
}

// Answers lists every answer that a choice may ask for.
func Answers() []string {
	return []string{
		Flows,
		NoClick,
		Clicks,
		"cold",
		"not_yet",
		"drained",
		"not_drained",
		"full",
		"air_lock",
		"clean",
		"dusting",
		"crusted",
	}
}

// Mix is what a batch of solution is made of.
type Mix struct {
	Measure reason.Worked `json:"measure"`
	Water   reason.Worked `json:"water"`
}

// Circuit is one circuit of a descale.
type Circuit struct {
	ID     string        `json:"id"`
	Title  string        `json:"title"`
	Holds  float64       `json:"holds"` // L
	Heel   float64       `json:"heel"`  // 0 where it is pushed through
	Outlet string        `json:"outlet"`
	Least  reason.Worked `json:"least"` // L to flush, or refills
	More   []Step        `json:"more"`  // where the strip does not match
	Scale  float64       `json:"scale"` // g predicted
}

// Acid is what a descale knows beside its steps.
type Acid struct {
	Program  descale.ProgramID `json:"program"`
	Title    string            `json:"title"`
	Product  string            `json:"product"`
	Kind     descale.AcidID    `json:"kind"`
	Strength float64           `json:"strength"` // g/L as mixed
	Measure  reason.Worked     `json:"measure"`
	Solution reason.Worked     `json:"solution"`
	Spoons   reason.Worked     `json:"spoons"`  // of a powder; zero for the others
	Contact  time.Duration     `json:"contact"` // at most
	FeedAlk  float64           `json:"feed_alk"`
	Known    bool              `json:"known"` // a descale was on record, so scale was predicted
	Share    float64           `json:"share"` // of the scale that stays, so far
	Circuits []Circuit         `json:"circuits"`
	Pipes    descale.Pipes     `json:"pipes"` // as it begins
	Flow     float64           `json:"flow"`  // mL/s
	Dirty    bool              `json:"dirty"` // acid is in from the start: it is only rinsed
	Tubs     int               `json:"tubs"`  // how often the source is filled
	Catches  int               `json:"catches"`
	Findings []reason.Finding  `json:"findings,omitempty"`
}

// Predicted is the scale believed to be in all circuits, g.
func (a Acid) Predicted() float64 {
	sum := 0.0
	for _, c := range a.Circuits {
		sum += c.Scale
	}
	return sum
}

// Circuit finds one; nil where there is none.
func (a Acid) Circuit(id string) *Circuit {
	for i := range a.Circuits {
		if a.Circuits[i].ID == id {
			return &a.Circuits[i]
		}
	}
	return nil
}

// Errand is a task of the whole machine that a plan does beside its parts, done
// with the step named.
type Errand struct {
	Task  care.Task `json:"task"`
	Title string    `json:"title"`
	Last  string    `json:"last"`
}

// Inside is what is in a machine now: detergent in groups, acid in circuits.
type Inside struct {
	Detergent []int
	Acid      []string
}

// Meets refuses to bring acid and detergent together: with acid, a machine that
// holds detergent; with detergent, one that holds acid. Nil where it may go on.
func (in Inside) Meets(acid bool) error {
	f := reason.Finding{
		Verdict: reason.Refused,
		Because: []reason.Reason{
			{Text: "Acid and detergent never meet: a full rinse lies between them.", Source: reason.Trade},
		},
	}
	switch {
	case acid && len(in.Detergent) > 0:
		f.Title = "Detergent is in " + care.Groups(in.Detergent) + ": no acid beside it"
		f.Next = []string{"Rinse the detergent out first, until the cup is clear."}
	case !acid && len(in.Acid) > 0:
		f.Title = "Acid is in the machine: no detergent beside it"
		f.Next = []string{"Rinse the acid out first, until the strip matches."}
	default:
		return nil
	}
	return &Refused{f}
}

// Says is what the band says of it; empty where nothing is in.
func (in Inside) Says() string {
	what := ""
	switch {
	case len(in.Detergent) > 0 && len(in.Acid) > 0:
		what = "Detergent in " + care.Groups(in.Detergent) + ", acid in the " + in.circuits()
	case len(in.Detergent) > 0:
		what = "Detergent in " + care.Groups(in.Detergent)
	case len(in.Acid) > 0:
		what = "Acid in the " + in.circuits()
	default:
		return ""
	}
	return what + ": no drinks until the rinse is proven"
}

// Where is where it is, in words.
func (in Inside) Where() string {
	switch {
	case len(in.Acid) == 0 && len(in.Detergent) == 0:
		return ""
	case len(in.Acid) == 0:
		return care.Groups(in.Detergent)
	case len(in.Detergent) == 0:
		return "the " + in.circuits()
	}
	return care.Groups(in.Detergent) + ", the " + in.circuits()
}

func (in Inside) circuits() string {
	list := slices.Clone(in.Acid)
	for i := range list {
		list[i] = strings.ReplaceAll(list[i], "-", " ")
	}
	slices.Sort(list)
	if n := len(list); n > 1 {
		return strings.Join(list[:n-1], ", ") + " and " + list[n-1]
	}
	return strings.Join(list, "")
}

// Bars gives the groups that bar a use from being logged on a machine of so many:
// acid bars all of them.
func (in Inside) Bars(kind care.UseKind, group, groups int) []int {
	dirty := in.Detergent
	if len(in.Acid) > 0 {
		dirty = nil
		for g := range groups {
			dirty = append(dirty, g+1)
		}
	}
	return care.Barred(kind, group, dirty)
}

// checkAcid plays the liquids of a descale through: nothing runs over, no pump
// draws air, no boiler is emptied under heat or heated empty, acid comes before the
// rinse and never beside detergent, and it ends rinsed and proven.
func (p Plan) checkAcid() error {
	if p.Acid == nil {
		return nil
	}
	pipes := p.Acid.Pipes.Clone()
	fed, proven := false, map[string]bool{}
	order := map[Phase]int{Before: 0, Acidic: 1, Rinsing: 2, Proving: 3, After: 4}
	at := 0
	for _, s := range p.Steps {
		if s.Hazard == Sets {
			for _, c := range p.Acid.Circuits {
				if !proven[c.ID] {
					return fmt.Errorf("step %s brings detergent beside acid in the %s", s.ID, c.Title)
				}
			}
		}
		if s.Phase == "" {
			continue
		}
		if order[s.Phase] < at {
			return fmt.Errorf("step %s goes back to %s", s.ID, s.Phase)
		}
		at = order[s.Phase]
		for _, m := range s.Does {
			if m.Acid && s.Phase != Acidic {
				return fmt.Errorf("step %s brings acid back after the rinse has begun", s.ID)
			}
			if err := pipes.Do(m); err != nil {
				return fmt.Errorf("step %s: %w", s.ID, err)
			}
			if to := pipes.At(m.To); m.Kind == descale.Fills && to != nil && s.Phase != Acidic {
				delete(proven, m.To)
			}
		}
		switch s.Reads {
		case Feed:
			fed = true
		case Proof:
			v := pipes.At(s.Circuit)
			if !fed || v == nil || v.Sour() {
				return fmt.Errorf("step %s proves the rinse of %q before enough has gone through", s.ID, s.Circuit)
			}
			proven[s.Circuit] = true
		}
	}
	for _, c := range p.Acid.Circuits {
		if !proven[c.ID] {
			return fmt.Errorf("the plan ends before the rinse of the %s is proven", c.Title)
		}
	}
	for _, v := range pipes.Vessels {
		if v.Kind == descale.Source && v.Sour() {
			return fmt.Errorf("the plan ends with acid in the %s", v.Title)
		}
	}
	return nil
}
