package kernel

import (
	"errors"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/day"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/shop"
)

var Lexicons lexiconShelf

// shopStore keeps the settings.
type shopStore interface {
	Shop(into *shop.Settings) (rev int, err error)
	Desk(d *Desk, named Named) error
	AddShop(s shop.Settings, by string) error
	SaveShop(s shop.Settings, rev int, by string) error
	Begun() (Begun, error)
}

// Named is what versions name, at their own level.
type Named struct {
	Ingredients []string
	Components  []formula.Ref
}

// Desk is what lies ready where versions are assessed.
type Desk struct {
	Settings shop.Settings
	Steps    []Preparation // stored ones, by id
	Library  formula.Library
	MadeIn   map[string]bench.Vessel // by formula; nil where nobody looked
}

// NewDesk is an empty desk.
func NewDesk() Desk { return Desk{Settings: shop.Defaults(), Library: NewLibrary()} }

// TodayIn is the shop's day, and the time of day in it.
func (a *Kernel) TodayIn(s shop.Settings) time.Time { return a.Now().In(s.Zone()) }

// NotYet reports whether a day has not come yet where the shop is.
func (a *Kernel) NotYet(on time.Time, s shop.Settings) bool {
	return day.Of(on) > day.Of(a.TodayIn(s))
}

// Settings reads the shop's settings with their revision.
func (a *Kernel) Settings(st Store) (shop.Settings, int, error) {
	s := shop.Defaults()
	rev, err := st.Shop(&s)
	if errors.Is(err, ErrNotFound) {
		return shop.Defaults().WithDefaults().WithThings(), 0, nil
	}
	return s.WithDefaults().WithThings(), rev, err
}

// ShopMark is the shop's mark as it was cleaned.
type ShopMark struct {
	Kind string // svg or png
	Body []byte
}

// markStore keeps the shop's mark.
type markStore interface {
	Mark() (ShopMark, error)
	SaveMark(m ShopMark, by string) error
	DropMark() error
}
