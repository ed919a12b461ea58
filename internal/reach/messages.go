package reach

// What reach.go says.
const (
	msgServerSpeaksHttps = "This server speaks HTTPS: nothing is taken over plain HTTP. Nothing was changed."
)
