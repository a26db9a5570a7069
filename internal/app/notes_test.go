package app

import (
	"testing"

	"freshanvil/internal/golden"
)

// Each note beside the tables is on disk as databases have it.
func TestNotesAreAsOnDisk(t *testing.T) {
	for name, form := range map[string]any{
		"copies": new(kept), "reminders": new(Reminders), "deliveries": new(map[string]Delivery),
		"recovery": new(recovery), "preferences": new(Preferences),
	} {
		t.Run(name, func(t *testing.T) { golden.Check(t, name, form) })
	}
}
