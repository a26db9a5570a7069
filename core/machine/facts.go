package machine

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"freshanvil/core/reason"
	"freshanvil/core/units"
)

// Fact is one thing kept of a machine, with what it is good for.
type Fact struct {
	Key     string
	Label   string
	Unit    string   // empty for a choice
	Options []string // what may be chosen; nil for a number
	Min     float64
	Max     float64
	Changes string // what a change of it changes
}

// materials are what a boiler may be made of; heaterFacts what may be known of a heater.
var (
	materials = []string{"not_said", "copper", "brass", "stainless", "aluminium", "nickel_plated",
		"tinned_or_soldered"}
	heaterFacts = []string{string(CanBeOff), string(HeldOff), string(OnHeats), string(NotKnown)}
)

var facts = []Fact{
	{
		Key:     "groups",
		Label:   "groups",
		Unit:    "",
		Min:     1,
		Max:     6,
		Changes: "how drinks are split; every group has its own clocks",
	},
	{
		Key:     "basket_mm",
		Label:   "basket diameter",
		Unit:    "mm",
		Min:     40,
		Max:     70,
		Changes: "nothing yet: kept for blinds and seals",
	},
	{
		Key:     "brew_l",
		Label:   "brew water heated, a group",
		Unit:    "L",
		Min:     0.01,
		Max:     30,
		Changes: "who descales it, and how much solution fills it",
	},
	{
		Key:     "steam_l",
		Label:   "steam boiler",
		Unit:    "L",
		Min:     0.1,
		Max:     60,
		Changes: "who descales it, and how much solution fills it",
	},
	{
		Key:     "heater_w",
		Label:   "heater",
		Unit:    "W",
		Min:     100,
		Max:     12000,
		Changes: "the surface that scale grows on, so the date for descaling",
	},
	{
		Key:     "steam_heater_w",
		Label:   "heater of the steam boiler",
		Unit:    "W",
		Min:     100,
		Max:     12000,
		Changes: "the surface that scale grows on, so the date for descaling",
	},
	{
		Key:     "brew_material",
		Label:   "what acid touches on the brew side is made of",
		Options: materials,
		Changes: "whether it may be descaled, how strong and how long, and what its water may hold",
	},
	{
		Key:     "steam_material",
		Label:   "the steam boiler is made of",
		Options: materials,
		Changes: "whether it may be descaled, how strong and how long, and what its water may hold",
	},
	{
		Key:     "brew_heater",
		Label:   "brew heater: can it be off while the pump runs",
		Options: heaterFacts,
		Changes: "whether it can be descaled at home, and how warm the acid gets",
	},
	{
		Key:     "steam_heater",
		Label:   "steam heater: can it be off while the pump runs",
		Options: heaterFacts,
		Changes: "whether it can be descaled at home",
	},
	{
		Key:     "pump_before_hot",
		Label:   "the pump runs before the machine is hot",
		Options: []string{string(Yes), string(No), string(CannotTell)},
		Changes: "whether acid can be pushed through without heating it",
	},
	{
		Key:     "hours_on",
		Label:   "switched on",
		Unit:    "h a day",
		Min:     0.1,
		Max:     24,
		Changes: "how much of the scale reaches the surface, so the date for descaling",
	},
	{
		Key:     "red_mark_bar",
		Label:   "red mark of the steam gauge",
		Unit:    "bar",
		Min:     1.2,
		Max:     4,
		Changes: "above which gauge the run says stop",
	},
	{
		Key:     "room_c",
		Label:   "the room",
		Unit:    "°C",
		Min:     5,
		Max:     40,
		Changes: "how long it takes to cool",
	},
	{
		Key:     "drain",
		Label:   "boiler is emptied by",
		Options: []string{"flushing only", "tap", "plug", "screws", "technician", "pouring out"},
		Changes: "whether it is descaled at home",
	},
	{
		Key:     "heel",
		Label:   "share that stays after draining",
		Unit:    "of its fill",
		Min:     0,
		Max:     0.9,
		Changes: "how strong a fill of acid is, and how many rinses it takes",
	},
	{
		Key:     "water",
		Label:   "water comes from",
		Options: []string{"tank", "mains", "by hand"},
		Changes: "what the run asks to get ready",
	},
	{Key: "tank_l", Label: "tank", Unit: "L", Min: 0.2, Max: 20, Changes: "what the run says is left in it"},
	{
		Key:     "tray_l",
		Label:   "drip tray (0 is a waste pipe)",
		Unit:    "L",
		Min:     0,
		Max:     10,
		Changes: "when a run asks for it to be emptied",
	},
	{
		Key:     "waste_ml_s",
		Label:   "waste pipe takes, where it has one",
		Unit:    "mL/s",
		Min:     5,
		Max:     2000,
		Changes: "how many groups run at once when it is closed for weeks",
	},
	{
		Key:     "jug_l",
		Label:   "jug or basin that catches what comes out",
		Unit:    "L",
		Min:     0.3,
		Max:     20,
		Changes: "how often a descale asks for it to be emptied",
	},
	{
		Key:     "pump",
		Label:   "pump",
		Options: []string{"vibratory", "rotary", "none"},
		Changes: "the words that begin a pulse",
	},
	{
		Key:     "duty_on_min",
		Label:   "pump may run for",
		Unit:    "min",
		Min:     0.5,
		Max:     60,
		Changes: "when a run lets the pump rest",
	},
	{
		Key:     "duty_off_min",
		Label:   "pump then rests for",
		Unit:    "min",
		Min:     0,
		Max:     60,
		Changes: "when a run lets the pump rest",
	},
	{
		Key:     "flow_ml_s",
		Label:   "free flow from the group",
		Unit:    "mL/s",
		Min:     1,
		Max:     100,
		Changes: "how many seconds a flush is",
	},
	{
		Key:     "stays_ml",
		Label:   "stays behind in the head",
		Unit:    "mL",
		Min:     5,
		Max:     200,
		Changes: "how many rinse pulses it takes",
	},
	{
		Key:     "vents_ml",
		Label:   "vents a pulse",
		Unit:    "mL",
		Min:     5,
		Max:     300,
		Changes: "how many rinse pulses it takes, and how full the tray gets",
	},
	{
		Key:     "cooling_h",
		Label:   "cools with a time constant of",
		Unit:    "h",
		Min:     0.1,
		Max:     24,
		Changes: "when it is cool enough to be drained",
	},
	{
		Key:     "steam_cooling_h",
		Label:   "steam boiler cools with",
		Unit:    "h",
		Min:     0.1,
		Max:     24,
		Changes: "when it is cool enough to be drained",
	},
	{
		Key:     "counter_limit",
		Label:   "the machine's own counter asks at (0 is none)",
		Unit:    "",
		Min:     0,
		Max:     5000,
		Changes: "what a reading of it means; when it falls due by the counter",
	},
	{
		Key:     "counter_flushes",
		Label:   "its counter counts flushes",
		Options: []string{"no", "yes"},
		Changes: "how many drinks a reading stands for",
	},
	{
		Key:     "own_program",
		Label:   "has a cleaning program",
		Options: []string{"no", "yes"},
		Changes: "whether a wash by its own program is offered",
	},
	{
		Key:     "own_descale",
		Label:   "has a descaling program",
		Options: []string{"no", "yes"},
		Changes: "whether a descale by its own program is offered",
	},
	{
		Key:     "water_backflush",
		Label:   "water backflush, without detergent",
		Options: []string{"after each drink", "daily", "a few times a week", "never"},
		Changes: "when it stands among the small ones of the day",
	},
	{
		Key:     "handle",
		Label:   "handle",
		Options: []string{"not said", "wood", "plastic", "metal"},
		Changes: "the caution at the soak bath",
	},
	{
		Key:     "soak_for",
		Label:   "baskets and handles soak for",
		Options: []string{"ten_minutes", "twenty_minutes", "an_hour"},
		Changes: "how long the soak bath stands",
	},
	{
		Key:     "tip",
		Label:   "tip of the steam wand",
		Options: []string{"unscrews", "fixed"},
		Changes: "how it is soaked",
	},
	{
		Key:     "tip_in",
		Label:   "the tip soaks in",
		Options: []string{"hot_water", "milk_cleaner", "tablet_overnight"},
		Changes: "how long the tip soaks, and in what",
	},
	{
		Key:     "screen",
		Label:   "the screen is held by",
		Options: []string{"not_said", "screw", "seal"},
		Changes: "how it comes off",
	},
	{
		Key:   "blind",
		Label: "spare blind",
		Options: []string{"not said", "metal", "rubber without a hole", "rubber with a hole",
			PressurisedDisc, PressurisedSix, Pressurised, "none"},
		Changes: "what the run says before the pulses",
	},
	{
		Key:     "double_g",
		Label:   "coffee in a double",
		Unit:    "g",
		Min:     8,
		Max:     30,
		Changes: "how much coffee a shot counts for",
	},
	{
		Key:     "single_g",
		Label:   "coffee in a single",
		Unit:    "g",
		Min:     4,
		Max:     20,
		Changes: "how much coffee a single counts for",
	},
	{
		Key:     "beverage_g",
		Label:   "beverage of a double",
		Unit:    "g",
		Min:     10,
		Max:     120,
		Changes: "how much water a drink takes through the group",
	},
	{
		Key:     "puck_g",
		Label:   "water kept in the puck",
		Unit:    "g",
		Min:     0,
		Max:     60,
		Changes: "how much water a drink takes through the group",
	},
	{
		Key:     "vent_ml",
		Label:   "vented after a shot",
		Unit:    "mL",
		Min:     0,
		Max:     100,
		Changes: "how much water a drink takes through the group",
	},
	{
		Key:     "flush_ml",
		Label:   "flushed a drink",
		Unit:    "mL",
		Min:     0,
		Max:     300,
		Changes: "how much water a drink takes through the group",
	},
	{
		Key:     "milk_g",
		Label:   "milk in a milk drink",
		Unit:    "g",
		Min:     20,
		Max:     500,
		Changes: "how much steam a milk drink takes",
	},
	{
		Key:     "hot_water_l",
		Label:   "hot water drawn a day",
		Unit:    "L",
		Min:     0,
		Max:     100,
		Changes: "how much water the steam boiler makes up and gives off",
	},
	{Key: "brew_c", Label: "brew temperature", Unit: "°C", Min: 80, Max: 98, Changes: "how much scale falls out"},
	{
		Key:     "steam_bar",
		Label:   "steam gauge",
		Unit:    "bar",
		Min:     0.3,
		Max:     2,
		Changes: "how much steam a milk drink takes",
	},
	{
		Key:     "descale_school",
		Label:   "descaling by the calendar",
		Options: []string{"by hardness class", "every month", "no calendar"},
		Changes: "when descaling falls due beside the scale itself",
	},
	{
		Key:     "stance",
		Label:   "who descales",
		Options: []string{"by layout", "the owner", "nobody, low-mineral water", "a workshop"},
		Changes: "whether descaling is offered here",
	},
	{
		Key:     "warranty",
		Label:   "warranty",
		Options: []string{"not said", "allows descaling", "forbids descaling", "over"},
		Changes: "whether it is descaled at home",
	},
	{
		Key:     "condition",
		Label:   "condition",
		Options: []string{"not said", "sound", "flow is weak", "leaks"},
		Changes: "whether it is descaled at home",
	},
	{
		Key:     "closes_h",
		Label:   "a café closes at",
		Unit:    "o'clock",
		Min:     5,
		Max:     28,
		Changes: "when tonight's wash falls due",
	},
}

// The defaults by layout. A p marks common practice of the trade; the rest is
// our own engineering choice, and all of it can be wrong for a given machine.
// A dash: the layout has no such thing. An equals sign: as the layout to its left. A star:
// it follows from other facts (follows.go).
const defaults = `
                | thermoblock | single_boiler | hx_home | hx_cafe | dual_home | multi_cafe | lever_cam | lever_manual
groups          | 1           | 1             | 1       | 2       | 1         | 2          | 1         | 1
basket_mm       | 58          | 58            | 58      | 58      | 58        | 58         | 58        | 49
brew_l          | 0.05        | 0.3 p         | 0.1     | 0.15    | 0.3 p     | 0.7        | 0.1       | 0.8
steam_l         | -           | -             | 1.8 p   | 11      | 1 p       | 8          | 1.8 p     | -
heater_w        | 1300        | 1100 p        | 1400    | 3500    | 800       | 1000       | 1400      | 900
steam_heater_w  | -           | -             | -       | -       | 1200      | 4000       | -         | -
brew_material   | not_said | = | = | = | = | = | = | =
steam_material  | -           | -             | not_said | not_said | not_said | not_said | not_said | -
brew_heater     | on_means_heating | on_means_heating | - | - | cannot_tell | cannot_tell | - | on_means_heating
steam_heater    | -           | -             | cannot_tell | held_off | cannot_tell | cannot_tell | cannot_tell | -
pump_before_hot | cannot_tell | = | = | = | = | = | = | -
hours_on        | 1           | 6             | 6       | 12      | 6         | 12         | 6         | 2
red_mark_bar    | -           | -             | 2       | 2       | 2         | 2          | 2         | 2
room_c          | 22 | = | = | = | = | = | = | =
drain           | flushing only | flushing only | tap   | plug    | screws    | technician | tap       | pouring out
heel            | * | * | * | * | * | - | * | *
water           | tank        | tank          | tank    | mains   | tank      | mains      | tank      | by hand
tank_l          | 1.8         | 2             | 2.5     | -       | 2         | -          | 2.5       | -
tray_l          | 0.5         | 0.5           | 1       | 0       | 0.8       | 0          | 1         | 0.3
jug_l           | 1           | 1             | 1       | 1       | 1         | 1          | 1         | 1
pump            | vibratory p | vibratory p   | vibratory p | rotary p | vibratory p | rotary p | vibratory p | none
duty_on_min     | 2 p         | 2 p           | 2 p     | -       | 2 p       | -          | 2 p       | -
duty_off_min    | 1 p         | 1 p           | 1 p     | -       | 1 p       | -          | 1 p       | -
flow_ml_s       | 6           | 8             | 8       | 30      | 8         | 30         | 8         | -
waste_ml_s      | -           | -             | 100     | 100     | 100       | 100        | 100       | -
stays_ml        | 20          | 30            | 30      | 30      | 30        | 30         | 30        | -
vents_ml        | 30          | 40            | 40      | 40      | 40        | 40         | 40        | -
cooling_h       | * | = | = | = | = | = | = | =
steam_cooling_h | -           | -             | -       | -       | *         | *          | -         | -
counter_limit   | 0           | 0             | 0       | 0       | 0         | 0          | 0         | -
counter_flushes | yes         | yes           | yes     | yes     | yes       | yes        | yes       | -
own_program     | no          | no            | no      | no      | no        | no         | no        | -
own_descale     | no          | no            | no      | no      | no        | no         | no        | no
water_backflush | a few times a week p | = | = | daily p | a few times a week p | daily p | a few times a week p | -
soak_for        | ten_minutes | = | = | = | = | = | = | =
tip             | unscrews    | = | = | = | = | = | = | -
tip_in          | hot_water   | = | = | = | = | = | = | -
screen          | not_said    | = | = | = | = | = | = | =
handle          | not said    | not said      | not said| not said| not said  | not said   | not said  | not said
blind           | not said    | not said      | not said| not said| not said  | not said   | not said  | -
double_g        | 18 p        | 18 p          | 18 p    | 18 p    | 18 p      | 18 p       | 18 p      | 18 p
single_g        | 9 p         | 9 p           | 9 p     | 9 p     | 9 p       | 9 p        | 9 p       | 9 p
beverage_g      | 36 p        | 36 p          | 36 p    | 36 p    | 36 p      | 36 p       | 36 p      | 36 p
puck_g          | 20          | 20            | 20      | 20      | 20        | 20         | 20        | 20
vent_ml         | 25          | 25            | 25      | 25      | 25        | 25         | 25        | -
flush_ml        | 50          | 50            | 50      | 50      | 50        | 50         | 50        | 50
milk_g          | 150         | 150           | 150     | 150     | 150       | 150        | 150       | 150
hot_water_l     | 0           | 0             | 0       | 0       | 0         | 0          | 0         | 0
brew_c          | 93          | 93            | 93      | 93      | 93        | 93         | 93        | 93
steam_bar       | 1.2         | 1.2           | 1.2     | 1.2     | 1.2       | 1.2        | 1.2       | 1.2
descale_school  | by hardness class p | = | = | = | = | = | = | =
stance          | by layout | = | = | = | = | = | = | =
warranty        | not said | = | = | = | = | = | = | =
condition       | not said | = | = | = | = | = | = | =
closes_h        | 19 | = | = | = | = | = | = | =
`

type cell struct {
	value    string
	practice bool
}

var table = readDefaults(defaults)

func readDefaults(text string) map[Layout]map[string]cell {
	out := map[Layout]map[string]cell{}
	var heads []Layout
	for line := range strings.Lines(strings.TrimSpace(text)) {
		cells := strings.Split(line, "|")
		key := strings.TrimSpace(cells[0])
		for i, raw := range cells[1:] {
			if raw = strings.TrimSpace(raw); raw == "=" {
				raw = strings.TrimSpace(cells[i])
			}
			cells[i+1] = raw
			if key == "" {
				heads = append(heads, Layout(raw))
				out[Layout(raw)] = map[string]cell{}
			} else if raw != "-" {
				value, practice := strings.CutSuffix(raw, " p")
				out[heads[i]][key] = cell{value, practice}
			}
		}
	}
	return out
}

// optionTitles are the words for options that are codes.
var optionTitles = map[string]string{
	"not_said": "not said", "nickel_plated": "nickel-plated", "tinned_or_soldered": "tinned, or soft-soldered",
	string(CanBeOff): "yes, by a switch or menu of its own", string(HeldOff): "it is held off until its boiler is full",
	string(OnHeats): "no, on means heating", string(NotKnown): "can't tell",
	"ten_minutes": "10 minutes", "twenty_minutes": "20 minutes", "an_hour": "an hour",
	"unscrews": "unscrews", "fixed": "does not unscrew",
	"hot_water": "hot water, 10 minutes", "milk_cleaner": "milk cleaner, an hour",
	"tablet_overnight": "a tablet, overnight",
	"screw":            "a screw in its middle", "seal": "the seal, levered out with it",
	PressurisedDisc: "pressurised basket with a rubber disc", PressurisedSix: "pressurised basket, gauge at 6 bar",
	Pressurised: "pressurised basket",
}

// soaks are how long baskets and handles stand in the bath (common practice: five to ten minutes, fifteen
// to twenty, or an hour where they are stubborn).
var soaks = map[string]time.Duration{"ten_minutes": 10 * time.Minute, "twenty_minutes": 20 * time.Minute,
	"an_hour": time.Hour}

// The baskets that have holes and build pressure all the same: with a rubber disc in it, or where the
// gauge shows at least 6 bar, such a basket stands in for a blind one; by itself it does not (common
// practice).
const (
	PressurisedDisc = "pressurised_disc"
	PressurisedSix  = "pressurised_6_bar"
	Pressurised     = "pressurised"
)

// OptionTitle is an option in words.
func OptionTitle(value string) string {
	if title, is := optionTitles[value]; is {
		return title
	}
	return value
}

// Known is a fact of one machine: as somebody said it, or the default that
// stands in.
type Known struct {
	Fact
	Value   string
	Default string
	Set     bool // somebody said it
	Source  reason.Source
}

// Known lists what is known or taken for granted of a machine.
func (a Answers) Known() []Known {
	var list []Known
	for _, f := range facts {
		c, has := table[a.Layout][f.Key]
		if !has {
			continue
		}
		if c.value == derived {
			c.value = a.follows(f.Key)
		}
		k := Known{Fact: f, Value: c.value, Default: c.value, Source: reason.Ours}
		if c.practice {
			k.Source = reason.Trade
		}
		if v, set := a.Overrides[f.Key]; set {
			k.Value, k.Set, k.Source = v, true, reason.Said
		}
		list = append(list, k)
	}
	return list
}

// CheckOverride refuses a value that the fact does not take, or a fact that a
// machine of this layout does not have; the error is a *units.OutOfRange.
func (a Answers) CheckOverride(key, value string) error {
	for _, k := range a.Known() {
		if k.Key != key {
			continue
		}
		if k.Options != nil {
			if !slices.Contains(k.Options, value) {
				return &units.OutOfRange{Field: key, Name: k.Label, Value: value,
					Allowed: "one of " + strings.Join(k.Options, ", ")}
			}
			return nil
		}
		v, err := strconv.ParseFloat(value, 64)
		whole := key != "groups" || v == float64(int(v))
		var meant []units.Meant
		if err == nil {
			meant = units.Probably(v, k.Min, k.Max, k.Unit)
		}
		if err != nil || !(v >= k.Min && v <= k.Max) || !whole {
			return &units.OutOfRange{
				Field:   key,
				Name:    k.Label,
				Value:   value,
				Allowed: strings.TrimSpace(fmt.Sprintf("%g to %g %s", k.Min, k.Max, k.Unit)),
				Meant:   meant,
			}
		}
		return nil
	}
	var keys []string
	for _, k := range a.Known() {
		keys = append(keys, k.Key)
	}
	return &units.OutOfRange{Field: "key", Value: key, Allowed: "one of " + strings.Join(keys, ", ")}
}

// base holds the facts of each layout where nobody has said anything, worked out once:
// they are what most machines are taken to be, most of the time.
var base = func() map[Layout]Facts {
	out := map[Layout]Facts{}
	for l := range table {
		out[l] = Answers{Layout: l}.read()
	}
	return out
}()

// Facts gives what is known as typed values; what the layout does not have is
// zero.
func (a Answers) Facts() Facts {
	f, ready := base[a.Layout]
	if !ready || len(a.Overrides) > 0 {
		f = a.read()
	}
	f.Valve, f.Entitled = a.valve(), a.Entitled
	return f
}

func (a Answers) read() Facts {
	text := func(key string) string {
		if v, set := a.Overrides[key]; set {
			return v
		}
		return table[a.Layout][key].value
	}
	num := func(key string) float64 {
		v, _ := strconv.ParseFloat(text(key), 64)
		return v
	}
	litres := func(key string) units.Volume { return units.Volume(num(key) * 1000) }
	f := Facts{
		Layout: a.Layout, Groups: max(1, int(num("groups"))), Plumbed: text("water") == "mains",
		Tank: litres("tank_l"), Tray: litres("tray_l"), Pump: Pump(text("pump")), FreeFlow: units.Flow(num("flow_ml_s")),
		Waste: units.Flow(num("waste_ml_s")),
		Stays: units.Volume(num("stays_ml")), Vents: units.Volume(num("vents_ml")),
		Double: units.Mass(num("double_g")), Single: units.Mass(num("single_g")), Closes: num("closes_h"),
		Blind: text(
			"blind",
		), Handle: text("handle"), TipFixed: text("tip") == "fixed", TipIn: text("tip_in"), ScreenBy: text("screen"),
		SoakFor: soaks[text("soak_for")], Program: text("own_program") == "yes", OwnDescale: text("own_descale") == "yes",
		Jug: litres("jug_l"), WaterOnly: text("water_backflush"),
		CounterLimit: num("counter_limit"), CounterFlushes: text("counter_flushes") == "yes",
		BrewBoiler: litres("brew_l"), SteamBoiler: litres("steam_l"),
		Heater: units.Power(num("heater_w")), SteamHeater: units.Power(num("steam_heater_w")),
		BrewMaterial: text("brew_material"), SteamMaterial: text("steam_material"), Drain: text("drain"),
		BrewHeater: HeaterFact(text("brew_heater")), SteamBy: HeaterFact(text("steam_heater")),
		PumpBeforeHot: Answer(text("pump_before_hot")), HoursOn: time.Duration(num("hours_on") * float64(time.Hour)),
		RedMark: units.Pressure(num("red_mark_bar")), Room: units.Temperature(num("room_c")),
		Heel: num("heel"),
		Cooling: time.Duration(
			num("cooling_h") * float64(time.Hour),
		), SteamCooling: time.Duration(num("steam_cooling_h") * float64(time.Hour)),
		BrewTemp: units.Temperature(
			num("brew_c"),
		), Gauge: units.Pressure(num("steam_bar")), Milk: units.Mass(num("milk_g")), HotWater: litres("hot_water_l"),
		Beverage: units.Mass(num("beverage_g")), Puck: units.Mass(num("puck_g")), Vent: units.Volume(num("vent_ml")),
		Calendar: text(
			"descale_school",
		), Stance: text("stance"), Warranty: text("warranty"), Condition: text("condition"),
		BrewWater: units.Volume(
			num("beverage_g") + num("puck_g") + num("vent_ml") + num("flush_ml"),
		), Flush: units.Volume(num("flush_ml")),
	}
	if f.Plumbed {
		f.Tank = 0
	}
	f.fillIn(func(key string) bool { _, set := a.Overrides[key]; return set })
	if f.Pump == Vibratory { // one put where the layout has another is taken as usual
		f.Duty = Duty{On: 2 * time.Minute, Off: time.Minute}
		if on := num("duty_on_min"); on > 0 {
			f.Duty = Duty{
				On:  time.Duration(on * float64(time.Minute)),
				Off: time.Duration(num("duty_off_min") * float64(time.Minute)),
			}
		}
	}
	return f
}

// Assumption is a fact nobody has confirmed yet.
type Assumption struct {
	Label  string        `json:"label"`
	Value  string        `json:"value"`
	Source reason.Source `json:"source"`
}

// Assumptions lists every default that stands in for these answers, so that a
// person can see what was taken for granted.
func (a Answers) Assumptions() []Assumption {
	var list []Assumption
	for _, k := range a.Known() {
		if !k.Set {
			list = append(list, Assumption{k.Label, strings.TrimSpace(OptionTitle(k.Value) + " " + k.Unit), k.Source})
		}
	}
	return list
}
