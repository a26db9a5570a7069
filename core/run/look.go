package run

import (
	"fmt"

	"freshanvil/core/backflush"
	"freshanvil/core/job"
)

// look asks what is seen: how the first dirty water looked, or what the cup shows.
type look struct {
	still
	f  *fold
	at job.Sight
}

func init() {
	kinds[job.LookKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Look](f.step())
		return &look{f: f, at: body.At}
	}
}

func (l *look) allowed() []PressKind {
	first := l.at == job.FirstWater
	switch {
	case first && l.f.mode == Held:
		return []PressKind{Opened}
	case first:
		return []PressKind{Graded, NothingCame}
	case l.f.mode == Held && l.f.here().last:
		return nil
	case l.f.mode == Held:
		return []PressKind{Again}
	}
	return []PressKind{Reading}
}

func (l *look) press(p Press) {
	if l.at == job.FirstWater {
		l.pressFirst(p)
		return
	}
	switch f := l.f; {
	case p.Kind == Reading && f.mode == Open && p.Cup != nil && p.Cup.Check() == nil:
		f.judgeCup(*p.Cup)
	case p.Kind == Again && f.mode == Held && !f.here().last:
		f.here().last = true
		f.rinseMore(f.activity().Wash.More.Count)
	}
}

// pressFirst takes how the first dirty water looked, or that none came: then the last
// pulse counts for nothing, and one more is made once the head has opened.
func (l *look) pressFirst(p Press) {
	f := l.f
	switch {
	case p.Kind == Graded && f.mode == Open && backflush.CheckFirst(p.First) == nil:
		f.here().First = p.First
		f.next()
	case p.Kind == NothingCame && f.mode == Open:
		if g := f.here(); g.Soapy > 0 {
			g.Soapy--
		}
		f.countBlind()
	case p.Kind == Opened && f.mode == Held:
		f.clearBlind()
		f.pulseAgain()
	}
}

// pulseAgain puts one more pulse of the set before the look, which comes again; where
// a program made the pulses, only the look.
func (f *fold) pulseAgain() {
	look := f.step()
	n := 1
	for _, s := range f.steps[:f.i] {
		if s.Activity == look.Activity && job.Is[job.Look](s) {
			n++
		}
	}
	look.ID = fmt.Sprintf("%s-again-%d", look.ID, n)
	for i := f.i - 1; i >= 0; i-- {
		set, ok := job.BodyOf[job.Pulses](f.steps[i])
		if !ok || f.steps[i].Activity != look.Activity || f.steps[i].Effect != job.NoEffect {
			continue
		}
		once := f.steps[i]
		once.ID = fmt.Sprintf("%s-again-%d", once.ID, n)
		set.Count = 1
		once.Body = set
		f.insert(once, look)
		return
	}
	f.insert(look)
}
