package app

import (
	"database/sql"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/internal/beside"
)

// crowd makes a database of so many machines with years of weekly readings of a counter and a wash
// a month, the last one six days ago. It is filled by SQL alone.
func crowd(tb testing.TB, machines, years int) (*App, *sql.DB) {
	tb.Helper()
	file := filepath.Join(tb.TempDir(), "crowd.db")
	a := open(tb, file)
	raw, err := sql.Open("sqlite3", file)
	if err != nil {
		tb.Fatal(err)
	}
	tb.Cleanup(func() { _ = raw.Close() })
	day, at := (24 * time.Hour).Milliseconds(), now.UnixMilli()
	for _, q := range []string{
		fmt.Sprintf(`INSERT INTO machines (id, name, zone, created_ms, logged_since_ms)
			WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d)
			SELECT printf('m%%05d', i), 'Machine ' || i, 'UTC', i, %d FROM n`, machines, at-int64(years)*365*day),
		`INSERT INTO settings (machine_id, from_ms, layout, valve, drinks, milk_drinks, hardness_known, hardness_value,
			hardness_unit, treatment)
			SELECT id, 0, 'dual_home', 'yes', 4, 2, 0, 0, 'dh', 'none' FROM machines`,
		fmt.Sprintf(`INSERT INTO use_events (id, machine_id, kind, count, from_ms, to_ms, source)
			WITH RECURSIVE w(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM w WHERE i < %d)
			SELECT id || '-' || i, id, 'double', 28, %d - (i + 1) * %d, %d - i * %d, 'counter' FROM machines, w`,
			years*52-1, at, 7*day, at, 7*day),
		fmt.Sprintf(`INSERT INTO use_days (machine_id, day_ms, part, double)
			WITH RECURSIVE w(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM w WHERE i < %d)
			SELECT id, %d - i * %d, 'machine', 4 FROM machines, w`, years*364-1, at-3*day/24-day, day),
		fmt.Sprintf(`INSERT INTO care_log (id, machine_id, part, task, at_ms, outcome, title, record)
			WITH RECURSIVE w(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM w WHERE i < %d)
			SELECT id || '-' || i, id, 'group-1', 'wash', %d - i * %d, 'done', 'Detergent wash', '{}' FROM machines,
				w`, years*12-1, at-6*day, 30*day),
		"ANALYZE",
	} {
		if _, err := raw.Exec(q); err != nil {
			tb.Fatal(err)
		}
	}
	return a, raw
}

// BenchmarkDueList: where every task of 10,000 machines with five years of use stands, beside a
// plain database/sql scan of the same rows; and working them all out anew.
func BenchmarkDueList(b *testing.B) {
	a, raw := crowd(b, 10000, 5)
	began := time.Now()
	if err := a.TurnDay(ctx); err != nil {
		b.Fatal(err)
	}
	anew := time.Since(began)
	plain := func() {
		rows, err := raw.Query("SELECT machine_id, seq, task, part, state, title, flags, last_ms, earliest_ms, likely_ms, " +
			"latest_ms, clock, used, most, unit, why FROM standings ORDER BY machine_id, seq")
		if err != nil {
			b.Fatal(err)
		}
		defer rows.Close()
		n := 0
		for rows.Next() {
			var id, task, part, state, title, clock, unit, why string
			var seq, flags int
			var last *int64
			var earliest, likely, latest int64
			var used, most float64
			if err := rows.Scan(&id, &seq, &task, &part, &state, &title, &flags, &last, &earliest, &likely, &latest, &clock,
				&used, &most, &unit, &why); err != nil {
				b.Fatal(err)
			}
			n++
		}
		if n < 10000 {
			b.Fatalf("%d rows", n)
		}
	}
	list, err := a.Machines(ctx, false)
	if err != nil {
		b.Fatal(err)
	}
	beside.Run(b, "plain_scan", plain, func() {
		if _, err := a.Standings(ctx, list, now); err != nil {
			b.Fatal(err)
		}
	})
	b.ReportMetric(anew.Seconds()/10000*1e3, "ms_a_machine_anew")
}

// BenchmarkHistory: reading what one machine's dates rest on, and working them out, beside a plain
// count of its days.
func BenchmarkHistory(b *testing.B) {
	a, raw := crowd(b, 50, 5)
	m, err := a.Find(ctx, "m00025")
	if err != nil {
		b.Fatal(err)
	}
	beside.Run(b, "days_counted", func() {
		var n int
		if err := raw.QueryRow("SELECT COUNT(*) FROM use_days WHERE machine_id = ?", m.ID).Scan(&n); err != nil {
			b.Fatal(err)
		}
	}, func() {
		h, err := a.History(ctx, m, now)
		if err != nil {
			b.Fatal(err)
		}
		care.Standings(m.Answers, h, now, m.Zone)
	})
}

// BenchmarkImportWait: the longest that a press waits while a file of ten years is taken, beside one
// on a quiet database.
func BenchmarkImportWait(b *testing.B) {
	for b.Loop() {
		t := newBench(b)
		t.clock = now.AddDate(10, 0, 0)
		id := t.add(4, 14)
		text, rows := tenYears(t.clock)
		press := func() time.Duration {
			began := time.Now()
			t.log(id, "double", t.clock)
			return time.Since(began)
		}
		quiet := press()
		done := make(chan error, 1)
		go func() { _, err := t.ImportUse(ctx, id, text, false); done <- err }()
		longest := time.Duration(0)
		for busy := true; busy; {
			select {
			case err := <-done:
				t.must(err)
				busy = false
			default:
				longest = max(longest, press())
			}
		}
		b.ReportMetric(float64(rows), "rows")
		b.ReportMetric(longest.Seconds()*1e3, "ms_longest_wait")
		b.ReportMetric(longest.Seconds()/quiet.Seconds(), "x_quiet_press")
	}
}
