package interchange

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gallipot/internal/app/catalog"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var british = shop.Settings{Currency: "GBP"}

func ugly(t *testing.T, name string, way match.PriceWay) match.PriceTable {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("..", "..", "testdata", "pricefiles", name))
	require.NoError(t, err)
	table, err := ReadPrices(raw, way, british)
	require.NoError(t, err, name)
	return table
}

// told is a row in one line: what, pack, price, from when; or what is wrong.
func told(rows []match.PriceLine) []string {
	var out []string
	for _, r := range rows {
		o := r.Offer
		s := strings.Join([]string{r.Name, o.Supplier, o.PackAmount.String() + " " + o.PackUnit, o.Price.String(),
			string(o.Date)}, "; ")
		for _, e := range r.Wrong {
			s = r.Name + "; " + e.Field
		}
		out = append(out, s)
	}
	return out
}

func asked(table match.PriceTable) []string {
	var out []string
	for _, q := range table.Asks {
		s := q.Key
		if q.Suggested != "" {
			s += "=" + q.Suggested
		}
		out = append(out, s)
	}
	return out
}

// TestPriceFilesAsSuppliersSendThem reads every file of the folder: what it leaves open at first, and what is read of
// it once that is answered.
func TestPriceFilesAsSuppliersSendThem(t *testing.T) {
	tried := map[string]bool{}
	for _, c := range []struct {
		file string
		asks []string
		way  match.PriceWay
		want []string
	}{
		{"marram-dollars.csv", []string{"gallon=imperial", "supplier", "currency"},
			match.PriceWay{Gallon: "us", Supplier: "Marram", Currency: "USD"},
			[]string{"Sunflower oil (linoleic); Marram; 3785.412 ml; 48.2; 2026-11-20",
				"Miso, white; Marram; 1814.369 g; 21.75; 2026-11-20",
				"Fine Sea Salt; Marram; 25000 g; 1012.5; 2026-11-20",
				"Moon dust; Marram; 1000 g; 3; 2026-11-20"}},
		{"brackwater-euro.csv", []string{"supplier", "currency"}, match.PriceWay{Supplier: "Brackwater",
			Currency: "EUR"},
			[]string{"Tahini (sesame paste, no salt); Brackwater; 5000 g; 24.9; 2026-11-20",
				"Hazelnuts; Brackwater; 12500 g; 1024.9; 2026-11-20",
				"Rice vinegar 4.3%; Brackwater; 4500 ml; 31.2; 2026-11-20"}},
		{"five-thousand.csv", []string{"decimal=,"}, match.PriceWay{Decimal: ","},
			[]string{"Carrot, raw; Fallowfield Veg; 5000 g; 6.4; 2026-11-02"}},
		{"five-thousand.csv", []string{"decimal=,"}, match.PriceWay{Decimal: "."},
			[]string{"Carrot, raw; Fallowfield Veg; 5 g; 6.4; 2026-11-02"}},
		{"two-orders.csv", []string{"days=day"}, match.PriceWay{Days: "day"},
			[]string{"Lime juice; Saltmarsh Citrus; 1000 ml; 6.2; 2026-04-03",
				"Lime, whole with peel; Saltmarsh Citrus; 50 piece; 14; 2026-04-25"}},
		{"utf16.txt", nil, match.PriceWay{},
			[]string{"Citric acid powder (anhydrous); Dune & Sons; 2000 g; 9.8; 2026-11-20"}},
		{"utf16-unmarked.txt", nil, match.PriceWay{},
			[]string{"Citric acid powder (anhydrous); Dune & Sons; 2000 g; 9.8; 2026-11-20"}},
		{"latin1.csv", nil, match.PriceWay{}, []string{"Maple syrup; Café Tern; 3780 ml; 52; 2026-11-20"}},
		{"per-kilo.csv", nil, match.PriceWay{}, []string{"Beetroot, raw; Fallowfield Veg; 1000 g; 0.96; 2026-11-20",
			"Fine sea salt; price", "Ground cumin; price"}},
		{"no-names.csv", []string{"column:ingredient", "column:price", "column:pack"},
			match.PriceWay{Columns: map[string]int{"ingredient": 0, "supplier": 1, "pack": 2, "price": 3},
				Date: "2026-11-20"},
			[]string{"Kale; Fallowfield Veg; 3000 g; 9.6; 2026-11-20",
				"Pumpkin; Fallowfield Veg; 10000 g; 11; 2026-11-20"}},
	} {
		t.Run(c.file, func(t *testing.T) {
			tried[c.file] = true
			assert.Equal(t, c.asks, asked(ugly(t, c.file, match.PriceWay{})))
			table := ugly(t, c.file, c.way)
			assert.Empty(t, asked(table))
			assert.Equal(t, c.want, told(table.Rows))
		})
	}
	files, err := os.ReadDir(filepath.Join("..", "..", "testdata", "pricefiles"))
	require.NoError(t, err)
	for _, f := range files {
		assert.True(t, tried[f.Name()], "%s is tried", f.Name())
	}
}

func TestPricesReadInAnyOrderAndSeparator(t *testing.T) {
	for name, text := range map[string]string{
		"commas":     "ingredient,supplier,pack_amount,pack_unit,price,date,valid_until\n\"Lime, squeezed\",Fallow,1000,G,6.20,2026-10-12,2026-12-31\n\n",
		"semicolons": "price;date;ingredient;supplier;pack_unit;pack_amount;valid_until\n6,20;2026-10-12;Lime, squeezed;Fallow;g;1 000;2026-12-31\n",
		"tabs":       "\xef\xbb\xbfingredient\tsupplier\tpack_amount\tpack_unit\tprice\tdate\tvalid_until\nLime, squeezed\tFallow\t1000\tg\t6.20\t2026-10-12\t2026-12-31\n",
		"with more":  "ingredient,shelf,supplier,pack_amount,pack_unit,price,date,valid_until\n\"Lime, squeezed\",B3,Fallow,1,kg,6.20,12 Oct 2026,31/12/2026\n",
	} {
		t.Run(name, func(t *testing.T) {
			table, err := ReadPrices([]byte(text), match.PriceWay{}, british)
			require.NoError(t, err)
			assert.Empty(t, table.Asks)
			require.Len(t, table.Rows, 1)
			o := table.Rows[0].Offer
			assert.Equal(t, "Lime, squeezed", table.Rows[0].Name)
			assert.Equal(t, []string{"1000", "g", "6.2", "2026-10-12", "2026-12-31"},
				[]string{o.PackAmount.String(), o.PackUnit, o.Price.String(), string(o.Date), string(o.ValidUntil)})
			assert.Empty(t, o.Check())
		})
	}
}

func TestPricesGoOutAndComeBack(t *testing.T) {
	rows := []catalog.PriceRow{{Ingredient: "=cmd",
		Offer: pantry.PriceOffer{Supplier: "Fallow, Veg", PackAmount: amount.MustQuantity("2.125"), PackUnit: "piece",
			Price: amount.MustMoney("1.125"), Date: "2026-10-12", Delivery: amount.MustMoney("0.4"),
			TaxPercent: amount.Pct(20),
			WithTax:    true}}}
	var out bytes.Buffer
	require.NoError(t, WritePrices(&out, rows))
	assert.Contains(t, out.String(), "'=cmd", "a spreadsheet must not run a name")
	back, err := ReadPrices(out.Bytes(), match.PriceWay{}, british)
	require.NoError(t, err)
	assert.Empty(t, back.Asks, "1.125 is as the program writes it")
	require.Len(t, back.Rows, 1)
	assert.Empty(t, back.Rows[0].Wrong)
	assert.Equal(t, rows[0].Offer, back.Rows[0].Offer)
}

// TestWhatPacksHold pins each way in which a pack is written: a pound or a fluid ounce that is a tenth off would move
// every price by it.
func TestWhatPacksHold(t *testing.T) {
	for pack, want := range map[string]string{"250 g": "250 g", "2.5 kg": "2500 g", "1 lb": "453.592 g",
		"3 lbs": "1360.777 g", "8 oz": "226.796 g", "500 ml": "500 ml", "70 cl": "700 ml", "5 l": "5000 ml",
		"1 Ltr.": "1000 ml", "1 gal": "3785.412 ml", "2 pints": "946.353 ml", "16 fl oz": "473.176 ml",
		"6 x 750 ml": "4500 ml", "12 pcs": "12 piece", "48 ct": "48 piece", "kg": "1000 g"} {
		table, err := ReadPrices([]byte("Item;Pack;Price;Supplier;Date\nLime;"+pack+";1,50;F;2026-01-02\n"),
			match.PriceWay{Gallon: "us"}, british)
		require.NoError(t, err)
		require.Empty(t, table.Rows[0].Wrong, pack)
		o := table.Rows[0].Offer
		assert.Equal(t, want, o.PackAmount.String()+" "+o.PackUnit, pack)
	}
	for pack, want := range map[string]string{"1 gallon": "4546.09", "1 pt": "568.261", "1 qt": "1136.523",
		"10 floz": "284.131"} {
		table, err := ReadPrices([]byte("Item;Pack;Price;Supplier;Date\nLime;"+pack+";1,50;F;2026-01-02\n"),
			match.PriceWay{Gallon: "imperial"}, british)
		require.NoError(t, err)
		assert.Equal(t, want, table.Rows[0].Offer.PackAmount.String(), pack)
	}
}

func TestAFileThatIsNoPriceListIsRefused(t *testing.T) {
	header := "ingredient,supplier,pack_amount,pack_unit,price,date\n"
	for name, text := range map[string]string{
		"empty": " \n", "only a header": header, "too large": header + strings.Repeat("x", MaxPriceListBytes),
		"too many rows": header + strings.Repeat("Lime,F,1,g,1,2026-01-01\n", mostPriceRows+1),
		"no sheet":      "PK\x03\x04 and nothing",
	} {
		t.Run(name, func(t *testing.T) {
			_, err := ReadPrices([]byte(text), match.PriceWay{}, british)
			assert.Contains(t, fields(t, err), "file")
		})
	}
}

func TestEveryTroubleOfAPriceFileIsToldAtOnce(t *testing.T) {
	table, err := ReadPrices([]byte("ingredient,supplier,pack_amount,pack_unit,price,date\n"+
		"Lime,F,one,g,1,2026-01-01\nLime,F,1,box,abc,yesterday\n,F,1,g,1,2026-01-01\n"), match.PriceWay{}, british)
	require.NoError(t, err)
	var at []string
	for _, r := range table.Rows {
		for _, e := range r.Wrong {
			at = append(at, e.Field)
		}
	}
	assert.Equal(t, []string{"pack_amount", "price", "pack_unit", "date", "ingredient"}, at)
}

func FuzzPriceFiles(f *testing.F) {
	f.Add([]byte("Item;Pack;Price\nLime;1.000 g;1.000,00\n"))
	f.Add([]byte("sep=\nItem;Pack;Price\nLime;1 gal;$1\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		table, err := ReadPrices(raw, match.PriceWay{}, british)
		if err == nil {
			for _, r := range table.Rows {
				assert.True(t, len(r.Wrong) > 0 || r.Offer.Price.IsPositive(),
					"a row has a price, or says what is wrong")
			}
		}
	})
}
