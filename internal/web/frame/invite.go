package frame

// InviteForm is a form that invites somebody: shown on the list of people and among the first steps.
type InviteForm struct {
	Back     string // where to go on to after the link was shown
	Students []InviteStudent
}

// InviteStudent is a student who has no account yet.
type InviteStudent struct{ ID, Name string }
