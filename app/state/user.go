package state

import (
	"slices"

	"vereda/core/say"
)

// User is who asks.
type User struct {
	Account string
	Academy string
	Roles   []Role
	Person  string
	Wards   []string // whose pages a guardian sees
	Name    string
	Session string // where they are signed in
	Address string // where they ask from
	// WantsFactor says that the academy wants a second factor of them which they have not set up: they do that before anything else.
	WantsFactor bool
}

// Is says whether somebody has one of some roles.
func (u User) Is(any ...Role) bool {
	return slices.ContainsFunc(u.Roles, func(r Role) bool { return slices.Contains(any, r) })
}

// Teaches says whether somebody is on the mat with a class: they see what people are kept out of.
func (u User) Teaches() bool { return u.Is(Head, Coach, Assistant) }

// Sees says whether a person's own page is open to somebody who teaches nobody: it is theirs, or their child's.
func (u User) Sees(person string) bool {
	return person != "" && (u.Is(Student) && u.Person == person || u.Is(Guardian) && slices.Contains(u.Wards, person))
}

// Role says what somebody may do. A person can have several, and may do what any of them may.
type Role string

// Say is the role in the reader's language.
func (r Role) Say() say.Sentence { return say.Word(r) }

// The roles.
const (
	Head      Role = "head instructor"
	Coach     Role = "coach"
	Assistant Role = "assistant" // leads drills and records; does not check for a rank
	Desk      Role = "front desk"
	Student   Role = "student"
	Guardian  Role = "guardian" // sees their child's page
)

// Roles are those there are, the one with the most to say first.
var Roles = []Role{Head, Coach, Assistant, Desk, Student, Guardian}

// RoleMeans says in a line what each role is for.
var RoleMeans = map[Role]say.Sentence{
	Head:      "Owns the library, plans, decides about ranks, sees everything",
	Coach:     "Runs classes, records them, checks students",
	Assistant: "Leads drills and records; does not check for a rank",
	Desk:      "Who is here tonight, and whom to call for a minor",
	Student:   "Their own page",
	Guardian:  "Their child's page",
}
