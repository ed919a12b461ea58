package yamldoc

// What yamldoc.go says.
const (
	msgFileLargerMib        = "the file is larger than 1 MiB"
	msgFilePersonWrote      = "a file that a person wrote"
	msgFileEmpty            = "the file is empty"
	msgSecondDocumentBegins = "a second document begins here"
	msgOneDocumentFile      = "one document in a file"
	msgAnchorsAliasesNot    = "anchors and aliases are not read"
	msgValuesWrittenOut     = "values written out"
	msgStandsHereTwice      = "%q stands here twice"
	msgEachKeyOnce          = "each key once"
	msgTrueOrFalse          = "true or false"
	msgNumberFrom           = "a number from %v to %v"
	msgWholeNumberFrom      = "a whole number from %d to %d"
	msgNotParsed            = "the document was not parsed beforehand"
	msgParsedBeforehand     = "one that came with the day"
	msgUnknownKey           = "unknown key %q in %s"
)
