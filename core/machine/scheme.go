package machine

// Scheme is how a machine is laid out, from where its water comes from to where it leaves: enough to draw
// it by, and to ask only for what it has.
type Scheme struct {
	Source Source
	Pump   bool
	Brews  BrewKind
	Steam  bool // has a steam boiler beside what it brews from
	Groups int  // 1 to MaxGroups
	Lever  Lever
	Valve  Valve
	Wand   bool
	Tap    bool // for hot water
	Tray   bool // a drip tray; else a waste pipe
}

// Source is where the water of a machine stands or comes from.
type Source string

// The sources.
const (
	FromTank  Source = "tank"
	FromMains Source = "mains"
	ByHand    Source = "hand" // poured into the boiler
)

// BrewKind is what brew water is heated in.
type BrewKind string

// The kinds. A shared boiler brews and steams; a tube runs through the steam boiler.
const (
	Block  BrewKind = "block"
	Shared BrewKind = "shared"
	Tube   BrewKind = "tube"
	Own    BrewKind = "own" // a boiler for brewing alone, one a group in the trade
)

// Lever is what the lever of a machine does; empty where it has none.
type Lever string

// The levers: one starts the water, or an arm or a spring presses it.
const (
	Starts  Lever = "starts"
	Presses Lever = "presses"
)

var brewKinds = map[Layout]BrewKind{
	Thermoblock: Block, SingleBoiler: Shared, LeverManual: Shared, HXHome: Tube, HXCafe: Tube, LeverCam: Tube,
	DualHome: Own, MultiCafe: Own,
}

var levers = map[Layout]Lever{LeverCam: Starts, LeverManual: Presses}

// Scheme is how a machine with these facts is laid out.
func (f Facts) Scheme() Scheme {
	s := Scheme{
		Source: FromTank, Pump: f.Pump != NoPump, Brews: brewKinds[f.Layout], Steam: f.SteamBoiler > 0,
		Groups: f.Groups, Lever: levers[f.Layout], Valve: f.Valve, Tray: f.Tray > 0,
	}
	_, s.Wand = table[f.Layout]["tip"]
	s.Tap = s.Steam
	switch {
	case f.Plumbed:
		s.Source = FromMains
	case f.Tank == 0:
		s.Source = ByHand
	}
	return s
}

// Sign is how somebody who has never opened a machine tells its layout.
type Sign struct {
	Layout Layout
	Title  string
	Sees   string
	Hears  string
	// Valve is whether it has a three-way valve; Unsure where that is asked.
	Valve  Valve
	Scheme Scheme
}

// signs are what is seen and heard (common practice of the trade).
var signs = map[Layout]struct{ sees, hears string }{
	Thermoblock: {"Small and light; one switch chooses coffee or steam.",
		"Ready within a minute. The pump buzzes while it steams, too."},
	SingleBoiler: {"One button or switch for steam, one light that says hot.",
		"You wait between coffee and steam."},
	HXHome: {"A gauge that shows about 1 bar, and a wand that is always ready.",
		"It hums while it stands. The first water hisses and spits when it has stood hot."},
	DualHome: {"Two temperatures to set, or two gauges; brews and steams at once.", "Ten minutes or more until it is ready."},
	LeverCam: {"A small lever at the side of the group: up is on. It is warm to touch.",
		"Lever down: a hiss and a gush below the group."},
	LeverManual: {"A long lever that you pull, or a spring pulls back. No pump.",
		"Silent: your arm or the spring presses."},
	HXCafe: {"Two groups or more in a row, on the mains, one large boiler.",
		"A low hum; it fills itself now and then."},
	MultiCafe: {"Two groups or more, a temperature for each.", "A low hum; it fills itself now and then."},
}

// askedForValve are the layouts that are built with a three-way valve or without: the others always have
// it, or never (the table of layouts; our own reading).
var askedForValve = map[Layout]bool{Thermoblock: true, SingleBoiler: true}

// Signs lists the layouts in the order in which they are asked for, with how to tell each.
func Signs() []Sign {
	var list []Sign
	for _, l := range Layouts() {
		a := Answers{Layout: l, Valve: Yes}
		s := Sign{Layout: l, Title: l.Title(), Sees: signs[l].sees, Hears: signs[l].hears}
		switch {
		case askedForValve[l]:
			s.Valve = Unsure
		case l != LeverManual:
			s.Valve = a.valve()
		default:
			a.Valve, s.Valve = No, NoValve
		}
		s.Scheme = a.Facts().Scheme()
		list = append(list, s)
	}
	return list
}
