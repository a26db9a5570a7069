package plant

import (
	"testing"

	"freshanvil/core/machine"
)

// A push of a minute, and standing for twenty, beside a plain clone of the plant.
func BenchmarkPushAndStand(b *testing.B) {
	start := Cold(specOf(b, facts(machine.SingleBoiler)))
	do(start, Action{Verb: Empty, What: "tank"}, Action{PourMix, "tank", 1.5}, Action{Verb: PlugIn})
	events := 0
	for b.Loop() {
		p := start.Clone()
		do(p, Action{Verb: SwitchOn}, Action{Verb: PumpTo, What: "group-1"})
		p.Wait(56)
		p.Do(Action{Verb: SwitchOff})
		p.Wait(1200)
		events = p.events
	}
	b.ReportMetric(float64(events), "events")
}
