package inspect

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
	"freshanvil/core/units"
)

func num(x float64) *float64 { return &x }

// A walk begins with what needs no hand, goes through what can be seen as the machine is now, and looks at each thing
// that the machine has at each of its groups once; what stops everything stands among the first.
func TestWalk(t *testing.T) {
	for _, l := range machine.Layouts() {
		for _, hot := range []bool{true, false} {
			t.Run(string(l), func(t *testing.T) {
				f := madeOf(l)
				list := Walk(f, hot)
				if list[0].Sight != Under {
					t.Errorf("it begins with %s", list[0].Sight)
				}
				second := HotOn
				if !hot {
					second = OffCold
				}
				rank := map[Posture]int{Untouched: 0, second: 1}
				last, seen := 0, map[string]bool{}
				for _, c := range list {
					n, known := rank[c.At]
					if !known {
						n = 2
					}
					if n < last {
						t.Errorf("%s comes back to how the machine was before", c.Sight)
					}
					key := string(c.Sight) + c.Part.String()
					if last = n; seen[key] || !c.On(f) || c.Part.IsWhole() != (c.Of == task.Whole) {
						t.Errorf("%s of %s", c.Sight, c.Part)
					}
					seen[key] = true
					if err := (Found{Sight: c.Sight, Part: c.Part, Verdict: c.Seen[0].Verdict}).Check(f.Groups); err != nil {
						t.Error(err)
					}
				}
				for _, row := range All() {
					if want := row.At != "" && row.On(f); want != slices.ContainsFunc(list,
						func(c Card) bool { return c.Sight == row.Sight }) {
						t.Errorf("%s: looked at is not %v", row.Sight, want)
					}
				}
			})
		}
	}
	names := func(f machine.Facts) (list []Sight) {
		for _, c := range Walk(f, true) {
			list = append(list, c.Sight)
		}
		return list
	}
	if has := names(madeOf(machine.LeverManual)); slices.Contains(has, Discharge) || slices.Contains(has, PumpBar) {
		t.Errorf("a manual lever has no pump and vents nothing: %v", has)
	}
	if has := names(madeOf(machine.LeverCam)); !slices.Contains(has, Lever) || !slices.Contains(has, Gauze) {
		t.Errorf("a lever with a cam: %v", has)
	}
}

// What is read in numbers is judged by its zones, by the machine's own best, or, where nothing was read before, by
// what the model expects, looser. Zones and shares: common practice, and our own engineering choices.
func TestJudgeNumbers(t *testing.T) {
	home := madeOf(machine.HXHome)
	marked := home
	marked.RedMark = 1.6
	expects := reason.Worked{Value: 80}
	for _, c := range []struct {
		name  string
		sight Sight
		value float64
		in    Context
		want  Verdict
	}{
		{"at its mark", LockAngle, 5, Context{}, AtMark}, {"past", LockAngle, 6, Context{}, Past},
		{"far past", LockAngle, 21, Context{}, FarPast}, {"short", LockAngle, -31, Context{}, Short},
		{"steam", SteamBar, 1.2, Context{Facts: home}, Usual}, {"a little low", SteamBar, 0.9, Context{Facts: home}, Usual},
		{"steam low", SteamBar, 0.7, Context{Facts: home}, Low},
		{"a little high", SteamBar, 1.4, Context{Facts: home}, Usual},
		{"steam high", SteamBar, 1.6, Context{Facts: home}, High}, {"steam over", SteamBar, 2, Context{Facts: home}, Over},
		{"its own red mark", SteamBar, 1.6, Context{Facts: marked}, Over},
		{"pump", PumpBar, 9, Context{Facts: home}, Usual}, {"pump none", PumpBar, 0, Context{Facts: home}, None},
		{"pump low", PumpBar, 5, Context{Facts: home}, Low}, {"pump high", PumpBar, 12, Context{Facts: home}, High},
		// best of 95, 100, 90, 60 is the median of 100, 95, 90: 95; 0.8 of it 76, half of it 47.5
		{"flow of its own", Flow, 77, Context{Earlier: []float64{95, 100, 90, 60}}, Usual},
		{"flow less", Flow, 75, Context{Earlier: []float64{95, 100, 90, 60}}, Weaker},
		{"flow little", Flow, 47, Context{Earlier: []float64{95, 100, 90, 60}}, Weak},
		{"flow by the model", Flow, 53, Context{Expected: expects}, Usual},
		{"less than the model", Flow, 51, Context{Expected: expects}, Weaker},
		{"its own outweighs the model", Flow, 51, Context{Earlier: []float64{55}, Expected: expects}, Usual},
		// best of 10, 11, 12, 30 is 11; a quarter more 13.75: one of three elements gone takes 16.5
		{"heats as ever", HeatUp, 13.7, Context{Earlier: []float64{10, 11, 12, 30}}, Usual},
		{"one of three elements", HeatUp, 16.5, Context{Earlier: []float64{10, 11, 12, 30}}, Slower},
		{"heats by the model", HeatUp, 127, Context{Expected: expects}, Usual},
		{"slower than the model", HeatUp, 129, Context{Expected: expects}, Slower},
		{"nothing to go by", Flow, 20, Context{}, Usual},
	} {
		t.Run(c.name, func(t *testing.T) {
			row, _ := Find(c.sight)
			got, err := row.Judge("", num(c.value), c.in)
			if err != nil || got.Verdict != c.want || got.Finding.Title == "" || len(got.Finding.Because) == 0 {
				t.Errorf("%v %+v", err, got)
			}
			if (got.Stops != nil) != (got.Finding.Verdict == reason.Stop) {
				t.Errorf("stops: %+v", got.Finding)
			}
		})
	}
	row, _ := Find(Flow)
	for field, number := range map[string]*float64{"number": num(math.NaN()), "verdict": nil} {
		var bad *units.OutOfRange
		if _, err := row.Judge("", number, Context{}); !errors.As(err, &bad) || bad.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// What has been looked at before is told in its order, and a number that drifts says when it turns bad: 1° a month
// from 1° on 1 January passes the mark of 5° four months later. Nothing is foretold from two readings, from a week, of
// what gets better, or of what has turned.
func TestTrend(t *testing.T) {
	at := func(month, day int) time.Time { return time.Date(2026, time.Month(month), day, 9, 0, 0, 0, time.UTC) }
	now := at(4, 2)
	read := func(at time.Time, degrees float64) Found {
		v, _ := lockAngle(Context{}, degrees)
		return Found{Sight: LockAngle, Part: machine.Group(1), Verdict: v, At: at, Number: num(degrees)}
	}
	row, _ := Find(LockAngle)
	tell := func(list ...Found) Trend { return row.TrendOf(list, Context{}, now, time.UTC) }
	drifts := tell(read(at(1, 1), 1), read(at(4, 1), 4), read(at(2, 1), 2), read(at(3, 1), 3))
	if got := drifts.Reaches; got.Before(at(4, 26)) || got.After(at(5, 6)) {
		t.Errorf("it passes its mark on %v", got)
	}
	if want := "1° in January, 2° in February, 3° in March, 4° in April."; !strings.HasPrefix(drifts.Text, want) ||
		!strings.Contains(drifts.Text, "turns bad about") {
		t.Errorf("%q", drifts.Text)
	}
	if below := tell(read(at(1, 1), -8), read(at(2, 1), -8)); below.Text != "−8° in January, −8° in February." {
		t.Errorf("%q", below.Text)
	}
	for name, list := range map[string][]Found{
		"two readings": {read(at(1, 1), 1), read(at(4, 1), 4)},
		"a week":       {read(at(3, 20), 1), read(at(3, 24), 2), read(at(3, 27), 3)},
		"better":       {read(at(1, 1), 4), read(at(2, 1), 3), read(at(3, 1), 2)},
		"turned":       {read(at(1, 1), 12), read(at(2, 1), 10), read(at(3, 1), 8)},
		"far ahead":    {read(at(1, 1), 1), read(at(2, 1), 1.01), read(at(3, 1), 1.02)},
	} {
		if got := tell(list...); !got.Reaches.IsZero() {
			t.Errorf("%s: %v", name, got.Reaches)
		}
	}
	screen, _ := Find(Screen)
	looked := []Found{{Sight: Screen, Verdict: Stained, At: at(3, 1)},
		{Sight: Screen, Verdict: Clean, At: time.Date(2025, 11, 1, 0, 0, 0, 0, time.UTC)},
		{Sight: Screen, Verdict: "gone", At: at(2, 1)}, {Sight: Screen, Verdict: Blocked, At: at(5, 1)}}
	if got := screen.TrendOf(looked, Context{}, now, time.UTC); got.Text != "Clean in November 2025, brown in March." ||
		!got.Worse {
		t.Errorf("%+v", got)
	}
	if got := screen.TrendOf(nil, Context{}, now, time.UTC); got != (Trend{}) {
		t.Errorf("never looked at: %+v", got)
	}
}
