package demo

import (
	"context"
	"fmt"

	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/people"
)

// The made-up people. Their PINs stand on the demo's sign-in page, and nowhere else.
var (
	owner  = people.Person{Name: "Ines", Role: people.Owner}
	maker  = people.Person{Name: "Bram", Role: people.Maker}
	second = people.Person{Name: "Noor", Role: people.Maker}
	helper = people.Person{Name: "Ola", Role: people.Helper}
)

// MadeUp are the demo's people with their PINs.
func MadeUp() []office.MadeUp {
	return []office.MadeUp{{Name: owner.Name, Secret: "274910"}, {Name: maker.Name, Secret: "583026"},
		{Name: second.Name, Secret: "916408"}, {Name: helper.Name, Secret: "350279"}}
}

// Owner is the name that the demo's address signs in.
func Owner() string { return owner.Name }

// hire lets the made-up people work here.
func hire(ctx context.Context, a *app.App) error {
	pins := MadeUp()
	if _, err := a.Office.FirstOwner(ctx, pins[0].Name, pins[0].Secret); err != nil {
		return fmt.Errorf("demo people: %w", err)
	}
	for i, p := range []people.Person{maker, second, helper} {
		if _, err := a.Office.AddPerson(kernel.As(ctx, owner), p.Name, p.Role, pins[i+1].Secret); err != nil {
			return fmt.Errorf("demo people: %w", err)
		}
	}
	return nil
}
