package app

import (
	"context"
	"encoding/json"
)

const preferencesKey = "preferences"

// Preferences are how numbers are written, by the names of the contract.
type Preferences struct {
	Units    string `json:"units"`
	Hardness string `json:"hardness"`
	Currency string `json:"currency"`
	Clock    string `json:"clock"`
}

// Preferences are those that somebody said, the usual ones where nobody did.
func (a *App) Preferences(ctx context.Context) (Preferences, error) {
	p := Preferences{Units: "metric", Hardness: "dh", Currency: "EUR", Clock: "24"}
	return p, a.noteOf(ctx, preferencesKey, &p)
}

// SetPreferences keeps them.
func (a *App) SetPreferences(ctx context.Context, p Preferences) error {
	text, err := json.Marshal(p)
	if err != nil {
		return err
	}
	return a.SetMeta(ctx, preferencesKey, string(text))
}
