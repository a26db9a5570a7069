package units

import "testing"

// What is typed is often right, but for its unit: 250 off a report where °dH are asked for. What it would be is offered
// where it lies within; nothing else is guessed.
func TestWhatWasProbablyMeant(t *testing.T) {
	for _, c := range []struct {
		name      string
		value     float64
		low, high float64
		unit      string
		want      float64
		says      string
	}{
		{"a hardness off a report", 250, 0, 112.2, "°dH", 14, "250 mg/L would be 14 °dH"},
		{"by its name in full", 2600, 0, 2002, "mg/L CaCO3", 0, ""},
		{"a boiler in millilitres", 300, 0.01, 30, "L", 0.3, "300 mL would be 0.3 L"},
		{"a dose in milligrams", 3000, 0.5, 10, "g", 3, "3000 mg would be 3 g"},
		{"a heater in kilowatts", 1.3, 100, 20000, "W", 1300, "1.3 kW would be 1300 W"},
		{"a gauge in psi", 17, 0, 3, "bar", 1.17, "17 psi would be 1.17 bar"},
		{"a gauge in kPa", 130, 0, 3, "bar", 1.3, "130 kPa would be 1.3 bar"},
		{"a thermometer in °F", 199, 20, 140, "°C", 92.8, "199 °F would be 92.8 °C"},
		{"a basket in inches", 2.3, 30, 80, "mm", 58.4, "2.3 in would be 58.4 mm"},
		{"a pH without its point", 76, 0, 14, "pH", 7.6, "76 without its point would be 7.6"},
		{"seconds where minutes are asked", 1200, 0, 600, "min", 20, "1200 s would be 20 min"},
		{"within: nothing was meant but that", 14, 0, 112.2, "°dH", 0, ""},
		{"negative", -3, 0, 112.2, "°dH", 0, ""},
		{"too much in any unit", 1e7, 0, 10, "L", 0, ""},
		{"a unit that is not known", 300, 0, 10, "drinks", 0, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := Probably(c.value, c.low, c.high, c.unit)
			if c.says == "" {
				if len(got) > 0 {
					t.Fatalf("got %v, want nothing", got)
				}
				return
			}
			if len(got) != 1 || got[0].Value != c.want || got[0].Says != c.says {
				t.Errorf("got %v, want %g: %s", got, c.want, c.says)
			}
		})
	}
}
