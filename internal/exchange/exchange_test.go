package exchange

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"strings"
	"testing"
	"time"

	_ "github.com/mattn/go-sqlite3"

	"freshanvil/core/units"
	"freshanvil/internal/app"
)

var noon = time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)

// filled is a database with random rows in every table that is carried, its references kept; how it came about does not
// matter here, only that it comes back as it was.
func filled(t *testing.T, rng *rand.Rand) *app.App {
	t.Helper()
	file := filepath.Join(t.TempDir(), "test.db")
	a, err := app.Open(t.Context(), file, func() time.Time { return noon })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = a.Close() })
	db, err := sql.Open("sqlite3", "file:"+file+"?_foreign_keys=on&_busy_timeout=5000")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	keys := map[string][]string{}
	var tables []app.Table
	err = a.Carry(t.Context(), func(all []app.Table) error { tables = all; return nil },
		func(app.Table, []any) error { return nil })
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range tables {
		refs := references(t, db, x.Name)
		for n := range 1 + rng.IntN(6) {
			if key := insert(t, db, x, refs, keys, n, rng); key != "" {
				keys[x.Name] = append(keys[x.Name], key)
			}
		}
	}
	return a
}

// references are the columns of a table that refer to another, by its name.
func references(t *testing.T, db *sql.DB, table string) map[string]string {
	t.Helper()
	rows, err := db.Query(`SELECT "from", "table" FROM pragma_foreign_key_list(?)`, table)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	refs := map[string]string{}
	for rows.Next() {
		var from, to string
		if err := rows.Scan(&from, &to); err != nil {
			t.Fatal(err)
		}
		refs[from] = to
	}
	return refs
}

func insert(t *testing.T, db *sql.DB, x app.Table, refs map[string]string, keys map[string][]string, n int,
	rng *rand.Rand) string {
	t.Helper()
	var names, marks []string
	var values []any
	key := ""
	for _, c := range x.Columns {
		v := value(c, n, rng)
		if to := refs[c.Name]; to != "" {
			v = nil
			if list := keys[to]; len(list) > 0 && (!c.Null || rng.IntN(3) > 0) {
				v = list[rng.IntN(len(list))]
			}
		}
		switch {
		case x.Name == "meta" && c.Name == "key":
			v = "preferences"
		case x.Name == "away" && c.Name == "stands":
			v = []string{"", "visited", "alone"}[rng.IntN(3)]
		case x.Name == "hazards" && c.Name == "run_id":
			v = keys["runs"][0]
		case x.Name == "hazards" && c.Name == "look_id":
			v = nil
		}
		if c.Key && key == "" {
			key = fmt.Sprint(v)
		}
		names, marks, values = append(names, `"`+c.Name+`"`), append(marks, "?"), append(values, v)
	}
	_, err := db.Exec("INSERT OR IGNORE INTO "+x.Name+" ("+strings.Join(names, ", ")+") VALUES ("+
		strings.Join(marks, ", ")+")", values...)
	if err != nil {
		t.Fatalf("%s: %v", x.Name, err)
	}
	return key
}

var odd = []string{"", "plain", "Łódź – café ☕", "a \"quoted\"\nline\tand <tags> & more", "=1+2", "null", "[not json",
	"é"}

func value(c app.Column, n int, rng *rand.Rand) any {
	if c.Null && rng.IntN(3) == 0 {
		return nil
	}
	switch c.Kind {
	case app.IntegerColumn:
		return rng.Int64N(1000) + int64(n)*1000
	case app.RealColumn:
		return rng.NormFloat64() * 1e3
	case app.InstantColumn:
		return noon.UnixMilli() - rng.Int64N(1e12)
	case app.BytesColumn:
		b := make([]byte, rng.IntN(400))
		for i := range b {
			b[i] = byte(rng.IntN(256))
		}
		return b
	case app.JSONColumn:
		raw, _ := json.Marshal(map[string]any{"b": rng.Float64(), "a": []any{odd[rng.IntN(len(odd))], nil, n}})
		return []string{string(raw), "{}", odd[rng.IntN(len(odd))], `{ "spaced": 1.50 }`}[rng.IntN(4)]
	}
	if c.Key {
		return fmt.Sprintf("%s-%d-%d", odd[rng.IntN(len(odd))], n, rng.IntN(1e6))
	}
	return odd[rng.IntN(len(odd))]
}

func export(t *testing.T, a *app.App) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := Write(t.Context(), &out, a, noon); err != nil {
		t.Fatal(err)
	}
	if !json.Valid(out.Bytes()) {
		t.Fatalf("no JSON: %.2000s", out.String())
	}
	return out.Bytes()
}

// Whatever is on record goes out and comes back without loss: read into an empty database and written again, it is the
// same file. Read twice, it changes nothing. A row that says something else is named, and then nothing is kept.
func TestThereAndBack(t *testing.T) {
	for seed := range uint64(12) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			rng := rand.New(rand.NewPCG(seed, 7))
			file := export(t, filled(t, rng))
			b := opened(t)
			if _, err := Read(t.Context(), bytes.NewReader(file), b, true); err != nil {
				t.Fatalf("a trial: %v", err)
			}
			if again := export(t, b); bytes.Contains(again, []byte("preferences")) {
				t.Error("a trial kept something")
			}
			got, err := Read(t.Context(), bytes.NewReader(file), b, false)
			if err != nil || len(got.Other) > 0 || got.Same > 0 || got.Fresh["machines"] == 0 {
				t.Fatalf("%+v, %v", got, err)
			}
			if again := export(t, b); !bytes.Equal(again, file) {
				t.Fatalf("written again it differs:\n%s", firstDifference(file, again))
			}
			got, err = Read(t.Context(), bytes.NewReader(file), b, false)
			if err != nil || len(got.Fresh) > 0 || len(got.Other) > 0 {
				t.Errorf("read twice: %+v, %v", got, err)
			}
			other := bytes.Replace(file, []byte(`"owner":`), []byte(`"owner":"Somebody", "was":`), 1)
			if _, err := Read(t.Context(), bytes.NewReader(other), b, false); err == nil {
				t.Error("a row with a field that is none was taken")
			}
		})
	}
}

func firstDifference(a, b []byte) string {
	as, bs := strings.Split(string(a), "\n"), strings.Split(string(b), "\n")
	for i := range min(len(as), len(bs)) {
		if as[i] != bs[i] {
			return as[i] + "\n" + bs[i]
		}
	}
	return fmt.Sprintf("%d and %d lines", len(as), len(bs))
}

// What differs from what is here is named, and nothing of the file is kept.
func TestWhatDiffersIsNamed(t *testing.T) {
	a := filled(t, rand.New(rand.NewPCG(3, 3)))
	file := export(t, a)
	var changed []string
	for _, line := range strings.Split(string(file), "\n") {
		if strings.HasPrefix(line, `{"id"`) && strings.Contains(line, `"place":`) && len(changed) < 1 {
			changed = append(changed, line)
		}
	}
	var row map[string]any
	if err := json.Unmarshal([]byte(strings.TrimRight(strings.TrimSuffix(changed[0], "]"), ",")), &row); err != nil {
		t.Fatal(err)
	}
	row["place"] = "somewhere else"
	raw, err := json.Marshal(row)
	if err != nil {
		t.Fatal(err)
	}
	old := strings.TrimRight(strings.TrimSuffix(changed[0], "]"), ",")
	other := strings.Replace(string(file), old, string(raw), 1)
	got, err := Read(t.Context(), strings.NewReader(other), a, false)
	if err != nil || len(got.Other) != 1 || got.Other[0] != "machines "+fmt.Sprint(row["id"]) {
		t.Errorf("%+v, %v", got, err)
	}
	if !bytes.Equal(export(t, a), file) {
		t.Error("something was kept")
	}
}

// A file that is none of ours, is cut off, is of a newer program or breaks a rule is refused with its place, and
// nothing is kept.
func TestBadFiles(t *testing.T) {
	good := string(export(t, filled(t, rand.New(rand.NewPCG(5, 5)))))
	b := opened(t)
	empty := export(t, b)
	for _, x := range []struct{ name, text, field string }{
		{"nothing", "", "file"}, {"a list", "[]", "file"}, {"another program's", `{"format": "x", "tables": {}}`, "format"},
		{"newer", strings.Replace(good, `"version": 1`, `"version": 2`, 1), "version"},
		{"cut off", good[:len(good)/2], ""}, {"no tables", `{"format": "fresh-anvil", "version": 1}`, ""},
		{"a table that is none", strings.Replace(good, `"sources": [`, `"sorces": [`, 1), "tables"},
		{"a number for a name", strings.Replace(good, `"zone":"`, `"zone":7,"x":"`, 1), ""},
		{"a reference to nothing", strings.Replace(good, `"machine_id":"`, `"machine_id":"no`, 1), ""},
		{"not JSON", "format", "file"},
	} {
		t.Run(x.name, func(t *testing.T) {
			_, err := Read(t.Context(), strings.NewReader(x.text), b, false)
			var bad *units.OutOfRange
			if err == nil || x.field != "" && (!errors.As(err, &bad) || bad.Field != x.field) {
				t.Errorf("%v", err)
			}
			if !bytes.Equal(export(t, b), empty) {
				t.Error("something was kept")
			}
		})
	}
}

// What is read from anywhere ends in an error or a record, never in a panic, and never in half of one.
func FuzzRead(f *testing.F) {
	f.Add([]byte(`{"format": "fresh-anvil", "version": 1, "made": "x", "tables": {"people": [{"id":"a","name":"b"}]}}`))
	f.Add([]byte(`{"format": "fresh-anvil", "version": 1, "tables": {"meta": [{"key":"preferences","value":"{}"}]}}`))
	f.Add([]byte(`{"tables": 7}`))
	now := func() time.Time { return noon }
	a, err := app.Open(f.Context(), filepath.Join(f.TempDir(), "test.db"), now)
	if err != nil {
		f.Fatal(err)
	}
	f.Cleanup(func() { _ = a.Close() })
	f.Fuzz(func(t *testing.T, raw []byte) {
		got, err := Read(t.Context(), bytes.NewReader(raw), a, true)
		if err != nil && len(got.Fresh) > 0 {
			t.Errorf("%v, and %+v", err, got)
		}
	})
}
