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
	DualHome: {"Two temperatures to set, or two gauges; brews and steams at once.",
		"Ten minutes or more until it is ready."},
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

// Spot is a place in the drawing of a machine, to which facts and clocks belong.
type Spot string

// The spots. What belongs to none of the parts belongs to the machine.
const (
	AtTank    Spot = "tank" // or the mains
	AtPump    Spot = "pump"
	AtSteam   Spot = "steam"
	AtBrew    Spot = "brew"
	AtGroup   Spot = "group"
	AtValve   Spot = "valve"
	AtWand    Spot = "wand"
	AtTap     Spot = "tap"
	AtTray    Spot = "tray"
	AtMachine Spot = "machine"
)

// spots say at which part a fact is said; what is not named is said of the machine.
var spots = map[Spot][]string{
	AtTank: {"water", "tank_l"},
	AtPump: {"pump", "duty_on_min", "duty_off_min", "flow_ml_s", "pump_before_hot"},
	AtSteam: {"steam_l", "steam_heater_w", "steam_material", "steam_heater", "red_mark_bar", "steam_bar",
		"steam_cooling_h"},
	AtBrew: {"brew_l", "heater_w", "brew_material", "brew_heater", "brew_c", "cooling_h", "drain", "heel"},
	AtGroup: {"groups", "basket_mm", "stays_ml", "vents_ml", "counter_limit", "counter_flushes", "own_program",
		"water_backflush", "soak_for", "screen", "handle", "blind"},
	AtWand: {"tip", "tip_in", "milk_g"},
	AtTap:  {"hot_water_l"},
	AtTray: {"tray_l", "waste_ml_s", "jug_l"},
}

// decides are the facts by which a part counts as known: as long as none of them was said, it is drawn
// dashed. The valve is known by the five answers.
var decides = map[Spot]string{AtTank: "tank_l", AtPump: "pump", AtSteam: "steam_material", AtBrew: "brew_material",
	AtGroup: "screen", AtWand: "tip", AtTap: "hot_water_l", AtTray: "tray_l"}

// Spots are the parts of a machine's drawing, from where its water comes from to where it leaves, the
// machine itself last.
func (s Scheme) Spots() []Spot {
	var list []Spot
	for _, x := range []struct {
		spot Spot
		has  bool
	}{
		{AtTank, s.Source != ByHand}, {AtPump, s.Pump}, {AtSteam, s.Steam}, {AtBrew, true}, {AtGroup, true},
		{AtValve, s.Valve != NoValve}, {AtWand, s.Wand}, {AtTap, s.Tap}, {AtTray, true}, {AtMachine, true},
	} {
		if x.has {
			list = append(list, x.spot)
		}
	}
	return list
}

// FactsAt are the facts that are said at a part of the drawing: what a machine of this layout does not have is
// not among them, and none is at two parts.
func (a Answers) FactsAt(spot Spot) []Known {
	shown := map[Spot]bool{}
	for _, s := range a.Facts().Scheme().Spots() {
		shown[s] = true
	}
	of := map[string]Spot{}
	for s, keys := range spots {
		for _, k := range keys {
			of[k] = s
		}
	}
	var list []Known
	for _, k := range a.Known() {
		at, placed := of[k.Key]
		switch {
		case !placed:
			at = AtMachine
		case !shown[at] && at == AtSteam: // a boiler that brews and steams
			at = AtBrew
		case !shown[at]:
			at = AtMachine
		}
		if at == spot {
			list = append(list, k)
		}
	}
	return list
}

// Knows says whether somebody has said what a part of the drawing is.
func (a Answers) Knows(spot Spot) bool {
	if spot == AtValve {
		return a.Facts().Valve != Unsure
	}
	_, said := a.Overrides[decides[spot]]
	return said || decides[spot] == ""
}
