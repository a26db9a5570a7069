package store

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"gorm.io/gorm"

	"freshanvil/core/backflush"
	"freshanvil/core/descale"
	"freshanvil/core/job"
	"freshanvil/core/run"
)

type pressRow struct {
	RunID      string
	Seq        int
	ID         string
	AtMs       int64 // on the run's own clock
	ReceivedMs int64 // on the wall
	RunMs      int64 // what the run's own clock showed then
	Body       string
}

func (pressRow) TableName() string { return "presses" }

// pressForm is a press as it is kept; when it was made stands beside it.
type pressForm struct {
	Device    string           `json:"device"`
	Step      string           `json:"step"`
	Segment   int              `json:"segment"`
	Kind      run.PressKind    `json:"kind"`
	Cup       *cupForm         `json:"cup,omitempty"`
	First     backflush.Colour `json:"first,omitempty"`
	Strip     *stripForm       `json:"strip,omitempty"`
	Answer    job.Answer       `json:"what,omitempty"`
	Own       bool             `json:"own,omitempty"`
	Mixed     *float64         `json:"mixed,omitempty"`
	NothingIn bool             `json:"nothing_in,omitempty"`
	Note      string           `json:"note,omitempty"`
	Minutes   int              `json:"minutes,omitempty"`
	Order     []string         `json:"order,omitempty"`
}

func keepPress(p run.Press) (string, error) {
	text, err := json.Marshal(pressForm{p.Device, p.Step, p.Segment, p.Kind, maybe(p.Cup, keepCup), p.First,
		maybe(p.Strip, keepStrip), p.Answer, p.Own, p.Mixed, p.NothingIn, p.Note, p.Minutes, p.Order})
	return string(text), err
}

func readPress(row pressRow) (run.Press, error) {
	var f pressForm
	if err := json.Unmarshal([]byte(row.Body), &f); err != nil {
		return run.Press{}, fmt.Errorf("press %d of run %s: %w", row.Seq, row.RunID, err)
	}
	return run.Press{ID: row.ID, Device: f.Device, Step: f.Step, Segment: f.Segment, Kind: f.Kind, At: at(row.AtMs),
		Cup: maybe(f.Cup, func(c cupForm) backflush.Cup { return c.core() }), First: f.First,
		Strip:  maybe(f.Strip, func(s stripForm) descale.Strip { return s.core() }),
		Answer: f.Answer, Own: f.Own, Mixed: f.Mixed, NothingIn: f.NothingIn, Note: f.Note,
		Minutes: f.Minutes, Order: f.Order}, nil
}

func loadPresses(db *gorm.DB, r *Run) error {
	var rows []pressRow
	if err := db.Order("seq").Find(&rows, "run_id = ?", r.ID).Error; err != nil {
		return err
	}
	r.Presses = make([]run.Press, len(rows))
	for i, row := range rows {
		var err error
		if r.Presses[i], err = readPress(row); err != nil {
			r.Unreadable = err
			return nil
		}
		r.mark = mark{wall: at(row.ReceivedMs), run: at(row.RunMs)}
	}
	return nil
}

// mark is an instant on the wall and what the own clock of a run showed then.
type mark struct{ wall, run time.Time }

// clocks are the own clocks of the runs last asked for. A run's clock goes on with the
// wall's, but never back: where the wall's is set back, it stands still, and goes on
// from there.
type clocks struct {
	mu    sync.Mutex
	marks map[string]mark
}

// now is what the clock of a run shows at an instant on the wall.
func (c *clocks) now(r Run, wall time.Time) time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	last := r.mark
	if seen, known := c.marks[r.ID]; known && !seen.run.Before(last.run) {
		last = seen
	}
	next := mark{wall: wall, run: last.run.Add(max(0, wall.Sub(last.wall)))}
	if c.marks == nil || len(c.marks) >= mostPlans {
		c.marks = map[string]mark{}
	}
	c.marks[r.ID] = next
	return next.run
}

// Clock is what the own clock of a run shows at an instant on the wall. It never goes
// back.
func (s *Store) Clock(r Run, wall time.Time) time.Time { return s.clocks.now(r, wall) }

// AddPress writes a press into the log of a run, as the next in the order of acceptance. Wall is
// the time on the wall, now what the run's own clock shows. It gives the run with the press.
func (s *Store) AddPress(ctx context.Context, r Run, p run.Press, wall, now time.Time) (Run, error) {
	body, err := keepPress(p)
	if err != nil {
		return r, err
	}
	row := pressRow{RunID: r.ID, Seq: len(r.Presses) + 1, ID: p.ID, AtMs: ms(p.At), ReceivedMs: ms(wall), RunMs: ms(now),
		Body: body}
	if err := s.db.WithContext(ctx).Create(&row).Error; err != nil {
		return r, err
	}
	r.Presses = append(r.Presses, p)
	return r, nil
}

// SamePress says whether two presses say the same, whenever they were made.
func SamePress(a, b run.Press) (bool, error) {
	one, err := keepPress(a)
	if err != nil {
		return false, err
	}
	two, err := keepPress(b)
	return one == two, err
}
