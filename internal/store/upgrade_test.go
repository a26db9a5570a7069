package store

import (
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/run"
)

// fixtureID is an id of the databases in testdata, which the application of each
// earlier version wrote.
func fixtureID(n int) string { return fmt.Sprintf("00000000-0000-7000-8000-%012d", n) }

// older lays a database of an earlier version down and gives its path.
func older(t *testing.T, version int) string {
	t.Helper()
	in, err := os.Open(fmt.Sprintf("testdata/v%d.db.gz", version))
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
	for version := 1; version <= 8; version++ {
		t.Run(fmt.Sprint("version ", version), func(t *testing.T) {
			file := older(t, version)
			s := open(t, file)
			defer s.Close()
			if _, err := os.Stat(strings.TrimSuffix(file, ".db") + ".before-9.db"); err != nil {
				t.Errorf("no copy was made: %v", err)
			}
			list, err := s.Machines(ctx, false)
			if err != nil || len(list) < 2 {
				t.Fatalf("%d machines, %v", len(list), err)
			}
			histories, err := s.Histories(ctx, list, now)
			if err != nil {
				t.Fatal(err)
			}
			h := histories[deck]
			wants := []care.Done{
				{Task: care.Wash, Part: machine.Group(1)}, {Task: care.Wash, Part: machine.Group(2)},
				{Task: care.HandClean, Part: machine.Group(1)},
			}
			if version >= 2 {
				wants = append(wants, care.Done{Task: care.Brush}, care.Done{Task: care.WaterBackflush})
			}
			if version >= 5 {
				wants = append(wants, care.Done{Task: care.Descale})
			}
			for _, want := range wants {
				if !slices.ContainsFunc(
					h.Done,
					func(d care.Done) bool { return d.Task == want.Task && d.Part == want.Part },
				) {
					t.Errorf("%s of %s is lost: %+v", want.Task, want.Part, h.Done)
				}
			}
			if !slices.ContainsFunc(
				h.Events,
				func(e care.UseEvent) bool { return e.Part == machine.Group(2) && e.Count == 2 },
			) ||
				!slices.ContainsFunc(h.Events, func(e care.UseEvent) bool { return e.Part.IsWhole() && e.Count == 3 }) {
				t.Errorf("use: %+v", h.Events)
			}
			checkOldRuns(t, s, version, studio, third)
		})
	}
}

func checkOldRuns(t *testing.T, s *Store, version int, studio, third string) {
	t.Helper()
	ended, err := s.Run(ctx, fixtureID(20))
	if err != nil || ended.Ended == nil {
		t.Fatalf("the ended run: %+v, %v", ended, err)
	}
	if e := ended.Ended; e.Outcome != run.Finished || e.Task != care.Wash || len(e.Groups) != 1 || e.Groups[0].In ||
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
	if in := Contents(hazards, studio); !slices.Equal(in.Detergent, []machine.Part{machine.Group(1)}) {
		t.Errorf("what was in is %+v", in)
	}
	if version >= 7 {
		if in := Contents(hazards, third); !slices.Equal(in.Acid, []machine.Part{machine.Only(machine.SteamBoiler)}) {
			t.Errorf("acid: %+v", in)
		}
	}
	log, err := s.Log(ctx, studio, true, 10)
	if err != nil || len(log) != 1 || log[0].Outcome != string(run.StoppedUnsafe) {
		t.Errorf("the log of it: %+v, %v", log, err)
	}
}

// The copy holds the older state, and is not made again over it; a second opening
// changes nothing.
func TestCopyIsMadeOnce(t *testing.T) {
	file := older(t, 4)
	s := open(t, file)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	copied := strings.TrimSuffix(file, ".db") + ".before-9.db"
	before, err := os.ReadFile(copied)
	if err != nil {
		t.Fatal(err)
	}
	s = open(t, file)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	if after, err := os.ReadFile(copied); err != nil || !slices.Equal(before, after) {
		t.Errorf("the copy was changed, %v", err)
	}
	if s, err := Open(ctx, copied, now); err != nil {
		t.Errorf("the copy does not open: %v", err)
	} else {
		_ = s.Close()
	}
	// a new database has nothing to be copied
	fresh := filepath.Join(t.TempDir(), "new.db")
	s = open(t, fresh)
	_ = s.Close()
	if files, _ := filepath.Glob(filepath.Join(filepath.Dir(fresh), "*before*")); len(files) > 0 {
		t.Errorf("copies of nothing: %v", files)
	}
}

// A database of a newer version is left as it is.
func TestNewerDatabaseIsLeftAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "bench.db")
	s := open(t, file)
	if err := s.db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)").Error; err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	before, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Open(ctx, file, now.Add(time.Hour)); !errors.Is(err, ErrNewer) {
		t.Errorf("opened: %v", err)
	}
	if after, err := os.ReadFile(file); err != nil || !slices.Equal(before, after) {
		t.Errorf("it was written, %v", err)
	}
}

// What a boiler was said to be made of is said of each boiler that the layout has; the
// older key is gone; what nobody said stays unsaid. A descale that went on under an older
// model has ended unsafe, its acid on record where it was.
func TestTheOneMaterialBecomesTwo(t *testing.T) {
	s := open(t, older(t, 8))
	defer s.Close()
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
	if in := Contents(hazards, fixtureID(40)); !slices.Equal(in.Acid, []machine.Part{machine.Brew(1)}) {
		t.Errorf("what is in is %+v", in)
	}
}
