package job

import (
	"errors"

	"freshanvil/core/descale"
	"freshanvil/core/machine"
	"freshanvil/core/reason"
)

// RescueOf is what there is to do where what is in a machine is not led out of it: it is switched off for what was
// seen, its acid cannot be rinsed here, or a group let nothing out too often. Nil where it is led.
func RescueOf(f machine.Facts, in Contents) *reason.Finding {
	var no *reason.Refusal
	if errors.As(in.MayBeUsed(), &no) {
		no.Finding.Verdict = reason.Stop
		return &no.Finding
	}
	if len(in.Acid) > 0 {
		if _, err := descale.ToRinse(f); errors.As(err, &no) {
			return &no.Finding
		}
	}
	for g := range f.Groups {
		if part := machine.Group(g + 1); Bars(in.Blind[part]) {
			return &Blocked(part, in.Blind[part]).Finding
		}
	}
	return nil
}
