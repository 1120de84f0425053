package office

import (
	"context"
	"errors"
	"maps"
	"slices"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
	"gallipot/internal/core/people"
	"gallipot/internal/core/shop"
)

// ShopView is the settings with their revision. SetUp is false before the first start was finished.
type ShopView struct {
	shop.Settings
	Rev   int  `json:"rev"`
	SetUp bool `json:"set_up"`
	// whose gallon it is, and which list of words is read: of the country whose locale it is
	Gallon  amount.Gallon `json:"gallon"`
	English string        `json:"english"`
	Laws    []LawView     `json:"laws"` // that may be chosen
	// allergens of all laws as somebody ticks them, each once
	Ticks []law.Tick `json:"ticks"`
}

// LawView is a law as it is offered, with what a shop under it starts with.
type LawView struct {
	Regime    law.Regime `json:"regime"`
	Title     string     `json:"title"`
	Locale    string     `json:"locale"`
	Currency  string     `json:"currency"`
	TimeZone  string     `json:"time_zone"`
	Allergens []string   `json:"allergens"` // codes, in statutory order
	Beside    bool       `json:"beside"`    // its kitchens weigh in ounces
	// by how much a jar may be short stands in a table that the shop enters
	EntersShortage bool   `json:"enters_shortage"`
	Country        string `json:"country"`  // its own, as an address names it
	Servings       bool   `json:"servings"` // its nutrition panel tells a serving
}

func lawViews() []LawView {
	out := []LawView{}
	for _, l := range law.All() {
		v := LawView{l.Regime, l.Title, l.Locale, l.Currency, l.TimeZone, []string{}, l.Ounces,
			len(l.Shortage.Steps) == 0, l.Country, l.Servings}
		for _, a := range l.Allergens {
			v.Allergens = append(v.Allergens, a.Code)
		}
		out = append(out, v)
	}
	return out
}

// Shop returns the settings.
func (a *Room) Shop(ctx context.Context) (ShopView, error) {
	return a.shopView(a.On(ctx))
}

func (a *Room) shopView(st kernel.Store) (ShopView, error) {
	s, rev, err := a.Settings(st)
	return ShopView{s, rev, rev > 0, s.OwnGallon(), s.Speaks().English, lawViews(), law.TicksOf(s.Regime)}, err
}

// SaveShop stores the settings over revision rev; 0 sets the shop up. Batches that are not closed are judged anew by
// them.
func (a *Room) SaveShop(ctx context.Context, s shop.Settings, rev int) (ShopView, error) {
	unpriced := s.Pricing == costing.Pricing{} // a page from before there was one says nothing of it
	s = s.WithDefaults().WithThings()
	if err := kernel.May(ctx, people.Owner, "What the shop works by"); err != nil {
		return ShopView{}, err
	}
	by := kernel.Actor(ctx).Name
	if errs := s.Check(); len(errs) > 0 {
		return ShopView{}, kernel.Mistakes(errs...)
	}
	if match.SameJSON(s.Devices, shop.UsualDevices(s.ScaleDivision)) {
		s.Devices = nil // as it is where nobody said otherwise
	}
	s = s.Own()
	var out ShopView
	err := a.In(ctx, func(st kernel.Store) error {
		before, _, err := a.Settings(st)
		if err != nil {
			return err
		}
		if unpriced {
			s.Pricing = before.Own().Pricing
		}
		if err := a.putShop(ctx, st, before, s, rev); err != nil {
			return err
		}
		if err := a.renameShipped(ctx, st, before, s, rev == 0, by); err != nil {
			return err
		}
		if !match.SameJSON(before.Judging(), s.Judging()) {
			if err := a.Production.JudgeThose(ctx, st, production.Every); err != nil {
				return err
			}
		}
		out, err = a.shopView(st)
		return err
	})
	// the failed insert ended that transaction; the other side is read in one of its own
	if errors.Is(err, errSetUpBefore) {
		err = a.In(ctx, a.settingsClash)
	}
	return out, err
}

// putShop stores the settings, guarded where the shop's own words of allergens change.
func (a *Room) putShop(ctx context.Context, st kernel.Store, before, s shop.Settings, rev int) error {
	by := kernel.Actor(ctx).Name
	var err error
	switch {
	case rev == 0:
		if err = st.AddShop(s, by); errors.Is(err, kernel.ErrTaken) {
			return errSetUpBefore
		}
	case match.SameJSON(before.AllergenWords, s.AllergenWords):
		err = st.SaveShop(s, rev, by)
	default:
		err = a.Release.Guarded(ctx, st, func() error { return st.SaveShop(s, rev, by) })
	}
	if errors.Is(err, kernel.ErrConflict) {
		return a.settingsClash(st)
	}
	return err
}

// renameShipped calls the shipped ingredients what the shop's English calls them, where nobody gave them another name.
// Their names on labels, and what is in them, stay.
func (a *Room) renameShipped(ctx context.Context, st kernel.Store, before, now shop.Settings, first bool,
	by string) error {
	from, to := a.Typical.Names[before.Locale], a.Typical.Names[now.Locale]
	if first {
		from = a.Typical.Names[shop.Defaults().Locale]
	}
	if before.Locale == now.Locale && !first || len(to) == 0 {
		return nil
	}
	rows, err := st.Ingredients(slices.Sorted(maps.Keys(to))...)
	if err != nil {
		return err
	}
	return a.Release.Guarded(ctx, st, func() error {
		for _, r := range rows {
			g := r.Data
			if g.Name != from[g.ID] || g.Name == to[g.ID] {
				continue
			}
			current := g.Looked != nil && g.Looked.By == kernel.TheProgram.Name && g.Looked.Texts == g.Texts()
			g.Name = to[g.ID]
			if current { // Gallipot's own word of a plain food holds for the same food by its other name
				looked := *g.Looked
				looked.Texts = g.Texts()
				g.Looked = &looked
			}
			if err := st.SaveIngredient(g, r.Retired, r.Rev, by); err != nil {
				return err
			}
		}
		return nil
	})
}

// errSetUpBefore ends the transaction of a second set-up.
var errSetUpBefore = errors.New("set up before")

// settingsClash words what happened to the settings meanwhile, with the other side.
func (a *Room) settingsClash(st kernel.Store) error {
	current, err := a.shopView(st)
	if err != nil {
		return err
	}
	return kernel.Problem{Kind: kernel.Clash, Code: "changed_meanwhile",
		Message: "The shop settings were changed meanwhile; yours are kept here until you choose.", Current: current}
}
