package record

// What record.go says.
const (
	msgStandsTwiceAttempts = "%s stands there twice, as attempts[%d]; it is taken once"
)

// What signed.go says.
const (
	msgSignatureNotWritten   = "the signature is not written as it was signed"
	msgSignatureNoneEd       = "the signature is not an Ed25519 signature"
	msgSignatureDoesNot      = "the signature does not fit the record: it was changed after it was signed"
	msgSignedAnotherKey      = "it is signed with another key than the one that was expected"
	msgRowChainNo            = "row %d of the chain has no hash of SHA-256"
	msgChainBrokenRow        = "the chain is broken at row %d: it does not follow from the rows before it"
	msgRowChainHolds         = "row %d of the chain holds no attempt with its id"
	msgAttemptsNotChain      = "attempts[%d] is not in the chain"
	msgAttemptsSaysSomething = "attempts[%d] differs from the chain"
	msgAttemptsChainMissing  = "%d attempts of the chain are missing"
	msgAttemptMarksRow       = "attempt %s has marks, and its row of the chain knows of none"
	msgMarksAttemptMissing   = "the marks of attempt %s are missing"
	msgMarksAttemptNot       = "the marks of attempt %s are not those that it was judged by"
)

// What record.go says.
const (
	msgNotRead = "%s%s is not read"
)
