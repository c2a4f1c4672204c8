package state

// User is who asks.
type User struct {
	Account string
	Academy string
	Role    Role
	Person  string
	Name    string
}

// Role says what somebody may do.
type Role string

// The roles.
const (
	Head    Role = "head instructor"
	Coach   Role = "coach"
	Desk    Role = "front desk"
	Student Role = "student"
)
