package jsondoc

// What jsondoc.go says.
const (
	msgDocumentOneDay  = "a document of one day"
	msgFileLargerMb    = "the file is larger than 64 MB"
	msgListTexts       = "a list of texts"
	msgNumberFrom      = "a number from %g to %g"
	msgWholeNumberFrom = "a whole number from %d to %d"
	msgTrueOrFalse     = "true or false"
)

// What jsondoc.go says.
const (
	msgNotRead = "%s is not read"
)
