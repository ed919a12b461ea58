package pack

// What charger.go says.
const (
	msgWantPackLabel  = "the label of the pack in the slot"
	msgNoPackInSlot   = "is empty and the slot is %s"
	msgWantSlotState  = "free, charging, full or fault"
	msgWantShortName  = "a name of up to 60 letters"
	msgNameTooLong    = "a name is %d bytes long"
	msgNoReasonTold   = "it did not say why"
	msgWantChemistry  = "lipo, lihv or li-ion"
	msgWantPutOrTake  = "put or take"
	msgChargerStopped = "the charger stopped: %s"
)

// What chemistry.go says.
const (
	msgOrMoreCells = ", or a pack of %d cells"
)

// What fleet.go says.
const (
	msgNameWrong   = "the name %q is empty, too long or stands here twice"
	msgWantOwnName = "a name of its own, up to 60 letters"
	msgDayWrong    = "the day is %q"
)

// What record.go says.
const (
	msgTakenOut         = "taken out of use: %s"
	msgPuffed           = "puffed; never charge or fly it, and dispose of it at a collection point"
	msgCellTooLow       = "cell %d rested at %.2f V, under %.1f V"
	msgCellsTooFarApart = "cells stand %.2f V apart; balance it, and retire it if it comes back"
	msgCellsApart       = "cells stand %.2f V apart"
	msgResistanceRisen  = "its resistance is %.1f times what it was"
	msgManyCharges      = "%.0f full charges; a %s pack usually gives %.0f"
	msgFullForDays      = "full for %.0f days; bring it to %.2f V a cell"
	msgOhmMeasured      = "from the volts under load"
	msgOhmOfType        = "the type's when new"
)

// What sketch.go says.
const (
	msgOwnType    = "own type, %d rotors"
	msgTypeAsItIs = "as it is"
)
