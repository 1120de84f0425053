package costing

import (
	"fmt"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/field"
	"gallipot/internal/core/pantry"
)

// PriceAtMargin is the price whose margin is the given percent: cost / (1 - margin). The margin must be below 100.
func PriceAtMargin(cost amount.Exact, percent amount.Percent) (amount.Exact, error) {
	rest := amount.Rest(percent)
	if !rest.IsPositive() || percent.IsNegative() {
		return amount.Exact{}, fmt.Errorf("a margin lies between 0 and 100 %%, not %s", percent)
	}
	return cost.Over(rest), nil
}

// PriceAtMarkUp is cost x (1 + mark-up).
func PriceAtMarkUp(cost amount.Exact, percent amount.Percent) amount.Exact {
	return cost.Times(amount.More(percent))
}

// What somebody adds to a cost: a margin is a share of the price, a mark-up a share of the cost (handbook 07).
const (
	Margin = "margin"
	MarkUp = "markup"
)

// Added is what somebody on the way to the buyer adds to what they pay.
type Added struct {
	Way     string         `json:"way"`
	Percent amount.Percent `json:"percent"`
}

// on is the price with it.
func (a Added) on(cost amount.Exact) amount.Exact {
	if a.Way == MarkUp {
		return PriceAtMarkUp(cost, a.Percent)
	}
	return cost.Over(amount.Rest(a.Percent))
}

func (a Added) check(field string) []pantry.FieldError {
	switch {
	case a.Way != Margin && a.Way != MarkUp:
		return []pantry.FieldError{{Field: field + ".way", Message: "a margin or a mark-up"}}
	case a.Way == Margin && (a.Percent.IsNegative() || a.Percent.Float() > 95):
		return []pantry.FieldError{{Field: field + ".percent", Message: "a margin lies between 0 and 95 %"}}
	case a.Percent.IsNegative() || a.Percent.Float() > 2000:
		return []pantry.FieldError{{Field: field + ".percent", Message: "a mark-up lies between 0 and 2000 %"}}
	}
	return nil
}

// Pricing is how a shop comes from cost to price. Market, Wholesale and Trade are what the shop adds where it sells at
// a stall, to shops, and to a distributor; Distributor and Shop are what these add. A price point is a whole number
// of Steps and Ending: 1 and 0.95 make 4.95, 5.95.
type Pricing struct {
	Market      Added          `json:"market"`
	Wholesale   Added          `json:"wholesale"`
	Trade       Added          `json:"trade"`
	Distributor Added          `json:"distributor"`
	Shop        Added          `json:"shop"`
	TaxPercent  amount.Percent `json:"tax_percent"`
	TaxName     string         `json:"tax_name"`
	Step        amount.Money   `json:"step"` // nothing: prices are not rounded
	Ending      amount.Money   `json:"ending"`
	FixedMonth  amount.Money   `json:"fixed_month"` // what a month costs whatever is made
}

// UsualPricing is what a new shop starts with.
func UsualPricing() Pricing {
	m := func(percent float64) Added { return Added{Margin, amount.Pct(percent)} }
	return Pricing{Market: m(55), Wholesale: m(40), Trade: m(30), Distributor: m(20), Shop: m(35), TaxName: "tax",
		Step: amount.MustMoney("1"), Ending: amount.MustMoney("0.95")}
}

// Check lists what is wrong in a pricing, at fields that start with at.
func (p Pricing) Check(at string) []pantry.FieldError {
	var errs field.Errors
	for _, x := range []struct {
		field string
		added Added
	}{{"market", p.Market}, {"wholesale", p.Wholesale}, {"trade", p.Trade}, {"distributor", p.Distributor},
		{"shop", p.Shop}} {
		errs = append(errs, x.added.check(at+x.field)...)
	}
	bad := errs.At(at)
	if p.TaxPercent.IsNegative() || p.TaxPercent.Float() > 100 {
		bad("tax_percent", "between 0 and 100 %")
	}
	if len([]rune(p.TaxName)) > 20 {
		bad("tax_name", "at most 20 characters")
	}
	if p.Step.IsNegative() || p.Step.Float() > 1000 {
		bad("step", "between 0 and 1000")
	}
	if p.Ending.IsNegative() || !p.Step.IsZero() && p.Ending.Cmp(p.Step) >= 0 {
		bad("ending", "an ending is less than the step between price points")
	}
	if p.FixedMonth.IsNegative() || p.FixedMonth.Float() > amount.MaxMoney {
		bad("fixed_month", "zero or more, and below ten million")
	}
	return errs
}

// point is the lowest price point that is not below a price.
func (p Pricing) point(price amount.Exact) amount.Exact {
	step := p.Step.Exact()
	if !step.IsPositive() {
		return price.Round(2)
	}
	n := price.Minus(p.Ending.Exact()).Over(step)
	whole := n.Floor()
	if n.Cmp(amount.Whole(whole)) > 0 {
		whole++
	}
	return step.Times(amount.Whole(max(0, whole))).Plus(p.Ending.Exact())
}

// RungStep is one pair of hands on the way to the buyer: what they add, and the price they ask without tax.
type RungStep struct {
	Who   string       `json:"who"` // we, distributor or shop
	Added Added        `json:"added"`
	Price amount.Exact `json:"price"`
}

// Rung is one way to the buyer. Ours is what the maker gets for a jar, without tax, and Left what remains after its
// cost. Margin and MarkUp are Left in percent of the price and of the cost. BreakEven is how many jars a month pay the
// shop's fixed costs, or nil if a jar leaves nothing.
type Rung struct {
	Key       string         `json:"key"` // market, shop or distributor
	Steps     []RungStep     `json:"steps"`
	Net       amount.Exact   `json:"net"`
	Tax       amount.Exact   `json:"tax"`
	Gross     amount.Exact   `json:"gross"`
	Point     amount.Exact   `json:"point"` // Gross at a price point
	Ours      amount.Exact   `json:"ours"`
	Left      amount.Exact   `json:"left"`
	Margin    amount.Percent `json:"margin_percent"`
	MarkUp    amount.Percent `json:"markup_percent"`
	BreakEven *int64         `json:"break_even"`
}

// Ladder is what to ask for a jar that costs so much, for each way to the buyer: tax comes last, then the next price
// point up. At the stall the maker keeps what rounding adds; elsewhere the retailer does.
func (p Pricing) Ladder(cost amount.Exact) []Rung {
	return []Rung{
		p.rung("market", cost, RungStep{"we", p.Market, amount.Exact{}}),
		p.rung("shop", cost, RungStep{"we", p.Wholesale, amount.Exact{}}, RungStep{"shop", p.Shop, amount.Exact{}}),
		p.rung("distributor", cost, RungStep{"we", p.Trade, amount.Exact{}},
			RungStep{"distributor", p.Distributor, amount.Exact{}}, RungStep{"shop", p.Shop, amount.Exact{}}),
	}
}

func (p Pricing) rung(key string, cost amount.Exact, steps ...RungStep) Rung {
	r := Rung{Key: key, Steps: steps, Net: cost}
	for i := range steps {
		r.Net = steps[i].Added.on(r.Net)
		steps[i].Price = r.Net
	}
	r.Gross = r.Net.Times(amount.More(p.TaxPercent))
	r.Point = p.point(r.Gross)
	r.Ours = steps[0].Price
	if len(steps) == 1 {
		r.Ours = r.Point.Over(amount.More(p.TaxPercent))
	}
	r.Tax = r.Point.Minus(r.Point.Over(amount.More(p.TaxPercent)))
	r.Left = r.Ours.Minus(cost)
	if r.Ours.IsPositive() {
		r.Margin = r.Left.Over(r.Ours).Percent()
	}
	if cost.IsPositive() {
		r.MarkUp = r.Left.Over(cost).Percent()
	}
	if r.Left.IsPositive() {
		n := p.FixedMonth.Exact().Over(r.Left)
		jars := n.Floor()
		if n.Cmp(amount.Whole(jars)) > 0 {
			jars++
		}
		r.BreakEven = &jars
	}
	return r
}
