package store

// What attempts.go says.
const (
	msgIdDrillSide = "id, at, drill, side, level, aids, frame, craft_class, source, verdict, margin, " +
		"wind_mps,\n\twind_from_deg,\n\teyes, automatic, zoom, counts, why_not, corrects, summary, aspect_s, " +
		"gust_mps, site, light, answering, origin,\n\t\tcraft_type, watched"
)

// What checks.go says.
const (
	msgIdCraftId = "id, craft_id, pack_id, student_id, course_id, site, aids, minutes, first, goggles, " +
		"proving, begun_by, begun_at"
)

// What fleet.go says.
const (
	msgIdNameCraft = "id, name, craft_type, chemistry, cells, capacity_mah, mass_kg, bought_on"
)

// What marks.go says.
const (
	msgIdStudentId = "id, student_id, drill, side, level, aids, craft_type, site, opened_by, device_at, " +
		"opened_at, drill_source, course_source, flight_id, device_id, device_seq, began_at, sign_in_id, sure_s"
)

// What notes.go says.
const (
	msgNoteTakenOut = "(this note was taken out)"
)

// What people.go says.
const (
	msgIdNameProgramme = "id, name, programme, craft_type, trains_for, started_on, goal, left_on, grip"
)

// What school.go says.
const (
	msgIdNameTime = "id, name, time_zone, length_unit, speed_unit, created_at, closed_at, idle_minutes, light"
)

// What signoffs.go says.
const (
	msgMadeCardSign = "made a card of a sign-off"
)

// What tries.go says.
const (
	msgZeroByteOr = "a zero byte, or something that is no UTF-8,"
)

// What wind.go says.
const (
	msgMpsGustMps = "at = $2, mps = $3, gust_mps = $4, from_true_deg = $5, long_mps = $6, long_gust_mps = $7, " +
		"long_from_true_deg = $8, steady = $9, stuck = $13, "
)
