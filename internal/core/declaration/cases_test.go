package declaration

import (
	"encoding/json"
	"strconv"
	"strings"
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type caseLine struct {
	NameUS string `json:"name_us"`
	NameGB string `json:"name_gb"`
	Grams  float64
	Sub    string `json:"sub_ingredients"`
	US     string `json:"allergens_us"`
	GB     string `json:"allergens_gb"`
	Flags  string
	Quid   bool
	SubUS  string   `json:"sub_ingredients_us"`
	SO2    *float64 `json:"sulphites_mg_kg"`
}

func split(s string) []string {
	if s == "" {
		return nil
	}
	return strings.Split(s, ";")
}

func (l caseLine) item(t *testing.T, under *law.Law) Item {
	g := pantry.Ingredient{Labels: law.Each[string]{US: l.NameUS, GB: l.NameGB},
		SupplierLists: law.Each[string]{US: l.SubUS, GB: l.Sub},
		Allergens:     law.Each[[]string]{US: split(l.US), GB: split(l.GB)}}
	it := Item{Name: g.LabelFor(under.Regime), Grams: l.Grams, SupplierList: g.ListFor(under.Regime),
		Allergens: g.Allergens[under.Regime], Quid: l.Quid, SulphitesMgKg: l.SO2}
	for _, f := range split(l.Flags) {
		switch {
		case f == "component:disperse":
			it.Disperse = true
		case strings.HasPrefix(f, "parts:"):
			for _, p := range strings.Split(strings.TrimPrefix(f, "parts:"), ",") {
				name, grams, _ := strings.Cut(p, "=")
				g, err := strconv.ParseFloat(grams, 64)
				require.NoError(t, err)
				it.Parts = append(it.Parts, Item{Name: name, Grams: g})
			}
		default:
			it.Flags = append(it.Flags, f)
		}
	}
	return it
}

func TestDeclareReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name    string
			Regime  law.Regime
			Options struct {
				Tail   float64 `json:"tail_percent"`
				Spices bool    `json:"group_spices"`
				Off    float64 `json:"water_driven_off_g"`
			}
			Lines []caseLine
			Want  struct {
				List     string
				Contains *string
			}
		}
	}
	cases.Load(t, "declaration.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			under := of(t, c.Regime)
			var items []Item
			for _, l := range c.Lines {
				items = append(items, l.item(t, under))
			}
			d, err := Declare(items, Options{Law: under, TailPercent: c.Options.Tail, GroupSpices: c.Options.Spices,
				DrivenOff: c.Options.Off})
			require.NoError(t, err)
			assert.Equal(t, c.Want.List, d.List)
			if c.Want.Contains != nil {
				assert.Equal(t, *c.Want.Contains, d.Contains)
			}
		})
	}
}

func TestRoundReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases map[string][][3]json.RawMessage
	}
	cases.Load(t, "rounding.json", &file)
	require.NotEmpty(t, file.Cases)
	for regime, rows := range file.Cases {
		for _, row := range rows {
			var nutrient, printed string
			var exact float64
			require.NoError(t, json.Unmarshal(row[0], &nutrient))
			require.NoError(t, json.Unmarshal(row[1], &exact))
			require.NoError(t, json.Unmarshal(row[2], &printed))
			t.Run(regime+" "+nutrient+" "+string(row[1]), func(t *testing.T) {
				got, err := Round(of(t, law.Regime(regime)), nutrient, exact)
				require.NoError(t, err)
				assert.Equal(t, printed, got)
			})
		}
	}
}

func TestNetQuantityReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases [][4]json.RawMessage
	}
	cases.Load(t, "net_quantity.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, row := range file.Cases {
		var regime, unit, printed string
		var amount float64
		for i, into := range []any{&regime, &amount, &unit, &printed} {
			require.NoError(t, json.Unmarshal(row[i], into))
		}
		t.Run(printed, func(t *testing.T) {
			got, err := NetQuantity(of(t, law.Regime(regime)), amount, unit)
			require.NoError(t, err)
			assert.Equal(t, printed, got)
		})
	}
}
