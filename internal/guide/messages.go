package guide

// Pages say how each place works, in the order of the navigation.
var Pages = []Page{
	{Key: "today", Title: "How Today works", Place: "Today", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Today runs a field day: who flies when, with which craft and pack, and when each pack charges. " +
				"It says what needs attention first, who is in the air, and who flies next."}},
		{Title: "How to use it", Steps: []string{
			"Make the field day: say who, which craft, packs and chargers are there, and until when.",
			"Check each craft before its first flight.",
			"Start the next flight, mark its drills on the pad, and land it.",
			"When somebody is late, a pack fails or the wind rises, say so and plan the rest again.",
			"Close the day. Flights that nobody ended are ended then."}},
		{Title: "How it computes", Text: []string{
			"A flight is planned only where craft, pack, box, instructor and, if needed, spotter are free together, the " +
				"pack is charged, the wind is within the limits of the craft and of the student, and the student has rested.",
			"Planning again keeps what it can. A flight that does not fit is left out, with the reason.",
			"The mean wind is compared with the mean limit, and gusts with the limit for gusts."}},
		{Title: "Moving a flight", Text: []string{
			"Drag it along its lane or to another box, or choose it and use the arrow keys. While it moves, the page " +
				"says what the move would break."}}}},
	{Key: "pad", Title: "How the pad works", Place: "Pad", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"The pad is a phone or tablet at the field. An instructor marks each drill with a few taps while watching " +
				"the craft, and the pad says the verdict."}},
		{Title: "How to use it", Steps: []string{
			"Choose the student. The pad proposes the drill, side, aids and level that come next.",
			"Tap as each step begins and ends, and tap the fault when one happens.",
			"A wrong tap can be undone. After the verdict an attempt can be made void with a reason."}},
		{Title: "Without a network", Text: []string{
			"Over HTTPS the pad works without a network. Marks are kept on the device under the sign-in that made them, " +
				"and are delivered later. A lock with a PIN protects a device that lies on the table.",
			"What arrives after its sign-in has ended counts only when the person who made it, or the chief instructor, " +
				"says so."}},
		{Title: "What a spotter does", Text: []string{
			"A spotter sees the same attempt and marks when the craft leaves the box, calls and traffic. These marks " +
				"join those of the instructor by their time."}}}},
	{Key: "students", Title: "How Students works", Place: "Students", Students: true, Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Students lists everybody in training, those who need attention first: whose sign-off ends soon, who is " +
				"stuck, who is ready for a gate, who has not flown for long. A student's page shows what comes next and why."}},
		{Title: "When an item is held", Text: []string{
			"An item is one drill on one side with one set of aids at one level. It is held when three of the newest four " +
				"attempts passed, with passes on at least two dates, and the newest pass is still current.",
			"A pass with fewer aids or at a higher level counts too. Currency is 14 days with passes on two dates; each " +
				"further date doubles it, up to 90 days. Then the item has lapsed, and one pass renews it."}},
		{Title: "What next", Text: []string{
			"Every screen asks the same rule what to fly next. It starts from the list of the next gate in the order of " +
				"the ladder. What lapsed under a signed gate comes first. A drill that was never flown and builds up to " +
				"another comes before it. What failed three times rests until the second lesson after.",
			"What the wind, the light or the distance would turn into mere practice is left out. No drill takes more than " +
				"half of a lesson, sides alternate, and the lesson ends with something that goes well."}},
		{Title: "The chance of a pass", Text: []string{
			"The chance comes from the student's own attempts and from how students of this school learn. It advises; " +
				"only the rules above decide. Where too little is known, it is said in words."}},
		{Title: "Debrief", Text: []string{
			"A debrief begins with the one thing to fix, at the moment when it happened. The margin tells how far inside " +
				"the limits the worst figure stayed."}}}},
	{Key: "fly", Title: "How Fly works", Place: "Fly", Students: true, Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Fly is the simulator, with the same drills as at the field, and trainers for reflexes, a lost craft, visual " +
				"range, planned yaw, the four quarters and what the rotors do."}},
		{Title: "How to use it", Steps: []string{
			"Set up a radio once, or fly with the keyboard or two touch sticks.",
			"Choose a drill; the page says its steps. Start the motors and fly.",
			"Open the debrief of the run."}},
		{Title: "What counts", Text: []string{
			"The server flies each run again from its stick movements and judges it like a flight at the field. It is " +
				"kept apart: a run in the simulator opens the next rung for practice and never holds an item at the field.",
			"With the nose shown from above, the zoom inset or the coach, a run is practice only."}},
		{Title: "What is true to life", Text: []string{
			"The craft is drawn as small as it is from the pilot's place, if the screen size and the viewing distance are " +
				"set. Thrust, drag, wind with gusts, ground effect, the pack and the sensors are computed 500 times a second. " +
				"docs/formats.md names the source of each formula."}}}},
	{Key: "course", Title: "How Course works", Place: "Course", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Course lays out the markers for the drills at a site, and checks whether every drill keeps clear of people, " +
				"hazards and the sun."}},
		{Title: "How to use it", Steps: []string{
			"Add the site with its coordinates, then lay a template of markers over it.",
			"Draw in trees, wires, walls, water and the line behind which people stand.",
			"Turn the course until the wind is behind the pilot and the drills are clear.",
			"Print the sheet: it gives each marker in paces and in metres, and the diagonals to tape."}},
		{Title: "How it computes", Text: []string{
			"The distance to people and hazards is measured after the craft has stopped and drifted for a minute. It is " +
				"wider for heavier craft.",
			"The fall area is where the craft may land if power fails at any moment of a drill. Nobody may stand there.",
			"The return height clears the tallest hazard between the drills and the home point."}}}},
	{Key: "fleet", Title: "How Fleet works", Place: "Fleet", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Fleet holds the craft with their checks, repairs and crashes, the packs with their charge and health, and the " +
				"spares."}},
		{Title: "The check before a flight", Text: []string{
			"The check asks in the order in which things are switched on, and computes what can be computed: wind against " +
				"the limits, the charge against the flight, compass, return height and fence. An instructor can override an " +
				"answer with a reason, which is kept.",
			"A craft with a new motor or after a crash needs a proving flight by an instructor first."}},
		{Title: "How it computes", Text: []string{
			"Hover time comes from momentum theory and the measured figure of merit of the type; each measured hover " +
				"improves it. Range is what brings the craft home against the wind with the reserve left.",
			"A pack whose charge is unknown is given neither a time nor a range.",
			"The spares list covers nine days in ten, from the crashes that were recorded. It never goes below one set of " +
				"propellers."}},
		{Title: "Take care", Text: []string{
			"Never leave a charging pack alone. A puffed pack is taken out of use for good. Propellers are live as long as " +
				"a pack is connected."}}}},
	{Key: "programmes", Title: "How Programmes works", Place: "Programmes", Students: true, Sections: []Section{
		{Title: "What it is for", Text: []string{
			"A programme is a ladder of rungs from the first flight up. Each rung has drills with their aids. Gates are " +
				"lines across the ladder: what a student may do alone from there."}},
		{Title: "Reading a drill", Text: []string{
			"The drawing shows the craft from above with its nose at each numbered step; Play moves it. The table gives the " +
				"limits by level and by class of craft."}},
		{Title: "Changing one", Text: []string{
			"A chief instructor can change a programme, a drill or a gate as text. The school's version then replaces the " +
				"built-in one, and attempts stay judged by the version under which they were flown. Where a gate asks less " +
				"than the built-in one, every page of the gate says so."}}}},
	{Key: "records", Title: "How Records works", Place: "Records", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"Records shows the school as a whole: who may fly alone, who is close to a gate, whose sign-off ends soon, " +
				"what holds people up, and where instructors judge differently."}},
		{Title: "What a record is", Text: []string{
			"Nothing that was recorded is changed. A correction is a new entry that points to the old one, and each entry " +
				"carries a hash of the one before it, so that a missing or changed entry is found.",
			"A signed record can be given to another school, which can verify it."}},
		{Title: "Eye and log", Text: []string{
			"Where an attempt was both marked by eye and recorded in a log, this page tells how often both agree, and by how " +
				"many metres an instructor is stricter or more lenient than the drill."}}}},
	{Key: "school", Title: "How School works", Place: "School", Sections: []Section{
		{Title: "What it is for", Text: []string{
			"School holds the people and what they may do, the rules that the school chooses, the devices, imports and " +
				"exports, and backups."}},
		{Title: "People", Text: []string{
			"Invite people by a link that works once, within seven days. A student needs no account to be marked. " +
				"A chief instructor may always sign gates; an instructor may while the right lasts."}},
		{Title: "Policies", Text: []string{
			"The school decides when a compass is calibrated, whether a craft may be caught by hand, and whether the light " +
				"is that of the sun or of a hall. What to do when something goes wrong is the same in every school."}},
		{Title: "Leaving", Text: []string{
			"Everything can be exported as one archive of open files. A closed school can still be read by its chiefs."}}}},
}

// Terms are the words of the school, in the order of the alphabet.
var Terms = []Term{
	{Key: "aids", Word: "Aids", Means: "How much the craft flies by itself. Most to least: position hold " +
		"(keeps its place " +
		"by satellite), height hold (keeps its height and drifts with the wind), self level (levels itself, throttle by " +
		"hand), tumble (levels only near the centre of the stick) and rate (levels nothing)."},
	{Key: "aspect", Word: "Aspect", Means: "Where the nose points as the pilot sees it: tail-in is away from the pilot, " +
		"nose-in toward the pilot, and in between the angle to the left or right."},
	{Key: "attempt", Word: "Attempt", Means: "One try at a drill by one student on one craft, with its evidence and its " +
		"verdict.", Also: []string{"attempts"}},
	{Key: "box", Word: "Box", Means: "The space in which one craft flies. Each box has one flight at a time.",
		Also: []string{"boxes"}},
	{Key: "currency", Word: "Currency", Means: "How long a held item stays held without another pass: 14 to 90 days.",
		Also: []string{"current"}},
	{Key: "fall-area", Word: "Fall area", Means: "Where a craft may land if power fails during a drill. Nobody stands " +
		"there."},
	{Key: "fence", Word: "Fence", Means: "Limits of height and distance that are set on the craft."},
	{Key: "gate", Word: "Gate", Means: "A level of readiness made of items and acts, such as flying alone with position " +
		"hold. It is signed by an instructor with the right to sign, for a limited time.", Also: []string{"gates"}},
	{Key: "held", Word: "Held", Means: "An item is held when three of the newest four attempts passed, on at least two " +
		"dates, and the newest pass is still current."},
	{Key: "item", Word: "Item", Means: "One drill on one side with one set of aids at one level: the " +
		"smallest thing that a " +
		"student can hold.", Also: []string{"items"}},
	{Key: "lapsed", Word: "Lapsed", Means: "An item that was held, whose newest pass is too old. One pass renews it.",
		Also: []string{"lapses"}},
	{Key: "level", Word: "Level", Means: "The same drill made harder: smaller, higher, faster or farther. " +
		"A pass counts for " +
		"the lower levels too."},
	{Key: "margin", Word: "Margin", Means: "How far inside the limits the worst figure of an attempt was, " +
		"as a share of the " +
		"limit. +0.40 means that four tenths of the limit were left; 0 is exactly on the limit; −0.30 is three tenths over " +
		"it, and −5.00 is six times the limit."},
	{Key: "nose-in", Word: "Nose in, tail in", Means: "Nose in: the nose points toward the pilot, so that " +
		"left and right on " +
		"the stick look exchanged. Tail in: the tail points toward the pilot.", Also: []string{"tail-in"}},
	{Key: "override", Word: "Override", Means: "An instructor's decision against what a rule says. It " +
		"needs a reason, which " +
		"stays in the record."},
	{Key: "pack", Word: "Pack", Means: "One battery. Practice is planned and counted in packs.", Also: []string{"packs"}},
	{Key: "practice", Word: "Practice only", Means: "An attempt that trains but does not count, for " +
		"instance because the " +
		"wind was over the drill's limit or the coach helped."},
	{Key: "proving", Word: "Proving flight", Means: "A short flight by an instructor after a repair or a crash, before " +
		"students fly the craft again."},
	{Key: "retreat", Word: "Retreat", Means: "What the pilot does when something goes wrong. It depends on " +
		"the aids: let go of " +
		"the sticks with position hold; without it, centre them, turn the tail to the pilot and expect drift."},
	{Key: "rung", Word: "Rung", Means: "A step of the ladder of a programme, with one or more drills.",
		Also: []string{"rungs", "ladder"}},
	{Key: "side", Word: "Side", Means: "The left or right version of a drill. Both are counted apart.",
		Also: []string{"sides"}},
	{Key: "sign-off", Word: "Sign-off", Means: "An instructor's signed decision that a student has passed " +
		"a gate. It ends on " +
		"a date and can be withdrawn.", Also: []string{"sign-offs"}},
	{Key: "spotter", Word: "Spotter", Means: "The person who keeps eyes on the craft and the field while the pilot flies.",
		Also: []string{"spotters"}},
	{Key: "standing", Word: "Standing", Means: "What an item is worth today: untried, building, held or lapsed."},
	{Key: "visual-range", Word: "Visual range", Means: "The distance to which a student can tell the nose " +
		"of a craft from its " +
		"tail. It depends on the craft, the eyes and the light."},
	{Key: "void", Word: "Void", Means: "An attempt that counts nowhere, because of something that was not the student's " +
		"doing. It stays in the record with its reason."},
}
