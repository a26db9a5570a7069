package inspect

import (
	"freshanvil/core/machine"
	"freshanvil/core/reason"
	"freshanvil/core/task"
)

// How a look at the screen moves how often it comes off (our own engineering choices, as for the wash).
const (
	longer  = 1.25
	shorter = 0.85
	short   = 0.7
)

// Which machines a thing can be looked at on.
func vents(f machine.Facts) bool   { return f.Valve.Vents() && f.Layout != machine.LeverManual }
func hasCam(f machine.Facts) bool  { return f.Valve == machine.Cam }
func steams(f machine.Facts) bool  { return f.SteamBoiler > 0 }
func pumps(f machine.Facts) bool   { return f.Pump != machine.NoPump }
func hasTank(f machine.Facts) bool { return f.Tank > 0 && pumps(f) }
func screwed(f machine.Facts) bool { return f.Drain == "screws" || f.Drain == "plug" }
func hasWand(f machine.Facts) bool { return f.Layout != machine.LeverManual || f.SteamBoiler > 0 }

var (
	scald = reason.Caution{Danger: "scald", Text: "Hot water and steam. Keep hands from under the group and the wand."}
	shut  = reason.Caution{Danger: "pressure",
		Text: "Off, unplugged, below 45 °C and the gauge at 0 before anything is unscrewed."}
	hissed = reason.Caution{Danger: "pressure",
		Text: "Never unlock the handle while the pump runs, or before the hiss has ended."}
	never = reason.Caution{Danger: "pressure", Text: "Only look. Never plug a relief valve, never adjust it."}
)

// stop is the one screen for what must not be used on: it leads to no job.
func stop(why string, next ...string) *reason.Finding {
	return &reason.Finding{Verdict: reason.Stop, Title: "Switch off, and do not use it",
		Because: []reason.Reason{{Text: why, Source: reason.Trade}},
		Next:    append([]string{"Switch off and pull the plug, with dry hands."}, next...)}
}

const callOne = "Call a technician. Nothing is led on it before one has seen it."

// rows in the order of a walk: what a hand need not touch, what is seen hot, what is seen cold; what only a job
// that opens the machine sees stands last. The pictures' grades are common practice of the trade.
var rows = []Row{
	{Sight: Under, Title: "Under the machine", Ask: "Is it dry under the machine?", At: Untouched,
		How: []string{"With a torch, look under it and behind it. Off and cold, a dry tissue shows a drop; at " +
			"pressure keep a step " +
			"away."}, Seen: []Seen{
			{Verdict: Dry, Text: "Dry", Do: "Go on", Source: reason.Trade, Means: "Nothing leaks that can be seen."},
			{Verdict: Wet, Text: "Wet, or a puddle", Bad: true, Do: "Stop", Source: reason.Trade, Symptom: "moisture",
				Moves: []Move{{task.Service, Now}}, Means: "Water and current do not go together.",
				Stops: stop("Under a machine, water may stand at live parts.",
					"Is it only the tray that ran over? Dry it, wait ten minutes, look again, then take this look back.",
					callOne)},
		}},
	{Sight: Glass, Title: "Glass of the gauge", Ask: "Is the glass of the gauge clear inside?", At: Untouched,
		fits: steams, How: []string{"Drops or mist behind the glass, not on it."}, Seen: []Seen{
			{Verdict: Clear, Text: "Clear", Do: "Go on", Source: reason.Trade, Means: "The gauge is tight."},
			{Verdict: Misted, Text: "Drops or mist inside", Bad: true, Do: "Stop", Source: reason.Trade,
				Symptom: "moisture", Moves: []Move{{task.Service, Now}},
				Means: "Its tube leaks: what it shows cannot be trusted.",
				Stops: stop("Water behind the glass comes from the boiler: the gauge is broken, and may show too little.",
					callOne)},
		}},
	{Sight: Relief, Title: "Relief valve", Ask: "What comes from the relief valve?", At: Untouched, fits: hasWand,
		How:      []string{"From a step away, a torch on its outlet. At its pressure is the time to see it."},
		Cautions: []reason.Caution{never, scald}, Seen: []Seen{
			{Verdict: Dry, Text: "Dry, nothing comes", Do: "Go on", Source: reason.Trade,
				Means: "It is shut, as it should be."},
			{Verdict: Drips, Text: "It weeps", Bad: true, Do: "A technician looks at it now", Source: reason.Trade,
				Moves: []Move{{task.Service, Now}}, Symptom: "over_pressure",
				Means: "Scale on its seat, or pressure too high: whoever the maker names looks at it now."},
			{Verdict: Blows, Text: "Steam or water blows from it", Bad: true, Do: "Stop", Source: reason.Trade,
				Moves: []Move{{task.Service, Now}}, Symptom: "over_pressure", Means: "The pressure is too high.",
				Stops: stop("A relief valve blows when the pressure is above what the boiler may hold, or "+
					"when it cannot shut any more.", "Stay away until the gauge is at 0.",
					"Never plug it, never adjust it. Call a technician.")},
		}},
	{Sight: SteamBar, Title: "Gauge of the steam boiler", Ask: "What does the steam gauge show?", At: HotOn, fits: steams,
		How:     []string{"At its heat, and without drawing steam."},
		Measure: &Measure{Ask: "Bar", Unit: "bar", Low: 0, High: mostBar, judge: steamBar}, Seen: []Seen{
			{Verdict: Usual, Text: "1.0 to 1.3 bar, or a little beside", Do: "Leave it", Source: reason.Trade,
				Means: "As usual. A little beside it, read it again tomorrow: does it go on moving, a technician sets it."},
			{Verdict: Low, Text: "Lower", Bad: true, Do: "Find out why", Source: reason.Trade, Symptom: "weak_steam",
				Means: "At its heat, a boiler under 0.8 bar makes weak steam.",
				Next: []string{"Is it at its heat already? Wait ten minutes and read it again.",
					"If it stays low, look for the cause."}},
			{Verdict: High, Text: "Higher, under the red mark", Bad: true, Do: "Read it again in ten minutes",
				Source: reason.Trade, Moves: []Move{{task.Service, Soon}},
				Means: "Over 1.5 bar somebody looks; a technician sets it.",
				Next: []string{"Read it again in ten minutes, without drawing steam, and stay beside it.",
					"If it rises to the red mark or the relief valve blows: switch off, pull the plug, call a technician."}},
			{Verdict: Over, Text: "At the red mark or over it", Bad: true, Do: "Stop", Source: reason.Trade,
				Symptom: "over_pressure", Moves: []Move{{task.Service, Now}}, Means: "The pressure is too high.",
				Stops: stop("Over the red mark, or over 2 bar where nobody said one, a boiler is not safe.",
					"Stay away until the gauge is at 0. Leave the relief valve alone.", callOne)},
		}},
	{Sight: PumpBar, Title: "Gauge of the pump", Ask: "What does the pump gauge show?", At: HotOn,
		fits: func(f machine.Facts) bool { return f.PumpBeforeHot != "" },
		How: []string{"The blind basket in, pump on until the needle stands. Without a three-way valve: during a shot, " +
			"never a blind."},
		Cautions: []reason.Caution{hissed},
		Measure:  &Measure{Ask: "Bar", Unit: "bar", Low: 0, High: mostBar, judge: pumpBar}, Seen: []Seen{
			{Verdict: Usual, Text: "8 to 10 bar, at home up to 11", Do: "Leave it", Source: reason.Trade,
				Means: "As usual."},
			{Verdict: Low, Text: "Lower", Bad: true, Do: "Find out why", Source: reason.Trade,
				Symptom: "no_pump_pressure", Means: "A worn pump, its own valve, a clogged filter or air."},
			{Verdict: High, Text: "Higher", Bad: true, Do: "A technician sets it", Source: reason.Trade,
				Moves: []Move{{task.Service, Soon}},
				Means: "The pump's own valve lets too much through: a technician sets it, with a gauge."},
			{Verdict: Shakes, Text: "The needle shakes", Bad: true, Do: "Find out why", Source: reason.Trade,
				Symptom: "no_pump_pressure", Means: "A needle that shakes is a fault: air, a worn pump, a valve that flutters."},
			{Verdict: None, Text: "Nothing", Bad: true, Do: "Switch it off, then find out why", Source: reason.Trade,
				Symptom: "no_pump_pressure", Means: "Without water an element runs dry: switch it off now."},
		}},
	{Sight: HeatUp, Title: "Time to its heat", Ask: "How long does it take from cold to its heat?", At: HotOn,
		How: []string{"From switching on, cold, until its light or its gauge says that it is ready. Remember it the next " +
			"time you switch it on."},
		Measure: &Measure{Ask: "Minutes", Unit: "min", Low: 0.2, High: 180, judge: heatUp, limit: slowest}, Seen: []Seen{
			{Verdict: Usual, Text: "As long as ever", Do: "Leave it", Source: reason.Trade, Means: "Its elements heat."},
			{Verdict: Slower, Text: "Clearly longer", Bad: true, Do: "Find out why", Source: reason.Trade,
				Symptom: "slow_heating",
				Means:   "An element may fail: with one of three gone it takes half as long again, with one of two twice as long."},
			{Verdict: Never, Text: "It never gets there", Bad: true, Do: "Switch it off, then find out why",
				Source: reason.Trade, Symptom: "slow_heating", Moves: []Move{{task.Service, Now}},
				Means: "An element, a thermostat or a sensor: a technician measures it."},
		}},
	{Sight: Wetting, Title: "Water from the group", Of: task.EachGroup, Ask: "How does the water come?", At: HotOn,
		How:      []string{"Handle out. Water on for three seconds, and look from below, from a step away."},
		Cautions: []reason.Caution{scald}, Seen: []Seen{
			{Verdict: Even, Text: "Evenly, all over", Do: "Leave it", Source: reason.Trade,
				Means: "Screen and spreader let it through."},
			{Verdict: OneSided, Text: "On one side, or in a jet", Bad: true, Do: "Screen off", Source: reason.Trade,
				Moves: []Move{{task.Screen, Now}}, Symptom: "one_sided",
				Means: "Something blocks the spreader behind the screen: it comes off once more."},
		}},
	{Sight: Flow, Title: "Flow in ten seconds", Of: task.EachGroup, Ask: "How much comes in ten seconds?", At: HotOn,
		fits: pumps, How: []string{"Handle out, a measuring jug under the group. Water on for exactly ten seconds."},
		Cautions: []reason.Caution{scald},
		Measure:  &Measure{Ask: "mL", Unit: "mL", Low: 1, High: 1500, judge: flow, limit: weakest}, Seen: []Seen{
			{Verdict: Usual, Text: "As much as ever", Do: "Leave it", Source: reason.Trade, Means: "Its path is open."},
			{Verdict: Weaker, Text: "Clearly less", Bad: true, Do: "Screen off", Source: reason.Trade,
				Moves: []Move{{task.Screen, Now}, {task.LookForScale, Soon}},
				Means: "Something closes: the screen first; then scale in the jet or the tube."},
			{Verdict: Weak, Text: "A trickle", Bad: true, Do: "Screen off, then a technician", Source: reason.Trade,
				Moves: []Move{{task.Screen, Now}, {task.LookForScale, Now}, {task.Jet, Now}}, Symptom: "no_water",
				Means: "A jet of less than a millimetre is closing, or the path is full of scale. Acid would loosen flakes " +
					"that block it: a technician cleans the jet first."},
		}},
	{Sight: Discharge, Title: "First dirty water", Of: task.EachGroup, Ask: "What comes out at the drain spout?",
		At: HotOn, fits: vents,
		How: []string{"A clear cup stands under the drain spout. Blind in, one pulse of clean water: on for eight seconds, " +
			"off, and look at what comes."},
		Cautions: []reason.Caution{scald, hissed}, Seen: []Seen{
			{Verdict: Clear, Text: "Clear", Do: "Leave it", Source: reason.Trade, Means: "The group is clean."},
			{Verdict: Pale, Text: "Pale brown", Do: "Leave it", Source: reason.Trade,
				Means: "As it should be, some way to the next wash."},
			{Verdict: Brown, Text: "Brown", Bad: true, Do: "Wash it within a month", Source: reason.Ours,
				Moves: []Move{{task.Wash, Soon}}, Means: "Oil has gathered in the group."},
			{Verdict: Dark, Text: "Dark, with foam or grounds", Bad: true, Do: "Wash it now", Source: reason.Ours,
				Moves: []Move{{task.Wash, Now}}, Means: "The group is full of old oil: a wash now."},
		}},
	{Sight: Cup, Title: "A cup of its water", Of: task.EachGroup, Ask: "How does a cup of its water look?", At: HotOn,
		How:      []string{"Handle out. Flush a clear cup half full, and hold it to the light by its handle."},
		Cautions: []reason.Caution{scald}, Seen: []Seen{
			{Verdict: Clear, Text: "Clear", Do: "Leave it", Source: reason.Trade, Means: "Nothing is left in it."},
			{Verdict: Brown, Text: "Coloured", Bad: true, Do: "Wash it now", Source: reason.Trade,
				Moves: []Move{{task.Wash, Now}}, Symptom: "brown_after", Means: "Old oil comes from behind the screen."},
			{Verdict: Grainy, Text: "More than three grains", Bad: true, Do: "Screen off", Source: reason.Trade,
				Moves: []Move{{task.Screen, Now}}, Means: "Grounds sit behind the screen."},
			{Verdict: Foamy, Text: "It foams", Bad: true, Do: "No drinks: rinse it", Source: reason.Trade,
				Symptom: "soapy", Means: "Detergent is in the group. No drinks from it before its rinse is proven."},
		}},
	{Sight: Lever, Title: "Lever", Of: task.EachGroup, Ask: "How does the lever move?", At: HotOn, fits: hasCam,
		How: []string{"Up and down once, without a handle in."}, Cautions: []reason.Caution{scald}, Seen: []Seen{
			{Verdict: Easy, Text: "It moves easily", Do: "Leave it", Source: reason.Trade, Means: "The cam is greased."},
			{Verdict: Squeaks, Text: "Stiff, or it squeaks", Bad: true, Do: "Grease the cam", Source: reason.Trade,
				Moves: []Move{{task.CamGrease, Soon}}, Symptom: "stiff_lever",
				Means: "Detergent strips the cam's grease. Stiff for a few shots is normal; then it wants food-safe grease."},
		}},
	{Sight: Joint, Title: "Joint of the steam wand", Ask: "Is the joint of the steam wand dry?", At: HotOn, fits: hasWand,
		How: []string{"Tip over the tray, by its grip. Open the tap for two seconds and look at the joint, " +
			"your hand on the tap."},
		Cautions: []reason.Caution{scald}, Seen: []Seen{
			{Verdict: Dry, Text: "Dry, and it turns smoothly", Do: "Leave it", Source: reason.Trade, Means: "It seals."},
			{Verdict: Drips, Text: "It weeps, or is stiff", Bad: true, Do: "Grease the joint", Source: reason.Trade,
				Fit: "a joint gasket", Moves: []Move{{task.SteamJoint, Now}}, Symptom: "joint_leaks",
				Means: "A loose nut, dry grease or a flat gasket: it wants care."},
		}},
	{Sight: Screws, Title: "Drain screws", Ask: "Are the boiler's drains dry?", At: HotOn, fits: screwed,
		How:      []string{"At pressure, with a torch, from a step away. No hand or paper near them; do not turn them."},
		Cautions: []reason.Caution{scald},
		Seen: []Seen{
			{Verdict: Dry, Text: "Dry", Do: "Leave them", Source: reason.Trade, Means: "The seals hold."},
			{Verdict: Drips, Text: "A drop", Bad: true, Do: "New seals", Source: reason.Trade, Fit: "drain-screw seals",
				Moves: []Move{{task.DrainSeals, Now}},
				Means: "Do not turn the screw tighter: the seal is worn, and the thread tears."},
		}},
	{Sight: Screen, Title: "Screen", Of: task.EachGroup, Wears: task.Screen, Ask: "The screen: which is nearest?",
		At: OffCold, How: []string{"From below with a torch, or, where it is off, held to the light from both sides."},
		Cautions: []reason.Caution{shut}, Seen: []Seen{
			{Verdict: Clean, Text: "Clean: light through every hole", Times: longer, Do: "Leave it", Source: reason.Ours,
				Means: "Nothing sticks behind it. Found clean twice running, it comes off a quarter later."},
			{Verdict: Stained, Text: "Brown, every hole open", Do: "Leave it", Source: reason.Trade,
				Means: "Oil, and no more than is usual."},
			{Verdict: SomeBlocked, Text: "Some holes blocked", Bad: true, Times: shorter, Do: "Scrub it sooner",
				Source: reason.Ours, Means: "Grounds have set in it. It comes off 15 % sooner from now on."},
			{Verdict: Blocked, Text: "Heavily blocked", Bad: true, Times: short, Do: "Soak it for an hour",
				Source: reason.Ours, Fit: "a screen", Moves: []Move{{task.Wash, Now}},
				Means: "Soak it for an hour. If holes stay shut, fit a new one. The group wants a wash, and the screen " +
					"comes off 30 % sooner from now on."},
		}},
	{Sight: Seal, Title: "Seal", Of: task.EachGroup, Ask: "The seal: which is nearest?", At: OffCold,
		How:      []string{"Handle out. Brush it, look all round it, press a fingernail into it."},
		Cautions: []reason.Caution{shut}, Seen: []Seen{
			{Verdict: Springy, Text: "Springy: the nail's mark goes", Do: "Leave it", Source: reason.Trade,
				Means: "It seals."},
			{Verdict: Stiff, Text: "Stiff: the mark stays a while", Bad: true, Do: "A new one within a month",
				Source: reason.Trade, Fit: "a group seal",
				Moves: []Move{{task.Seal, Soon}}, Means: "It is going hard: a new one within a month."},
			{Verdict: Brittle, Text: "Hard or cracked", Bad: true, Do: "A new one now", Source: reason.Trade,
				Fit: "a group seal", Symptom: "handle_leaks",
				Moves: []Move{{task.Seal, Now}}, Means: "A hard seal lets the handle leak: a new one now."},
			{Verdict: Chipped, Text: "A piece is missing", Bad: true, Do: "A new one now", Source: reason.Trade,
				Fit: "a group seal", Symptom: "handle_leaks", Moves: []Move{{task.Seal, Now}},
				Means: "Water under pressure comes through where it is chipped: a new one now. Find the piece."},
		}},
	{Sight: LockAngle, Title: "Where the handle stops", Of: task.EachGroup, Ask: "How far does the handle turn?",
		At:      OffCold,
		How:     []string{"Basket in, no coffee. Turn it home with the hand's usual strength. Straight at you is 0°."},
		Measure: &Measure{Ask: "Degrees past straight", Unit: "°", Low: -90, High: 90, judge: lockAngle, limit: pastFrom},
		Seen: []Seen{
			{Verdict: AtMark, Text: "At its mark, or a little short of it", Do: "Leave it", Source: reason.Ours,
				Means: "Seal, rim and lugs are as they should be."},
			{Verdict: Short, Text: "Far short of it", Bad: true, Do: "Clean the seat", Source: reason.Ours,
				Next:  []string{"Brush the seal and wipe the basket's rim, then try again.", "A new seal is stiff for a week."},
				Means: "Grounds on the seal or the rim, or a seal that is new or too thick."},
			{Verdict: Past, Text: "Past its mark", Bad: true, Do: "A new seal within a month", Source: reason.Trade,
				Fit: "a group seal", Moves: []Move{{task.Seal, Soon}}, Means: "The seal has gone thin."},
			{Verdict: FarPast, Text: "Far past it", Bad: true, Do: "A new seal now", Source: reason.Ours,
				Fit: "a group seal", Moves: []Move{{task.Seal, Now}}, Symptom: "handle_leaks",
				Means: "The seal is worn out, or the lugs of the handle are. It may come off under pressure: a new seal now, " +
					"and try another handle."},
		}},
	{Sight: Rim, Title: "Basket rim", Ask: "The basket's rim: which is nearest?", At: OffCold,
		How: []string{"Basket out. A finger round its rim, and look along it."}, Seen: []Seen{
			{Verdict: Smooth, Text: "Smooth and round", Do: "Leave it", Source: reason.Trade,
				Means: "It seals against the group."},
			{Verdict: Dented, Text: "Dented, worn or cracked", Bad: true, Do: "A new basket", Source: reason.Trade,
				Fit: "a basket", Symptom: "handle_leaks", Means: "A bad rim cuts the seal and leaks: fit a new basket."},
		}},
	{Sight: Spring, Title: "Basket spring", Ask: "Does the spring hold the basket?", At: OffCold,
		How: []string{"Knock the handle once, as when the puck is knocked out."}, Seen: []Seen{
			{Verdict: Holds, Text: "The basket stays in", Do: "Leave it", Source: reason.Trade, Means: "The spring holds."},
			{Verdict: DropsOut, Text: "It drops out when knocked", Bad: true, Do: "A new spring", Source: reason.Trade,
				Fit: "a basket spring", Symptom: "basket_falls",
				Means: "The spring in the handle is tired: bend it out a little, or fit a new one."},
		}},
	{Sight: Spouts, Title: "Spouts", Ask: "The spouts: which is nearest?", At: OffCold,
		How: []string{"Basket out. Look through the handle from above, against the light."}, Seen: []Seen{
			{Verdict: Clean, Text: "Bright metal", Do: "Leave them", Source: reason.Trade, Means: "Coffee runs freely."},
			{Verdict: Stained, Text: "A brown film", Bad: true, Do: "Soak them within a month", Source: reason.Trade,
				Moves: []Move{{task.Soak, Soon}}, Means: "Old oil, which is tasted: the handles are soaked."},
			{Verdict: Blocked, Text: "Crusts, or one runs less", Bad: true, Do: "Soak them now", Source: reason.Trade,
				Moves: []Move{{task.Soak, Now}}, Means: "Crusts come off into the cup: soak the handles now, metal only, and " +
					"push a brush through."},
		}},
	{Sight: Tip, Title: "Steam tip", Ask: "The steam tip: which is nearest?", At: OffCold, fits: hasWand,
		How: []string{"Wiped, and against the light. Count the holes."}, Cautions: []reason.Caution{shut}, Seen: []Seen{
			{Verdict: Clean, Text: "Every hole open", Do: "Leave it", Source: reason.Trade, Means: "It steams as it should."},
			{Verdict: SomeBlocked, Text: "A hole stays blocked", Bad: true, Do: "Soak it", Source: reason.Trade,
				Fit: "a steam tip", Symptom: "weak_steam", Moves: []Move{{task.Tip, Soon}},
				Means: "Milk has set in it. Soak it longer; if it stays shut, fit a new tip."},
		}},
	{Sight: Gauze, Title: "Tap gauze", Ask: "The gauze of the hot-water tap: which is nearest?", At: OffCold,
		fits:     func(f machine.Facts) bool { return steams(f) },
		How:      []string{"Unscrew it from the mouth of the tap. It is a free look at the boiler's inside."},
		Cautions: []reason.Caution{shut}, Seen: []Seen{
			{Verdict: Clean, Text: "Clean", Do: "Leave it", Source: reason.Trade, Means: "The boiler is clean inside."},
			{Verdict: Dusting, Text: "A dusting of white", Do: "Leave it", Source: reason.Trade,
				Means: "Some scale, as was expected."},
			{Verdict: Crusted, Text: "Crusted", Bad: true, Do: "Descale now", Source: reason.Trade,
				Moves: []Move{{task.Descale, Now}},
				Means: "There is scale in the boiler: the descale comes now, and the last one counts only in part. Draw more " +
					"hot water from now on."},
		}},
	{Sight: Strainer, Title: "Tank strainer", Ask: "The strainer of the tank: which is nearest?", At: OffCold,
		fits: hasTank, How: []string{"Tank out. The gauze at the end of the hose, or at its bottom."}, Seen: []Seen{
			{Verdict: Clean, Text: "Clear", Do: "Leave it", Source: reason.Trade, Means: "The pump gets its water."},
			{Verdict: Slimy, Text: "Slimy", Bad: true, Do: "Wipe the tank", Source: reason.Trade,
				Moves: []Move{{task.Tank, Soon}},
				Means: "Water has stood too long: wipe the tank again within a month, and fill it fresh every day."},
			{Verdict: Flakes, Text: "White grains or flakes", Bad: true, Do: "Look for scale", Source: reason.Trade,
				Moves: []Move{{task.LookForScale, Now}}, Means: "Where flakes come from there is more scale: look for it."},
		}},
	{Sight: TankWall, Title: "Tank", Ask: "The tank inside: which is nearest?", At: OffCold, fits: hasTank,
		How: []string{"Empty, against the light; a finger along its wall."}, Seen: []Seen{
			{Verdict: Clean, Text: "Clear and smooth", Do: "Leave it", Source: reason.Trade, Means: "The water is fresh."},
			{Verdict: Slimy, Text: "Slippery, or cloudy", Bad: true, Do: "Wipe it now", Source: reason.Trade,
				Moves: []Move{{task.Tank, Now}}, Means: "Something grows in it: wipe it now, and fill it fresh every day."},
			{Verdict: Ringed, Text: "A white line at the water's edge", Bad: true, Do: "Look for scale",
				Source: reason.Trade, Moves: []Move{{task.LookForScale, Soon}},
				Means: "The water leaves scale where it is cold already: look for it where it is hot."},
			{Verdict: Cracked, Text: "A crack", Bad: true, Do: "A new tank", Source: reason.Trade, Fit: "a tank",
				Means: "It will leak over live parts: use it no more, and fit a new tank."},
		}},
	{Sight: Probe, Title: "Level probe", Seen: []Seen{
		{Verdict: Clean, Text: "Clean metal", Do: "Leave it", Source: reason.Trade, Means: "It feels the water."},
		{Verdict: Crusted, Text: "White with scale", Bad: true, Do: "Clean it", Source: reason.Trade,
			Moves: []Move{{task.LookForScale, Now}},
			Means: "A crusted probe does not feel the water, and the boiler overfills. Clean it, and look for scale."},
	}},
}
