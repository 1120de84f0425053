// Package people says who may do what. There are three roles; each may do everything the one below may.
package people

import "slices"

// Role is what somebody is in the shop.
type Role string

// The roles (handbook 12). A helper weighs, fills, reads and ticks. A maker also works on formulas, decides in the safe
// direction and releases a pass. An owner does everything, and alone: rules, documents, reopening, call-backs, people,
// loosening anything.
const (
	Helper Role = "helper"
	Maker  Role = "maker"
	Owner  Role = "owner"
)

// Roles are all of them, the lowest first.
var Roles = []Role{Helper, Maker, Owner}

// Known reports whether there is such a role.
func (r Role) Known() bool { return slices.Contains(Roles, r) }

// May reports whether somebody of this role may do what asks for another. An unknown role may do nothing.
func (r Role) May(asked Role) bool {
	return r.Known() && asked.Known() && slices.Index(Roles, r) >= slices.Index(Roles, asked)
}

// Person is somebody who acts: a name and a role in the shop.
type Person struct {
	Name string `json:"name"`
	Role Role   `json:"role"`
}
