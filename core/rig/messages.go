package rig

// What gates.go says.
const (
	msgFindTheNose = "It is turned about. Find its nose and bring it home"
	msgLinkLost    = "The link is lost"
	msgLinkBack    = "The link is back: take over"
	msgPackRunsLow = "The pack runs low"
	msgTurnRound   = "Turn %s %s round, and on by %.0f°"
)
