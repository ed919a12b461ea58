package record

// What record.go says.
const (
	msgAttemptTwice = "%s stands there twice, as attempts[%d]; it is taken once"
	msgNotRead      = "%s%s is not read"
)

// What signed.go says.
const (
	msgSignatureSpeltWrong  = "the signature is not written as it was signed"
	msgSignatureOfOtherKind = "the signature is not an Ed25519 signature"
	msgSignatureDoesNotFit  = "the signature does not fit the record: it was changed after it was signed"
	msgSignedWithOtherKey   = "it is signed with another key than the one that was expected"
	msgRowWithoutHash       = "row %d of the chain has no hash of SHA-256"
	msgChainBroken          = "the chain is broken at row %d: it does not follow from the rows before it"
	msgRowWithoutAttempt    = "row %d of the chain holds no attempt with its id"
	msgAttemptNotInChain    = "attempts[%d] is not in the chain"
	msgAttemptDiffers       = "attempts[%d] differs from the chain"
	msgAttemptsMissing      = "%d attempts of the chain are missing"
	msgMarksNotInChain      = "attempt %s has marks, and its row of the chain knows of none"
	msgMarksMissing         = "the marks of attempt %s are missing"
	msgMarksDiffer          = "the marks of attempt %s are not those that it was judged by"
)
