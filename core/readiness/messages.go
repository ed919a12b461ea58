package readiness

// Why a student needs attention.
const (
	msgLapsing   = "The sign-off “%[1]s” ends on %[2]s."
	msgStuck     = "%[1]s is still not held after %[2]d attempts."
	msgReady     = "The gate “%[1]s” can be signed."
	msgNear      = "The gate “%[1]s” needs at least %[2]d more attempts."
	msgNearOne   = "The gate “%[1]s” needs at least one more attempt."
	msgAbsent    = "Has not flown for %[1]d days."
	msgNeverFlew = "Has not flown yet."
)
