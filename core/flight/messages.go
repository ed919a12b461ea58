package flight

// What config.go says.
const (
	msgStartRight   = "start to the right in m"
	msgStartAway    = "start away in m"
	msgStartHeight  = "start height in m"
	msgStartHeading = "start heading in rad"
	msgDensity      = "density in kg/m³"
	msgReturnHeight = "return height in m"
	msgStationRight = "station to the right in m"
	msgStationAway  = "station away in m"
)

// What contact.go says.
const (
	msgHitGround         = "hit the ground at %.1f m/s"
	msgRotorStruckGround = "a rotor struck the ground"
	msgGrassStoppedRotor = "grass stopped a rotor"
)

// What craft.go says.
const (
	msgMass           = "mass in kg"
	msgRotorRadius    = "rotor radius in m"
	msgHoverTurns     = "hover turns a second"
	msgFigureOfMerit  = "figure of merit"
	msgRotorLag       = "rotor lag in s"
	msgInertiaPitch   = "inertia about pitch in kg m²"
	msgInertiaRoll    = "inertia about roll in kg m²"
	msgInertiaYaw     = "inertia about yaw in kg m²"
	msgCapacity       = "capacity in Ah"
	msgThrustToWeight = "full thrust over weight"
	msgBodyDrag       = "body drag in m²"
	msgCellResistance = "cell resistance in ohm"
	msgPropellerPitch = "propeller pitch in m"
)

// What events.go says.
const (
	msgCompassRight     = "compass right again"
	msgAutomaticTakeOff = "automatic take-off"
	msgPositionFixLost  = "position fix lost"
	msgPositionFixBack  = "position fix back"
	msgCraftCrashed     = "the craft has crashed"
	msgMotorsStopped    = "the motors do not run"
	msgInTheAir         = "the craft is in the air"
	msgHoldsNoHeight    = "the craft holds no height by itself"
	msgNotInTheAir      = "the craft is not in the air"
	msgHoldsNoPosition  = "the craft has no position hold"
	msgNoPositionFix    = "there is no position fix"
	msgNoHomePoint      = "no home point was recorded"
	msgNotFlyingItself  = "nothing flies by itself"
	msgHasRotors        = "the craft has %d rotors"
	msgMotorsRunAlready = "the motors run already"
	msgPackEmpty        = "the pack is empty"
	msgNotOnTheGround   = "the craft is not on the ground"
	msgThrottleNotLow   = "throttle is not low"
	msgNotLevel         = "the craft is not level"
	msgNoLink           = "there is no link"
	msgCompassOff       = "compass off by %s°"
	msgStickFrameTurned = "stick frame turned to %s"
)

// What mixer.go says.
const (
	msgYawKeeps      = "yaw keeps %.0f %% of what is asked"
	msgThrustLowered = "thrust is lowered to make room for the lean"
	msgThrustRaised  = "thrust is raised to make room for the lean"
	msgRollPitchKeep = "even roll and pitch keep only %.0f %%"
	msgNotAllGiven   = "Not all of what is asked can be given: %s."
)

// What run.go says.
const (
	msgPackWasEmpty = "the pack was empty"
)

// What sticks.go says.
const (
	msgNoHeaderLine    = "no header line"
	msgFileTooLarge    = "the file is larger than %d MB"
	msgWantAnHour      = "a flight of an hour at most"
	msgWantCSV         = "comma-separated values"
	msgTooManyRows     = "more than %d rows"
	msgWantRisingTimes = "times that rise"
	msgWantNumber      = "a number from %v to %v"
	msgColumnCount     = "there are %d columns"
	msgColumnTwice     = "the column %.40q stands twice"
	msgWantColumnsOnce = "each column once"
	msgColumnMissing   = "the column %s is missing"
	msgWantColumns     = "t_s, throttle, yaw, pitch and roll"
	msgFrameWrong      = "the frame is %.40q"
)

// What flight.go says.
const (
	msgPackWasEmptyAlso = "the pack was empty; %s"
)

// What solids.go says.
const (
	msgCameDown = "came down in %s"
)
