// Package diagnose goes from what somebody notices to its cause by the cheapest checks that tell the most: a graph in
// data (graph.go) of symptoms, causes and checks, and the sum of what was answered.
//
// It does not decide what a remedy is made of (package job) nor when care is due (package care). The likelihoods are
// our own estimates, from memory of the trade; what a bench has found before sharpens them.
package diagnose

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

// The names of what is in the graph.
type (
	SymptomID string
	CauseID   string
	CheckID   string
	AnswerID  string
)

// CantTell is an answer to every check: nothing is learned by it.
const CantTell AnswerID = "cant_tell"

// End is how a cause is dealt with.
type End string

// A run of this product leads the remedy; a hand does it in a moment; a licensed person or a workshop does; nothing is
// done, since it is as it should be; or everything stops at once.
const (
	Led      End = "led"
	ByHand   End = "hand"
	Licensed End = "licensed"
	Normal   End = "normal"
	Stop     End = "stop"
)

// Remedy is what follows from a cause.
type Remedy struct {
	End  End
	Task task.ID // that a run leads; empty otherwise
	Do   []string
}

// Cause is why something is so.
type Cause struct {
	ID     CauseID
	Title  string
	Remedy Remedy
	fits   func(machine.Facts) bool // on which machines it can be; nil for all
}

// Answer is one thing that a check may show.
type Answer struct {
	ID   AnswerID
	Text string
}

// Check is one look, sound or touch that tells causes apart.
type Check struct {
	ID       CheckID
	Ask      string
	How      []string
	Minutes  float64
	Risk     float64 // what its danger weighs, in minutes (our own engineering choice)
	Cautions []reason.Caution
	Answers  []Answer
	First    bool                     // it is asked before anything else: it costs nothing and clears half of the machine
	fits     func(machine.Facts) bool // on which machines it can be made; nil for all
	// given is how likely each answer is, by cause; a cause that is not named is as likely to give any.
	given map[CauseID][]float64
}

// Symptom is what somebody notices.
type Symptom struct {
	ID     SymptomID
	Title  string
	Stops  bool // the machine is switched off before anything is asked
	causes []weighed
	checks []CheckID
}

// weighed is a cause with how likely it is beforehand, in parts.
type weighed struct {
	id    CauseID
	parts float64
}

// Said is what was answered to a check.
type Said struct {
	Check  CheckID
	Answer AnswerID
}

// Likely is a cause with how likely it is by now, 0 to 1.
type Likely struct {
	Cause
	Share float64
	Words string // the same as a person says it
}

// Finding is how far a diagnosis has come.
type Finding struct {
	Symptom Symptom
	Causes  []Likely // the likeliest first; all that can be on this machine
	Next    *Check   // what to look at next; nil where nothing more would tell
	Bits    float64  // that it is expected to tell
	Sure    bool     // the first cause is as good as found
	Because []reason.Reason
}

// When a diagnosis ends, and how much what a bench has found weighs against what we believe (our own engineering
// choices): the first cause is this likely, or the best check tells less than so many bits; so many findings weigh as
// much as our own estimate.
const (
	sureAt     = 0.8
	normalAt   = 0.9 // that nothing is to be done is said more sparingly
	leastBits  = 0.03
	priorCases = 10
)

// isSure says whether a cause is as good as found, by at least one look.
func (l Likely) isSure(looks int) bool {
	if l.Remedy.End == Normal {
		return looks > 0 && l.Share >= normalAt
	}
	return looks > 0 && l.Share >= sureAt
}

// Symptoms are all that may be asked, in the order of the list.
func Symptoms() []Symptom { return slices.Clone(symptoms) }

// Fits says whether a symptom can be noticed on a machine.
func (s Symptom) Fits(f machine.Facts) bool { return len(s.on(f)) > 0 }

// on are the causes that can be on a machine.
func (s Symptom) on(f machine.Facts) (list []weighed) {
	for _, w := range s.causes {
		if c := causes[w.id]; c.fits == nil || c.fits(f) {
			list = append(list, w)
		}
	}
	return list
}

// Diagnose weighs the causes of a symptom by what was said, and says what to look at next. Found is how often this
// bench found each cause behind this symptom. What is not in the graph is a *units.OutOfRange.
func Diagnose(f machine.Facts, id SymptomID, said []Said, found map[CauseID]int) (Finding, error) {
	i := slices.IndexFunc(symptoms, func(s Symptom) bool { return s.ID == id })
	if i < 0 || !symptoms[i].Fits(f) {
		return Finding{}, &units.OutOfRange{Field: "symptom", Value: string(id),
			Allowed: "one of " + strings.Join(names(f), ", ")}
	}
	s := symptoms[i]
	shares := s.before(f, found)
	asked, looks := map[CheckID]bool{}, 0
	for _, x := range said {
		check, known := checks[x.Check]
		if !known || !slices.Contains(s.checks, x.Check) || asked[x.Check] {
			return Finding{}, &units.OutOfRange{Field: "check", Value: string(x.Check),
				Allowed: "a check of this symptom, each once"}
		}
		asked[x.Check] = true
		if x.Answer == CantTell {
			continue
		}
		n := slices.IndexFunc(check.Answers, func(a Answer) bool { return a.ID == x.Answer })
		if n < 0 {
			return Finding{}, &units.OutOfRange{Field: "answer", Value: string(x.Answer),
				Allowed: "an answer of the check, or " + string(CantTell)}
		}
		shares = check.after(shares, n)
		looks++
	}
	out := Finding{Symptom: s, Because: s.because(found)}
	for c, share := range shares {
		out.Causes = append(out.Causes, Likely{Cause: causes[c], Share: share, Words: spoken(share, looks)})
	}
	slices.SortFunc(out.Causes, func(a, b Likely) int {
		return cmp.Or(cmp.Compare(b.Share, a.Share), cmp.Compare(a.ID, b.ID))
	})
	if out.Sure = out.Causes[0].isSure(looks); out.Sure {
		return out, nil
	}
	out.Next, out.Bits = next(s.madeOn(f), shares, asked, looks)
	return out, nil
}

// madeOn is a symptom with the checks that can be made on a machine.
func (s Symptom) madeOn(f machine.Facts) Symptom {
	s.checks = slices.DeleteFunc(slices.Clone(s.checks), func(id CheckID) bool {
		fits := checks[id].fits
		return fits != nil && !fits(f)
	})
	return s
}

func names(f machine.Facts) (list []string) {
	for _, s := range symptoms {
		if s.Fits(f) {
			list = append(list, string(s.ID))
		}
	}
	return list
}

// before is how likely each cause is before anything is asked: our estimate, as so many cases, and what was found.
func (s Symptom) before(f machine.Facts, found map[CauseID]int) map[CauseID]float64 {
	list := s.on(f)
	parts, cases := 0.0, 0.0
	for _, w := range list {
		parts += w.parts
		cases += float64(found[w.id])
	}
	shares := map[CauseID]float64{}
	for _, w := range list {
		shares[w.id] = (priorCases*w.parts/parts + float64(found[w.id])) / (priorCases + cases)
	}
	return shares
}

// after is how likely each cause is after an answer (Bayes).
func (c Check) after(shares map[CauseID]float64, answer int) map[CauseID]float64 {
	sum, out := 0.0, map[CauseID]float64{}
	for id, share := range shares {
		out[id] = share * c.chance(id, answer)
		sum += out[id]
	}
	for id := range out {
		out[id] /= sum
	}
	return out
}

// chance is how likely a cause gives an answer.
func (c Check) chance(id CauseID, answer int) float64 {
	if given, known := c.given[id]; known {
		return given[answer]
	}
	return 1 / float64(len(c.Answers))
}

// uncertainty is the entropy of shares, in bits (Shannon 1948, Bell System Technical Journal 27:379).
func uncertainty(shares map[CauseID]float64) (bits float64) {
	for _, p := range shares {
		if p > 0 {
			bits -= p * math.Log2(p)
		}
	}
	return bits
}

// tells is how much a check is expected to lower the uncertainty, in bits.
func (c Check) tells(shares map[CauseID]float64) float64 {
	left := 0.0
	for n := range c.Answers {
		chance := 0.0
		for id, share := range shares {
			chance += share * c.chance(id, n)
		}
		if chance > 0 {
			left += chance * uncertainty(c.after(shares, n))
		}
	}
	return math.Max(0, uncertainty(shares)-left)
}

// next is the check that tells the most for what it costs, after what is asked first; nil where none tells enough. The
// first look is asked for even where it hardly tells: nothing is as good as found before one.
func next(s Symptom, shares map[CauseID]float64, asked map[CheckID]bool, looks int) (*Check, float64) {
	for n, id := range s.checks {
		c := checks[id]
		if told := c.tells(shares); !asked[id] && c.First && n == 0 && told >= leastBits {
			return &c, told
		}
	}
	var best *Check
	bits, worth := 0.0, 0.0
	for _, id := range s.checks {
		c := checks[id]
		if asked[id] {
			continue
		}
		if told := c.tells(shares); told >= leastBits && told/(c.Minutes+c.Risk) > worth {
			best, bits, worth = &c, told, told/(c.Minutes+c.Risk)
		}
	}
	if best == nil && looks == 0 {
		for _, id := range s.checks {
			if c := checks[id]; !asked[id] {
				return &c, c.tells(shares)
			}
		}
	}
	return best, bits
}

func (s Symptom) because(found map[CauseID]int) []reason.Reason {
	list := []reason.Reason{{Text: "How likely each cause is, and what each look tells, are our own estimates.",
		Source: reason.Source{Kind: reason.Model, Which: "our engineering choice, from memory of the trade"}}}
	n := 0
	for _, w := range s.causes {
		n += found[w.id]
	}
	if n > 0 {
		list = append(list, reason.Reason{Source: reason.Log,
			Text: fmt.Sprintf("This bench found the cause of it %d times: that counts as much as %d of our own cases.", n, n)})
	}
	return list
}

// spoken is a share as a person says it; before a look nothing is almost certain.
func spoken(share float64, looks int) string {
	switch {
	case share >= sureAt && looks > 0:
		return "almost certainly"
	case share >= 0.5:
		return "probably"
	case share >= 0.2:
		return "possibly"
	case share >= 0.05:
		return "less likely"
	}
	return "hardly"
}

// Begins is how a remedy that is led begins.
type Begins string

// A remedy begins on the descale card, with where the handle stands, with the foam put on record, or at once.
const (
	OnTheCard Begins = "card"
	ByHandle  Begins = "handle"
	ByFoam    Begins = "foam"
	AtOnce    Begins = "at_once"
	NotAtAll  Begins = "" // nothing of it is led
)

// Begins is how it begins.
func (r Remedy) Begins() Begins {
	switch r.Task {
	case "":
		return NotAtAll
	case task.Descale:
		return OnTheCard
	case task.Unblock:
		return ByHandle
	case task.Rinse:
		return ByFoam
	}
	return AtOnce
}
