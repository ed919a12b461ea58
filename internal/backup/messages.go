package backup

// What keep.go says.
const (
	msgBackupFailedTried = "backup failed; it is tried again"
)
