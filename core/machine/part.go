package machine

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"freshanvil/core/units"
)

// PartKind is what a part of a machine is.
type PartKind string

// The kinds. A machine has groups and brew circuits, numbered from 1, and one of
// each of the others at most.
const (
	Whole       PartKind = "machine"
	GroupHead   PartKind = "group"
	BrewCircuit PartKind = "brew"
	SteamBoiler PartKind = "steam"
	WaterTank   PartKind = "tank"
	DripTray    PartKind = "tray"
	SteamWand   PartKind = "wand"
	DrainSpout  PartKind = "spout"
	HotWaterTap PartKind = "tap"
	WaterFilter PartKind = "filter"
)

// partKinds says of each kind whether it is numbered.
var partKinds = map[PartKind]bool{
	Whole: false, GroupHead: true, BrewCircuit: true, SteamBoiler: false, WaterTank: false, DripTray: false,
	SteamWand: false, DrainSpout: false, HotWaterTap: false, WaterFilter: false,
}

// Part is one part of one machine: what care is of, what a step is done to, what
// holds a chemical. The zero value is the whole machine.
type Part struct {
	kind   PartKind // empty for the whole machine
	number int
}

// Group is a group by its number, from 1.
func Group(n int) Part { return Part{GroupHead, n} }

// Brew is the brew circuit of a group; where brewing and steam share a boiler, that.
func Brew(n int) Part { return Part{BrewCircuit, n} }

// Only is a part of which a machine has one.
func Only(kind PartKind) Part {
	if kind == Whole {
		return Part{}
	}
	return Part{kind: kind}
}

// Kind is what kind of part it is.
func (p Part) Kind() PartKind {
	if p.kind == "" {
		return Whole
	}
	return p.kind
}

// Number tells apart several parts of one kind, from 1; it is 0 where a machine has only
// one of the kind.
func (p Part) Number() int { return p.number }

// GroupNumber is the number of a group; 0 for every other part.
func (p Part) GroupNumber() int {
	if p.kind == GroupHead {
		return p.number
	}
	return 0
}

// IsWhole says whether it is the whole machine.
func (p Part) IsWhole() bool { return p.kind == "" }

// String is its name in the contract and in storage: "machine", "group-2", "steam".
func (p Part) String() string {
	if partKinds[p.Kind()] {
		return fmt.Sprintf("%s-%d", p.kind, p.number)
	}
	return string(p.Kind())
}

// ParsePart reads what String gives. The error is a *units.OutOfRange with the field
// part.
func ParsePart(text string) (Part, error) {
	kind, number, numbered := strings.Cut(text, "-")
	takes, known := partKinds[PartKind(kind)]
	n, err := strconv.Atoi(number)
	switch {
	case known && !takes && !numbered:
		return Only(PartKind(kind)), nil
	case known && takes && numbered && err == nil && n >= 1 && n <= MaxGroups && number == strconv.Itoa(n):
		return Part{PartKind(kind), n}, nil
	}
	return Part{}, &units.OutOfRange{
		Field: "part", Value: text,
		Allowed: fmt.Sprintf(
			"machine, group-1 to group-%d, brew-1 to brew-%d, steam, tank, tray, wand, spout, tap, filter",
			MaxGroups,
			MaxGroups,
		),
	}
}

// MarshalText gives String.
func (p Part) MarshalText() ([]byte, error) { return []byte(p.String()), nil }

// UnmarshalText reads what MarshalText gives.
func (p *Part) UnmarshalText(text []byte) error {
	parsed, err := ParsePart(string(text))
	if err == nil {
		*p = parsed
	}
	return err
}

// Compare orders parts by their kind, then by their number.
func (p Part) Compare(o Part) int {
	return cmp.Or(cmp.Compare(p.Kind(), o.Kind()), cmp.Compare(p.number, o.number))
}

// MaxGroups is the most groups a machine is taken to have.
const MaxGroups = 6

// boilerNames are what the brew circuit of a layout is called.
var boilerNames = map[Layout]string{
	Thermoblock: "heating block", SingleBoiler: "boiler", LeverManual: "boiler", DualHome: "brew boiler",
	MultiCafe: "brew boiler", HXHome: "brew tube", HXCafe: "brew tube", LeverCam: "brew tube",
}

// PartTitle is what a part is called in the sentences about this machine: "group 2",
// "steam boiler", "brew tube". It carries no article.
func (f Facts) PartTitle(p Part) string {
	switch p.Kind() {
	case GroupHead:
		return fmt.Sprintf("group %d", p.number)
	case BrewCircuit:
		name := boilerNames[f.Layout]
		if f.Groups > 1 {
			return fmt.Sprintf("%s %d", name, p.number)
		}
		return name
	case SteamBoiler:
		return "steam boiler"
	case SteamWand:
		return "steam wand"
	case DrainSpout:
		return "drain spout"
	case HotWaterTap:
		return "hot-water tap"
	case DripTray:
		return "drip tray"
	}
	return string(p.Kind())
}

// DrainTitle is what a boiler is drained by is called: "drain screw", "drain plug".
func (f Facts) DrainTitle() string {
	if f.Drain == "plug" {
		return "drain plug"
	}
	return "drain screw"
}
