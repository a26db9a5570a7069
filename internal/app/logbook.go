package app

import (
	"context"
	"slices"
	"strings"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/record"
	"freshanvil/core/task"
	"freshanvil/core/units"
	"freshanvil/core/use"
	"freshanvil/internal/store"
)

// LogQuery is what of the log is asked for; a zero field asks for all.
type LogQuery struct {
	MachineID, Owner, By, Text string
	Task                       task.ID
	Small                      bool // the small ones of the day too
	Year, Month                int  // by the clock of each machine; no year: the newest, whenever that was
	Limit                      int
}

// Logbook is a part of the log, and what else there is of it.
type Logbook struct {
	Entries  []LogLine // newest first
	More     bool      // there are more than the limit
	Years    []int     // with anything at all, newest first
	Tasks    []task.ID // of the year, before any was chosen
	People   []string
	Bands    []Band
	Machines []store.Machine
}

// LogLine is a line of the log, with its machine.
type LogLine struct {
	store.Entry
	Sitting string // the same for what was done in one
	Jobs    string // of the first line of a sitting, all of it by its titles
	Machine store.Machine
}

// Band is how a year went at one machine: how often somebody worked at it, month by month.
type Band struct {
	Machine store.Machine
	Times   [12]int
	Unsafe  [12]bool // something was left inside
}

// Told is a line of the log in sentences: what was done, and what proved it.
func Told(e Entry) (did []string, proof string) {
	r := recordOf(e)
	return r.Did(), r.Proof()
}

// Logbook reads the log.
func (a *App) Logbook(ctx context.Context, q LogQuery) (Logbook, error) {
	var out Logbook
	if q.Month != 0 && q.Year == 0 {
		return out, &units.OutOfRange{Field: "month", Value: "without a year", Allowed: "a month of a year"}
	}
	of, err := a.logged(ctx, q, &out)
	if err != nil {
		return out, err
	}
	var from, until time.Time
	if q.Year != 0 { // a day to either side, for whatever zone; the machine's own clock decides below
		from = time.Date(q.Year, 1, 0, 0, 0, 0, 0, time.UTC)
		until = time.Date(q.Year+1, 1, 2, 0, 0, 0, 0, time.UTC)
	}
	limit := q.Limit
	if q.Year != 0 {
		limit = mostOfYear
	}
	rows, err := a.store.LogBetween(ctx, q.MachineID, q.Small, from, until, limit+1)
	if err != nil {
		return out, err
	}
	out.More = len(rows) > limit
	bands := map[string]*Band{}
	seen := map[string]bool{}
	for _, e := range rows {
		m, known := of[e.MachineID]
		day := use.Day(e.At, zoneOf(m))
		if !known || q.Year != 0 && day.Year() != q.Year {
			continue
		}
		if r := recordOf(e); q.takes(e, r) {
			out.add(q, LogLine{Entry: e, Sitting: r.Sitting(), Machine: m}, day, bands, seen)
		}
	}
	for _, m := range out.Machines {
		if b := bands[m.ID]; b != nil {
			out.Bands = append(out.Bands, *b)
		}
	}
	if len(out.Entries) > q.Limit {
		out.Entries, out.More = out.Entries[:q.Limit], true
	}
	out.nameSittings()
	slices.Sort(out.People)
	slices.SortFunc(out.Tasks, func(a, b task.ID) int { return a.Rank() - b.Rank() })
	years, err := a.store.LogYears(ctx, q.MachineID)
	out.Years = yearsOf(years, of)
	return out, err
}

// yearsOf are the years in which anything was done by the clock of each machine, newest first.
func yearsOf(list []store.LoggedIn, of map[string]store.Machine) []int {
	var years []int
	for _, l := range list {
		if !l.Edge.IsZero() {
			l.Year = use.Day(l.Edge, zoneOf(of[l.MachineID])).Year()
		}
		if !slices.Contains(years, l.Year) {
			years = append(years, l.Year)
		}
	}
	slices.SortFunc(years, func(a, b int) int { return b - a })
	return years
}

// nameSittings gives the first line of each sitting the titles of all that was done in it.
func (b *Logbook) nameSittings() {
	for i := 0; i < len(b.Entries); {
		first := &b.Entries[i]
		var jobs []care.Titled
		for ; i < len(b.Entries) && b.Entries[i].Sitting == first.Sitting &&
			b.Entries[i].TakenBack == first.TakenBack; i++ {
			jobs = append(jobs, care.Titled{Title: b.Entries[i].Title, Part: b.Entries[i].Part})
		}
		first.Jobs = strings.Join(care.Titles(jobs, first.Machine.Answers.Facts().Groups), "; ")
	}
}

// mostOfYear is how many lines of a year are read at most.
const mostOfYear = 20_000

// logged are the machines that the log is asked for, by their ids.
func (a *App) logged(ctx context.Context, q LogQuery, out *Logbook) (map[string]store.Machine, error) {
	if q.MachineID != "" {
		m, err := a.Find(ctx, q.MachineID)
		if err != nil {
			return nil, err
		}
		out.Machines = []store.Machine{m}
	} else {
		for _, archived := range []bool{false, true} {
			list, err := a.Machines(ctx, archived)
			if err != nil {
				return nil, err
			}
			out.Machines = append(out.Machines, list...)
		}
	}
	of := map[string]store.Machine{}
	for _, m := range out.Machines {
		if q.Owner == "" || m.Owner == q.Owner {
			of[m.ID] = m
		}
	}
	return of, nil
}

func zoneOf(m store.Machine) *time.Location {
	if m.Zone == nil {
		return time.UTC
	}
	return m.Zone
}

// takes says whether a line is asked for, but for its task and its month: those are offered by what else there is.
func (q LogQuery) takes(e store.Entry, r record.Entry) bool {
	return (q.By == "" || strings.EqualFold(e.Record.By, q.By)) && (q.Text == "" || r.Holds(q.Text))
}

func (b *Logbook) add(q LogQuery, l LogLine, day time.Time, bands map[string]*Band, seen map[string]bool) {
	if !slices.Contains(b.Tasks, l.Task) && l.Task != "" {
		b.Tasks = append(b.Tasks, l.Task)
	}
	if by := l.Record.By; by != "" && !slices.Contains(b.People, by) {
		b.People = append(b.People, by)
	}
	if q.Task != "" && l.Task != q.Task {
		return
	}
	if q.Year != 0 {
		band := bands[l.MachineID]
		if band == nil {
			band = &Band{Machine: l.Machine}
			bands[l.MachineID] = band
		}
		month := int(day.Month()) - 1
		if !seen[l.Sitting] && !l.TakenBack {
			seen[l.Sitting] = true
			band.Times[month]++
		}
		band.Unsafe[month] = band.Unsafe[month] || l.Outcome == string(record.Unsafe)
		if q.Month != 0 && q.Month != month+1 {
			return
		}
	}
	b.Entries = append(b.Entries, l)
}
