package pantry

import (
	"errors"
	"fmt"
	"strconv"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
)

// PriceOffer is one supplier's price for one pack from a day on. PackUnit is "g", "ml" or "piece". Delivery is what
// bringing a pack costs on top; TaxPercent is the tax on both, and WithTax says that they hold it already.
type PriceOffer struct {
	ID         string          `json:"id,omitempty"`
	Supplier   string          `json:"supplier"`
	PackAmount amount.Quantity `json:"pack_amount"`
	PackUnit   string          `json:"pack_unit"`
	Price      amount.Money    `json:"price"`
	Date       day.Day         `json:"date"`
	ValidUntil day.Day         `json:"valid_until,omitempty"`
	Delivery   amount.Money    `json:"delivery,omitzero"`
	TaxPercent amount.Percent  `json:"tax_percent,omitzero"`
	WithTax    bool            `json:"with_tax,omitempty"`
}

// mostTax is the greatest tax on a price in percent; more is a slipped key.
const mostTax = 100

// PackCost is what a pack costs with its delivery: without tax where the shop gets that back, else with it.
func (o PriceOffer) PackCost(taxBack bool) amount.Exact {
	cost := o.Price.Exact().Plus(o.Delivery.Exact())
	switch tax := amount.More(o.TaxPercent); {
	case o.WithTax && taxBack:
		return cost.Over(tax)
	case !o.WithTax && !taxBack:
		return cost.Times(tax)
	}
	return cost
}

// Check lists what is wrong with an offer.
func (o PriceOffer) Check() []FieldError {
	var errs []FieldError
	if o.Supplier == "" || len([]rune(o.Supplier)) > maxTextRunes {
		errs = append(errs, FieldError{Field: "supplier", Message: "name the supplier, in at most 200 characters"})
	}
	if !o.PackAmount.IsPositive() || o.PackAmount.Float() > amount.MaxGrams {
		errs = append(errs, FieldError{Field: "pack_amount",
			Message: "the pack must hold more than nothing and at most 10 000 kg"})
	}
	if o.PackUnit != "g" && o.PackUnit != "ml" && o.PackUnit != "piece" {
		errs = append(errs, FieldError{Field: "pack_unit", Message: "g, ml or piece"})
	}
	if !o.Price.IsPositive() || o.Price.Float() > amount.MaxMoney {
		errs = append(errs, FieldError{Field: "price",
			Message: "a price is above zero and below ten million; what costs nothing has none"})
	}
	if o.Delivery.IsNegative() || o.Delivery.Float() > amount.MaxMoney {
		errs = append(errs, FieldError{Field: "delivery", Message: "delivery is zero or more, and below ten million"})
	}
	if o.TaxPercent.IsNegative() || o.TaxPercent.Float() > mostTax {
		errs = append(errs, FieldError{Field: "tax_percent", Message: "a tax lies between 0 and 100 %"})
	}
	if _, err := ParseDay(o.Date); err != nil {
		errs = append(errs, FieldError{Field: "date", Message: "a day as in 2026-11-25"})
	}
	if o.ValidUntil != "" {
		if _, err := ParseDay(o.ValidUntil); err != nil {
			errs = append(errs, FieldError{Field: "valid_until", Message: "a day as in 2026-11-25, or empty"})
		} else if o.ValidUntil < o.Date {
			errs = append(errs, FieldError{Field: "valid_until", Message: "it ends before it starts"})
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
func ParseDay[S ~string](s S) (time.Time, error) {
	day, err := day.Parse(s)
	if err != nil || day.Year() < firstYear || day.Year() > lastYear {
		return time.Time{}, FieldError{Field: "", Message: "a day as in 2026-11-25"}
	}
	return day, nil
}

// PriceRule chooses among an ingredient's offers.
type PriceRule string

// The shop's rules for the current price (handbook 07).
const (
	NewestPrice   PriceRule = "newest"
	CheapestPrice PriceRule = "cheapest"
	LotsPrice     PriceRule = "lots" // what the lots on hand cost; where none tells, the newest
)

// PriceRules are those that a shop may choose.
var PriceRules = []PriceRule{NewestPrice, CheapestPrice, LotsPrice}

// UnitCost is what one usable gram costs, and the offer it comes from. PackCost is what a pack costs with delivery, as
// the shop bears it.
type UnitCost struct {
	PerGram   amount.Exact `json:"per_gram"`
	Offer     PriceOffer   `json:"offer"`
	PackCost  amount.Exact `json:"pack_cost"`
	PackGrams amount.Exact `json:"pack_grams"`
	Usable    float64      `json:"usable_percent"`
	AgeDays   int          `json:"age_days"`
	Stale     bool         `json:"stale"`
	// id of the ingredient that the offer is of: itself, or what the steps begin with
	Bought string `json:"bought"`
	// id of the step that makes it, where the offer is of what goes in
	Through string `json:"through,omitempty"`
	// minutes of hands a gram that the steps ask, the names of the steps and their ids, of which the last is Through,
	// and the ids of all that is bought on the way
	Minutes amount.Exact `json:"minutes"`
	Way     []string     `json:"way,omitempty"`
	Steps   []string     `json:"-"`
	Buys    []string     `json:"-"`
	// by the lots on hand: how many grams of them are left; the offer is then empty
	LotGrams amount.Grams `json:"lot_grams,omitzero"`
}

// Arithmetic writes out how an offer becomes the cost of a usable gram: price / pack grams / yield.
func (g *Ingredient) Arithmetic(c UnitCost) string {
	o := c.Offer
	if c.LotGrams.IsPositive() {
		return fmt.Sprintf("what the %s g on hand cost, lot by lot", amount.Shown(c.LotGrams.Float(), 0))
	}
	how := fmt.Sprintf("%s g", o.PackAmount)
	switch o.PackUnit {
	case "ml":
		how = fmt.Sprintf("(%s mL x %g g/mL)", o.PackAmount, g.DensityGPerML)
	case "piece":
		if how = fmt.Sprintf("%s pieces", o.PackAmount); g.IsPackaging() {
			break // its cost is that of a piece
		}
		how = fmt.Sprintf("(%s pieces x %s g)", o.PackAmount, c.PackGrams.Over(o.PackAmount.Exact()))
	}
	price := o.Price.Fixed(2)
	if o.Delivery.IsPositive() {
		price = fmt.Sprintf("(%s + %s delivery)", price, o.Delivery.Fixed(2))
	}
	switch bare := o.Price.Exact().Plus(o.Delivery.Exact()); c.PackCost.Cmp(bare) {
	case -1:
		price = fmt.Sprintf("%s / %s with tax", price, amount.More(o.TaxPercent))
	case 1:
		price = fmt.Sprintf("%s x %s with tax", price, amount.More(o.TaxPercent))
	}
	s := fmt.Sprintf("%s / %s", price, how)
	if g.Usable() != defaultUsablePercent {
		s += fmt.Sprintf(" / %g %% usable", g.Usable())
	}
	return s
}

// ErrNoPrice means that no valid offer exists; the cost is then "at least", never zero silently.
var ErrNoPrice = errors.New("no price")

// ErrNoPackGrams means that a pack by volume or piece cannot be turned into grams yet.
var ErrNoPackGrams = errors.New("pack has no grams")

// Market is what prices are read with: the shop's rule on a day, after how many days a price is stale, whether the shop
// reclaims tax on what it buys, and what is known besides the offers.
type Market struct {
	Rule      PriceRule
	Today     time.Time // in the shop's zone
	StaleDays int
	TaxBack   bool
	// grams a piece by the measures, 0 where none is known; may be nil
	Piece func(ingredient string) float64
	// by the lots on hand; may be nil
	Lots func(ingredient string) (grams amount.Grams, perGram amount.Exact, known bool)
}

// Cost returns the cost of one usable gram: price / pack grams / yield. An offer counts from its day until it ends.
// Errors: ErrNoPrice, ErrNoPackGrams.
func (g *Ingredient) Cost(m Market) (UnitCost, error) {
	if m.Rule == LotsPrice && m.Lots != nil {
		if grams, per, known := m.Lots(g.ID); known {
			usable := amount.ExactFloat(g.Usable()).Over(amount.Whole(100))
			return UnitCost{PerGram: per.Over(usable), LotGrams: grams, Usable: g.Usable(), Bought: g.ID}, nil
		}
	}
	var best UnitCost
	var firstErr error
	var later day.Day
	today, found := day.Of(m.Today), false
	for i := range g.Offers {
		o := &g.Offers[i]
		switch {
		case !o.Price.IsPositive() || o.ValidUntil != "" && o.ValidUntil < today:
			continue
		case o.Date > today:
			if later == "" || o.Date < later {
				later = o.Date
			}
			continue
		}
		c, err := g.offerCost(o, m, today)
		if err != nil {
			if firstErr == nil {
				firstErr = err
			}
			continue
		}
		if !found || better(m.Rule, &c, &best) {
			best, found = c, true
		}
	}
	switch {
	case found:
		return best, nil
	case firstErr != nil:
		return UnitCost{}, firstErr
	case later != "":
		return UnitCost{}, fmt.Errorf("%s: %w before %s", g.Name, ErrNoPrice, later)
	}
	return UnitCost{}, fmt.Errorf("%s: %w", g.Name, ErrNoPrice)
}

// dayNumber counts days. It is asked for every price on every typed gram, hence not through time.Parse: days are
// counted from March, so that a leap day ends its year.
func dayNumber(on day.Day) (int, bool) {
	s := string(on)
	if len(s) != len(day.Layout) || s[4] != '-' || s[7] != '-' {
		return 0, false
	}
	year, err1 := strconv.Atoi(s[:4])
	month, err2 := strconv.Atoi(s[5:7])
	day, err3 := strconv.Atoi(s[8:])
	if month < 3 {
		year, month = year-1, month+12
	}
	return 365*year + year/4 - year/100 + year/400 + (153*month-457)/5 + day, err1 == nil && err2 == nil && err3 == nil
}

func better(rule PriceRule, a, b *UnitCost) bool {
	if c := a.PerGram.Cmp(b.PerGram); rule == CheapestPrice && c != 0 {
		return c < 0
	}
	return a.Offer.Date > b.Offer.Date
}

func (g *Ingredient) offerCost(o *PriceOffer, m Market, today day.Day) (UnitCost, error) {
	grams := o.PackAmount.Exact()
	switch o.PackUnit {
	case "ml":
		if g.DensityGPerML <= 0 {
			return UnitCost{}, fmt.Errorf("%s: a price by mL needs the density: %w", g.Name, ErrNoPackGrams)
		}
		grams = grams.Times(amount.ExactFloat(g.DensityGPerML))
	case "piece":
		piece := g.PieceGrams
		if g.IsPackaging() {
			piece = 1 // bought and used by the piece: a gram stands for one
		}
		if piece <= 0 && m.Piece != nil {
			piece = m.Piece(g.ID)
		}
		if piece <= 0 {
			return UnitCost{}, fmt.Errorf("%s: a price by the piece needs grams a piece: %w", g.Name, ErrNoPackGrams)
		}
		grams = grams.Times(amount.ExactFloat(piece))
	}
	c := UnitCost{Offer: *o, PackGrams: grams, Usable: g.Usable(), PackCost: o.PackCost(m.TaxBack), Bought: g.ID}
	if c.Usable != defaultUsablePercent {
		grams = grams.Times(amount.ExactFloat(c.Usable)).Over(amount.Whole(100))
	}
	c.PerGram = c.PackCost.Over(grams)
	from, ok1 := dayNumber(o.Date)
	now, ok2 := dayNumber(today)
	if ok1 && ok2 {
		c.AgeDays = now - from
		c.Stale = c.AgeDays > m.StaleDays
	}
	return c, nil
}

// States of an offer on a day.
const (
	OfferNow    = "now"    // the price counts
	OfferBeside = "beside" // it is valid, and another counts
	OfferWaits  = "waits"  // for its day
	OfferEnded  = "ended"
)

// OfferTold is an offer with what a usable gram costs by it, and whether it counts today.
type OfferTold struct {
	Offer   PriceOffer    `json:"offer"`
	PerGram *amount.Exact `json:"per_gram"` // nil where its pack cannot be turned into grams
	State   string        `json:"state"`
}

// Told tells all offers, in their order, in a market.
func (g *Ingredient) Told(m Market) []OfferTold {
	today := day.Of(m.Today)
	now, err := g.Cost(m)
	counts := err == nil && !now.LotGrams.IsPositive()
	out := make([]OfferTold, len(g.Offers))
	for i := range g.Offers {
		o := &g.Offers[i]
		out[i] = OfferTold{Offer: *o, State: OfferBeside}
		if c, err := g.offerCost(o, m, today); err == nil {
			out[i].PerGram = &c.PerGram
		}
		switch {
		case o.Date > today:
			out[i].State = OfferWaits
		case o.ValidUntil != "" && o.ValidUntil < today:
			out[i].State = OfferEnded
		case counts && *o == now.Offer:
			out[i].State, counts = OfferNow, false
		}
	}
	return out
}
