package demo

// What checks.go says.
const (
	msgTakeOffPlace = "the take-off place"
)

// What fieldday.go says.
const (
	msgCountedLanding = "counted by the landing"
)

// What fleet.go says.
const (
	msgConcreteOldSalt = "Concrete of the old salt works, 60 by 90 m. In by the north gate; the key hangs in " +
		"the pump house.\nA north-westerly rises after eleven and comes from behind the station.\nThe low wire " +
		"feeds the pump. Herons on the dyke in spring."
	msgShortGrassBehind = "Short grass behind the dune. Walkers on the path on Sundays: crowd line along it. " +
		"Sand in the air over 8 m/s."
	msgSwollenAfterLast   = "swollen after the last flight, put in the sand box"
	msgTurnCraft          = "turn with the craft"
	msgMendedBench        = "mended at the bench"
	msgNosePushedWrong    = "nose-in, pushed the wrong way"
	msgTippedOverGrass    = "tipped over in the grass"
	msgCutThrottleTwo     = "cut the throttle at two metres"
	msgDriftedOffSide     = "drifted off to the side"
	msgWindOrGust         = "wind or gust"
	msgCaughtGustOver     = "caught by a gust over the dyke"
	msgMotorAllPropellers = "motor 2 and all propellers changed"
	msgTooFastStop        = "too fast to stop"
	msgIntoPumpHouse      = "into the pump house door"
	msgOneLegKerb         = "one leg on the kerb"
	msgLowWire            = "the low wire"
	msgPumpHouse          = "the pump house"
	msgDunePath           = "the dune path"
)

// What school.go says.
const (
	msgScuolaDiVolo = "Scuola di volo Saline di Levante"
)

// What fleet.go says.
const (
	msgLaidFromTemplate = "laid from the template %s"
)
