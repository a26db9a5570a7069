package units_test

import (
	"errors"
	"strings"
	"testing"
	"unicode/utf8"

	"freshanvil/core/units"
)

func TestLine(t *testing.T) {
	tests := []struct {
		name, text, want string
		must             bool
		ok               bool
	}{
		{"a name", " Observatory kitchen ", "Observatory kitchen", true, true},
		{"nothing, where nothing may be", "  ", "", false, true},
		{"nothing", " \t", "", true, false},
		{"accents and other scripts", "Zoë, Ångström, 咖啡, مقهى", "Zoë, Ångström, 咖啡, مقهى", true, true},
		{"a family of pictures", "👩‍🔧", "👩‍🔧", true, true},
		{"read the other way round", "bench \u202eecnad", "", true, false},
		{"an isolated direction", "\u2067bench\u2069", "", true, false},
		{"a blank without room", "ben\u200bch", "", true, false},
		{"only a sign without room", "\ufeff", "", true, false},
		{"two lines", "one\ntwo", "", true, false},
		{"a bell", "one\atwo", "", true, false},
		{"a blank that does not break", "one\u00a0two", "", true, false},
		{"a tower of accents", "a" + strings.Repeat("\u0301", 5), "", true, false},
		{"no text", string([]byte{0xff, 0xfe}), "", true, false},
		{"as long as it may", strings.Repeat("é", 40), strings.Repeat("é", 40), true, true},
		{"too long", strings.Repeat("é", 41), "", true, false},
	}
	for _, x := range tests {
		t.Run(x.name, func(t *testing.T) {
			got, err := units.Line("name", x.text, x.must, 40)
			if (err == nil) != x.ok || got != x.want {
				t.Errorf("%q, %v", got, err)
			}
			var bad *units.OutOfRange
			if err != nil && (!errors.As(err, &bad) || bad.Field != "name" || bad.Allowed == "") {
				t.Errorf("%v", err)
			}
		})
	}
	if got, err := units.Text("notes", " one\r\n\r\ntwo ", false, 40); err != nil || got != "one\n\ntwo" {
		t.Errorf("%q, %v", got, err)
	}
}

// Whatever is kept is text that is read as it is kept: kept again it is the same.
func FuzzLine(f *testing.F) {
	f.Add(" a name ")
	f.Add("x\u202ey")
	f.Fuzz(func(t *testing.T, text string) {
		kept, err := units.Line("name", text, false, 80)
		if err != nil {
			return
		}
		again, err := units.Line("name", kept, false, 80)
		if err != nil || again != kept || !utf8.ValidString(kept) || strings.ContainsAny(kept, "\n\r\u202e\u2066") {
			t.Errorf("%q: %q, %v", kept, again, err)
		}
	})
}
