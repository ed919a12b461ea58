package pack

// What charger.go says.
const (
	msgLabelPackSlot    = "the label of the pack in the slot"
	msgEmptySlot        = "is empty and the slot is %s"
	msgFreeChargingFull = "free, charging, full or fault"
	msgNameUpLetters    = "a name of up to 60 letters"
	msgNameBytesLong    = "a name is %d bytes long"
	msgDidNotSay        = "it did not say why"
	msgLipoLihvOr       = "lipo, lihv or li-ion"
	msgPutOrTake        = "put or take"
)

// What chemistry.go says.
const (
	msgOrPackCells = ", or a pack of %d cells"
)

// What fleet.go says.
const (
	msgNameEmptyToo = "the name %q is empty, too long or stands here twice"
	msgNameOwnUp    = "a name of its own, up to 60 letters"
	msgTheDayIs     = "the day is %q"
)

// What record.go says.
const (
	msgTakenOutUse         = "taken out of use: %s"
	msgPuffedNeverCharge   = "puffed; never charge or fly it, and dispose of it at a collection point"
	msgCellRestedUnder     = "cell %d rested at %.2f V, under %.1f V"
	msgCellsStandApart     = "cells stand %.2f V apart; balance it, and retire it if it comes back"
	msgCellsApart          = "cells stand %.2f V apart"
	msgResistanceTimesWhat = "its resistance is %.1f times what it was"
	msgFullChargesPack     = "%.0f full charges; a %s pack usually gives %.0f"
	msgFullDaysBring       = "full for %.0f days; bring it to %.2f V a cell"
	msgFromVoltsUnder      = "from the volts under load"
	msgTypeWhenNew         = "the type's when new"
)

// What sketch.go says.
const (
	msgOwnTypeRotors = "own type, %d rotors"
	msgAsItIs        = "as it is"
)

// What charger.go says.
const (
	msgChargerStopped = "the charger stopped: %s"
)
