// Package shop holds a shop's own settings: where it is and how it writes, its money, its devices, jars and paper, and
// where it is stricter than the rules.
package shop

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/text/currency"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/costing"
	"gallipot/internal/core/field"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
)

// Terms are what the shop's own figures say of costs.
func (s Settings) Terms(prices *costing.Prices) costing.Terms {
	day := s.DayMinutes
	if day.IsZero() {
		day = amount.Min(usualDay)
	}
	return costing.Terms{Rate: prices.Rate(), Kitchen: s.KitchenPerHour, Oven: s.OvenPerHour, Day: day,
		Made: s.Made(bench.Vessel{Residue: s.Residue})}
}

// Made is how a batch is made in a vessel.
func (s Settings) Made(in bench.Vessel) costing.Made {
	return costing.Made{Vessel: in, Samples: s.SampleGrams}
}

// MadeIn tells of each formula how it is made: in the vessel that is known of it, or in none that is named.
func (s Settings) MadeIn(vessels map[string]bench.Vessel) func(string) costing.Made {
	return func(formula string) costing.Made {
		if v, known := vessels[formula]; known {
			return s.Made(v)
		}
		return s.Made(bench.Vessel{Residue: s.Residue})
	}
}

// Spoons are what the shop means by its measures.
func (s Settings) Spoons() amount.Spoons {
	return amount.Spoons{Gallon: s.OwnGallon(), Teaspoon: amount.USSpoons.Teaspoon,
		Tablespoon: amount.Tablespoons[s.Tablespoon],
		Cup:        amount.Cups[s.Cup]}
}

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

// Defaults are the settings before a shop is set up.
func Defaults() Settings {
	home := law.All()[0]
	return Settings{Currency: home.Currency, Locale: home.Locale, Regime: home.Regime, Beside: home.Ounces,
		PriceRule: pantry.NewestPrice,
		StaleDays: 90, LabourPerHour: amount.MustMoney("14"),
		ScaleDivision: amount.MustGrams("0.1"), SampleGrams: amount.G(120), Residue: amount.G(0), OpenedDays: 7,
		Pricing:     costing.UsualPricing(),
		TighterDays: map[string]int{}, Tablespoon: amount.UsualSpoon, Cup: amount.UsualSpoon,
		IdleMinutes: usualIdle}
}

const (
	usualIdle = 15
	usualDay  = 8 * 60 // minutes
	mostIdle  = 240
)

// Zone is where the shop's days begin.
func (s Settings) Zone() *time.Location {
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
func (s Settings) OwnGallon() amount.Gallon { return s.Speaks().Gallon }

// Speaks is the law of the country whose locale the shop writes in.
func (s Settings) Speaks() *law.Law {
	l, err := law.Speaking(s.Locale, s.Regime)
	if err != nil {
		return law.All()[0]
	}
	return l
}

// Tongue is how the shop writes days and hours.
func (s Settings) Tongue() law.Tongue { return law.Tongue(s.Locale) }

// Check names what is wrong with the settings, each by its field.
func (s Settings) Check() []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
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
	var errs field.Errors
	bad := errs.Bad
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

// Rules are the shipped rules with what the shop tightened.
func (s Settings) Rules() []keeping.Rule {
	rules := keeping.Rules()
	for i, r := range rules {
		if d, ok := s.TighterDays[fmt.Sprint(r.ID)]; ok && float64(d) < r.Params["days"] {
			rules[i].Params["days"] = float64(d)
		}
	}
	return rules
}

// Judging leaves of the settings what batches are judged by: all but names, money and what is written on labels.
func (s Settings) Judging() Settings {
	s.Name, s.Address, s.Currency, s.Locale, s.PriceRule, s.StaleDays = "", "", "", "", "", 0
	s.Beside, s.LeadLeft, s.Devices, s.Jars = false, false, nil, nil
	s.Stocks, s.Country, s.LabelAddresses, s.Colour = nil, "", nil, ""
	s.KitchenPerHour, s.OvenPerHour, s.DayMinutes, s.TaxKept = amount.Money{}, amount.Money{}, amount.Minutes{}, false
	s.Pricing = costing.Pricing{}
	return s
}

// WithDefaults fills in what a bundle's shop leaves out.
func (s Settings) WithDefaults() Settings {
	d := Defaults()
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

// Own leaves out jars and papers that are the usual ones: nobody said otherwise.
func (s Settings) Own() Settings {
	if match.SameJSON(s.Jars, pack.Usual()) {
		s.Jars = nil
	}
	if match.SameJSON(s.Stocks, labelart.UsualStocks()) {
		s.Stocks = nil
	}
	if s.Pricing == costing.UsualPricing() {
		s.Pricing = costing.Pricing{}
	}
	return s
}
