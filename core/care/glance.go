package care

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"freshanvil/core/circuit"
	"freshanvil/core/inspect"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/speak"
	"freshanvil/core/task"
)

// Glance is a machine at a glance: what to do with it, and what is known at each part of it.
type Glance struct {
	// Does is what to do now, in a word or two; Says what else there is to know, a sentence each.
	Does  string
	Says  []string
	Parts []AtPart
	Leads []Due // of group, scale and treatment: of each task the one that presses most
}

// AtPart is what is known at a part of the drawing.
type AtPart struct {
	Spot  machine.Spot
	Title string
	Lines []string // the most telling first, each in few words
	Known bool     // somebody has said what it is
	Late  bool     // something of it is overdue
}

// GlanceOf puts together what is known of a machine: its dues, most pressing first, the scale in it where its
// water is known, and the newest looks.
func GlanceOf(a machine.Answers, h History, dues []Due, d *Descaling, now time.Time, zone *time.Location) Glance {
	b := glancing{a: a, f: a.Facts(), h: h, dues: dues, d: d, now: now, zone: zone}
	g := Glance{Leads: leading(dues)}
	g.Does, g.Says = b.verdict()
	for _, spot := range b.f.Scheme().Spots() {
		if spot != machine.AtMachine {
			g.Parts = append(g.Parts, b.at(spot))
		}
	}
	return g
}

// leading are the dues whose clocks stand beside the drawing: of what is worn by use, each task once.
func leading(dues []Due) (list []Due) {
	seen := map[task.ID]bool{}
	for _, d := range dues {
		counts := slices.ContainsFunc(d.Clocks, func(c Clock) bool {
			return d.Task.Row().Doses || c.Kind == task.ByScale || c.Kind == task.ByLitres
		})
		if counts && !seen[d.Task] {
			seen[d.Task] = true
			list = append(list, d)
		}
	}
	return list
}

type glancing struct {
	a    machine.Answers
	f    machine.Facts
	h    History
	dues []Due
	d    *Descaling
	now  time.Time
	zone *time.Location
}

// of is the most pressing due of some tasks; nil where there is none.
func (b glancing) of(ids ...task.ID) *Due {
	i := slices.IndexFunc(b.dues, func(d Due) bool { return slices.Contains(ids, d.Task) })
	if i < 0 {
		return nil
	}
	return &b.dues[i]
}

// verdict is what to do now, and when the descale comes, in sentences.
func (b glancing) verdict() (does string, says []string) {
	next := slices.IndexFunc(b.dues, func(d Due) bool { return !d.Task.IsSmall() })
	scale := b.of(task.Descale, task.LookForScale)
	switch {
	case next < 0:
		does = "Nothing is due."
	case b.dues[next].State == Later:
		does = fmt.Sprintf("Nothing is due before %s.", b.day(b.dues[next].Earliest))
		says = append(says, fmt.Sprintf("Next: %s.", speak.Lower(b.dues[next].Title())))
	case b.dues[next].Now(b.now):
		does = b.dues[next].Title() + " now."
	default:
		does = b.dues[next].Title() + " today."
	}
	switch {
	case scale == nil || next >= 0 && b.dues[next].Task == scale.Task:
	case scale.Task == task.LookForScale && scale.State == Later:
		says = append(says, "It is not descaled: only looked at, once a year.")
	case scale.State == Later:
		title := scale.Title()
		if strings.Contains(title, ",") {
			title += ","
		}
		says = append(says, fmt.Sprintf("%s not before %s.", title, b.day(scale.Earliest)))
	default:
		says = append(says, fmt.Sprintf("%s, too.", scale.Title()))
	}
	if d := b.of(task.FilterChange, task.Regenerate); d != nil && d.State != Later {
		says = append(says, fmt.Sprintf("%s, too.", d.Title()))
	}
	return does, says
}

// day is a day as it is said from afar: with its year where that is another.
func (b glancing) day(t time.Time) string {
	d := t.In(b.zone)
	if d.Year() == b.now.In(b.zone).Year() {
		return d.Format("2 January")
	}
	return d.Format("2 January 2006")
}

// at is what is known at one part.
func (b glancing) at(spot machine.Spot) AtPart {
	p := AtPart{Spot: spot, Title: string(spot), Known: b.a.Knows(spot)}
	switch spot {
	case machine.AtTank, machine.AtPump, machine.AtTray, machine.AtTap:
		b.atWater(&p)
	case machine.AtSteam:
		p.Title = b.f.PartTitle(machine.Only(machine.SteamBoiler))
		b.boiler(&p, float64(b.f.SteamBoiler)/1000, b.f.SteamMaterial, circuit.Steam)
	case machine.AtBrew:
		p.Title = b.f.PartTitle(machine.Brew(1))
		if b.f.Groups > 1 {
			p.Title = strings.TrimSuffix(p.Title, " 1") + "s"
		}
		b.boiler(&p, float64(b.f.BrewBoiler)/1000, b.f.BrewMaterial, circuit.Brew, circuit.Shared)
	case machine.AtGroup:
		if b.f.Groups > 1 {
			p.Title = fmt.Sprintf("%d groups", b.f.Groups)
		}
		b.due(&p, "wash", task.Wash)
		b.due(&p, "screen", task.Screen)
		b.look(&p, "seal", inspect.Seal)
	case machine.AtValve:
		p.Title = "three-way valve"
		p.say("%s", map[machine.Valve]string{machine.Solenoid: "yes", machine.Cam: "by the lever",
			machine.Unsure: "nobody can tell"}[b.f.Valve])
	case machine.AtWand:
		p.Title = "steam wand"
		b.look(&p, "tip", inspect.Tip)
		b.due(&p, "soak of the tip", task.Tip)
	}
	return p
}

// atWater is what is known where water comes from and where it leaves.
func (b glancing) atWater(p *AtPart) {
	switch p.Spot {
	case machine.AtTank:
		if b.f.Plumbed {
			p.Title = "mains"
		} else {
			p.say("%s L", reason.Figure(float64(b.f.Tank)/1000, "L"))
		}
		b.due(p, renewals[b.a.Treatment], task.FilterChange, task.Regenerate)
	case machine.AtPump:
		p.say("%s", b.f.Pump)
		if on := b.f.Duty.On; on > 0 {
			p.say("%.0f min on, %.0f off", on.Minutes(), b.f.Duty.Off.Minutes())
		}
	case machine.AtTap:
		p.Title = "hot-water tap"
	case machine.AtTray:
		if p.Title = "drip tray"; b.f.Tray > 0 {
			p.say("%s L", reason.Figure(float64(b.f.Tray)/1000, "L"))
		} else {
			p.Title = "waste pipe"
		}
	}
}

func (p *AtPart) say(text string, args ...any) { p.Lines = append(p.Lines, fmt.Sprintf(text, args...)) }

// due adds when the most pressing of some tasks falls due, and on which groups, where that is not all of them.
func (b glancing) due(p *AtPart, short string, ids ...task.ID) {
	d := b.of(ids...)
	if d == nil {
		return
	}
	when, which := d.told(b.now, b.zone), ""
	if d.Part.GroupNumber() > 0 {
		var groups []int
		for _, x := range b.dues {
			if x.Task == d.Task && x.told(b.now, b.zone) == when {
				groups = append(groups, x.Part.GroupNumber())
			}
		}
		if slices.Sort(groups); len(groups) < b.f.Groups {
			which = ", " + Groups(groups)
		}
	}
	p.say("%s %s%s", short, when, which)
	p.Late = p.Late || d.State == Overdue
}

// look adds what was last seen of something.
func (b glancing) look(p *AtPart, short string, sight inspect.Sight) {
	if f := b.seen(sight); f != nil {
		text, _, _ := strings.Cut(f.Seen().Text, ":")
		p.say("%s %s, %s", short, speak.Lower(text), f.At.In(b.zone).Format("2 Jan"))
	}
}

// renewals are what treats the water, as it is named at the tank.
var renewals = map[machine.Treatment]string{machine.Jug: "jug filter", machine.InTank: "filter",
	machine.UnderSink: "filter", machine.Softener: "salt", machine.ReverseOsmosis: "membrane",
	machine.Bottled: "filter", machine.Untreated: "filter"}

// boiler adds what a vessel holds, what it is made of and how much scale lies in it.
func (b glancing) boiler(p *AtPart, litres float64, material string, ids ...circuit.PlaceID) {
	made := machine.OptionTitle(material)
	if material == "not_said" {
		made = "metal not known"
	}
	p.Lines = append(p.Lines, fmt.Sprintf("%s L, %s", reason.Figure(litres, "L"), made))
	if b.d == nil || b.d.Due.State == Unrecorded && !b.d.Inspect {
		p.Lines = append(p.Lines, "how much scale is not known")
		return
	}
	for _, x := range b.d.Places {
		if !slices.Contains(ids, x.ID) {
			continue
		}
		p.Lines = append(p.Lines, fmt.Sprintf("%.2f of %.1f mm of scale", x.Grown.Value, float64(x.Surface.Limit)))
		if x.Hotter != nil && x.Hotter.Value >= 1 {
			p.Lines = append(p.Lines, fmt.Sprintf("its element runs %.0f K hotter", x.Hotter.Value))
		}
		p.Late = p.Late || b.d.Due.State == Overdue && b.d.Places[b.d.Lead].ID == x.ID
	}
}

// seen is the newest look at something, at any part.
func (b glancing) seen(sight inspect.Sight) *inspect.Found {
	var newest *inspect.Found
	for i, f := range b.h.Found {
		if f.Sight == sight && !f.At.After(b.now) && (newest == nil || f.At.After(newest.At)) {
			newest = &b.h.Found[i]
		}
	}
	return newest
}

// plurals are what is counted of a year, in the order in which it is said.
var plurals = []struct {
	ids       []task.ID
	one, many string
}{
	{[]task.ID{task.Wash}, "wash", "washes"},
	{[]task.ID{task.FilterChange, task.Regenerate}, "filter or salt", "filters or salt"},
	{[]task.ID{task.Descale}, "descale", "descales"},
}

// Counted is what was done in words: "27 washes, 4 filters or salt, 1 descale, 12 other jobs".
func Counted(done []Done) string {
	rest := len(done)
	var parts []string
	say := func(n int, one, many string) {
		switch n {
		case 0:
		case 1:
			parts = append(parts, "1 "+one)
		default:
			parts = append(parts, fmt.Sprintf("%d %s", n, many))
		}
	}
	for _, p := range plurals {
		n := 0
		for _, d := range done {
			if slices.Contains(p.ids, d.Task) {
				n++
			}
		}
		rest -= n
		say(n, p.one, p.many)
	}
	say(rest, "other job", "other jobs")
	if len(parts) == 0 {
		return "nothing on record"
	}
	return strings.Join(parts, ", ")
}

// Size is how large something done stands on a strip of the year.
type Size string

// The sizes.
const (
	Large Size = "large" // it gave a machine a new start
	Usual Size = "usual"
	Small Size = "small"
)

// SizeOf is how large a task stands on a strip of the year.
func SizeOf(id task.ID) Size {
	switch id {
	case task.Descale, task.FilterChange, task.Regenerate, task.Service, task.Service3, task.Service5, task.Seal:
		return Large
	case task.Wash:
		return Usual
	}
	return Small
}

// fitting are the tasks that put a new part in.
var fitting = []task.ID{task.Seal, task.FilterChange, task.BrushHead, task.DrainSeals}

// Fitted is when each part that wears out was last fitted new, newest first: of each task and part the last time, what
// only began to count left out.
func Fitted(done []Done) (list []Done) {
	for _, d := range done {
		if d.Begun != "" || !slices.Contains(fitting, d.Task) {
			continue
		}
		i := slices.IndexFunc(list, func(x Done) bool { return x.Task == d.Task && x.Part == d.Part })
		if i < 0 {
			list = append(list, d)
		} else if d.At.After(list[i].At) {
			list[i] = d
		}
	}
	slices.SortStableFunc(list, func(a, b Done) int { return b.At.Compare(a.At) })
	return list
}
