package yamldoc

// What yamldoc.go says.
const (
	msgFileTooLarge    = "the file is larger than 1 MiB"
	msgWantWrittenFile = "a file that a person wrote"
	msgFileEmpty       = "the file is empty"
	msgSecondDocument  = "a second document begins here"
	msgWantOneDocument = "one document in a file"
	msgNoAnchors       = "anchors and aliases are not read"
	msgWantWrittenOut  = "values written out"
	msgKeyTwice        = "%q stands here twice"
	msgWantKeyOnce     = "each key once"
	msgWantBool        = "true or false"
	msgWantNumber      = "a number from %v to %v"
	msgWantWhole       = "a whole number from %d to %d"
	msgNotParsed       = "the document was not parsed beforehand"
	msgWantParsed      = "one that came with the day"
	msgUnknownKey      = "unknown key %q in %s"
)
