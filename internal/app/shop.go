package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/pantry"
)

// Settings are the shop's own.
type Settings struct {
	Name          string           `json:"name"`
	Address       string           `json:"address"`
	Currency      string           `json:"currency"`
	Locale        string           `json:"locale"`
	Regime        string           `json:"regime"`
	PriceRule     pantry.PriceRule `json:"price_rule"`
	StaleDays     int              `json:"stale_days"`
	EarlyRelease  bool             `json:"early_release"`
	LabourPerHour amount.Money     `json:"labour_per_hour"`
	ScaleDivision amount.Grams     `json:"scale_division_g"`
	SampleGrams   amount.Grams     `json:"sample_g"`
	Residue       amount.Grams     `json:"residue_g"`
	OpenedDays    int              `json:"opened_days"`
	TighterDays   map[string]int   `json:"tighter_days"` // rule id -> fewer days than the rule gives
	Tablespoon    string           `json:"tablespoon"`   // US (14.79 mL) or AU (20 mL)
	Cup           string           `json:"cup"`          // US (236.6 mL) or metric (250 mL)
}

// ShopView is the settings with their revision. SetUp is false before the first start was finished.
type ShopView struct {
	Settings
	Rev   int  `json:"rev"`
	SetUp bool `json:"set_up"`
}

// PersonView is somebody who works in the shop.
type PersonView struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Owner bool   `json:"owner"`
}

// defaults are the settings before a shop is set up.
func defaults() Settings {
	return Settings{Currency: "GBP", Locale: "en-GB", Regime: "GB", PriceRule: pantry.NewestPrice, StaleDays: 90, LabourPerHour: amount.M("14"),
		ScaleDivision: amount.GramsFromString("0.1"), SampleGrams: amount.G(120), Residue: amount.G(0), OpenedDays: 7, TighterDays: map[string]int{}, Tablespoon: "US", Cup: "US"}
}

func (s Settings) check() []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(field, msg string) { errs = append(errs, pantry.FieldError{Field: field, Message: msg}) }
	if strings.TrimSpace(s.Name) == "" || len([]rune(s.Name)) > 80 {
		bad("name", "name the shop, in at most 80 characters")
	}
	if len([]rune(s.Address)) > 300 {
		bad("address", "at most 300 characters")
	}
	if len(s.Currency) != 3 || strings.ToUpper(s.Currency) != s.Currency {
		bad("currency", "three letters, as in GBP or USD")
	}
	if !slices.Contains([]string{"en-GB", "en-US"}, s.Locale) {
		bad("locale", "en-GB or en-US")
	}
	if s.Regime != "US" && s.Regime != "GB" {
		bad("regime", "US or GB")
	}
	if s.PriceRule != pantry.NewestPrice && s.PriceRule != pantry.CheapestPrice {
		bad("price_rule", "newest or cheapest")
	}
	if s.StaleDays < 1 || s.StaleDays > 3650 {
		bad("stale_days", "between 1 and 3650 days")
	}
	if s.OpenedDays < 1 || s.OpenedDays > 90 {
		bad("opened_days", "between 1 and 90 days")
	}
	if s.LabourPerHour.IsNegative() {
		bad("labour_per_hour", "cannot be negative")
	}
	if !s.ScaleDivision.IsPositive() {
		bad("scale_division_g", "the scale's division must be above zero")
	}
	if s.SampleGrams.IsNegative() || s.Residue.IsNegative() {
		bad("sample_g", "cannot be negative")
	}
	if !slices.Contains([]string{"US", "AU"}, s.Tablespoon) {
		bad("tablespoon", "US or AU")
	}
	if !slices.Contains([]string{"US", "metric"}, s.Cup) {
		bad("cup", "US or metric")
	}
	rules := keeping.Rules()
	for id, days := range s.TighterDays {
		i := slices.IndexFunc(rules, func(r keeping.Rule) bool { return fmt.Sprint(r.ID) == id })
		if i < 0 || rules[i].Params["days"] == 0 || days < 0 || float64(days) > rules[i].Params["days"] {
			bad("tighter_days."+id, "a shop may only give fewer days than the rule does")
		}
	}
	return errs
}

// rules are the shipped rules with what the shop tightened.
func (s Settings) rules() []keeping.Rule {
	rules := keeping.Rules()
	for i, r := range rules {
		if d, ok := s.TighterDays[fmt.Sprint(r.ID)]; ok && float64(d) < r.Params["days"] {
			rules[i].Params["days"] = float64(d)
		}
	}
	return rules
}

func (a *App) settings(st Store) (Settings, int, error) {
	row, err := st.Shop()
	if errors.Is(err, ErrNotFound) {
		return defaults(), 0, nil
	}
	if err != nil {
		return Settings{}, 0, err
	}
	s := defaults()
	if err := json.Unmarshal(row.Data, &s); err != nil {
		return s, 0, fmt.Errorf("shop settings: %w", err)
	}
	return s, row.Rev, nil
}

// Shop returns the settings.
func (a *App) Shop(ctx context.Context) (ShopView, error) {
	s, rev, err := a.settings(a.Store.With(ctx))
	return ShopView{s, rev, rev > 0}, err
}

// SaveShop stores the settings over revision rev; 0 sets the shop up.
func (a *App) SaveShop(ctx context.Context, s Settings, rev int, by string) (ShopView, error) {
	if s.TighterDays == nil {
		s.TighterDays = map[string]int{}
	}
	if s.Tablespoon == "" {
		s.Tablespoon = "US"
	}
	if s.Cup == "" {
		s.Cup = "US"
	}
	by, err := person(by)
	if err != nil {
		return ShopView{}, err
	}
	if errs := s.check(); len(errs) > 0 {
		return ShopView{}, invalid(errs...)
	}
	err = a.Store.In(ctx, func(st Store) error {
		data, err := json.Marshal(s)
		if err != nil {
			return err
		}
		if rev == 0 {
			err = st.AddShop(data, by)
			if errors.Is(err, ErrTaken) {
				err = ErrConflict
			}
		} else {
			err = st.SaveShop(data, rev, by)
		}
		if errors.Is(err, ErrConflict) {
			current, err := a.Shop(ctx)
			if err != nil {
				return err
			}
			return Problem{Kind: Clash, Code: "changed_meanwhile", Message: "The shop settings were changed meanwhile; yours are kept here until you choose.", Current: current}
		}
		return err
	})
	if err != nil {
		return ShopView{}, err
	}
	return a.Shop(ctx)
}

// People returns everybody who works in the shop.
func (a *App) People(ctx context.Context) ([]PersonView, error) {
	rows, err := a.Store.With(ctx).People()
	out := make([]PersonView, len(rows))
	for i, r := range rows {
		out[i] = PersonView(r)
	}
	return out, err
}

// AddPerson adds somebody; the first one is an owner.
func (a *App) AddPerson(ctx context.Context, name string) (PersonView, error) {
	name = strings.TrimSpace(name)
	if n := len([]rune(name)); n == 0 || n > 80 {
		return PersonView{}, field("name", "a name has 1 to 80 characters")
	}
	st := a.Store.With(ctx)
	have, err := st.People()
	if err != nil {
		return PersonView{}, err
	}
	p := Person{Name: name, Owner: len(have) == 0}
	if err := st.AddPerson(&p); errors.Is(err, ErrTaken) {
		return PersonView{}, field("name", "%s is there already", name)
	} else if err != nil {
		return PersonView{}, err
	}
	return PersonView(p), nil
}

// Rules returns the keeping rules as the shop applies them.
func (a *App) Rules(ctx context.Context) ([]keeping.Rule, error) {
	s, _, err := a.settings(a.Store.With(ctx))
	if err != nil {
		return nil, err
	}
	return s.rules(), nil
}

// WithDefaults fills in what a bundle's shop leaves out.
func (s Settings) WithDefaults() Settings {
	d := defaults()
	if s.Locale == "" {
		s.Locale = d.Locale
		if s.Regime == "US" {
			s.Locale = "en-US"
		}
	}
	if s.PriceRule == "" {
		s.PriceRule = d.PriceRule
	}
	if s.StaleDays == 0 {
		s.StaleDays = d.StaleDays
	}
	if s.OpenedDays == 0 {
		s.OpenedDays = d.OpenedDays
	}
	if s.ScaleDivision.IsZero() {
		s.ScaleDivision = d.ScaleDivision
	}
	if s.TighterDays == nil {
		s.TighterDays = d.TighterDays
	}
	if s.Tablespoon == "" {
		s.Tablespoon = d.Tablespoon
	}
	if s.Cup == "" {
		s.Cup = d.Cup
	}
	return s
}
