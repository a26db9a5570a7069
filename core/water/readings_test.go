package water

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// An invented table of what somebody read over the years, the units in the names of its columns.
func TestReadReadings(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	now := time.Date(2026, 3, 10, 9, 30, 0, 0, time.UTC)
	list, bad := ReadReadings("date;how;Hardness °dH;alkalinity (mg/L HCO3);pH;chloride\n"+
		"2025-07-01;drops;14;240;7,4;25\n\n2026-03-10;strip;4..7;;;\n", lisbon, now)
	if len(bad) > 0 || len(list) != 2 {
		t.Fatalf("%+v, bad %+v", list, bad)
	}
	first, second := list[0], list[1]
	// by hand: 14 × 17.848 = 249.9; 240 × 0.8202 = 196.8
	for what, c := range map[string][2]float64{"hardness": {first.Sample.Hardness.Likely, 249.87},
		"alkalinity": {first.Sample.Alkalinity.Likely, 196.84}, "pH": {first.Sample.PH.Likely, 7.4},
		"chloride": {first.Sample.Chloride.Likely, 25}, "from": {second.Sample.Hardness.Low, 4 * 17.848},
		"to": {second.Sample.Hardness.High, 7 * 17.848}} {
		if d := c[0] - c[1]; d > 0.01 || d < -0.01 {
			t.Errorf("%s: %v, want %v", what, c[0], c[1])
		}
	}
	if first.How != ByDrops || second.How != ByStrip || second.Sample.PH.Known ||
		!first.Taken.Equal(time.Date(2025, 7, 1, 11, 0, 0, 0, time.UTC)) || second.Taken.After(now) {
		t.Errorf("%+v", list)
	}
}

func TestReadReadingsRefuses(t *testing.T) {
	now := time.Date(2026, 3, 10, 9, 30, 0, 0, time.UTC)
	many := "date,ph\n" + strings.Repeat("2026-01-01,7\n", mostReadings+1)
	for text, want := range map[string]string{
		"":                                      "1 header",
		"a,b\n1,2\n":                            "1 header",
		"date,nitrate\n2026-01-01,5\n":          "1 header",
		"date,hardness\n2026-01-01,14\n":        "1 hardness",
		"date,hardness bushels\n2026-01-01,1":   "1 hardness",
		"date,ph,pH\n2026-01-01,7,7\n":          "1 ph",
		"date,ph\n1.2.2026,7\n":                 "2 date",
		"date,ph\n2026-04-01,7\n":               "2 date",
		"date,ph\n1990-01-01,7\n":               "2 date",
		"date,ph\n2026-01-01,soft\n":            "2 ph",
		"date,ph\n2026-01-01,\n":                "2 line",
		"date,how,ph\n2026-01-01,tongue,7\n":    "2 how",
		"date,calcium,ph\n2026-01-01,99999,7\n": "2 calcium",
		"date,hardness mg/L CaCO3,calcium\n2026-01-01,100,300\n": "2 ca_mg_l",
		many: fmt.Sprint(mostReadings+2, " line"),
	} {
		list, bad := ReadReadings(text, time.UTC, now)
		if len(bad) != 1 || fmt.Sprint(bad[0].Line, " ", bad[0].Field) != want || bad[0].Allowed == "" || list != nil {
			t.Errorf("%.60q: %+v, want %s", text, bad, want)
		}
	}
}

func FuzzReadReadings(f *testing.F) {
	f.Add("date,hardness °dH,ph\n2026-03-01,14,7.4\n")
	f.Add("date;how;calcium\n2025-01-01;meter;<5\n")
	now := time.Date(2026, 3, 10, 9, 30, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, text string) {
		list, bad := ReadReadings(text, time.UTC, now)
		if len(bad) > 0 && list != nil || len(bad) == 0 && len(list) == 0 {
			t.Fatalf("%q: %d readings and %+v", text, len(list), bad)
		}
		for _, r := range list {
			if _, err := r.Sample.Fill(); r.Taken.After(now) || err != nil && !strings.Contains(err.Error(), "equilibrium") {
				t.Fatalf("%q is taken as %+v: %v", text, r, err)
			}
		}
	})
}
