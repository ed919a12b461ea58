package jsondoc

// What jsondoc.go says.
const (
	msgWantOneDay   = "a document of one day"
	msgFileTooLarge = "the file is larger than 64 MB"
	msgWantTexts    = "a list of texts"
	msgWantNumber   = "a number from %g to %g"
	msgWantWhole    = "a whole number from %d to %d"
	msgWantBool     = "true or false"
	msgNotRead      = "%s is not read"
)
