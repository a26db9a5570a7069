package job

import (
	"errors"
	"strings"
	"testing"
	"time"

	"freshanvil/core/care"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/treat"
)

// A new filter soaks while the old one comes out and the strainer is looked at; the
// month that is set is two months on (common practice in the tank).
func TestFilterChange(t *testing.T) {
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	p, err := Renew(answers(machine.DualHome, machine.Yes), treat.Usual(machine.InTank), now)
	if err != nil {
		t.Fatal(err)
	}
	if got := ids(p); got != "in out strainer soak fit month" || p.Activities[0].Task != care.FilterChange {
		t.Errorf("%s, %s", p.Activities[0].Task, got)
	}
	soak := p.Steps()[3]
	if body, ok := BodyOf[Soak](soak); !ok || soak.Lane != FilterLane || soak.After[0] != "in" ||
		body.For != 5*time.Minute {
		t.Errorf("%+v", soak)
	}
	if month := p.Steps()[5].Do[0]; !strings.Contains(month, "May 2026") {
		t.Error(month)
	}
	// by hand: 1 + 1 + 1 + 2 min and 20 s of work, three of the five minutes of soaking are left
	if want := 8 + 1.0/3; p.Minutes.Value < want-1e-9 || p.Minutes.Value > want+1e-9 {
		t.Errorf("%v min, want %v", p.Minutes.Value, want)
	}
	p, err = Renew(answers(machine.DualHome, machine.Yes), treat.Usual(machine.Softener), now)
	if err != nil || p.Activities[0].Task != care.Regenerate ||
		!strings.Contains(p.Steps()[0].Do[1], "18 g of salt, about 3 teaspoons") {
		t.Errorf("%v, %+v", err, p.Steps())
	}
	for _, s := range p.Steps() {
		if len(s.Cautions) == 0 || len(s.Do) == 0 || s.Button == "" {
			t.Errorf("%s is not said in full", s.ID)
		}
	}
	var no *reason.Refusal
	_, err = Renew(answers(machine.DualHome, machine.Yes), treat.Usual(machine.Bottled), now)
	if !errors.As(err, &no) || no.Code != NothingToRenew || no.Field != "treatment" {
		t.Errorf("bottled water is renewed: %v", err)
	}
}
