package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"
	_ "time/tzdata" // zones ship with the app

	"golang.org/x/text/currency"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/people"
)

// ShopStore keeps the settings.
type ShopStore interface {
	Shop(into *Settings) (rev int, err error)
	Desk(d *Desk, named Named) error
	AddShop(s Settings, by string) error
	SaveShop(s Settings, rev int, by string) error
	Begun() (Begun, error)
}

// Named is what versions name, at their own level.
type Named struct {
	Ingredients []string
	Components  []formula.Ref
}

// Desk is what lies ready where versions are assessed.
type Desk struct {
	Settings Settings
	Steps    []Preparation // stored ones, by id
	Library  formula.Library
	MadeIn   map[string]bench.Vessel // by formula; nil where nobody looked
}

func newDesk() Desk { return Desk{Settings: defaults(), Library: newLibrary()} }

// Settings are the shop's own.
type Settings struct {
	Name          string           `json:"name"`
	Address       string           `json:"address"`
	Currency      string           `json:"currency"`
	Locale        string           `json:"locale"`
	Regime        law.Regime       `json:"regime"`
	PriceRule     pantry.PriceRule `json:"price_rule"`
	StaleDays     int              `json:"stale_days"`
	EarlyRelease  bool             `json:"early_release"`
	LabourPerHour amount.Money     `json:"labour_per_hour"`
	ScaleDivision amount.Grams     `json:"scale_division_g"`
	SampleGrams   amount.Grams     `json:"sample_g"`
	Residue       amount.Grams     `json:"residue_g"`
	OpenedDays    int              `json:"opened_days"`
	TighterDays   map[string]int   `json:"tighter_days"`             // rule id -> fewer days than the rule gives
	Tablespoon    string           `json:"tablespoon"`               // US (14.79 mL) or AU (20 mL)
	Cup           string           `json:"cup"`                      // US (236.6 mL) or metric (250 mL)
	TimeZone      string           `json:"time_zone"`                // where the shop's days begin
	IdleMinutes   int              `json:"idle_minutes"`             // after which an act asks for the PIN again
	SecondPerson  bool             `json:"second_person"`            // who made a batch does not release it
	Beside        bool             `json:"beside,omitempty"`         // oz, in and °F stand beside g, mm and °C
	LeadLeft      bool             `json:"lead_left,omitempty"`      // the shop wants no lead to its first label
	AllergenWords []allergen.Term  `json:"allergen_words,omitempty"` // the shop's own, beside the shipped ones
	Devices       []Device         `json:"devices,omitempty"`
	Jars          []pack.Jar       `json:"jars,omitzero"`
	Stocks        []labelart.Stock `json:"stocks,omitzero"`   // paper that labels come on
	Country       string           `json:"country,omitempty"` // of the address; empty: that of the shop's law
	// of somebody in another country whose law asks for an address there, by law
	LabelAddresses law.Each[string] `json:"label_addresses,omitempty"`
	Colour         string           `json:"colour,omitempty"`          // of bands on labels, as #rrggbb
	KitchenPerHour amount.Money     `json:"kitchen_per_hour,omitzero"` // hire, while hands work
	OvenPerHour    amount.Money     `json:"oven_per_hour,omitzero"`
	DayMinutes     amount.Minutes   `json:"day_minutes,omitzero"` // of work in a shift; 0: as usual
	TaxKept        bool             `json:"tax_kept,omitempty"`   // the tax on what it buys is not got back
	Pricing        costing.Pricing  `json:"pricing,omitzero"`
	// by how much a jar may be short, where the law leaves that to a table, and where that stands
	Allowable       []law.ShortStep `json:"allowable,omitempty"`
	AllowableSource string          `json:"allowable_source,omitempty"`
}

// ShopView is the settings with their revision. SetUp is false before the first start was finished.
type ShopView struct {
	Settings
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

// defaults are the settings before a shop is set up.
func defaults() Settings {
	home := law.All()[0]
	return Settings{Currency: home.Currency, Locale: home.Locale, Regime: home.Regime, Beside: home.Ounces,
		PriceRule: pantry.NewestPrice,
		StaleDays: 90, LabourPerHour: amount.M("14"),
		ScaleDivision: amount.GramsOf("0.1"), SampleGrams: amount.G(120), Residue: amount.G(0), OpenedDays: 7,
		Pricing:     costing.UsualPricing(),
		TighterDays: map[string]int{}, Tablespoon: amount.UsualSpoon, Cup: amount.UsualSpoon,
		IdleMinutes: usualIdle}
}

const (
	usualIdle = 15
	usualDay  = 8 * 60 // minutes
	mostIdle  = 240
)

// zone is where the shop's days begin.
func (s Settings) zone() *time.Location {
	if z, known := zones.Load(s.TimeZone); known {
		return z.(*time.Location) //nolint:forcetypeassert // nothing else is put in
	}
	z, err := time.LoadLocation(s.TimeZone)
	if err != nil || s.TimeZone == "" {
		return time.UTC
	}
	zones.Store(s.TimeZone, z)
	return z
}

// zones are those that were loaded, by name.
var zones sync.Map

// OwnGallon is whose gallon the shop means.
func (s Settings) OwnGallon() amount.Gallon { return s.speaks().Gallon }

// speaks is the law of the country whose locale the shop writes in.
func (s Settings) speaks() *law.Law {
	l, err := law.Speaking(s.Locale, s.Regime)
	if err != nil {
		return law.All()[0]
	}
	return l
}

// Tongue is how the shop writes days and hours.
func (s Settings) Tongue() law.Tongue { return law.Tongue(s.Locale) }

// today is the shop's day, and the time of day in it.
func (a *App) today(s Settings) time.Time { return a.Now().In(s.zone()) }

// notYet reports whether a day has not come yet where the shop is.
func (a *App) notYet(day time.Time, s Settings) bool {
	return day.Format(pantry.DateLayout) > a.today(s).Format(pantry.DateLayout)
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
	if _, err := currency.ParseISO(s.Currency); err != nil || strings.ToUpper(s.Currency) != s.Currency {
		bad("currency", "choose a currency by its code, as in GBP or USD (ISO 4217)")
	}
	if !slices.ContainsFunc(law.All(), func(l *law.Law) bool { return l.Locale == s.Locale }) {
		bad("locale", "choose how dates and numbers are written")
	}
	if _, err := law.Of(s.Regime); err != nil {
		bad("regime", err.Error())
	}
	if !slices.Contains(pantry.PriceRules, s.PriceRule) {
		bad("price_rule", "the newest, the cheapest, or what the lots on hand cost")
	}
	if s.StaleDays < 1 || s.StaleDays > 3650 {
		bad("stale_days", "between 1 and 3650 days")
	}
	if s.OpenedDays < 1 || s.OpenedDays > 90 {
		bad("opened_days", "between 1 and 90 days")
	}
	if s.LabourPerHour.IsNegative() || s.LabourPerHour.Float() > 1_000_000 {
		bad("labour_per_hour", "between 0 and 1 000 000 an hour")
	}
	if !s.ScaleDivision.IsPositive() || s.ScaleDivision.Float() > 100 {
		bad("scale_division_g", "a scale's division lies above 0 and up to 100 g")
	}
	if s.SampleGrams.IsNegative() || s.SampleGrams.Float() > 100_000 {
		bad("sample_g", "between 0 and 100 kg")
	}
	if s.Residue.IsNegative() || s.Residue.Float() > 100_000 {
		bad("residue_g", "between 0 and 100 kg")
	}
	if amount.Tablespoons[s.Tablespoon] == 0 {
		bad("tablespoon", "choose one of the tablespoons that are offered")
	}
	if amount.Cups[s.Cup] == 0 {
		bad("cup", "choose one of the cups that are offered")
	}
	return slices.Concat(errs, s.checkCosts(), s.checkDays(), s.checkTighter(), s.checkWords(), s.checkDevices(),
		s.checkJars(), s.checkStocks(), s.checkAllowable(), s.checkOnLabels())
}

// checkCosts checks what the shop says of hours and prices.
func (s Settings) checkCosts() []pantry.FieldError {
	var errs []pantry.FieldError
	bad := func(field, msg string) { errs = append(errs, pantry.FieldError{Field: field, Message: msg}) }
	if s.KitchenPerHour.IsNegative() || s.KitchenPerHour.Float() > 1_000_000 {
		bad("kitchen_per_hour", "between 0 and 1 000 000 an hour")
	}
	if s.OvenPerHour.IsNegative() || s.OvenPerHour.Float() > 1_000_000 {
		bad("oven_per_hour", "between 0 and 1 000 000 an hour")
	}
	if s.DayMinutes.IsNegative() || s.DayMinutes.Float() > 24*60 {
		bad("day_minutes", "between 0 and 1440 minutes")
	}
	return append(errs, s.Pricing.Check("pricing.")...)
}

// checkDays checks where days begin and how long a session may rest.
func (s Settings) checkDays() []pantry.FieldError {
	var errs []pantry.FieldError
	if _, err := time.LoadLocation(s.TimeZone); err != nil || s.TimeZone == "" || s.TimeZone == "Local" {
		errs = append(errs, pantry.FieldError{Field: "time_zone",
			Message: "choose where the shop's days begin, as in Europe/London"})
	}
	if s.IdleMinutes < 1 || s.IdleMinutes > mostIdle {
		errs = append(errs, pantry.FieldError{Field: "idle_minutes",
			Message: fmt.Sprintf("between 1 and %d minutes", mostIdle)})
	}
	return errs
}

const maxOwnWords = 300

// checkWords checks the shop's own words of allergens.
func (s Settings) checkWords() []pantry.FieldError {
	var errs []pantry.FieldError
	if len(s.AllergenWords) > maxOwnWords {
		errs = append(errs, pantry.FieldError{Field: "allergen_words", Message: fmt.Sprintf("at most %d", maxOwnWords)})
	}
	for i, t := range s.AllergenWords {
		if bad := t.Check(); bad != "" {
			errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("allergen_words[%d]", i), Message: bad})
		}
	}
	return errs
}

// checkTighter lets a shop give fewer days than a rule, never more.
func (s Settings) checkTighter() []pantry.FieldError {
	var errs []pantry.FieldError
	rules := keeping.Rules()
	for id, days := range s.TighterDays {
		i := slices.IndexFunc(rules, func(r keeping.Rule) bool { return fmt.Sprint(r.ID) == id })
		if i < 0 || rules[i].Params["days"] == 0 || days < 0 || float64(days) > rules[i].Params["days"] {
			errs = append(errs, pantry.FieldError{Field: "tighter_days." + id,
				Message: "a shop may only give fewer days than the rule does"})
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
	s := defaults()
	rev, err := st.Shop(&s)
	if errors.Is(err, ErrNotFound) {
		return defaults().WithDefaults().withThings(), 0, nil
	}
	return s.WithDefaults().withThings(), rev, err
}

// Shop returns the settings.
func (a *App) Shop(ctx context.Context) (ShopView, error) {
	return a.shopView(a.on(ctx))
}

func (a *App) shopView(st Store) (ShopView, error) {
	s, rev, err := a.settings(st)
	return ShopView{s, rev, rev > 0, s.OwnGallon(), s.speaks().English, lawViews(), law.TicksOf(s.Regime)}, err
}

// judging leaves of the settings what batches are judged by: all but names, money and what is written on labels.
func (s Settings) judging() Settings {
	s.Name, s.Address, s.Currency, s.Locale, s.PriceRule, s.StaleDays = "", "", "", "", "", 0
	s.Beside, s.LeadLeft, s.Devices, s.Jars = false, false, nil, nil
	s.Stocks, s.Country, s.LabelAddresses, s.Colour = nil, "", nil, ""
	s.KitchenPerHour, s.OvenPerHour, s.DayMinutes, s.TaxKept = amount.Money{}, amount.Money{}, amount.Minutes{}, false
	s.Pricing = costing.Pricing{}
	return s
}

// SaveShop stores the settings over revision rev; 0 sets the shop up. Batches that are not closed are judged anew by
// them.
func (a *App) SaveShop(ctx context.Context, s Settings, rev int) (ShopView, error) {
	unpriced := s.Pricing == costing.Pricing{} // a page from before there was one says nothing of it
	s = s.WithDefaults().withThings()
	if err := may(ctx, people.Owner, "What the shop works by"); err != nil {
		return ShopView{}, err
	}
	by := actor(ctx).Name
	if errs := s.check(); len(errs) > 0 {
		return ShopView{}, invalid(errs...)
	}
	if sameJSON(s.Devices, usualDevices(s.ScaleDivision)) {
		s.Devices = nil // as it is where nobody said otherwise
	}
	s = s.own()
	var out ShopView
	err := a.in(ctx, func(st Store) error {
		before, _, err := a.settings(st)
		if err != nil {
			return err
		}
		if unpriced {
			s.Pricing = before.own().Pricing
		}
		if err := a.putShop(ctx, st, before, s, rev); err != nil {
			return err
		}
		if err := a.renameShipped(ctx, st, before, s, rev == 0, by); err != nil {
			return err
		}
		if !sameJSON(before.judging(), s.judging()) {
			if err := a.judgeThose(ctx, st, every); err != nil {
				return err
			}
		}
		out, err = a.shopView(st)
		return err
	})
	// the failed insert ended that transaction; the other side is read in one of its own
	if errors.Is(err, errSetUpBefore) {
		err = a.in(ctx, a.settingsClash)
	}
	return out, err
}

// putShop stores the settings, guarded where the shop's own words of allergens change.
func (a *App) putShop(ctx context.Context, st Store, before, s Settings, rev int) error {
	by := actor(ctx).Name
	var err error
	switch {
	case rev == 0:
		if err = st.AddShop(s, by); errors.Is(err, ErrTaken) {
			return errSetUpBefore
		}
	case sameJSON(before.AllergenWords, s.AllergenWords):
		err = st.SaveShop(s, rev, by)
	default:
		err = a.guarded(ctx, st, func() error { return st.SaveShop(s, rev, by) })
	}
	if errors.Is(err, ErrConflict) {
		return a.settingsClash(st)
	}
	return err
}

// renameShipped calls the shipped ingredients what the shop's English calls them, where nobody gave them another name.
// Their names on labels, and what is in them, stay.
func (a *App) renameShipped(ctx context.Context, st Store, before, now Settings, first bool, by string) error {
	from, to := a.Typical.Names[before.Locale], a.Typical.Names[now.Locale]
	if first {
		from = a.Typical.Names[defaults().Locale]
	}
	if before.Locale == now.Locale && !first || len(to) == 0 {
		return nil
	}
	rows, err := st.Ingredients(slices.Sorted(maps.Keys(to))...)
	if err != nil {
		return err
	}
	return a.guarded(ctx, st, func() error {
		for _, r := range rows {
			g := r.Data
			if g.Name != from[g.ID] || g.Name == to[g.ID] {
				continue
			}
			current := g.Looked != nil && g.Looked.By == TheProgram.Name && g.Looked.Texts == g.Texts()
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
func (a *App) settingsClash(st Store) error {
	current, err := a.shopView(st)
	if err != nil {
		return err
	}
	return Problem{Kind: Clash, Code: "changed_meanwhile",
		Message: "The shop settings were changed meanwhile; yours are kept here until you choose.", Current: current}
}

// WithDefaults fills in what a bundle's shop leaves out.
func (s Settings) WithDefaults() Settings {
	d := defaults()
	if s.Locale == "" {
		s.Locale = d.Locale
		if own, err := law.Of(s.Regime); err == nil {
			s.Locale = own.Locale
		}
	}
	if s.TimeZone == "" {
		s.TimeZone = law.All()[0].TimeZone
		if own, err := law.Of(s.Regime); err == nil {
			s.TimeZone = own.TimeZone
		}
	}
	if s.AllergenWords == nil {
		s.AllergenWords = []allergen.Term{}
	}
	if s.IdleMinutes == 0 {
		s.IdleMinutes = d.IdleMinutes
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
	if s.Pricing == (costing.Pricing{}) {
		s.Pricing = d.Pricing
	}
	return s
}
