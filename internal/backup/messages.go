package backup

// What backup.go says.
const (
	msgPgappnameMaestraleBackup = "PGAPPNAME=maestrale backup"
)

// What keep.go says.
const (
	msgBackupFailedTried = "backup failed; it is tried again"
)
