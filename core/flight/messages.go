package flight

// What config.go says.
const (
	msgStartRight      = "start to the right in m"
	msgStartAway       = "start away in m"
	msgStartHeight     = "start height in m"
	msgStartHeadingRad = "start heading in rad"
	msgDensityKg       = "density in kg/m³"
	msgReturnHeight    = "return height in m"
	msgStationRight    = "station to the right in m"
	msgStationAway     = "station away in m"
)

// What contact.go says.
const (
	msgHitGround         = "hit the ground at %.1f m/s"
	msgRotorStruckGround = "a rotor struck the ground"
	msgGrassStoppedRotor = "grass stopped a rotor"
)

// What craft.go says.
const (
	msgMassKg            = "mass in kg"
	msgRotorRadius       = "rotor radius in m"
	msgHoverTurnsSecond  = "hover turns a second"
	msgFigureMerit       = "figure of merit"
	msgRotorLag          = "rotor lag in s"
	msgInertiaAboutPitch = "inertia about pitch in kg m²"
	msgInertiaAboutRoll  = "inertia about roll in kg m²"
	msgInertiaAboutYaw   = "inertia about yaw in kg m²"
	msgCapacityAh        = "capacity in Ah"
	msgFullThrustOver    = "full thrust over weight"
	msgBodyDrag          = "body drag in m²"
	msgCellResistanceOhm = "cell resistance in ohm"
	msgPropellerPitch    = "propeller pitch in m"
)

// What events.go says.
const (
	msgCompassRightAgain  = "compass right again"
	msgAutomaticTakeOff   = "automatic take-off"
	msgPositionFixLost    = "position fix lost"
	msgPositionFixBack    = "position fix back"
	msgCraftCrashed       = "the craft has crashed"
	msgMotorsDoNot        = "the motors do not run"
	msgCraftAir           = "the craft is in the air"
	msgCraftHoldsNo       = "the craft holds no height by itself"
	msgCraftNotAir        = "the craft is not in the air"
	msgCraftNoPosition    = "the craft has no position hold"
	msgNoPositionFix      = "there is no position fix"
	msgNoHomePoint        = "no home point was recorded"
	msgNothingFliesItself = "nothing flies by itself"
	msgCraftRotors        = "the craft has %d rotors"
	msgMotorsRunAlready   = "the motors run already"
	msgPackEmpty          = "the pack is empty"
	msgCraftNotGround     = "the craft is not on the ground"
	msgThrottleNotLow     = "throttle is not low"
	msgCraftNotLevel      = "the craft is not level"
	msgNoLink             = "there is no link"
)

// What mixer.go says.
const (
	msgYawKeepsWhat      = "yaw keeps %.0f %% of what is asked"
	msgThrustLoweredMake = "thrust is lowered to make room for the lean"
	msgThrustRaisedMake  = "thrust is raised to make room for the lean"
	msgEvenRollPitch     = "even roll and pitch keep only %.0f %%"
)

// What run.go says.
const (
	msgPackWasEmpty = "the pack was empty"
)

// What sticks.go says.
const (
	msgNoHeaderLine         = "no header line"
	msgFileLargerMb         = "the file is larger than %d MB"
	msgFlightHourMost       = "a flight of an hour at most"
	msgCommaSeparatedValues = "comma-separated values"
	msgMoreRows             = "more than %d rows"
	msgTimesRise            = "times that rise"
	msgNumberFrom           = "a number from %v to %v"
	msgThereAreColumns      = "there are %d columns"
	msgColumnStandsTwice    = "the column %.40q stands twice"
	msgEachColumnOnce       = "each column once"
	msgColumnMissing        = "the column %s is missing"
	msgThrottleYawPitch     = "t_s, throttle, yaw, pitch and roll"
	msgTheFrameIs           = "the frame is %.40q"
)

// What events.go says.
const (
	msgCompassOff       = "compass off by %s°"
	msgStickFrameTurned = "stick frame turned to %s"
)

// What flight.go says.
const (
	msgPackEmptyAnd = "the pack was empty; %s"
)

// What mixer.go says.
const (
	msgNotAllCan = "Not all of what is asked can be given: %s."
)

// What solids.go says.
const (
	msgCameDown = "came down in %s"
)
