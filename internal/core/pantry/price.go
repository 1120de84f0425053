package pantry

import (
	"errors"
	"fmt"
	"strconv"
	"time"

	"gallipot/internal/core/amount"
)

// DateLayout is how calendar days are written everywhere: 2026-11-25.
const DateLayout = "2006-01-02"

// PriceOffer is one supplier's price for one pack, tax excluded. PackUnit is "g", "ml" or "piece".
type PriceOffer struct {
	ID         string          `json:"id,omitempty"`
	Supplier   string          `json:"supplier"`
	PackAmount amount.Quantity `json:"pack_amount"`
	PackUnit   string          `json:"pack_unit"`
	Price      amount.Money    `json:"price"`
	Date       string          `json:"date"`
	ValidUntil string          `json:"valid_until,omitempty"`
}

// Check lists what is wrong with an offer.
func (o PriceOffer) Check() []FieldError {
	var errs []FieldError
	if o.Supplier == "" || len([]rune(o.Supplier)) > maxTextRunes {
		errs = append(errs, FieldError{"supplier", "name the supplier, in at most 200 characters"})
	}
	if !o.PackAmount.IsPositive() || o.PackAmount.Float() > amount.MaxGrams {
		errs = append(errs, FieldError{"pack_amount", "the pack must hold more than nothing and at most 10 000 kg"})
	}
	if o.PackUnit != "g" && o.PackUnit != "ml" && o.PackUnit != "piece" {
		errs = append(errs, FieldError{"pack_unit", "g, ml or piece"})
	}
	if o.Price.IsNegative() || o.Price.Float() > amount.MaxMoney {
		errs = append(errs, FieldError{"price", "a price is zero or more, and below ten million"})
	}
	if _, err := ParseDay(o.Date); err != nil {
		errs = append(errs, FieldError{"date", "a day as in 2026-11-25"})
	}
	if o.ValidUntil != "" {
		if _, err := ParseDay(o.ValidUntil); err != nil {
			errs = append(errs, FieldError{"valid_until", "a day as in 2026-11-25, or empty"})
		}
	}
	return errs
}

// The years in which a shop's days lie; others are slips of the hand.
const (
	firstYear = 2000
	lastYear  = 2200
)

// ParseDay reads a day as in 2026-11-25. Errors: FieldError without a field, also outside the years 2000 to 2200.
func ParseDay(s string) (time.Time, error) {
	day, err := time.Parse(DateLayout, s)
	if err != nil || day.Year() < firstYear || day.Year() > lastYear {
		return time.Time{}, FieldError{"", "a day as in 2026-11-25"}
	}
	return day, nil
}

// PriceRule chooses among an ingredient's offers.
type PriceRule string

// The shop's rules for the current price (handbook 07).
const (
	NewestPrice   PriceRule = "newest"
	CheapestPrice PriceRule = "cheapest"
)

// UnitCost is what one usable gram costs, and the offer it comes from.
type UnitCost struct {
	PerGram   amount.Exact `json:"per_gram"`
	Offer     PriceOffer   `json:"offer"`
	PackGrams amount.Exact `json:"pack_grams"`
	Usable    float64      `json:"usable_percent"`
	AgeDays   int          `json:"age_days"`
	Stale     bool         `json:"stale"`
	// id of the step that makes it, where the offer is of what goes in
	Through string `json:"through,omitempty"`
}

// Arithmetic writes out how an offer becomes the cost of a usable gram: price / pack grams / yield.
func (g *Ingredient) Arithmetic(o PriceOffer) string {
	how := fmt.Sprintf("%s g", o.PackAmount)
	switch o.PackUnit {
	case "ml":
		how = fmt.Sprintf("(%s mL x %g g/mL)", o.PackAmount, g.DensityGPerML)
	case "piece":
		how = fmt.Sprintf("(%s pieces x %g g)", o.PackAmount, g.PieceGrams)
	}
	s := fmt.Sprintf("%s / %s", o.Price.Fixed(2), how)
	if g.Usable() != defaultUsablePercent {
		s += fmt.Sprintf(" / %g %% usable", g.Usable())
	}
	return s
}

// ErrNoPrice means that no valid offer exists; the cost is then "at least", never zero silently.
var ErrNoPrice = errors.New("no price")

// ErrNoPackGrams means that a pack by volume or piece cannot be turned into grams yet.
var ErrNoPackGrams = errors.New("pack has no grams")

// Cost returns the cost of one usable gram on the given day by the rule: price / pack grams / yield.
// staleDays marks prices older than that. Errors: ErrNoPrice, ErrNoPackGrams.
func (g *Ingredient) Cost(rule PriceRule, today time.Time, staleDays int) (UnitCost, error) {
	var best UnitCost
	var firstErr error
	found := false
	for i := range g.Offers {
		if expired(&g.Offers[i], today) {
			continue
		}
		c, err := g.offerCost(&g.Offers[i], today, staleDays)
		if err != nil {
			if firstErr == nil {
				firstErr = err
			}
			continue
		}
		if !found || better(rule, &c, &best) {
			best, found = c, true
		}
	}
	if found {
		return best, nil
	}
	if firstErr != nil {
		return UnitCost{}, firstErr
	}
	return UnitCost{}, fmt.Errorf("%s: %w", g.Name, ErrNoPrice)
}

const secondsADay = 24 * 60 * 60

// dayOf reads a day as in 2026-11-25, as seconds of Unix time at its beginning in UTC. It is asked for every price on
// every typed gram, hence not through time.Parse: days are counted from March, so that a leap day ends its year.
func dayOf(s string) (int64, bool) {
	if len(s) != len(DateLayout) || s[4] != '-' || s[7] != '-' {
		return 0, false
	}
	year, err1 := strconv.Atoi(s[:4])
	month, err2 := strconv.Atoi(s[5:7])
	day, err3 := strconv.Atoi(s[8:])
	if month < 3 {
		year, month = year-1, month+12
	}
	const epoch = 719_469 // the days so counted on 1970-01-01
	days := 365*year + year/4 - year/100 + year/400 + (153*month-457)/5 + day - epoch
	return int64(days) * secondsADay, err1 == nil && err2 == nil && err3 == nil
}

func better(rule PriceRule, a, b *UnitCost) bool {
	if c := a.PerGram.Cmp(b.PerGram); rule == CheapestPrice && c != 0 {
		return c < 0
	}
	return a.Offer.Date > b.Offer.Date
}

func expired(o *PriceOffer, today time.Time) bool {
	if o.ValidUntil == "" {
		return false
	}
	until, err := time.Parse(DateLayout, o.ValidUntil)
	return err == nil && today.Truncate(24*time.Hour).After(until)
}

func (g *Ingredient) offerCost(o *PriceOffer, today time.Time, staleDays int) (UnitCost, error) {
	grams := o.PackAmount.Exact()
	switch o.PackUnit {
	case "ml":
		if g.DensityGPerML <= 0 {
			return UnitCost{}, fmt.Errorf("%s: a price by mL needs the density: %w", g.Name, ErrNoPackGrams)
		}
		grams = grams.Times(amount.ExactFloat(g.DensityGPerML))
	case "piece":
		if g.PieceGrams <= 0 {
			return UnitCost{}, fmt.Errorf("%s: a price by the piece needs grams a piece: %w", g.Name, ErrNoPackGrams)
		}
		grams = grams.Times(amount.ExactFloat(g.PieceGrams))
	}
	c := UnitCost{Offer: *o, PackGrams: grams, Usable: g.Usable()}
	if c.Usable != defaultUsablePercent {
		grams = grams.Times(amount.ExactFloat(c.Usable)).Over(amount.Whole(100))
	}
	c.PerGram = o.Price.Exact().Over(grams)
	if d, ok := dayOf(o.Date); ok {
		c.AgeDays = int((today.Unix() - d) / secondsADay)
		c.Stale = c.AgeDays > staleDays
	}
	return c, nil
}
