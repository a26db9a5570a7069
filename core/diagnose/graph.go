package diagnose

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// Which machines a cause can be on.
func valved(f machine.Facts) bool   { return f.Valve.Vents() }
func solenoid(f machine.Facts) bool { return f.Valve == machine.Solenoid }
func cam(f machine.Facts) bool      { return f.Valve == machine.Cam }
func pumped(f machine.Facts) bool   { return f.PumpBeforeHot != "" }
func plumbed(f machine.Facts) bool  { return f.Plumbed }
func tanked(f machine.Facts) bool   { return !f.Plumbed }
func steams(f machine.Facts) bool   { return f.SteamBoiler > 0 }
func several(f machine.Facts) bool  { return f.Groups > 1 }
func pumpedTank(f machine.Facts) bool {
	return pumped(f) && tanked(f)
}

var (
	scald  = reason.Caution{Danger: "scald", Text: "Hot water and steam."}
	shock  = reason.Caution{Danger: "shock", Text: "Unplugged before anything is opened. Dry hands."}
	vented = reason.Caution{Danger: "pressure",
		Text: "Never unlock the handle while the pump runs, or before the hiss has ended."}
	sealed = reason.Caution{Danger: "pressure",
		Text: "Behind a locked handle the water may be under pressure: leave it locked."}
)

func lead(id task.ID, do ...string) Remedy { return Remedy{End: Led, Task: id, Do: do} }
func hand(do ...string) Remedy             { return Remedy{End: ByHand, Do: do} }
func person(do ...string) Remedy           { return Remedy{End: Licensed, Do: do} }
func asItIs(do ...string) Remedy           { return Remedy{End: Normal, Do: do} }
func halt(do ...string) Remedy {
	return Remedy{End: Stop, Do: append([]string{"Switch it off and pull the plug. Leave it so."}, do...)}
}

// causes are what is behind the symptoms (common practice of the trade).
var causes = index([]Cause{
	{ID: "dried_powder", Title: "Dried detergent holds the valve", fits: solenoid, Remedy: lead(task.Unblock,
		"Hot water first, by the blind basket; twice at the most.")},
	{ID: "coil", Title: "The coil of the valve is dead", fits: solenoid, Remedy: person("A coil is measured and changed " +
		"with the machine unplugged, by a technician.")},
	{ID: "jet", Title: "The jet of the group, or its strainer, is blocked", Remedy: lead(task.Jet, "A technician's "+
		"job. A blocked jet "+
		"lets nothing off: the group is taken to be under pressure. Supply shut, unplugged, cold, gauge at 0.")},
	{ID: "scaled_path", Title: "Scale in the water path", Remedy: lead(task.Descale,
		"Its card says whether it is done at home.")},
	{ID: "screen_blocked", Title: "The screen is blocked", Remedy: lead(task.Screen)},
	{ID: "spreader", Title: "The water spreader behind the screen is blocked on one side", Remedy: lead(task.Screen,
		"Brush what sits behind the screen, too.")},
	{ID: "level", Title: "The machine does not stand level", Remedy: hand("Put a cup of water on it, " +
		"and level the feet.")},
	{ID: "seal_worn", Title: "The seal is hard or worn", Remedy: lead(task.Seal)},
	{ID: "rim", Title: "Grounds on the rim or the seal", Remedy: hand("Wipe the basket's rim, and brush the seal.")},
	{ID: "handle_worn", Title: "The lugs of the handle are worn", Remedy: hand("Try another handle. If it holds, " +
		"replace this " +
		"one; a shim behind the seal helps for a while.")},
	{ID: "dented", Title: "The rim of the basket is dented", Remedy: hand("Replace the basket.")},
	{ID: "joint_loose", Title: "The nut of the steam joint is loose or dry", Remedy: lead(task.SteamJoint)},
	{ID: "joint_gasket", Title: "The gasket of the steam joint is worn", Remedy: person("A new gasket, " +
		"cold and without pressure.")},
	{ID: "tip_blocked", Title: "The holes of the steam tip are blocked", Remedy: lead(task.Tip)},
	{ID: "low_pressure", Title: "The boiler does not come to its pressure", fits: steams,
		Remedy: person("A pressure switch " +
			"or a sensor that is off, set by a technician.")},
	{ID: "wand_milk", Title: "Milk is left in the wand or the tip", Remedy: lead(task.Tip)},
	{ID: "steam_scale", Title: "Scale in the steam boiler", Remedy: lead(task.Descale,
		"Its card says whether it is done at home.")},
	{ID: "switch_stuck", Title: "The pressure switch sticks", fits: steams,
		Remedy: halt("A technician. Never touch the relief valve.")},
	{ID: "gauge_wrong", Title: "The gauge is wrong", Remedy: person("A gauge is compared and changed by a technician.")},
	{ID: "supply_shut", Title: "The supply is shut", fits: plumbed, Remedy: hand("Switch the machine off first.",
		"Open the supply slowly: its lever along the pipe. Then switch on, and listen.")},
	{ID: "tank_empty", Title: "The tank is empty, or not in its seat", fits: pumpedTank, Remedy: hand("Switch the "+
		"machine off first.",
		"Fill the tank and press it home. Then switch on, and listen.")},
	{ID: "filter_old", Title: "The filter is clogged", Remedy: lead(task.FilterChange)},
	{ID: "air", Title: "Air in the pump", fits: pumped,
		Remedy: lead(task.Bleed, "Off first. It is bled through the group, ten seconds at a time.")},
	{ID: "pump_dead", Title: "The pump is worn or dead", fits: pumped, Remedy: person("Off, before an element runs dry.")},
	{ID: "pump_valve", Title: "The pump's own pressure valve is off or dirty", fits: pumped,
		Remedy: person("Set with a gauge, " +
			"by a technician.")},
	{ID: "disc_hole", Title: "The rubber disc has a hole, as it should",
		Remedy: asItIs("It drips by its hole while it is under pressure. That is how it is meant.",
			"Does water run at the rim of the handle, too? Then it is not that: look again.")},
	{ID: "light_wash", Title: "The light asks for a wash, which a descale does not reset",
		Remedy: asItIs("Only the machine's own clean program puts it out. Left on, it does no harm.",
			"Does it ask for a descale after all? Then it is not that: look again.")},
	{ID: "light_scale", Title: "The light asks for a descale", Remedy: lead(task.Descale)},
	{ID: "drain_open", Title: "It was not drained to the end", Remedy: person("Switch it off and pull the plug. A "+
		"drain is "+
		"opened cold only, with the gauge at 0.", "Then it is opened again until nothing comes, and closed gently: by "+
		"whoever the maker names. Else a technician does it.")},
	{ID: "probe", Title: "The level probe is dirty", fits: steams, Remedy: lead(task.Probe, "A technician's job.")},
	{ID: "rinse_short", Title: "It was rinsed too little", fits: valved, Remedy: lead(task.Rinse,
		"No drinks before the cup is clear.")},
	{ID: "overdosed", Title: "Too much powder", fits: valved, Remedy: lead(task.Rinse,
		"No drinks before the cup is clear. Then the dose "+
			"card: it is less than one thinks.")},
	{ID: "behind_screen", Title: "Old oil behind the screen", fits: valved, Remedy: lead(task.Screen,
		"Brown comes from behind it: only "+
			"the screen itself was cleaned.")},
	{ID: "seldom", Title: "It is washed too seldom", fits: valved, Remedy: lead(task.Wash, "Wash again, "+
		"then more often.")},
	{ID: "after_wash", Title: "Detergent took the grease off", fits: cam, Remedy: asItIs("After a few shots it runs "+
		"again.",
		"Still stiff after five? Then it is not that: look again.")},
	{ID: "cam_dry", Title: "The cam is dry", fits: cam, Remedy: lead(task.CamGrease)},
	{ID: "lever_bent", Title: "The lever or its cam is worn", fits: cam,
		Remedy: person("A worn cam is changed by a technician.")},
	{ID: "spring", Title: "The basket spring is tired", Remedy: hand("A new spring into the handle.")},
	{ID: "brine", Title: "Salt is still in the softener", Remedy: hand("Rinse the softener for five minutes more, " +
		"until the water is " +
		"not salty.")},
	{ID: "by_pass", Title: "The softener's valve is in the wrong place",
		Remedy: person("A softener is set by whoever keeps it.")},
	{ID: "element", Title: "A heating element fails", Remedy: person("Measured and changed by a technician.")},
	{ID: "thermostat", Title: "The thermostat or sensor is off", Remedy: person("Set or changed by a technician.")},
	{ID: "cold_room", Title: "It is cold, and heats as long as it should",
		Remedy: asItIs("A boiler of several litres takes half an hour in a cold room.",
			"Does it take longer than it did? Then it is not that: look again.")},
	{ID: "leak_inside", Title: "It leaks inside",
		Remedy: halt("A workshop opens it. Water and current do not go together.")},
	{ID: "condensed", Title: "Steam has condensed", Remedy: halt("Let it stand, " +
		"and have it looked at: in a gauge it is a broken glass " +
		"or seal.")},
})

func index(list []Cause) map[CauseID]Cause {
	m := make(map[CauseID]Cause, len(list))
	for _, c := range list {
		m[c.ID] = c
	}
	return m
}

var yesNo = []Answer{{"yes", "Yes"}, {"no", "No"}}

// on is how likely "yes" is, by cause.
func on(list map[CauseID]float64) map[CauseID][]float64 {
	m := make(map[CauseID][]float64, len(list))
	for id, p := range list {
		m[id] = []float64{p, 1 - p}
	}
	return m
}

// checks tell causes apart. The shares are our own estimates, from memory of the trade.
var checks = byID([]Check{
	{ID: "click", Ask: "Does the valve click when the pump is switched on?", Minutes: 1, Answers: yesNo,
		How:      []string{"Leave the handle where it is. Switch the pump on for two seconds, and listen at the group."},
		Cautions: []reason.Caution{sealed}, given: on(map[CauseID]float64{"dried_powder": 0.05, "coil": 0.03, "jet": 0.95,
			"scaled_path": 0.9, "screen_blocked": 0.95})},
	{ID: "other_group", Ask: "Does another group give water?", Minutes: 0.1, First: true, fits: several, Answers: yesNo,
		How: []string{"Handle out of the other group, two seconds of water, off."}, Cautions: []reason.Caution{vented, scald},
		given: on(map[CauseID]float64{"dried_powder": 0.97, "coil": 0.97, "jet": 0.96, "screen_blocked": 0.97,
			"scaled_path": 0.9, "supply_shut": 0.01, "tank_empty": 0.01, "air": 0.02, "pump_dead": 0.01, "filter_old": 0.05,
			"pump_valve": 0.3})},
	{ID: "washed_last", Ask: "Was a wash the last thing that was done to it?", Minutes: 0.3,
		Answers: yesNo,
		given: on(map[CauseID]float64{"dried_powder": 0.9, "coil": 0.3, "jet": 0.2, "scaled_path": 0.3, "screen_blocked": 0.3,
			"rinse_short": 0.95, "overdosed": 0.95, "after_wash": 0.95, "cam_dry": 0.3, "lever_bent": 0.2,
			"light_wash": 0.2, "light_scale": 0.6})},
	{ID: "stood", Ask: "Has it stood unused for weeks?", Minutes: 0.3, Answers: yesNo, given: on(map[CauseID]float64{
		"jet": 0.7, "scaled_path": 0.4, "dried_powder": 0.3, "coil": 0.3, "screen_blocked": 0.2, "air": 0.5,
		"supply_shut": 0.6,
		"pump_dead":   0.3, "tank_empty": 0.2, "filter_old": 0.4})},
	{ID: "hot_water", Ask: "Does water come by the steam wand as usual?", Minutes: 1, Risk: 1,
		How:      []string{"Stand a jug under it and open its tap slowly. Has it a hot-water outlet? Take that."},
		Cautions: []reason.Caution{scald}, Answers: yesNo,
		given: on(map[CauseID]float64{"dried_powder": 0.95, "coil": 0.95, "jet": 0.95, "screen_blocked": 0.95,
			"scaled_path": 0.6,
			"supply_shut": 0.1, "tank_empty": 0.1, "air": 0.2, "pump_dead": 0.1, "filter_old": 0.4})},
	{ID: "screen_looked", Ask: "How does the screen look from below?", Minutes: 1, Answers: []Answer{{"clean", "Clean, " +
		"all holes open"},
		{"some", "Some holes blocked"}, {"many", "Many holes blocked"}}, How: []string{"Handle out, " +
		"with a torch from below."},
		Cautions: []reason.Caution{vented, scald}, given: map[CauseID][]float64{"screen_blocked": {0.02, 0.18, 0.8},
			"spreader": {0.4, 0.4, 0.2}, "level": {0.7, 0.25, 0.05}, "behind_screen": {0.5, 0.35, 0.15}, "seldom": {0.2, 0.4,
				0.4},
			"jet": {0.7, 0.25, 0.05}}},
	{ID: "cup_level", Ask: "Put a full cup on the machine: is the water level with its rim?", Minutes: 1, Answers: yesNo,
		given: on(map[CauseID]float64{"level": 0.03, "spreader": 0.95, "screen_blocked": 0.95})},
	{ID: "wipe_first", Ask: "Does it leak once its rim is clean?", Minutes: 2, Answers: yesNo,
		How:      []string{"Handle out. Wipe the rim of the basket, brush the seal, and try again."},
		Cautions: []reason.Caution{vented, scald}, given: on(map[CauseID]float64{"rim": 0.05, "seal_worn": 0.95,
			"handle_worn": 0.95,
			"dented":      0.9})},
	{ID: "other_basket", Ask: "Does it leak with another basket, too?", Minutes: 2, Answers: yesNo,
		Cautions: []reason.Caution{vented, scald},
		given:    on(map[CauseID]float64{"dented": 0.04, "seal_worn": 0.95, "handle_worn": 0.9, "rim": 0.5})},
	{ID: "turns_far", Ask: "Does the handle turn further than its mark?", Minutes: 0.5, Answers: yesNo,
		given: on(map[CauseID]float64{
			"seal_worn": 0.7, "handle_worn": 0.75, "rim": 0.1, "dented": 0.15})},
	{ID: "other_handle", Ask: "Does it leak with another handle, too?", Minutes: 2, Answers: yesNo,
		Cautions: []reason.Caution{vented, scald},
		given:    on(map[CauseID]float64{"handle_worn": 0.05, "seal_worn": 0.95, "dented": 0.4, "rim": 0.7})},
	{ID: "nut_turns", Ask: "Can the nut of the joint be turned by hand?", Minutes: 3,
		Answers: yesNo, How: []string{"Off, the plug out, cold, the gauge at 0: before that nobody touches it."},
		Cautions: []reason.Caution{scald, shock}, given: on(map[CauseID]float64{"joint_loose": 0.85, "joint_gasket": 0.15})},
	{ID: "tip_holes", Ask: "Does steam come from every hole of the tip?", Minutes: 1, Risk: 1, Answers: yesNo,
		How: []string{"Over the tray, the wand by its grip, for a second."}, Cautions: []reason.Caution{scald},
		given: on(map[CauseID]float64{"tip_blocked": 0.05, "low_pressure": 0.95, "steam_scale": 0.85, "wand_milk": 0.6})},
	{ID: "gauge_reads", Ask: "What does the gauge of the steam boiler show when it is hot?", Minutes: 0.5,
		Answers: []Answer{
			{"low", "Under 0.8 bar"}, {"usual", "0.8 to 1.5 bar"}, {"high", "Over 1.5 bar"}}, given: map[CauseID][]float64{
			"low_pressure": {0.9, 0.1, 0}, "tip_blocked": {0.05, 0.9, 0.05}, "steam_scale": {0.3, 0.65, 0.05},
			"element": {0.6, 0.4, 0}, "thermostat": {0.5, 0.4,
				0.1},
			"cold_room": {0.3, 0.7, 0}}},
	{ID: "relief_blew", Ask: "Did steam come from the relief valve?", Minutes: 0.3,
		Answers: yesNo, How: []string{"By what you saw. Do not switch it on again to see."},
		given: on(map[CauseID]float64{"switch_stuck": 0.7, "gauge_wrong": 0.03})},
	{ID: "gauge_cold", Ask: "Does the gauge go back to 0 once it is cold?", Minutes: 1, Answers: yesNo,
		How:   []string{"Hours later, or the next morning. Leave it unplugged."},
		given: on(map[CauseID]float64{"switch_stuck": 0.95, "gauge_wrong": 0.4})},
	{ID: "supply_looked", Ask: "Is the water supply open?", Minutes: 0.5, Answers: yesNo, fits: plumbed,
		How: []string{"Its lever lies along the pipe."},
		given: on(map[CauseID]float64{
			"supply_shut": 0.02, "filter_old": 0.97, "air": 0.9, "pump_dead": 0.97, "pump_valve": 0.97})},
	{ID: "tank_looked", Ask: "How does the tank stand?", Minutes: 0.5, fits: pumpedTank, Answers: []Answer{
		{"yes", "Full, in to its stop"}, {"no", "Empty or loose"}},
		given: on(map[CauseID]float64{
			"tank_empty": 0.03, "filter_old": 0.97, "air": 0.8, "pump_dead": 0.97, "pump_valve": 0.97})},
	{ID: "pump_sounds", Ask: "How does the pump sound?", Minutes: 0.5, Answers: []Answer{{"usual", "As usual"}, {"loud",
		"Loud, it screams"},
		{"silent", "Not at all"}}, How: []string{"For two seconds. Then off, before it runs dry."},
		given: map[CauseID][]float64{
			"supply_shut": {0.1, 0.88, 0.02}, "tank_empty": {0.1, 0.88, 0.02}, "air": {0.25, 0.73, 0.02}, "filter_old": {0.4,
				0.58, 0.02},
			"pump_dead": {0.2, 0.2, 0.6}, "pump_valve": {0.88, 0.1, 0.02}, "jet": {0.9, 0.1, 0}, "drain_open": {0.6, 0.4, 0}}},
	{ID: "filter_out", Ask: "Is it as it should be without its filter?", Minutes: 2, Answers: yesNo, fits: pumpedTank,
		How: []string{"Switch it off. Take the filter out of the tank, and the tank back to its stop. On, and try. " +
			"Filter back."},
		given: on(map[CauseID]float64{
			"filter_old": 0.9, "supply_shut": 0.05, "tank_empty": 0.3, "air": 0.3, "pump_dead": 0.05, "pump_valve": 0.05})},
	{ID: "drained_lately", Ask: "Has it stood without water lately?", Minutes: 0.3, Answers: yesNo,
		How: []string{"Drained, emptied, moved, or its tank run dry."},
		given: on(map[CauseID]float64{
			"air": 0.85, "drain_open": 0.9, "probe": 0.2, "supply_shut": 0.4, "tank_empty": 0.3, "filter_old": 0.2,
			"pump_dead": 0.15})},
	{ID: "disc_looked", Ask: "Is there a small hole in the middle of the rubber disc?", Minutes: 0.5, Answers: yesNo,
		given: on(map[CauseID]float64{"disc_hole": 0.97, "seal_worn": 0.3, "rim": 0.3})},
	{ID: "light_says", Ask: "Which light is it, by the manual?", Minutes: 2, Answers: []Answer{{"clean",
		"Clean or wash"}, {"scale", "Descale"}},
		given: map[CauseID][]float64{"light_wash": {0.95, 0.05}, "light_scale": {0.05, 0.95}}},
	{ID: "drain_drips", Ask: "Did less come out than its boiler holds?", Minutes: 0.5, Answers: yesNo,
		How:   []string{"By what you measured, or by eye. Leave the drain shut."},
		given: on(map[CauseID]float64{"drain_open": 0.85, "probe": 0.1})},
	{ID: "dose_was", Ask: "Was it more powder than the dose card says?", Minutes: 0.5, Answers: yesNo,
		given: on(map[CauseID]float64{
			"overdosed": 0.95, "rinse_short": 0.1})},
	{ID: "screen_off_last", Ask: "When was the screen last off?", Minutes: 0.5, Answers: []Answer{{"month",
		"Within the last weeks"},
		{"longer", "Longer ago, or never"}}, given: map[CauseID][]float64{"behind_screen": {0.08, 0.92}, "seldom": {0.5,
		0.5}}},
	{ID: "greased", Ask: "Does it run better after five shots?", Minutes: 5, Answers: yesNo, given: on(map[CauseID]float64{
		"after_wash": 0.9, "cam_dry": 0.1, "lever_bent": 0.05})},
	{ID: "lever_play", Ask: "Does the lever catch at one place?", Minutes: 0.5, Answers: yesNo,
		given: on(map[CauseID]float64{
			"lever_bent": 0.85, "cam_dry": 0.15, "after_wash": 0.05})},
	{ID: "other_basket_in", Ask: "Does another basket fall out, too?", Minutes: 0.5, Answers: yesNo,
		given: on(map[CauseID]float64{
			"spring": 0.9, "dented": 0.1})},
	{ID: "salted_today", Ask: "Was the softener in salt within the last day?", Minutes: 0.3, Answers: yesNo,
		given: on(map[CauseID]float64{
			"brine": 0.95, "by_pass": 0.2})},
	{ID: "how_long", Ask: "How long does it take from cold, against what it took?", Minutes: 1,
		Answers: []Answer{{"same", "About the same"},
			{"longer", "Clearly longer"}, {"never", "It never gets there"}}, given: map[CauseID][]float64{"cold_room": {0.9,
			0.1, 0},
			"element": {0.02, 0.4, 0.58}, "steam_scale": {0.15, 0.75, 0.1}, "thermostat": {0.1, 0.3, 0.6}}},
	{ID: "gauze_looked", Ask: "How does the gauze of the tap look?", Minutes: 3, Answers: []Answer{{"clean", "Clean"},
		{"dusting", "A dusting of white"},
		{"crusted", "Crusted"}}, How: []string{"Off, the plug out, cold, the gauge at 0: then unscrew it from the " +
		"hot-water tap."},
		Cautions: []reason.Caution{scald, shock}, given: map[CauseID][]float64{"steam_scale": {0.03, 0.27, 0.7},
			"scaled_path": {0.08, 0.32, 0.6},
			"element":     {0.5, 0.35, 0.15}, "thermostat": {0.6, 0.3, 0.1}, "cold_room": {0.6, 0.3, 0.1}, "low_pressure": {0.6,
				0.3, 0.1},
			"tip_blocked": {0.6, 0.3, 0.1}}},
	{ID: "where_wet", Ask: "Where is it wet?", Minutes: 0.5, Answers: []Answer{{"under", "Under the machine"}, {"gauge",
		"Behind the glass of a gauge"}},
		How: []string{"Switch it off and pull the plug first. Only look."}, Cautions: []reason.Caution{shock},
		given: map[CauseID][]float64{
			"leak_inside": {0.9, 0.1}, "condensed": {0.1, 0.9}}},
})

func byID(list []Check) map[CheckID]Check {
	m := make(map[CheckID]Check, len(list))
	for _, c := range list {
		m[c.ID] = c
	}
	return m
}

// symptoms in the order of the list: where water, steam, pressure or sound is wrong; then what is seen, smelt and
// tasted (common practice of the trade; the parts are our own estimates).
var symptoms = []Symptom{
	{ID: "no_water", Title: "No water comes from the group", causes: []weighed{{"dried_powder", 3}, {"coil", 1}, {"jet",
		3},
		{"screen_blocked", 1}, {"scaled_path", 2}, {"supply_shut", 2}, {"tank_empty", 2}, {"air", 2}, {"pump_dead", 1}},
		checks: []CheckID{"other_group", "click", "washed_last", "stood", "hot_water", "screen_looked",
			"supply_looked", "tank_looked",
			"pump_sounds", "drained_lately", "gauze_looked"}},
	{ID: "one_sided", Title: "Water comes on one side of the screen", causes: []weighed{{"spreader", 4},
		{"screen_blocked", 3}, {"level", 1}},
		checks: []CheckID{"screen_looked", "cup_level"}},
	{ID: "handle_leaks", Title: "It leaks at the handle", causes: []weighed{{"rim", 4}, {"seal_worn", 4},
		{"handle_worn", 1}, {"dented", 1}},
		checks: []CheckID{"wipe_first", "turns_far", "other_basket", "other_handle"}},
	{ID: "joint_leaks", Title: "It leaks at the steam joint", causes: []weighed{{"joint_loose", 3}, {"joint_gasket", 2}},
		checks: []CheckID{"nut_turns"}},
	{ID: "weak_steam", Title: "The steam is weak", causes: []weighed{{"tip_blocked", 5}, {"low_pressure", 2},
		{"steam_scale", 2}},
		checks: []CheckID{"tip_holes", "gauge_reads", "gauze_looked"}},
	{ID: "over_pressure", Title: "The gauge goes over its mark, or the relief valve blows", Stops: true,
		causes: []weighed{{"switch_stuck", 3}, {"gauge_wrong", 1}}, checks: []CheckID{"relief_blew", "gauge_cold"}},
	{ID: "no_pump_pressure", Title: "The pump makes no pressure", causes: []weighed{{"tank_empty", 3}, {"supply_shut",
		3}, {"air", 2},
		{"filter_old", 2}, {"pump_valve", 1}, {"pump_dead", 1}}, checks: []CheckID{"other_group", "tank_looked",
		"supply_looked",
		"pump_sounds",
		"drained_lately", "filter_out"}},
	{ID: "pump_screams", Title: "The pump screams", causes: []weighed{{"supply_shut", 4}, {"tank_empty", 4}, {"air", 3},
		{"filter_old", 2},
		{"pump_dead", 1}}, checks: []CheckID{"supply_looked", "tank_looked", "drained_lately", "filter_out"}},
	{ID: "air_lock", Title: "After draining, no water comes", causes: []weighed{{"air", 6}, {"supply_shut", 2},
		{"tank_empty", 2}, {"jet", 1}},
		checks: []CheckID{"other_group", "supply_looked", "tank_looked", "pump_sounds"}},
	{ID: "disc_drips", Title: "The rubber disc drips in a wash", causes: []weighed{{"disc_hole", 6}, {"seal_worn", 1},
		{"rim", 1}},
		checks: []CheckID{"disc_looked"}},
	{ID: "light_on", Title: "The light is still on after descaling", causes: []weighed{{"light_wash", 4},
		{"light_scale", 1}},
		checks: []CheckID{"light_says", "washed_last"}},
	{ID: "not_drained", Title: "It says that it is not drained", causes: []weighed{{"drain_open", 5}, {"probe", 1}},
		checks: []CheckID{"drain_drips", "drained_lately"}},
	{ID: "soapy", Title: "It is still soapy", causes: []weighed{{"rinse_short", 4}, {"overdosed", 2}},
		checks: []CheckID{"dose_was"}},
	{ID: "brown_after", Title: "It is brown after the wash", causes: []weighed{{"behind_screen", 4}, {"seldom", 3}},
		checks: []CheckID{"screen_off_last", "screen_looked"}},
	{ID: "stiff_lever", Title: "The lever is stiff or squeaks", causes: []weighed{{"after_wash", 4}, {"cam_dry", 3},
		{"lever_bent", 1}},
		checks: []CheckID{"washed_last", "lever_play", "greased"}},
	{ID: "basket_falls", Title: "The basket falls out", causes: []weighed{{"spring", 4}, {"dented", 1}},
		checks: []CheckID{"other_basket_in"}},
	{ID: "milk_smell", Title: "It smells of milk", causes: []weighed{{"wand_milk", 5}, {"tip_blocked", 1}},
		checks: []CheckID{"tip_holes"}},
	{ID: "salty", Title: "It tastes of salt", causes: []weighed{{"brine", 5}, {"by_pass", 1}},
		checks: []CheckID{"salted_today"}},
	{ID: "slow_heating", Title: "It heats slowly", causes: []weighed{{"steam_scale", 3}, {"element", 1}, {"thermostat",
		1}, {"cold_room", 2}},
		checks: []CheckID{"how_long", "gauge_reads", "gauze_looked"}},
	{ID: "moisture", Title: "It is wet under the machine, or in a gauge", Stops: true, causes: []weighed{{"leak_inside",
		3}, {"condensed", 2}},
		checks: []CheckID{"where_wet"}},
}
