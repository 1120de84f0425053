package bench

// Kinds of turns.
const (
	VesselUsed    = "used"
	VesselCleaned = "cleaned"
)
