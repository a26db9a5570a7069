package exchange

import (
	"context"
	"strings"
	"time"

	"freshanvil/core/inspect"
	"freshanvil/internal/app"
)

// Cell is what stands in one place of a table: a string, a float64, a time.Time in the zone that it is read in, or nil.
type Cell any

// Table is a table for people, written a row at a time.
type Table struct {
	Name    string // of the file and of the sheet
	Title   string
	Columns []string
	each    func(ctx context.Context, a *app.App, of machines, row func(...Cell) error) error
}

// machines are those that a table names, by their ids.
type machines map[string]app.Machine

func (m machines) zone(id string) *time.Location {
	if x, known := m[id]; known {
		return x.Zone
	}
	return time.UTC
}

// Tables are the tables that are written, in the order of their sheets.
func Tables() []Table {
	return []Table{
		{"log", "Log", []string{"machine", "owner", "date", "task", "part", "outcome", "what", "proof", "by", "paper",
			"taken back", "id"}, logTable},
		{"use", "Use", []string{"machine", "owner", "from", "to", "kind", "count", "part", "source", "counts", "id",
			"corrects"}, useTable},
		{"readings", "Readings", []string{"source", "date", "how", "what", "low", "likely", "high", "unit", "id"},
			readingTable},
		{"findings", "Findings", []string{"machine", "owner", "date", "part", "what", "number", "seen", "means", "bad",
			"id"}, findingTable},
	}
}

// Find finds a table by its name; false where there is none.
func Find(name string) (Table, bool) {
	for _, t := range Tables() {
		if t.Name == name {
			return t, true
		}
	}
	return Table{}, false
}

// Rows hands out the rows of a table.
func (t Table) Rows(ctx context.Context, a *app.App, row func(...Cell) error) error {
	of := machines{}
	for _, archived := range []bool{false, true} {
		list, err := a.Machines(ctx, archived)
		if err != nil {
			return err
		}
		for _, m := range list {
			of[m.ID] = m
		}
	}
	return t.each(ctx, a, of, row)
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

var outcomes = map[string]string{"done": "done", "recorded": "put on record", "stopped": "stopped",
	"stopped_unsafe": "stopped, chemical inside", "signed_off": "signed off", "noted": "noted"}

func logTable(ctx context.Context, a *app.App, of machines, row func(...Cell) error) error {
	return a.EachEntry(ctx, func(e app.Entry) error {
		m := of[e.MachineID]
		did, proof := app.Told(e)
		return row(m.Name, m.Owner, e.At.In(of.zone(e.MachineID)), e.Title, e.Part.String(), outcomes[e.Outcome],
			strings.Join(did, " "), proof, e.Record.By, e.Record.Paper, yes(e.TakenBack), e.ID)
	})
}

func useTable(ctx context.Context, a *app.App, of machines, row func(...Cell) error) error {
	return a.EachUse(ctx, func(l app.UseLine) error {
		m, zone := of[l.MachineID], of.zone(l.MachineID)
		return row(m.Name, m.Owner, l.From.In(zone), l.To.In(zone), l.Kind, l.Count, l.Part, l.Source, yes(!l.Superseded),
			l.ID, l.Supersedes)
	})
}

func readingTable(ctx context.Context, a *app.App, _ machines, row func(...Cell) error) error {
	sources, err := a.Sources(ctx)
	if err != nil {
		return err
	}
	for _, s := range sources {
		for i := len(s.Samples) - 1; i >= 0; i-- { // they come newest first
			r := s.Samples[i]
			for _, x := range r.Sample.Said() {
				if err := row(s.Name, r.Taken.UTC(), r.How, x.Label, x.Value.Low, x.Value.Likely, x.Value.High, x.Unit,
					r.ID); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func findingTable(ctx context.Context, a *app.App, of machines, row func(...Cell) error) error {
	return a.EachLook(ctx, func(l app.Look) error {
		m := of[l.MachineID]
		sight, _ := inspect.Find(l.Sight)
		seen := l.Seen()
		return row(m.Name, m.Owner, l.At.In(of.zone(l.MachineID)), l.Part.String(), sight.Title, sight.Read(l.Number),
			seen.Text, seen.Means, yes(seen.Bad), l.ID)
	})
}
