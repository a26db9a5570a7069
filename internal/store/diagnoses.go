package store

import (
	"context"
	"time"

	"freshanvil/core/diagnose"
)

type diagnosisRow struct {
	ID        string
	MachineID string
	Symptom   diagnose.SymptomID
	Cause     diagnose.CauseID
	AtMs      int64
}

func (diagnosisRow) TableName() string { return "diagnoses" }

// AddDiagnosis keeps the cause that was found behind a symptom.
func (s *Store) AddDiagnosis(ctx context.Context, id, machineID string, symptom diagnose.SymptomID,
	cause diagnose.CauseID,
	at time.Time,
) error {
	return s.db.WithContext(ctx).Create(&diagnosisRow{id, machineID, symptom, cause, ms(at)}).Error
}

// FoundBehind counts the causes that were found behind a symptom, on all machines.
func (s *Store) FoundBehind(ctx context.Context, symptom diagnose.SymptomID) (map[diagnose.CauseID]int, error) {
	var rows []struct {
		Cause diagnose.CauseID
		Times int
	}
	err := s.db.WithContext(ctx).Raw("SELECT cause, COUNT(*) AS times FROM diagnoses WHERE symptom = ? GROUP BY cause",
		symptom).Scan(&rows).Error
	found := make(map[diagnose.CauseID]int, len(rows))
	for _, r := range rows {
		found[r.Cause] = r.Times
	}
	return found, err
}
