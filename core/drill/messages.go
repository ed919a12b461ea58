package drill

// What a course lacks.
const (
	msgNeedsTemplate = "%[1]s needs a course that is laid out as “%[2]s”: this course has no marker “%[3]s”"
)
