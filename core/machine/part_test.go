package machine

import (
	"errors"
	"testing"

	"freshanvil/core/units"
)

func TestPartsReadBackAsWritten(t *testing.T) {
	for text, want := range map[string]Part{
		"machine": {}, "group-1": Group(1), "group-6": Group(6), "brew-2": Brew(2), "steam": Only(SteamBoiler),
		"tank": Only(WaterTank), "tray": Only(DripTray), "wand": Only(SteamWand), "spout": Only(DrainSpout),
		"tap": Only(HotWaterTap), "filter": Only(WaterFilter),
	} {
		t.Run(text, func(t *testing.T) {
			got, err := ParsePart(text)
			if err != nil || got != want || got.String() != text {
				t.Errorf("%v as %q, %v", got, got.String(), err)
			}
		})
	}
	if !(Part{}).IsWhole() || Only(Whole) != (Part{}) || Group(2).IsWhole() {
		t.Error("the zero part is not the whole machine")
	}
	if Group(3).GroupNumber() != 3 || Brew(3).GroupNumber() != 0 || (Part{}).GroupNumber() != 0 {
		t.Error("only a group has a group's number")
	}
}

func TestPartsRefused(t *testing.T) {
	for _, text := range []string{"", "group", "group-0", "group-7", "group-01", "group-x", "steam-1", "boiler",
		"machine-1"} {
		t.Run(text, func(t *testing.T) {
			var bad *units.OutOfRange
			if _, err := ParsePart(text); !errors.As(err, &bad) || bad.Field != "part" || bad.Allowed == "" {
				t.Errorf("%v", err)
			}
		})
	}
	kept := Group(2)
	if err := kept.UnmarshalText([]byte("none")); err == nil || kept != Group(2) {
		t.Error("a part that is refused changes what was there")
	}
}

// One word for one thing, by layout.
func TestPartTitles(t *testing.T) {
	two := Answers{Layout: HXCafe}.Facts()
	one := Answers{Layout: SingleBoiler}.Facts()
	for want, got := range map[string]string{
		"group 2": two.PartTitle(Group(2)), "brew tube 2": two.PartTitle(Brew(2)), "boiler": one.PartTitle(Brew(1)),
		"steam boiler": two.PartTitle(Only(SteamBoiler)), "machine": two.PartTitle(Part{}),
		"hot-water tap": two.PartTitle(Only(HotWaterTap)),
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}
