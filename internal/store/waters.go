package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"freshanvil/core/care"
	"freshanvil/core/circuit"
	"freshanvil/core/machine"
	"freshanvil/core/treat"
	"freshanvil/core/units"
	"freshanvil/core/water"
)

// Source is where water comes from, with what was read of it, oldest first.
type Source struct {
	ID, Name string
	Samples  []Reading
}

// Reading is one sample of a source.
type Reading struct {
	ID     string
	Taken  time.Time
	How    string // strip, drops, meter, report
	Sample water.Sample
}

// Draws is what a machine draws from an instant on.
type Draws struct {
	ID, SourceID string // no source: the hardness of the five answers
	From         time.Time
	Treatment    treat.Setting
}

type (
	sourceRow struct {
		ID        string
		Name      string
		CreatedMs int64
	}
	sampleRow struct {
		ID       string
		SourceID string
		TakenMs  int64
		How      string
		Body     water.Sample `gorm:"serializer:json"`
		SaidMs   int64
		GoneMs   *int64
	}
	drawsRow struct {
		ID        string
		MachineID string
		FromMs    int64
		SourceID  *string
		Treatment treat.Setting `gorm:"serializer:json"`
	}
	treatmentRow struct {
		Kind machine.Treatment
		Body treat.Setting `gorm:"serializer:json"`
	}
	settledRow struct {
		MachineID string `gorm:"primaryKey"`
		UntilMs   int64
		Body      []care.Settled `gorm:"serializer:json"`
	}
)

func (sourceRow) TableName() string    { return "sources" }
func (sampleRow) TableName() string    { return "samples" }
func (drawsRow) TableName() string     { return "machine_waters" }
func (treatmentRow) TableName() string { return "treatments" }
func (settledRow) TableName() string   { return "settled" }

// AddSource keeps a source; the same id again changes nothing.
func (s *Store) AddSource(ctx context.Context, id, name string, now time.Time) error {
	err := s.db.WithContext(ctx).Create(&sourceRow{id, name, ms(now)}).Error
	if duplicate(err) {
		return nil
	}
	return err
}

// AddReadings keeps what was read of a source, all or none; those that are there
// already change nothing. A source that is not there is ErrNotFound.
func (s *Store) AddReadings(ctx context.Context, sourceID string, now time.Time, list ...Reading) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var there int64
		if err := tx.Model(&sourceRow{}).Where("id = ?", sourceID).Count(&there).Error; err != nil {
			return err
		}
		if there == 0 {
			return fmt.Errorf("source %s: %w", sourceID, ErrNotFound)
		}
		for _, r := range list {
			err := tx.Create(
				&sampleRow{
					ID:       r.ID,
					SourceID: sourceID,
					TakenMs:  ms(r.Taken),
					How:      r.How,
					Body:     r.Sample,
					SaidMs:   ms(now),
				},
			).Error
			if err != nil && !duplicate(err) {
				return err
			}
		}
		return tx.Exec("DELETE FROM settled").Error
	})
}

// TakeBack takes a reading back; ErrNotFound where it does not stand.
func (s *Store) TakeBack(ctx context.Context, id string, now time.Time) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Model(&sampleRow{}).Where("id = ? AND gone_ms IS NULL", id).Update("gone_ms", ms(now))
		if done.Error == nil && done.RowsAffected == 0 {
			return fmt.Errorf("reading %s: %w", id, ErrNotFound)
		}
		if done.Error != nil {
			return done.Error
		}
		return tx.Exec("DELETE FROM settled").Error
	})
}

// Sources lists the sources with what was read of them.
func (s *Store) Sources(ctx context.Context) ([]Source, error) {
	db := s.db.WithContext(ctx)
	var rows []sourceRow
	if err := db.Order("created_ms, id").Find(&rows).Error; err != nil {
		return nil, err
	}
	var samples []sampleRow
	if err := db.Order("taken_ms, said_ms").Find(&samples, "gone_ms IS NULL").Error; err != nil {
		return nil, err
	}
	list := make([]Source, len(rows))
	for i, r := range rows {
		list[i] = Source{ID: r.ID, Name: r.Name}
		for _, x := range samples {
			if x.SourceID == r.ID {
				list[i].Samples = append(list[i].Samples, Reading{x.ID, at(x.TakenMs), x.How, x.Body})
			}
		}
	}
	return list, nil
}

// Draw lets a machine draw from a source through a treatment from an instant on.
// The same id again changes nothing; a source that is not there is ErrNotFound.
func (s *Store) Draw(ctx context.Context, machineID string, d Draws) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		row := drawsRow{ID: d.ID, MachineID: machineID, FromMs: ms(d.From), Treatment: d.Treatment}
		if d.SourceID != "" {
			row.SourceID = &d.SourceID
			var there int64
			if err := tx.Model(&sourceRow{}).Where("id = ?", d.SourceID).Count(&there).Error; err != nil {
				return err
			}
			if there == 0 {
				return fmt.Errorf("source %s: %w", d.SourceID, ErrNotFound)
			}
		}
		if err := tx.Create(&row).Error; err != nil && !duplicate(err) {
			return err
		}
		return tx.Exec("DELETE FROM settled WHERE machine_id = ?", machineID).Error
	})
}

// Treatments are the treatments with the user's numbers, the usual ones where
// nobody said any.
func (s *Store) Treatments(ctx context.Context) ([]treat.Setting, error) {
	var rows []treatmentRow
	if err := s.db.WithContext(ctx).Find(&rows).Error; err != nil {
		return nil, err
	}
	var list []treat.Setting
	for _, k := range machine.Treatments() {
		set := treat.Usual(k)
		for _, r := range rows {
			if r.Kind == k {
				set = r.Body
			}
		}
		list = append(list, set)
	}
	return list, nil
}

// SayTreatment keeps the user's numbers of a treatment.
func (s *Store) SayTreatment(ctx context.Context, t treat.Setting) error {
	return s.db.WithContext(ctx).
		Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}}, UpdateAll: true}).
		Create(&treatmentRow{t.Kind, t}).
		Error
}

// effects keeps what waters come to: machines that share a water share the work.
type effects struct {
	mu   sync.Mutex
	made map[effectKey]made
}

type effectKey struct {
	sample   water.Sample
	setting  treat.Setting
	celsius  units.Temperature
	material string
}

type made struct {
	effect, raw circuit.Effect
	litres      float64 // to exhaustion
}

// mostEffects bounds what is kept.
const mostEffects = 2000

func (e *effects) of(sample water.Sample, set treat.Setting, f machine.Facts) (made, error) {
	key := effectKey{sample, set, f.BrewTemp, f.BrewMaterial + " " + f.SteamMaterial}
	e.mu.Lock()
	m, known := e.made[key]
	e.mu.Unlock()
	if known {
		return m, nil
	}
	filled, err := sample.Fill()
	if err != nil {
		return m, err
	}
	after, _, _, err := set.After(filled)
	if err != nil {
		return m, err
	}
	if m.effect, err = circuit.EffectOf(after, f); err != nil {
		return m, err
	}
	if m.raw, err = circuit.EffectOf(filled, f); err != nil {
		return m, err
	}
	if l := set.Lasts(filled, circuit.Litres{}.All).Litres; l.Name != "" {
		m.litres = l.Value
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.made == nil || len(e.made) > mostEffects {
		e.made = map[effectKey]made{}
	}
	e.made[key] = m
	return m, nil
}

// Sampled is the newest reading of a source at an instant; before the first, that
// one. False where nothing was read.
func (s Source) Sampled(now time.Time) (Reading, bool) {
	if len(s.Samples) == 0 {
		return Reading{}, false
	}
	r := s.Samples[0]
	for _, x := range s.Samples {
		if !x.Taken.After(now) {
			r = x
		}
	}
	return r, true
}

// Answered is the sample of the five answers.
func Answered(m Machine) water.Sample {
	h := m.Answers.Hardness
	if !h.Known {
		return water.Sample{}
	}
	mg := func(v units.Hardness) float64 { return v.In(units.MgPerLCaCO3) }
	return water.Sample{Hardness: units.Reading{Known: true, Low: mg(h.Low), Likely: mg(h.Likely), High: mg(h.High)}}
}

// Drawn are what the machines asked for draw, by machine, oldest first.
func (s *Store) Drawn(ctx context.Context, only string) (map[string][]Draws, error) {
	var rows []drawsRow
	if err := s.db.WithContext(ctx).Order("from_ms, rowid").Find(&rows, "@only = '' OR machine_id = @only",
		map[string]any{"only": only}).Error; err != nil {
		return nil, err
	}
	out := map[string][]Draws{}
	for _, r := range rows {
		d := Draws{ID: r.ID, From: at(r.FromMs), Treatment: r.Treatment}
		if r.SourceID != nil {
			d.SourceID = *r.SourceID
		}
		out[r.MachineID] = append(out[r.MachineID], d)
	}
	return out, nil
}

// waters fills in what reached each machine, and the use since its last descale.
func (s *Store) waters(ctx context.Context, list []Machine, only string, out map[string]care.History) error {
	sources, err := s.Sources(ctx)
	if err != nil {
		return err
	}
	drawn, err := s.Drawn(ctx, only)
	if err != nil {
		return err
	}
	settings, err := s.Treatments(ctx)
	if err != nil {
		return err
	}
	named, err := s.named(ctx, only)
	if err != nil {
		return err
	}
	for _, m := range list {
		h := out[m.ID]
		// a water that comes to no equilibrium is refused where it is chosen; should one
		// be kept all the same, the other machines have their dates, and this one's
		// water screen says why it has none
		if h.Waters, err = s.regimes(m, drawn[m.ID], named[m.ID], sources, settings); err != nil {
			h.Waters = nil
		}
		out[m.ID] = h
	}
	if err := s.shares(ctx, only, out); err != nil {
		return err
	}
	return s.settle(ctx, list, only, out)
}

// named is since when the answers of each machine name the treatment that they name now.
func (s *Store) named(ctx context.Context, only string) (map[string]time.Time, error) {
	var rows []struct {
		MachineID string
		FromMs    int64
	}
	err := s.db.WithContext(ctx).Raw(`SELECT s.machine_id, MIN(s.from_ms) AS from_ms FROM settings s
		WHERE (@only = '' OR s.machine_id = @only) AND s.id > COALESCE((SELECT MAX(o.id) FROM settings o
			WHERE o.machine_id = s.machine_id AND o.treatment <> (SELECT n.treatment FROM settings n
				WHERE n.machine_id = s.machine_id ORDER BY n.id DESC LIMIT 1)), 0)
		GROUP BY s.machine_id`, map[string]any{"only": only}).Scan(&rows).Error
	out := make(map[string]time.Time, len(rows))
	for _, r := range rows {
		out[r.MachineID] = at(r.FromMs)
	}
	return out, err
}

// renewed makes a regime one of a treatment that wears out, where it does: since it was named.
func renewed(r *care.Regime, e made, t treat.Setting, since time.Time) {
	switch {
	case t.Resin > 0:
		r.Raw, r.Renew = &e.raw, &care.Renewal{Task: care.Regenerate, Litres: e.litres, Named: since}
	case t.Rated > 0 || t.Days > 0:
		r.Raw, r.Renew = &e.raw, &care.Renewal{Task: care.FilterChange, Litres: e.litres, Days: t.Days, Named: since}
	}
}

func (s *Store) regimes(m Machine, drawn []Draws, named time.Time, sources []Source, settings []treat.Setting) (
	[]care.Regime, error,
) {
	f := m.Answers.Facts()
	if len(drawn) == 0 {
		set := settings[slices.IndexFunc(settings, func(t treat.Setting) bool { return t.Kind == m.Answers.Treatment })]
		e, err := s.effects.of(Answered(m), set, f)
		r := care.Regime{Effect: e.effect}
		if err == nil {
			renewed(&r, e, set, named)
		}
		return []care.Regime{r}, err
	}
	var list []care.Regime
	since := time.Time{} // of the treatment
	for i, d := range drawn {
		if i == 0 || drawn[i-1].Treatment.Kind != d.Treatment.Kind {
			since = d.From
		}
		until := time.Time{}
		if i+1 < len(drawn) {
			until = drawn[i+1].From
		}
		at := slices.IndexFunc(sources, func(x Source) bool { return x.ID == d.SourceID })
		turns := []time.Time{d.From}
		if at >= 0 {
			for _, x := range sources[at].Samples {
				if x.Taken.After(d.From) && (until.IsZero() || x.Taken.Before(until)) {
					turns = append(turns, x.Taken)
				}
			}
		}
		for _, from := range turns {
			sample := Answered(m)
			if at >= 0 {
				if r, any := sources[at].Sampled(from); any {
					sample = r.Sample
				}
			}
			e, err := s.effects.of(sample, d.Treatment, f)
			if err != nil {
				return nil, err
			}
			r := care.Regime{From: from, Effect: e.effect}
			renewed(&r, e, d.Treatment, since)
			list = append(list, r)
		}
	}
	return list, nil
}

// settle gives each history the use since the oldest of its last descale and
// filter, as far as the events do not hold it: counted up once, then kept until
// something before it changes.
func (s *Store) settle(ctx context.Context, list []Machine, only string, out map[string]care.History) error {
	db := s.db.WithContext(ctx)
	var rows []settledRow
	if err := db.Find(&rows, "@only = '' OR machine_id = @only", map[string]any{"only": only}).Error; err != nil {
		return err
	}
	kept := make(map[string][]care.Settled, len(rows))
	for _, r := range rows {
		kept[r.MachineID] = r.Body
	}
	for _, m := range list {
		h, err := s.settled(ctx, m.ID, out[m.ID], kept[m.ID])
		if err != nil {
			return err
		}
		out[m.ID] = h
	}
	return nil
}

// settled gives one history the use since the oldest of its last descale and filter,
// where its events do not reach back so far; have is what was kept of it.
func (s *Store) settled(ctx context.Context, id string, h care.History, have []care.Settled) (care.History, error) {
	begins, read, turns := reachOf(h)
	h.Since = read
	if begins.IsZero() || !read.IsZero() && !begins.Before(read) {
		return h, nil
	}
	h.Since = begins
	if read.IsZero() { // no wash: nothing was read yet
		var err error
		h.Events, err = s.usedSince(ctx, id, begins)
		return h, err
	}
	for _, r := range h.Waters {
		turns = append(turns, r.From)
	}
	want := spansOf(begins, read, turns)
	same := func(a, b care.Settled) bool { return a.From.Equal(b.From) && a.To.Equal(b.To) }
	if slices.EqualFunc(have, want, same) {
		h.Settled = have
		return h, nil
	}
	events, err := s.usedSince(ctx, id, begins)
	if err != nil {
		return h, err
	}
	for i := range want {
		want[i].Sums = care.SumOf(events, want[i].From, want[i].To)
	}
	h.Settled = want
	return h, s.db.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "machine_id"}},
		UpdateAll: true}).Create(&settledRow{id, ms(read), want}).Error
}

// reachOf is when the oldest of the last descales and filters was, and of the last
// washes, before which no event is read; and when something changed what water does. A filter
// that was named and never changed counts from when it was named.
func reachOf(h care.History) (begins, read time.Time, turns []time.Time) {
	earlier := func(t *time.Time, at time.Time) {
		if t.IsZero() || at.Before(*t) {
			*t = at
		}
	}
	renewed := map[care.Task]bool{}
	for _, d := range h.Done {
		renewed[d.Task] = true
		switch d.Task {
		case care.Descale, care.FilterChange, care.Regenerate:
			turns = append(turns, d.At)
			earlier(&begins, d.At)
		case care.Wash, care.HandClean:
			earlier(&read, d.At)
		}
	}
	if n := len(h.Waters); n > 0 {
		if r := h.Waters[n-1].Renew; r != nil && !renewed[r.Task] && !r.Named.IsZero() { // its clock runs from then
			turns = append(turns, r.Named)
			earlier(&begins, r.Named)
		}
	}
	return begins, read, turns
}

// spansOf cuts a stretch of time where something changed.
func spansOf(from, to time.Time, turns []time.Time) []care.Settled {
	slices.SortFunc(turns, time.Time.Compare)
	var list []care.Settled
	for _, t := range append(turns, to) {
		if t.After(from) && !t.After(to) {
			list = append(list, care.Settled{From: from, To: t})
			from = t
		}
	}
	return list
}

func (s *Store) usedSince(ctx context.Context, machineID string, since time.Time) ([]care.UseEvent, error) {
	var rows []useRow
	err := s.db.WithContext(ctx).
		Raw("SELECT e.* FROM use_events e INDEXED BY use_by_machine WHERE e.machine_id = ? AND e.to_ms > ? AND e.kind "+
			"<> 'undo' AND "+standing, machineID, ms(since)).
		Scan(&rows).
		Error
	list := make([]care.UseEvent, len(rows))
	for i, r := range rows {
		list[i] = r.event()
	}
	return list, err
}

// unsettle forgets what was counted up where use before its end changes.
func unsettle(tx *gorm.DB, machineID, supersedes string, e care.UseEvent) error {
	if supersedes != "" { // what is taken back may lie anywhere
		return tx.Exec("DELETE FROM settled WHERE machine_id = ?", machineID).Error
	}
	return tx.Exec("DELETE FROM settled WHERE machine_id = ? AND until_ms > ?", machineID, ms(e.From)).Error
}

// SourceNamed finds a source; ErrNotFound where it is not there.
func (s *Store) SourceNamed(ctx context.Context, id string) (Source, error) {
	all, err := s.Sources(ctx)
	if err != nil {
		return Source{}, err
	}
	for _, x := range all {
		if x.ID == id {
			return x, nil
		}
	}
	return Source{}, errors.Join(ErrNotFound, fmt.Errorf("source %s", id))
}
