package run

import (
	"time"

	"freshanvil/core/job"
)

// soak stands by itself, from the end of the step it comes after.
type soak struct {
	still
	f    *fold
	body job.Soak
	end  time.Time // of one in which acid works
}

func init() {
	kinds[job.SoakKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Soak](f.step())
		f.mode, f.since = Soak, f.begins(f.step())
		s := &soak{f: f, body: body}
		if body.Acid {
			f.doNow(f.step().Acts)
			s.end = f.soakEnds(body.For)
		}
		return s
	}
}

func (s *soak) allowed() []PressKind {
	if s.body.Early {
		return []PressKind{Done}
	}
	return nil
}

func (s *soak) press(p Press) {
	if p.Kind == Done && s.body.Early {
		s.f.saidHot()
		s.pass()
	}
}

func (s *soak) ends() (time.Time, bool) {
	if s.body.Acid {
		return s.end, true
	}
	return s.f.since.Add(s.f.wall(s.body.For)), true
}

func (s *soak) pass() {
	f := s.f
	f.segment++
	if s.body.Acid {
		f.model.WaitTo(f.at(f.now))
		f.countSoaks(1)
	}
	if len(s.body.Read) > 0 {
		f.doNow(s.body.Read)
	}
	f.next()
}

func (s *soak) schedule(present *Segment) []Segment {
	present.End, _ = s.ends()
	return []Segment{*present}
}

// wait is begun by a press; then time does it.
type wait struct {
	still
	f    *fold
	body job.Wait
}

func init() {
	kinds[job.WaitKind] = func(f *fold) kind {
		body, _ := job.BodyOf[job.Wait](f.step())
		return &wait{f: f, body: body}
	}
}

func (w *wait) ahead() float64 { return float64(w.body.Lets) }

func (w *wait) allowed() []PressKind {
	switch {
	case w.f.mode != Soak:
		return []PressKind{Begin}
	case w.body.Early:
		return []PressKind{Done}
	}
	return nil
}

func (w *wait) press(p Press) {
	f := w.f
	switch {
	case p.Kind == Begin && f.mode == Open:
		f.emptyAndFill()
		f.doBy(f.step().Acts, f.since)
		f.turnTo(Soak)
		f.state.Finding = nil
		f.doAhead(w.body.Does)
	case p.Kind == Done && f.mode == Soak && w.body.Early:
		f.saidHot()
		w.finish()
	}
}

func (w *wait) ends() (time.Time, bool) {
	return w.f.since.Add(w.f.wall(w.body.For)), w.f.mode == Soak
}

func (w *wait) pass() {
	w.f.segment++
	w.finish()
}

// finish counts what a program did, when it is over.
func (w *wait) finish() {
	f := w.f
	f.doNow(w.body.Read)
	if g := f.here(); g != nil {
		g.Soapy += w.body.Soapy
	}
	f.countFlush(w.body.Lets)
	if w.body.Acid {
		f.countSoaks(1)
	}
	f.next()
}

func (w *wait) schedule(present *Segment) []Segment {
	if w.f.mode == Soak {
		present.End, _ = w.ends()
	}
	return []Segment{*present}
}
