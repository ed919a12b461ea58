package learning

// What learning.go says.
const (
	msgHowStudentsLearn = "how students learn was not fitted"
)
