package match

import (
	"testing"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWordsOfANameHaveNoOrderAndNoCase(t *testing.T) {
	assert.Equal(t, WordsIn("White Miso"), WordsIn("miso, white"))
	assert.Equal(t, WordsIn("Rice vinegar 4.3%"), WordsIn("RICE-VINEGAR (4 3)"))
	assert.NotEqual(t, WordsIn("white miso"), WordsIn("red miso"))
	assert.Empty(t, WordsIn(" – "))
}

func TestOffersAreOneWhateverTheirIDs(t *testing.T) {
	a := pantry.PriceOffer{ID: "1", Supplier: "Pellow Oils", PackUnit: "ml", Price: amount.MustMoney("46.5"),
		Date: "2026-11-20"}
	b := a
	b.ID = "2"
	assert.True(t, SameOffer(a, b))
	assert.True(t, Has([]pantry.PriceOffer{a}, b))
	b.Price = amount.MustMoney("46.51")
	assert.False(t, SameOffer(a, b))
	assert.False(t, Has([]pantry.PriceOffer{a}, b))
	assert.True(t, SameJSON(map[string]int{"a": 1, "b": 2}, map[string]int{"b": 2, "a": 1}))
	assert.False(t, SameJSON([]int{1}, []int{1, 2}))
	assert.False(t, SameJSON(func() {}, func() {}), "what cannot be written is like nothing")
}

// shelf is a pantry of a miso that was bought for 10 a kilo, a tahini without a price, and a jar.
func shelf() *PriceShelf {
	miso := &pantry.Ingredient{ID: "miso", Name: "White miso", Offers: []pantry.PriceOffer{offer("20", "2000", "g")}}
	tahini := &pantry.Ingredient{ID: "tahini", Name: "Tahini", DensityGPerML: 1.05}
	oil := &pantry.Ingredient{ID: "oil", Name: "Sunflower oil", DensityGPerML: 0.92}
	jar := &pantry.Ingredient{ID: "jar", Name: "Jar 190 ml", Role: pantry.RolePackaging}
	p := &PriceShelf{ByID: map[string]*pantry.Ingredient{}, Names: NewNames(),
		Market: pantry.Market{Rule: "newest", Today: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC), StaleDays: 90}}
	for _, g := range []*pantry.Ingredient{miso, tahini, oil, jar} {
		p.ByID[g.ID] = g
		p.Names.Add(g, nil, false)
	}
	p.Book = &reader.Book{Ingredients: p.ByID, Index: reader.NewIndex(p.ByID, nil), Spoons: amount.USSpoons}
	return p
}

func offer(price, pack, unit string) pantry.PriceOffer {
	return pantry.PriceOffer{Supplier: "Marl Mill", PackAmount: amount.MustQuantity(pack), PackUnit: unit,
		Price: amount.MustMoney(price), Date: "2026-11-20"}
}

func line(name string, o pantry.PriceOffer) PriceLine {
	return PriceLine{Line: 2, Name: name, Offer: o}
}

func TestARowIsPlacedByItsWordsOrByWhatWasSaidBefore(t *testing.T) {
	p := shelf()
	x := p.Find(line("MISO white", offer("22", "2000", "g")), PriceWay{})
	assert.Equal(t, "miso", x.Ingredient)
	assert.False(t, x.Open(PriceAnswer{}), "it asks nothing")
	require.NotNil(t, x.Was)
	require.NotNil(t, x.Becomes)
	assert.Equal(t, []string{"10", "11"}, []string{x.Was.Round(4).String(), x.Becomes.Round(4).String()})

	x = p.Find(line("Paste 7", offer("22", "2000", "g")),
		PriceWay{Names: map[string]string{WordsIn("paste 7"): "tahini"}})
	assert.Equal(t, "tahini", x.Ingredient, "what was said once is remembered")
	x = p.Find(line("Delivery", offer("5", "1", "piece")),
		PriceWay{Names: map[string]string{WordsIn("delivery"): LeftOutName}})
	assert.True(t, x.Left)
	assert.False(t, x.Open(PriceAnswer{}))

	x = p.Find(line("Sunflower seeds", offer("5", "1000", "g")), PriceWay{})
	assert.Empty(t, x.Ingredient, "words alike are offered, never taken")
	assert.True(t, x.Open(PriceAnswer{}))
	require.NotEmpty(t, x.Suggested)
	assert.Equal(t, "oil", x.Suggested[0].Value)
}

func TestAPriceThatLeapsIsHeldUntilItIsConfirmed(t *testing.T) {
	p := shelf()
	for price, held := range map[string]bool{"60": false, "60.01": true, "6.67": false, "6.66": true, "20.01": false} {
		x := p.Find(line("White miso", offer(price, "2000", "g")), PriceWay{})
		assert.Equal(t, held, x.Held, price)
		assert.Equal(t, held, x.Open(PriceAnswer{}), price)
		assert.False(t, x.Open(PriceAnswer{Confirmed: true}), price)
	}
	same := p.Find(line("White miso", offer("20", "2000", "g")), PriceWay{})
	assert.True(t, same.Same)
	assert.False(t, same.Held, "what is there already moves nothing")
}

func TestWhatCannotBeCostedSaysWhatIsMissing(t *testing.T) {
	p := shelf()
	x := p.Find(line("White miso", offer("20", "2000", "ml")), PriceWay{})
	require.NotEmpty(t, x.Wrong, "a volume of what has no density")
	assert.True(t, x.Open(PriceAnswer{}))
	x = p.Find(line("Jar 190 ml", offer("20", "2000", "g")), PriceWay{})
	require.NotEmpty(t, x.Wrong)
	assert.Contains(t, x.Wrong[0].Message, "by the piece")
	assert.Equal(t, "piece", UnitOfCost(*p.ByID["jar"]))
	assert.Equal(t, "kg", UnitOfCost(*p.ByID["miso"]))
}

func TestAWayTakesWhatIsRememberedWhereNothingWasSaid(t *testing.T) {
	kept := PriceWay{Columns: map[string]int{"price": 2}, Decimal: ",", Days: "day", Gallon: "imperial", Currency: "£",
		Supplier: "Marl Mill", Date: "2026-01-01", Names: map[string]string{WordsIn("old words"): "miso"}}
	w := PriceWay{Decimal: ".", Names: map[string]string{"New Words": "oil"}}.Over(kept)
	assert.Equal(t, ".", w.Decimal, "what is said now counts")
	assert.Equal(t, []string{"day", "imperial", "£", "Marl Mill"}, []string{w.Days, w.Gallon, w.Currency, w.Supplier})
	assert.Equal(t, map[string]int{"price": 2}, w.Columns)
	assert.Empty(t, w.Date, day.Day("a day is never remembered"))
	assert.Equal(t, "miso", w.Names[WordsIn("old words")])
	assert.Equal(t, "oil", w.Names[WordsIn("words new")])
}
