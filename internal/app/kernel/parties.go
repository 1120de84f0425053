package kernel

import (
	"slices"
	"strings"

	"gallipot/internal/core/day"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
)

// Kinds of parties.
const (
	Customer = "customer"
	Market   = "market"
)

// Party is who has jars: a customer, or a market day.
type Party struct {
	ID      int64   `json:"id"`
	Name    string  `json:"name"`
	Kind    string  `json:"kind"`
	Contact string  `json:"contact"` // by which a call-back reaches them
	Day     day.Day `json:"day"`     // of a market
	Rev     int     `json:"rev"`
	Retired bool    `json:"retired"`
}

// partyStore keeps who has jars.
type partyStore interface {
	Parties() ([]Party, error)
	Party(id int64) (Party, error)
	AddParty(p *Party) error
	PutParty(p Party, rev int) error
}

// Check lists what is wrong with a party.
func (p Party) Check() []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	if n := len([]rune(p.Name)); n == 0 || n > 120 {
		bad("name", "a name of 1 to 120 characters")
	}
	if !slices.Contains([]string{Customer, Market}, p.Kind) {
		bad("kind", "a customer, or a market day?")
	}
	if n := len([]rune(p.Contact)); n > 200 {
		bad("contact", "at most 200 characters")
	} else if n == 0 && p.Kind == Customer {
		bad("contact", "how do you reach them when jars are called back?")
	}
	if _, err := pantry.ParseDay(p.Day); err != nil && (p.Day != "" || p.Kind == Market) {
		bad("day", "the day of the market, as in 2026-11-25")
	}
	return errs
}

// Tidied is a party as it is kept.
func (p Party) Tidied() Party {
	p.Name, p.Contact = strings.TrimSpace(p.Name), strings.TrimSpace(p.Contact)
	if p.Kind == Customer {
		p.Day = ""
	}
	return p
}
