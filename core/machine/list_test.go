package machine_test

import (
	"fmt"
	"strings"
	"testing"

	"freshanvil/core/machine"
	"freshanvil/core/units"
)

// TestReadList: what is left empty is as on the line before, but the name and the hardness; a layout is known by its
// code and by its title, a valve by its layout.
func TestReadList(t *testing.T) {
	list, bad := machine.ReadList("\ufeffowner;place;name;layout;valve;drinks;milk;hardness;treatment;used\n" +
		"Ferry line;upper deck;Port side;hx_cafe;;120;60;14;under_sink;yes\n" +
		";;Starboard;;;80;;;;\n" +
		"Pottery;boathouse;;Spring or manual lever;;3;0;;none;no\n")
	if len(bad) > 0 || len(list) != 3 {
		t.Fatalf("%d read, bad %+v", len(list), bad)
	}
	first, second, third := list[0], list[1], list[2]
	if first.Answers.Layout != machine.HXCafe || first.Answers.Valve != machine.Yes || !first.Hardness.Known ||
		first.Answers.Hardness.Likely.In(units.GermanDegree) < 13.9 || !first.Used {
		t.Errorf("%+v", first)
	}
	if second.Owner != "Ferry line" || second.Place != "upper deck" || second.Answers.Layout != machine.HXCafe ||
		second.Answers.MilkDrinks != 60 || second.Hardness.Known || second.Answers.Treatment != machine.UnderSink {
		t.Errorf("as on the line before: %+v", second)
	}
	if third.Name != "Spring or manual lever" || third.Answers.Valve != machine.No || third.Used {
		t.Errorf("%+v", third)
	}
}

func TestReadListRefuses(t *testing.T) {
	head := "owner,name,layout,drinks,milk,hardness,unit,treatment,used\n"
	for _, c := range []struct {
		name, text string
		line       int
		field      string
	}{
		{"nothing", "", 1, "header"},
		{"no header", "Ferry line,Port side\n", 1, "header"},
		{"a column too many", "layout,colour\n", 1, "header"},
		{"no machine", head, 2, "line"},
		{"no such layout", head + "a,b,samovar,3,1,,,none,yes\n", 2, "layout"},
		{"no number", head + "a,b,hx_home,three,1,,,none,yes\n", 2, "drinks"},
		{"more milk than drinks", head + "a,b,hx_home,3,9,,,none,yes\n", 2, "milk"},
		{"no such unit", head + "a,b,hx_home,3,1,14,furlongs,none,yes\n", 2, "unit"},
		{"a hardness of brine", head + "a,b,hx_home,3,1,900,dh,none,yes\n", 2, "hardness"},
		{"no such treatment", head + "a,b,hx_home,3,1,,,prayer,yes\n", 2, "treatment"},
		{"neither new nor used", head + "a,b,hx_home,3,1,,,none,perhaps\n", 2, "used"},
		{"a name without end", head + "a," + strings.Repeat("x", 81) + ",hx_home,3,1,,,none,yes\n", 2, "name"},
		{"fields too many", head + "a,b,hx_home,3,1,,,none,yes,more\n", 2, "line"},
		{"the second is bad", head + "a,b,hx_home,3,1,,,none,yes\na,b,hx_home,-3,1,,,none,yes\n", 3, "drinks"},
		{"too many", head + strings.Repeat("a,b,hx_home,3,1,,,none,yes\n", machine.MostListed+1),
			machine.MostListed + 2, "line"},
	} {
		t.Run(c.name, func(t *testing.T) {
			list, bad := machine.ReadList(c.text)
			if list != nil || len(bad) == 0 || bad[0].Line != c.line || bad[0].Field != c.field || bad[0].Allowed == "" {
				t.Errorf("%d taken, bad %+v", len(list), bad)
			}
		})
	}
}

// FuzzReadList: whatever is in a list, it is taken whole or not at all, and what is taken may be kept.
func FuzzReadList(f *testing.F) {
	f.Add("layout,drinks\nhx_home,3\n")
	f.Add("owner;layout;drinks\n\"a;hx_home;3\n")
	f.Add("layout\tdrinks\n\t\n")
	f.Fuzz(func(t *testing.T, text string) {
		list, bad := machine.ReadList(text)
		if (len(list) == 0) == (len(bad) == 0) {
			t.Fatal(fmt.Sprint(len(list), " taken, bad ", bad))
		}
		for _, l := range list {
			if err := l.Answers.Check(); err != nil || l.Name == "" {
				t.Errorf("%+v: %v", l, err)
			}
		}
	})
}
