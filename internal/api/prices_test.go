package api

import (
	"fmt"
	"strings"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/law"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// priceFile sends a price file with answers.
func priceFile(c *client, path, text string, way match.PriceWay, rows map[string]match.PriceAnswer) reply {
	if rows == nil {
		rows = map[string]match.PriceAnswer{}
	}
	return c.send("POST", path, catalog.PriceFile{Content: []byte(text), Way: way, Rows: rows})
}

func TestPriceListsInAndOut(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	out := c.send("GET", "/api/prices", nil).ok()
	assert.True(t, strings.HasPrefix(string(out.body),
		"ingredient,supplier,pack_amount,pack_unit,price,date,valid_until,delivery,tax_percent,tax_in_it\n"))
	back := into[catalog.PriceImport](priceFile(c, "/api/prices", string(out.body), match.PriceWay{}, nil).ok())
	assert.Equal(t, 0, back.Added)
	assert.Positive(t, back.Same)

	post := func(csv string) reply { return priceFile(c, "/api/prices", csv, match.PriceWay{}, nil) }
	post("ingredient;supplier;pack_amount;pack_unit;price;date\nPumpkin, cooked;Fallowfield Veg;5000;g;6,40;2026-11-02\n").ok()
	assert.NotNil(t, get[catalog.IngredientView](c, "/api/ingredients/pumpkin_cooked").Cost)
	header := "ingredient,supplier,pack_amount,pack_unit,price,date\n"
	post("ingredient,supplier\nx,y\n").refused(422, "column:price")
	post(header+"Lime juice,F,1000,g,abc,2026-11-02\n").refused(422, "line 2: price")
	post(header+"Lime juice,F,1000,g,0,2026-11-02\n").refused(422, "line 2: price")
	post(header+"Moon dust,F,1000,g,1,2026-11-02\n").refused(422, "line 2")
	post(header+"Lime juice,F,1000,box,1,yesterday\nLime juice,F,1,g,1,2026-11-02\n").refused(422, "line 2: pack_unit")
	post("").refused(422, "file")
	assert.Len(t, get[catalog.IngredientView](c, "/api/ingredients/lime_juice").Offers, 1, "a bad list stores nothing")
}

// TestAPriceFileIsMatchedAskedAboutAndRemembered follows a supplier's own file from its first reading to the next one.
func TestAPriceFileIsMatchedAskedAboutAndRemembered(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	before := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	file := "Item;Pack Size;Net price;Valid from\nMISO (white);1.000 g;9,90;20/11/2026\nMoon dust;1 kg;3,00;20/11/2026\n" +
		"Tahini, sesame;1 kg;990,00;20/11/2026\n"
	read := func(text string, way match.PriceWay, rows map[string]match.PriceAnswer) catalog.PriceReading {
		return into[catalog.PriceReading](priceFile(c, "/api/prices/read", text, way, rows).ok())
	}
	r := read(file, match.PriceWay{}, nil)
	var keys []string
	for _, q := range r.Asks {
		keys = append(keys, q.Key)
	}
	assert.Equal(t, []string{"decimal", "supplier"}, keys, "1.000 is asked, and whose prices these are")
	assert.False(t, r.Known)
	require.Len(t, r.Rows, 3)
	assert.Equal(t, "miso_white", r.Rows[0].Ingredient, "the same words in another order")
	assert.Empty(t, r.Rows[1].Ingredient)

	way := match.PriceWay{Decimal: ",", Supplier: "Brackwater", Names: map[string]string{"Moon dust": match.LeftOutName,
		"Tahini, sesame": "tahini"}}
	nobody := way
	nobody.Supplier = ""
	assert.True(t, read(file, nobody, nil).Rows[2].Held, "whoever sells it")
	r = read(file, way, nil)
	assert.Empty(t, r.Asks)
	assert.True(t, r.Rows[1].Left)
	assert.True(t, r.Rows[2].Held, "a price that moves a gram by more than three times waits")
	assert.Equal(t, []int{1, 1, 1}, []int{r.Add, r.Left, r.Open})
	priceFile(c, "/api/prices", file, way, nil).refused(422, "line 4")
	assert.Equal(t, before.Offers, get[catalog.IngredientView](c, "/api/ingredients/miso_white").Offers,
		"all or nothing")
	done := into[catalog.PriceImport](priceFile(c, "/api/prices", file, way,
		map[string]match.PriceAnswer{"4": {Leave: true}}).ok())
	assert.Equal(t, 1, done.Added)
	c.send("PUT", fmt.Sprintf("/api/ingredients/miso_white?rev=%d", before.Rev), before.Ingredient).refused(409, "")
	now := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	assert.Len(t, now.Offers, len(before.Offers)+1, "a page from before does not put the old list back")
	assert.Equal(t, "1000", now.Offers[0].PackAmount.String(), "1.000 g were a thousand")

	next := strings.ReplaceAll(file, "9,90", "9,95")
	r = read(next, match.PriceWay{}, nil)
	assert.True(t, r.Known)
	assert.Empty(t, r.Asks, "what was said of this supplier's files is remembered")
	assert.Equal(t, "Brackwater", r.Rows[0].Offer.Supplier)
	assert.Equal(t, "tahini", r.Rows[2].Ingredient)
	assert.True(t, r.Rows[2].Held, "but not that a price may move so far")
}

func TestAPriceOfADayToComeWaitsForIt(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	cost := func() string {
		return get[catalog.SheetView](c, "/api/formulas/carrot_miso_dressing/versions/3").Panel.Cost.PerJar.Fixed(6)
	}
	before := cost()
	g := v.Ingredient
	g.Offers = append(g.Offers, pantry.PriceOffer{Supplier: "Brackwater", PackAmount: amount.MustQuantity("1000"),
		PackUnit: "g", Price: amount.MustMoney("19"), Date: "2027-03-01"})
	after := into[catalog.IngredientView](c.send("PUT", fmt.Sprintf("/api/ingredients/miso_white?rev=%d", v.Rev),
		g).ok())
	assert.Equal(t, before, cost(), "a price of next March is no price of today")
	assert.Equal(t, v.Cost.PerGram.Fixed(9), after.Cost.PerGram.Fixed(9))
	assert.Equal(t, pantry.OfferWaits, after.Told[0].State)
}

func TestAPriceThatLeapsIsAskedAbout(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := get[catalog.IngredientView](c, "/api/ingredients/miso_white")
	g := v.Ingredient
	g.Offers = append(g.Offers, pantry.PriceOffer{Supplier: "Marl Mill Stores", PackAmount: amount.MustQuantity("2000"),
		PackUnit: "g", Price: amount.MustMoney("218"), Date: "2026-11-20"})
	path := fmt.Sprintf("/api/ingredients/miso_white?rev=%d", v.Rev)
	said := c.send("PUT", path, g).refused(422, "")
	assert.Contains(t, said, "a usable kg would cost 109.00 in the place of 10.90")
	assert.Len(t, get[catalog.IngredientView](c, "/api/ingredients/miso_white").Offers, 1)
	lost := g
	lost.SupplierLists, lost.Allergens = nil, nil
	c.send("PUT", path+"&why=a+tub+of+the+old+one", lost).refused(422, "offers[1].price")
	assert.NotEmpty(t, get[catalog.IngredientView](c, "/api/ingredients/miso_white").Allergens[law.GB],
		"the reason for a price takes no allergen off")
	c.send("PUT", path+"&why=a+tub+of+the+old+one", g).ok()
	assert.Len(t, get[catalog.IngredientView](c, "/api/ingredients/miso_white").Offers, 2)
}

func TestAPieceIsKnownByItsMeasures(t *testing.T) {
	t.Parallel()
	c := withDemo(t)
	v := get[catalog.IngredientView](c, "/api/ingredients/lime_whole")
	require.Zero(t, v.Ingredient.PieceGrams)
	assert.InDelta(t, 70, v.KnownPiece, 0.01)
	g := v.Ingredient
	g.Offers = []pantry.PriceOffer{{Supplier: "Brackwater", PackAmount: amount.MustQuantity("50"), PackUnit: "piece",
		Price: amount.MustMoney("14"), Date: "2026-11-20"}}
	after := into[catalog.IngredientView](c.send("PUT", fmt.Sprintf("/api/ingredients/lime_whole?rev=%d", v.Rev),
		g).ok())
	require.NotNil(t, after.Cost, after.CostProblem)
	assert.Equal(t, "4.00", after.Cost.PerGram.Times(amount.Whole(1000)).Fixed(2))
	assert.Equal(t, "14.00 / (50 pieces x 70 g)", after.Arithmetic)
	g.Offers[0].Price = amount.MustMoney("0")
	c.send("PUT", fmt.Sprintf("/api/ingredients/lime_whole?rev=%d", after.Rev), g).refused(422, "offers[0].price")
}
