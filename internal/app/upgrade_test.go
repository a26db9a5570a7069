package app

import (
	"compress/gzip"
	"database/sql"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/run"
	"freshanvil/core/task"
	"freshanvil/internal/store"
)

// fixtureID is an id of the databases in testdata, which the application of each
// earlier version wrote.
func fixtureID(n int) string { return fmt.Sprintf("00000000-0000-7000-8000-%012d", n) }

// older lays a database of an earlier version down and gives its path.
func older(t *testing.T, version int) string {
	t.Helper()
	in, err := os.Open(fmt.Sprintf("../store/testdata/v%d.db.gz", version))
	if err != nil {
		t.Fatal(err)
	}
	defer in.Close()
	unzipped, err := gzip.NewReader(in)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "bench.db")
	out, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := io.Copy(out, unzipped); err != nil {
		t.Fatal(err)
	}
	if err := out.Close(); err != nil {
		t.Fatal(err)
	}
	return file
}

// Databases of each earlier version open: what was done and used stands, under the part
// it was done to; a copy of the older state lies beside them; an ended run opens from
// what was written down of it; one that went on has ended unsafe, what it put in still
// on record and waiting to be rinsed.
func TestDatabasesOfEarlierVersionsOpen(t *testing.T) {
	deck, studio, third := fixtureID(1), fixtureID(2), fixtureID(3)
	for version := 1; version <= 9; version++ {
		t.Run(fmt.Sprint("version ", version), func(t *testing.T) {
			file := older(t, version)
			a := open(t, file)
			s := a.store
			if made := copies(t, file); len(made) != 1 {
				t.Errorf("copies: %v", made)
			}
			list, err := s.Machines(ctx, false)
			if err != nil || len(list) < 2 {
				t.Fatalf("%d machines, %v", len(list), err)
			}
			m, err := a.Find(ctx, deck)
			if err != nil {
				t.Fatal(err)
			}
			h, err := a.History(ctx, m, now)
			if err != nil {
				t.Fatal(err)
			}
			wants := []care.Done{
				{Task: task.Wash, Part: machine.Group(1)}, {Task: task.Wash, Part: machine.Group(2)},
				{Task: task.Screen, Part: machine.Group(1)},
			}
			if version >= 2 {
				wants = append(wants, care.Done{Task: task.Brush}, care.Done{Task: task.WaterBackflush})
			}
			if version >= 5 {
				wants = append(wants, care.Done{Task: task.Descale})
			}
			for _, want := range wants {
				if !slices.ContainsFunc(
					h.Done,
					func(d care.Done) bool { return d.Task == want.Task && d.Part == want.Part },
				) {
					t.Errorf("%s of %s is lost: %+v", want.Task, want.Part, h.Done)
				}
			}
			var whole, second float64
			for _, d := range h.Days {
				if d.Part.IsWhole() {
					whole += d.Shots()
				} else if d.Part == machine.Group(2) {
					second += d.Shots()
				}
			}
			if whole < 3 || second < 2 {
				t.Errorf("use by the day: %v of the whole, %v of group 2", whole, second)
			}
			checkOldRuns(t, s, version, studio, third)
		})
	}
}

func checkOldRuns(t *testing.T, s *store.Store, version int, studio, third string) {
	t.Helper()
	ended, err := s.Run(ctx, fixtureID(20))
	if err != nil || ended.Ended == nil {
		t.Fatalf("the ended run: %+v, %v", ended, err)
	}
	if e := ended.Ended; e.Outcome != run.Finished || e.Task != task.Wash || len(e.Groups) != 1 || e.Groups[0].In ||
		e.Groups[0].Part != machine.Group(1) || e.Groups[0].Soapy != 5 || e.Groups[0].Rinsed < 5 ||
		e.Groups[0].Dose == nil || e.Where != "group 1" {
		t.Errorf("the ended run: %+v", e)
	}
	cut, err := s.Run(ctx, fixtureID(21))
	if err != nil || cut.Ended == nil || cut.Ended.Outcome != run.StoppedUnsafe ||
		!strings.Contains(cut.Ended.Note, "updated") {
		t.Errorf("the run that went on: %+v, %v", cut.Ended, err)
	}
	if open, err := s.OpenRuns(ctx); err != nil || len(open) != 0 {
		t.Errorf("open runs: %v, %v", open, err)
	}
	hazards, err := s.Hazards(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if in := store.Contents(hazards, studio); !slices.Equal(in.Detergent, []machine.Part{machine.Group(1)}) {
		t.Errorf("what was in is %+v", in)
	}
	if version >= 7 {
		if in := store.Contents(hazards, third); !slices.Equal(in.Acid, []machine.Part{machine.Only(machine.SteamBoiler)}) {
			t.Errorf("acid: %+v", in)
		}
	}
	log, err := s.Log(ctx, studio, true, 10)
	if err != nil || len(log) != 1 || log[0].Outcome != string(run.StoppedUnsafe) {
		t.Errorf("the log of it: %+v, %v", log, err)
	}
}

// copies are the copies that were made beside a database before it was migrated.
func copies(t *testing.T, file string) []string {
	t.Helper()
	made, err := filepath.Glob(strings.TrimSuffix(file, ".db") + ".before-*.db")
	if err != nil {
		t.Fatal(err)
	}
	return made
}

// The copy holds the older state, and is not made again over it; a second opening
// changes nothing.
func TestCopyIsMadeOnce(t *testing.T) {
	file := older(t, 4)
	shut(t, open(t, file))
	made := copies(t, file)
	if len(made) != 1 {
		t.Fatalf("copies: %v", made)
	}
	copied := made[0]
	before, err := os.ReadFile(copied)
	if err != nil {
		t.Fatal(err)
	}
	shut(t, open(t, file))
	if after, err := os.ReadFile(copied); err != nil || !slices.Equal(before, after) {
		t.Errorf("the copy was changed, %v", err)
	}
	if s, err := store.Open(ctx, copied); err != nil {
		t.Errorf("the copy does not open: %v", err)
	} else {
		_ = s.Close()
	}
	// a new database has nothing to be copied
	fresh := filepath.Join(t.TempDir(), "new.db")
	shut(t, open(t, fresh))
	if files, _ := filepath.Glob(filepath.Join(filepath.Dir(fresh), "*before*")); len(files) > 0 {
		t.Errorf("copies of nothing: %v", files)
	}
}

// What a boiler was said to be made of is said of each boiler that the layout has; the
// older key is gone; what nobody said stays unsaid. A descale that went on under an older
// model has ended unsafe, its acid on record where it was.
func TestTheOneMaterialBecomesTwo(t *testing.T) {
	s := open(t, older(t, 8)).store
	for _, c := range []struct {
		machine     string
		brew, steam string
	}{
		{fixtureID(1), "copper", "copper"}, // a heat exchanger: both
		{fixtureID(40), "brass", ""},       // one boiler does both
		{fixtureID(2), "", ""},
	} {
		m, err := s.Machine(ctx, c.machine)
		if err != nil {
			t.Fatal(err)
		}
		said := m.Answers.Overrides
		if _, old := said["boiler_material"]; old || said["brew_material"] != c.brew || said["steam_material"] != c.steam {
			t.Errorf("%s: %v", m.Name, said)
		}
	}
	cut, err := s.Run(ctx, fixtureID(41))
	if err != nil || cut.Ended == nil || cut.Ended.Outcome != run.StoppedUnsafe {
		t.Errorf("the descale that went on: %+v, %v", cut.Ended, err)
	}
	hazards, err := s.Hazards(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if in := store.Contents(hazards, fixtureID(40)); !slices.Equal(in.Acid, []machine.Part{machine.Brew(1)}) {
		t.Errorf("what is in is %+v", in)
	}
}

// Where answers were changed before they had a date, the newest hold from the last descale on and
// the older ones before; the dates that were shown stay, and what moves is told until somebody has
// seen it. Jobs that are new to the list begin with the update, and say so; a hand clean is the
// screen's.
func TestWhatHeldIsBroughtOver(t *testing.T) {
	a := open(t, older(t, 9))
	office, lever := fixtureID(900), fixtureID(910)
	line, err := a.store.Timeline(ctx, office)
	if err != nil {
		t.Fatal(err)
	}
	descaled := now.AddDate(0, 0, -99)
	if len(line) != 2 || line[0].Hardness.Value != 18 || line[1].Hardness.Value != 3 || !line[1].From.Equal(descaled) {
		t.Errorf("what held: %+v", line)
	}
	dues := func(id string) map[task.ID]care.Due {
		m, err := a.Find(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		h, err := a.History(ctx, m, now)
		if err != nil {
			t.Fatal(err)
		}
		out := map[task.ID]care.Due{}
		for _, d := range care.AllDue(m.Answers, h, now, m.Zone) {
			out[d.Task] = d
		}
		return out
	}
	// as the version before showed the wash; the descale's date is the early end of what this water may leave
	if d := dues(office); d[task.Wash].Likely.Format(time.DateOnly) != "2026-03-15" ||
		d[task.Descale].Likely.Format(time.DateOnly) != "2026-09-05" {
		t.Errorf("wash %v, descale %v", d[task.Wash].Likely, d[task.Descale].Likely)
	}
	if d := dues(lever)[task.Screen]; d.Likely.Format(time.DateOnly) != "2026-05-20" || d.Begun {
		t.Errorf("the hand clean: %+v", d)
	}
	for _, id := range []task.ID{task.Soak, task.Tank, task.Seal} {
		if d := dues(office)[id]; !d.Last.Equal(now) || !d.Begun || !strings.Contains(d.Because[0].Text, "first listed") {
			t.Errorf("%s: since %v, %v", id, d.Last, d.Because)
		}
	}
	if moved, err := a.store.MovedOf(ctx, office); err != nil || len(moved) != 0 {
		t.Errorf("moved: %+v, %v", moved, err)
	}
}

// A date that the update does move is told with what it was, once.
func TestMovedDatesAreToldOnce(t *testing.T) {
	file := older(t, 9)
	raw, err := sql.Open("sqlite3", file)
	if err != nil {
		t.Fatal(err)
	}
	// nothing was ever logged on it, it was washed, and its drinks were said anew since
	office := fixtureID(900)
	for _, q := range []string{"DELETE FROM use_events WHERE machine_id = ?",
		"DELETE FROM counter_readings WHERE machine_id = ?",
		"DELETE FROM habits WHERE machine_id = ?", "DELETE FROM settled WHERE machine_id = ?",
		"DELETE FROM care_log WHERE task = 'descale' AND machine_id = ?",
		"UPDATE machines SET logged_since_ms = NULL WHERE id = ?",
		"UPDATE settings SET drinks = 1 WHERE hardness_value = 18 AND machine_id = ?",
		fmt.Sprintf("UPDATE settings SET from_ms = %d WHERE hardness_value = 3 AND machine_id = ?",
			now.AddDate(0, 0, -1).UnixMilli())} {
		if _, err := raw.Exec(q, office); err != nil {
			t.Fatal(err)
		}
	}
	if err := raw.Close(); err != nil {
		t.Fatal(err)
	}
	a := open(t, file)
	moved, err := a.store.MovedOf(ctx, office)
	if err != nil || len(moved) != 1 || moved[0].Task != task.Wash || !moved[0].Is.After(moved[0].Was) {
		t.Fatalf("%+v, %v", moved, err)
	}
	if err := a.SeeMoved(ctx, office); err != nil {
		t.Fatal(err)
	}
	if again, err := a.store.MovedOf(ctx, office); err != nil || len(again) != 0 {
		t.Errorf("told again: %+v, %v", again, err)
	}
}

// What a spent solution taught beside the older model is brought over once: the share moves so that
// it says the same scale of the same water, and its working names what it was.
func TestAShareTaughtBeforeIsRebasedOnce(t *testing.T) {
	file := older(t, 9)
	raw, err := sql.Open("sqlite3", file)
	if err != nil {
		t.Fatal(err)
	}
	office := fixtureID(900)
	for _, q := range []string{
		"INSERT INTO care_log (id, machine_id, task, at_ms, outcome, title, record, part) SELECT 'earlier', machine_id, " +
			"task, at_ms - 200 * 86400000, outcome, title, record, part FROM care_log WHERE task = 'descale' AND machine_id = ?",
		"INSERT INTO shares (id, machine_id, at_ms, share, body) SELECT 'taught', machine_id, at_ms + 600000, 0.8, " +
			`'{"worked": {"name": "share", "value": 0.8, "low": 0.8, "high": 0.8, "formula": "share", ` +
			`"source": {"kind": "model", "which": "ours"}, "inputs": [], "would_change": ["another"]}, ` +
			`"spent": {}}' FROM care_log ` +
			"WHERE task = 'descale' AND id <> 'earlier' AND machine_id = ?",
	} {
		if _, err := raw.Exec(q, office); err != nil {
			t.Fatal(err)
		}
	}
	if err := raw.Close(); err != nil {
		t.Fatal(err)
	}
	var first float64
	for opened := range 2 {
		a := open(t, file)
		list, err := a.Shares(ctx, office)
		if err != nil || len(list) != 1 {
			t.Fatalf("%+v, %v", list, err)
		}
		x := list[0]
		in := map[string]float64{}
		for _, i := range x.Worked.Inputs {
			in[i.Symbol] = i.Value
		}
		if x.Share != x.Worked.Value || in["share"] != 0.8 || !(in["before"] > 1) || !(in["now"] > 1) ||
			in["before"] == in["now"] || math.Abs(x.Share*in["now"]-0.8*in["before"]) > 1e-9 {
			t.Errorf("opened %d times before: %v of %v", opened, x.Share, in)
		}
		if opened == 1 && x.Share != first {
			t.Errorf("rebased again: %v, then %v", first, x.Share)
		}
		first = x.Share
		if err := a.store.Close(); err != nil {
			t.Fatal(err)
		}
	}
}

// A task that comes to the table begins its clock on machines that are there already, once, and by nothing but its row:
// tried on a database that was left before tasks were noted, and on one that knew all but two.
func TestNewTasksBeginTheirClocks(t *testing.T) {
	began := func(a *App, machine string) map[task.ID]int {
		t.Helper()
		m, err := a.Find(ctx, machine)
		if err != nil {
			t.Fatal(err)
		}
		h, err := a.History(ctx, m, a.now())
		if err != nil {
			t.Fatal(err)
		}
		count := map[task.ID]int{}
		for _, d := range h.Done {
			if d.Begun != "" {
				count[d.Task]++
			}
		}
		return count
	}
	for _, c := range []struct {
		name, note, upgraded string
		fresh                []task.ID
	}{
		{"before the parts were cared for", "", sharesBegan, []task.ID{task.Tip, task.Grinder, task.Service}},
		{"before tasks were noted", "", upgraded, nil},
		{"all but two", "screen soak seal tank wand tip steam_joint cam_grease brush_head drain_seals jet probe relief " +
			"service service_3 service_5", upgraded, []task.ID{task.Grinder, task.Inspection}},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := newBench(t)
			id := b.add(4, 14)
			b.sql("DELETE FROM care_log WHERE machine_id = ?", id)
			b.must(b.SetMeta(ctx, beganKey, c.note))
			b.must(b.SetMeta(ctx, upgradedKey, c.upgraded))
			known := strings.Fields(begunBefore + " " + begunOfParts)
			for _, newer := range task.Where(func(r task.Row) bool { return r.Begins }) { // than both lists
				if !slices.Contains(known, string(newer)) {
					c.fresh = append(c.fresh, newer)
				}
			}
			for range 2 { // the second time nothing is fresh
				b.restart()
				got := began(b.App, id)
				for _, want := range c.fresh {
					if got[want] != 1 {
						t.Errorf("%s began %d times", want, got[want])
					}
				}
				if c.upgraded == upgraded && len(got) != len(c.fresh) {
					t.Errorf("%v began, want %v alone", got, c.fresh)
				}
			}
		})
	}
}
