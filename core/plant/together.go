package plant

import "strings"

// Apart is how far apart groups are opened whose water runs together into one waste pipe, s (common practice: 10 to
// 15 s).
const Apart = 12.0

// together opens groups one after the other, lets each run for so many seconds into the tray, and closes them in the
// same order. What names them, with spaces between.
func (p *Plant) together(what string, seconds float64) bool {
	if !p.Plug || !p.Spec.HasPump {
		return false
	}
	var list []int
	for _, name := range strings.Fields(what) {
		g := p.Spec.FindOpening(name)
		if g < 0 || p.Spec.Openings[g].Kind != Group || p.blindAt(g) {
			return false
		}
		list = append(list, g)
	}
	on := p.On
	p.On = true
	begun := p.T
	for n := range list { // one more
		p.openGroups(list[:n+1])
		if n < len(list)-1 {
			p.Wait(Apart)
		}
	}
	for n := range list { // each its time, and one less
		p.WaitTo(begun + float64(n)*Apart + seconds)
		p.openGroups(list[n+1:])
	}
	p.On = on
	return len(list) > 0
}

// openGroups lets the pump run to these groups, and to no other.
func (p *Plant) openGroups(list []int) {
	for g := range p.Gates {
		p.Gates[g].Tray = false
	}
	p.Route, p.more = -1, nil
	for n, g := range list {
		p.Gates[g].Tray = true
		if n == 0 {
			p.Route = g
		} else {
			p.more = append(p.more, g)
		}
	}
}
