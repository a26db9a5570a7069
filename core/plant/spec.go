// Package plant is the model of a machine behind every plan: what it does when somebody
// plugs it in, opens a tap, pours something in or waits. It keeps, for every vessel,
// litres, temperature, the share of acid and of detergent, scale and the gas that it
// frees; and of the machine, power, pump, heaters and openings.
//
// It decides when something happens that must never happen. It knows nothing of plans and
// words (package job): it sees only actions, and goes from event to event, each worked
// out exactly, not by a coarse tick.
package plant

import (
	"fmt"
	"time"

	"freshanvil/core/boiler"
	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// Kind is what a vessel is for.
type Kind string

// The kinds.
const (
	Source Kind = "source" // a tank, a bucket, the mains
	Brew   Kind = "brew"   // a boiler or block with a heater, full while it works
	Tube   Kind = "tube"   // a brew tube in a steam boiler
	Steam  Kind = "steam"  // a steam boiler
	Head   Kind = "head"   // of a group
	Catch  Kind = "catch"  // a jug, a tray
)

// OpeningKind is what an opening is.
type OpeningKind string

// The kinds. A group opens while its pump runs, or by its lever; a spout vents a pulse.
const (
	Drain    OpeningKind = "drain"
	Cap      OpeningKind = "cap"
	SteamTap OpeningKind = "steam_tap"
	HotTap   OpeningKind = "hot_water_tap"
	Group    OpeningKind = "group"
	Spout    OpeningKind = "spout"
)

// Vessel is what is fixed of one that holds liquid: plain numbers in the units of the model's own
// sums, into which Of turns the facts. Where a value does not apply it is zero.
type Vessel struct {
	ID, Title         string
	Kind              Kind
	Capacity, Working float64 // L
	Heel              float64 // share of the working fill that stays after draining
	Covered           float64 // from which the element is covered; 0 where it always is
	Watts, Set        float64 // of its heater, W; held at, °C
	Heater            machine.HeaterFact
	Metal             float64 // kg of water that its metal is worth
	Tau               float64 // s, time constant of its cooling
	Body              int     // vessels of one body are as warm as one another
	Probe             bool    // the pump fills it up by itself
	Area              float64 // m² that scale grows on
	Scale             float64 // g on it as the plan begins
}

// Opening is what is fixed of one: of which vessel, and where what leaves it goes.
type Opening struct {
	ID    string
	Title string
	Kind  OpeningKind
	Of    int // the vessel
	Into  int // what catches it
	Lever bool
}

// Solution is the acid that a plan mixes.
type Solution struct {
	Takes   float64 // g of scale that a litre takes up before it is slow
	Contact float64 // s that it may stand in all, warm minutes counted by their weight
	Limit   float64 // share of the fresh strength that may stay
}

// Spec is what is fixed of a plant.
type Spec struct {
	Vessels    []Vessel
	Openings   []Opening
	Loose      []Loose // parts that come off
	Flow       float64 // L/s that the pump gives freely
	Duty       machine.Duty
	PumpsCold  machine.Answer // whether the pump runs before the machine is hot
	HasPump    bool
	Mains      bool // the source is the mains
	Room, Feed float64
	Solution   Solution
	Least      time.Duration // it cools at least so long before anything is opened
}

// What is not a fact of a machine (our own engineering choices): the water in a tank,
// °C; what the metal is worth in water, kg a litre of boiler, and of a block; the
// surface a brew tube offers to scale, m²; watts on a square metre of element.
const (
	feedTemp    = 20.0
	metalBrew   = 0.1 / 0.3
	metalSteam  = 0.3
	blockMetal  = 0.25
	tubeArea    = 0.0125
	wattsASqm   = 8e4
	wasteHolds  = 1e6
	bucketHolds = 10.0
)

// leverSet is what a manual lever is held at, °C (our own engineering choice).
const leverSet = 120.0

// leastCool is how long a home dual boiler cools at least (common practice).
const leastCool = 4 * time.Hour

// Of is the plant of a machine, for a solution, with so much scale in each brew vessel and in
// the steam boiler. The error is a *units.OutOfRange where its gauge has no
// temperature.
func Of(f machine.Facts, s Solution, brewScale, steamScale units.Mass) (Spec, error) {
	b := builder{f: f, spec: Spec{
		Flow: float64(f.FreeFlow) / 1000, Duty: f.Duty, PumpsCold: f.PumpBeforeHot, HasPump: f.Pump != machine.NoPump,
		Room: float64(f.Room), Feed: feedTemp, Solution: s, Mains: f.Plumbed,
	}}
	if f.Layout == machine.DualHome {
		b.spec.Least = leastCool
	}
	steamSet, err := boiler.Boils(f.Gauge)
	if err != nil {
		return Spec{}, err
	}
	b.addSource()
	b.addSteam(float64(steamSet), float64(steamScale))
	for g := 1; g <= f.Groups; g++ {
		b.addGroup(g, float64(brewScale))
	}
	b.addTaps()
	b.addLoose()
	return b.spec, nil
}

// builder puts a spec together.
type builder struct {
	f    machine.Facts
	spec Spec
}

func (b *builder) vessel(v Vessel) int {
	b.spec.Vessels = append(b.spec.Vessels, v)
	return len(b.spec.Vessels) - 1
}

// catch adds what stands under an opening.
func (b *builder) catch(id, title string) int {
	holds := float64(b.f.Jug.Litres())
	return b.vessel(Vessel{ID: id, Title: title, Kind: Catch, Capacity: holds, Working: holds, Body: -1})
}

func (b *builder) open(o Opening) { b.spec.Openings = append(b.spec.Openings, o) }

func (b *builder) addSource() {
	f := b.f
	switch {
	case f.Plumbed:
		b.vessel(Vessel{ID: "bucket", Title: "bucket", Kind: Source, Capacity: bucketHolds, Working: bucketHolds, Body: -1})
	case f.Tank > 0 && f.Pump != machine.NoPump:
		b.vessel(Vessel{ID: "tank", Title: "tank", Kind: Source, Capacity: float64(f.Tank.Litres()),
			Working: float64(f.Tank.Litres()), Body: -1})
	default:
		b.vessel(Vessel{ID: "jug", Title: "mixing jug", Kind: Source, Capacity: 5, Working: 5, Body: -1})
	}
	tray := float64(f.Tray.Litres())
	if tray == 0 {
		tray = wasteHolds
	}
	b.vessel(Vessel{ID: "tray", Title: "drip tray", Kind: Catch, Capacity: tray, Working: tray, Body: -1})
}

// SourceAt and TrayAt are where the source and the drip tray stand among the vessels.
const (
	SourceAt = 0
	TrayAt   = 1
)

// steamWatts is the heater of the steam boiler.
func steamWatts(f machine.Facts) float64 {
	if f.HasTube() {
		return float64(f.Heater)
	}
	return float64(f.SteamHeater)
}

func (b *builder) addSteam(set, scale float64) {
	f := b.f
	if f.SteamBoiler == 0 {
		return
	}
	watts := steamWatts(f)
	tau := f.SteamCooling
	if f.HasTube() || tau == 0 {
		tau = f.Cooling
	}
	litres := float64(f.SteamBoiler.Litres())
	at := b.vessel(Vessel{
		ID: "steam", Title: "steam boiler", Kind: Steam, Capacity: litres, Working: float64(f.SteamFill().Litres()),
		Heel: f.Heel, Covered: float64(f.SteamCovered().Litres()), Watts: watts, Set: set, Heater: f.SteamBy,
		Metal: metalSteam * litres, Tau: tau.Seconds(), Body: 0, Probe: f.Pump != machine.NoPump,
		Area: watts / wattsASqm, Scale: scale,
	})
	if f.Heel > 0 && f.Drain != "tap" {
		b.open(Opening{ID: "steam-drain", Title: f.DrainTitle() + " of the steam boiler", Kind: Drain, Of: at,
			Into: b.catch("jug-steam", "jug under the drain of the steam boiler")})
	}
}

func (b *builder) addGroup(g int, scale float64) {
	f := b.f
	part := machine.Brew(g)
	litres := float64(f.BrewBoiler.Litres())
	v := Vessel{
		ID: part.String(), Title: f.PartTitle(part), Kind: Brew, Capacity: litres, Working: float64(f.BrewFill().Litres()),
		Covered: float64(f.BrewCovered().Litres()), Watts: float64(f.Heater), Set: float64(f.BrewTemp), Heater: f.BrewHeater,
		Metal: metalBrew * litres, Tau: f.Cooling.Seconds(), Body: g, Area: float64(f.Heater) / wattsASqm, Scale: scale,
	}
	switch {
	case f.HasTube():
		v.Kind, v.Watts, v.Set, v.Heater, v.Body, v.Area = Tube, 0, 0, "", 0, tubeArea
		v.Metal = metalSteam * litres
	case f.Layout == machine.Thermoblock:
		v.Metal = blockMetal
	case f.Layout == machine.LeverManual:
		v.Set = leverSet
	}
	// a boiler that brewing and steam share is pushed through, whatever drain it has
	poured := f.Pump == machine.NoPump && f.Drain == "pouring out"
	drained := f.Heel > 0 && f.Drain != "tap" && v.Kind == Brew && (f.SteamBoiler > 0 || poured)
	if drained {
		v.Heel = f.Heel
	}
	at := b.vessel(v)
	stays := max(0.01, float64(f.Stays.Litres()))
	head := b.vessel(Vessel{ID: machine.Group(g).String(), Title: f.PartTitle(machine.Group(g)), Kind: Head,
		Capacity: stays + float64(f.Vents.Litres()), Working: stays, Body: v.Body})
	b.open(Opening{
		ID: machine.Group(g).String(), Title: "group", Kind: Group, Of: at, Lever: f.Valve == machine.Cam ||
			f.Layout == machine.LeverManual,
		Into: b.catch(fmt.Sprintf("jug-group-%d", g), "jug under the "+b.headTitle(g)),
	})
	if f.Valve.Vents() {
		b.open(Opening{ID: fmt.Sprintf("spout-%d", g), Title: "drain spout", Kind: Spout, Of: head, Into: TrayAt})
	}
	switch {
	case drained && poured:
		b.open(Opening{ID: "cap", Title: "cap", Kind: Cap, Of: at, Into: b.sink()})
	case drained:
		b.open(Opening{ID: part.String() + "-drain", Title: f.DrainTitle() + " of the " + v.Title, Kind: Drain, Of: at,
			Into: b.catch("jug-"+part.String(), "jug under the drain of the "+v.Title)})
	}
}

// headTitle is what a group is called: by its number only where there are several.
func (b *builder) headTitle(g int) string {
	if b.f.Groups == 1 {
		return "group"
	}
	return b.f.PartTitle(machine.Group(g))
}

// addTaps adds the steam tap, of the steam boiler or of the vessel that makes steam.
func (b *builder) addTaps() {
	f := b.f
	of := b.spec.Find("steam")
	if of < 0 {
		of = b.spec.Find(machine.Brew(1).String())
	}
	into := b.catch("jug-wand", "jug under the steam wand")
	b.open(Opening{ID: "steam_tap", Title: "steam tap", Kind: SteamTap, Of: of, Into: into})
	if f.SteamBoiler > 0 {
		b.open(Opening{ID: "hot_water_tap", Title: "hot-water tap", Kind: HotTap, Of: of,
			Into: b.catch("jug-tap", "jug under the hot-water tap")})
	}
}

// Find is where a vessel stands; -1 where there is none of that name.
func (s *Spec) Find(id string) int {
	for i := range s.Vessels {
		if s.Vessels[i].ID == id {
			return i
		}
	}
	return -1
}

// FindOpening is where an opening stands; -1 where there is none of that name.
func (s *Spec) FindOpening(id string) int {
	for i := range s.Openings {
		if s.Openings[i].ID == id {
			return i
		}
	}
	return -1
}

// sink is where a boiler that is turned over is poured out.
func (b *builder) sink() int {
	return b.vessel(Vessel{ID: "sink", Title: "sink", Kind: Catch, Capacity: wasteHolds, Working: wasteHolds, Body: -1})
}
