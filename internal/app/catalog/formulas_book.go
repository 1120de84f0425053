package catalog

import (
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/assess"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// Book is what assessments need of the shop: the prices' rule and the keeping rules.
type Book struct {
	Settings shop.Settings
	Law      *law.Law
	Terms    costing.Terms // under which a jar is costed, but for how its formula is made
	Prices   *costing.Prices
	Rules    []keeping.Rule
	Steps    []pantry.Preparation
}

// Book reads the book.
func (a *Room) Book(st kernel.Store) (Book, error) {
	d := kernel.NewDesk()
	if err := st.Desk(&d, kernel.Named{}); err != nil {
		return Book{}, err
	}
	return a.bookOf(st, d)
}

func (a *Room) bookOf(st kernel.Store, d kernel.Desk) (Book, error) {
	s := d.Settings.WithDefaults().WithThings()
	under, err := law.Of(s.Regime)
	if err != nil {
		return Book{}, err
	}
	steps, _ := a.StepsAmong(d.Steps)
	terms, prices := a.TermsOf(st, s, steps, map[string]pantry.Ingredient{})
	return Book{s, under, terms, prices, s.Rules(), steps}, nil
}

// assessing reads the book, and what it gives for assessing versions in a library.
func (a *Room) assessing(st kernel.Store, lib formula.Library) (Book, assess.Inputs, error) {
	b, err := a.Book(st)
	if err != nil {
		return b, assess.Inputs{}, err
	}
	vessels, err := st.MadeIn()
	return b, assess.Inputs{Library: lib, Terms: b.Terms, Made: b.Settings.MadeIn(vessels), Rules: b.Rules}, err
}
