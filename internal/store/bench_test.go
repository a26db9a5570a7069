package store

import (
	"database/sql"
	"fmt"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/internal/beside"
)

// crowd makes a database of so many machines with years of weekly use, a wash
// a month, the last one six days ago. It is filled by SQL alone.
func crowd(tb testing.TB, machines, years int, now time.Time) (*Store, *sql.DB) {
	tb.Helper()
	s, err := Open(ctx, filepath.Join(tb.TempDir(), "crowd.db"), now)
	if err != nil {
		tb.Fatal(err)
	}
	tb.Cleanup(func() { _ = s.Close() })
	raw, err := s.db.DB()
	if err != nil {
		tb.Fatal(err)
	}
	day := (24 * time.Hour).Milliseconds()
	for _, q := range []string{
		fmt.Sprintf(`INSERT INTO machines (id, name, zone, created_ms, logged_since_ms)
			WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < %d)
			SELECT printf('m%%05d', i), 'Machine ' || i, 'UTC', i, %d FROM n`, machines, ms(now)-int64(years)*365*day),
		`INSERT INTO settings (machine_id, from_ms, layout, valve, drinks, milk_drinks, hardness_known, hardness_value,
			hardness_unit, treatment)
			SELECT id, 0, 'dual_home', 'yes', 4, 2, 0, 0, 'dh', 'none' FROM machines`,
		fmt.Sprintf(`INSERT INTO use_events (id, machine_id, kind, count, from_ms, to_ms, source)
			WITH RECURSIVE w(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM w WHERE i < %d)
			SELECT id || '-' || i, id, 'double', 28, %d - (i + 1) * %d, %d - i * %d, 'counter' FROM machines, w`,
			years*52-1, ms(now), 7*day, ms(now), 7*day),
		fmt.Sprintf(`INSERT INTO care_log (id, machine_id, part, task, at_ms, outcome, title, record)
			WITH RECURSIVE w(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM w WHERE i < %d)
			SELECT id || '-' || i, id, 'group-1', 'wash', %d - i * %d, 'done', 'Detergent wash', '{}' FROM machines,
				w`, years*12-1,
			ms(now)-6*day, 30*day),
		"ANALYZE",
	} {
		if _, err := raw.Exec(q); err != nil {
			tb.Fatal(err)
		}
	}
	return s, raw
}

// The due list reads no use older than each task's last completion, by the
// query's own plan and by what comes back.
func TestDueListReadsNoOlderRow(t *testing.T) {
	s, raw := crowd(t, 50, 2, now)
	list, err := s.Machines(ctx, false)
	if err != nil {
		t.Fatal(err)
	}
	histories, err := s.Histories(ctx, list, now)
	if err != nil {
		t.Fatal(err)
	}
	for id, h := range histories {
		if len(h.Done) != 1 || len(h.Events) != 1 || !h.Events[0].To.After(h.Done[0].At) {
			t.Fatalf(
				"%s: %d completions and %d events, want the newest and the one since",
				id,
				len(h.Done),
				len(h.Events),
			)
		}
	}
	// use by the day is kept: with every older row gone, the answers are the same
	if _, err := raw.Exec("DELETE FROM use_events AS e WHERE to_ms <= (SELECT MIN(at_ms) FROM last_care c WHERE " +
		"c.machine_id = e.machine_id)"); err != nil {
		t.Fatal(err)
	}
	if again, err := s.Histories(ctx, list, now); err != nil || !reflect.DeepEqual(again, histories) {
		t.Errorf("without the older rows the histories differ, %v", err)
	}
	rows, err := raw.Query("EXPLAIN QUERY PLAN "+strings.ReplaceAll(sinceLastCare, "@only", "?1"), "")
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	plan := ""
	for rows.Next() {
		var a, b, c int
		var detail string
		if err := rows.Scan(&a, &b, &c, &detail); err != nil {
			t.Fatal(err)
		}
		plan += detail + "\n"
	}
	if !strings.Contains(plan, "SEARCH e USING INDEX use_by_machine (machine_id=? AND to_ms>?)") ||
		strings.Contains(plan, "SCAN e") {
		t.Errorf("the plan walks more than it need:\n%s", plan)
	}
}

// BenchmarkDueList: every due answer of 10,000 machines with five years of
// use, beside a plain database/sql scan of the same rows.
func BenchmarkDueList(b *testing.B) {
	s, raw := crowd(b, 10000, 5, now)
	var total int
	if err := raw.QueryRow("SELECT (SELECT COUNT(*) FROM use_events) + (SELECT COUNT(*) FROM " +
		"care_log)").Scan(&total); err != nil {
		b.Fatal(err)
	}
	plain := func() int {
		n := 0
		rows, err := raw.Query(strings.ReplaceAll(sinceLastCare, "@only", "?1"), "")
		if err != nil {
			b.Fatal(err)
		}
		defer rows.Close()
		var u useRow
		for rows.Next() {
			if err := rows.Scan(&u.ID, &u.MachineID, &u.Kind, &u.Count, &u.FromMs, &u.ToMs, &u.Source,
				&u.Supersedes, &u.Part); err != nil {
				b.Fatal(err)
			}
			n++
		}
		return n
	}
	read, scanned := 0, 0
	// use by the day is counted up once, then kept
	list, err := s.Machines(ctx, false)
	if err != nil {
		b.Fatal(err)
	}
	if _, err := s.Histories(ctx, list, now); err != nil {
		b.Fatal(err)
	}
	due := func() {
		list, err := s.Machines(ctx, false)
		if err != nil {
			b.Fatal(err)
		}
		histories, err := s.Histories(ctx, list, now)
		if err != nil {
			b.Fatal(err)
		}
		read = 0
		for _, m := range list {
			h := histories[m.ID]
			read += len(h.Events) + len(h.Done)
			care.AllDue(m.Answers, h, now, m.Zone)
		}
	}
	beside.Run(b, "plain_scan", func() { scanned = plain() }, due)
	b.ReportMetric(float64(read), "rows_read")
	b.ReportMetric(float64(total), "rows_kept")
	b.Logf(
		"due list: %d use and care rows read of %d kept; the plain scan reads the same %d use rows",
		read,
		total,
		scanned,
	)
}
