package run

import (
	"fmt"
	"strings"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
	"freshanvil/core/machine"
	"freshanvil/core/plant"
	"freshanvil/core/reason"
)

// Detergent is the hazard of one group as this run knows it.
type Detergent struct {
	In      bool // in the group now
	Ever    bool // this run put it in, or began with it
	Rinsed  int  // full rinse pulses counted
	Least   int  // before the cup may be judged
	Clear   bool // the last cup was clear, after enough pulses
	Flushed bool
}

// Group is what a run has come to in one group that is washed or rinsed.
type Group struct {
	Part      machine.Part
	Detergent Detergent
	Soapy     int              // full detergent pulses
	First     backflush.Colour // of the first dirty water; empty where nobody was asked
	Cups      []backflush.Cup
	Through   Water // what ran through it
	Ended     bool  // its last step is done
	// Blind is how often nothing came out at the drain after a pulse, over all runs,
	// since somebody last said that it opened.
	Blind int
}

// Number is the group's number; 0 where it is none.
func (g Group) Number() int { return g.Part.GroupNumber() }

// group is a group and what the fold keeps of it besides.
type group struct {
	Group
	extra int  // sets of pulses added
	pairs int  // unclear pairs in a row
	last  bool // two more pulses were asked for after three of them: there are no more
	// short says that its wash was cut short, lengthened that its rinse was made longer for it.
	short, lengthened bool
}

func newGroup(a job.Activity) *group {
	return &group{Group: Group{
		Part: a.Part, Blind: a.Wash.Blind,
		Detergent: Detergent{In: a.Wash.Dirty, Ever: a.Wash.Dirty, Least: a.Wash.Rinse.Least},
	}}
}

// group finds what the fold keeps of a group; nil where it is not washed.
func (f *fold) group(part machine.Part) *group {
	for _, g := range f.groups {
		if g.Part == part {
			return g
		}
	}
	return nil
}

// here is the group of the present step; nil where it is of none.
func (f *fold) here() *group { return f.group(f.step().Part) }

// outcome is how a wash of it ends, or would end now.
func (g *group) outcome(done bool) Outcome {
	switch {
	case g.Detergent.In:
		return StoppedUnsafe
	case g.short:
		return Stopped
	case done, g.Detergent.Ever: // what may be left is one drink to pour away
		return Finished
	}
	return Stopped
}

// takeDose counts detergent into the group.
func (g *group) takeDose(wash *job.Washing) {
	d := &g.Detergent
	d.In, d.Ever, d.Rinsed, d.Clear, d.Flushed = true, true, 0, false, false
	if wash.Dirty { // a pinch on top of all that was left in: a pulse more than halves it
		d.Least = wash.Rinse.Least + 1
	}
}

// flush counts the flush that ends the rinse: after enough pulses and a clear cup the
// detergent is out.
func (g *group) flush() {
	d := &g.Detergent
	d.Flushed = true
	if d.Rinsed >= d.Least && d.Clear {
		d.In = false
	}
}

// look takes what the cup shows, and says whether the rinse goes on.
func (f *fold) judgeCup(c backflush.Cup) {
	g := f.here()
	g.Cups = append(g.Cups, c)
	d := &g.Detergent
	finding := c.Judge(g.pairs)
	switch {
	case c.Clear() && d.Rinsed >= d.Least:
		d.Clear = true
		f.state.Finding = nil
		f.next()
	case c.Clear(): // cannot be in a plan that passes its check; never skip the least
		f.state.Finding = &finding
		f.rinseMore(d.Least - d.Rinsed)
	case finding.Verdict == reason.Stop:
		d.Clear = false
		f.hold(&finding)
	default:
		d.Clear = false
		g.pairs++
		f.state.Finding = &finding
		f.rinseMore(f.activity().Wash.More.Count)
	}
}

// rinseMore adds a set of water pulses and another look after it.
func (f *fold) rinseMore(count int) {
	g := f.here()
	g.extra++
	f.insert(
		job.ExtraRinse(*f.activity(), f.setup().Begin, f.named(fmt.Sprintf("more-%d", g.extra)), count),
		job.Cup(f.named(fmt.Sprintf("cup-%d", g.extra+1))),
	)
}

// named is how a step that is added for the present group is called.
func (f *fold) named(id string) string {
	if before, _, numbered := strings.Cut(f.step().ID, "-"); numbered && before == fmt.Sprint(f.here().Number()) {
		return before + "-" + id
	}
	return id
}

// countBlind counts that nothing came out at the drain: the head is to be taken as
// under pressure.
func (f *fold) countBlind() {
	g := f.here()
	g.Blind++
	f.doNow([]plant.Action{{Verb: plant.PumpOff}, {Verb: plant.NothingOut, What: g.Part.String()}})
	finding := &reason.Finding{
		Verdict: reason.Stop, Title: "Nothing came out: the head may still be under pressure",
		Because: []reason.Reason{{
			Text:   "A pulse that does not come out at the drain stays in the head, behind the handle.",
			Source: reason.Trade,
		}},
		Next: []string{
			"Stop the pump. Do not touch the handle.",
			"One more pulse may free it. Watch the drain spout.",
			"Or switch off and stop here. The bench then frees the group cold, step by step.",
		},
	}
	if job.Bars(g.Blind) {
		finding.Title = "Nothing came out twice: stop here"
		finding.Next = []string{
			"Switch the machine off and pull the plug. Do not touch the handle.",
			"Leave it locked, and call a technician.",
		}
	}
	f.hold(finding)
}

// clearBlind takes somebody's word that the head is no longer under pressure.
func (f *fold) clearBlind() {
	f.here().Blind = 0
	f.doNow([]plant.Action{{Verb: plant.CameOut, What: f.here().Part.String()}})
	f.state.Finding = &reason.Finding{
		Verdict: reason.Look, Title: "It is open: go on",
		Because: []reason.Reason{{Text: "You said that it has opened.", Source: reason.Said}},
		Next: []string{
			"Is the handle out? Lock it in again, with the blind basket as it was.",
			"Is the machine off? Switch it on and wait until it is hot.",
		},
	}
}
