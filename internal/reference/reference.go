// Package reference holds the typical ingredient data that a new pantry starts with. The figures are starting points
// that the maker replaces with supplier data, and are marked typical until then.
package reference

import (
	"bytes"
	_ "embed"
	"encoding/csv"
	"fmt"
	"strconv"
	"strings"

	"gallipot/internal/core/pantry"
)

//go:embed ingredients.csv
var ingredientsCSV []byte

// chemistry names the few ingredients that stand outside the ordinary charge balance.
var chemistry = map[string]string{
	"citric_acid": pantry.ChemistryPureAcid, "lactic_acid_80": pantry.ChemistryPureAcid, "malic_acid": pantry.ChemistryPureAcid,
	"baking_soda": pantry.ChemistryBakingSoda, "potassium_sorbate": pantry.ChemistrySorbateSalt, "sodium_benzoate": pantry.ChemistryBenzoateSalt,
	"water": pantry.ChemistryWater,
}

// Ingredients reads the shipped table.
func Ingredients() ([]pantry.Ingredient, error) {
	rows, err := csv.NewReader(bytes.NewReader(ingredientsCSV)).ReadAll()
	if err != nil {
		return nil, fmt.Errorf("reference ingredients: %w", err)
	}
	at := map[string]int{}
	for i, name := range rows[0] {
		at[name] = i
	}
	out := make([]pantry.Ingredient, 0, len(rows)-1)
	for n, row := range rows[1:] {
		r := reader{row: row, at: at}
		g := r.ingredient()
		if r.err != nil {
			return nil, fmt.Errorf("reference ingredients line %d: %w", n+2, r.err)
		}
		out = append(out, g)
	}
	return out, nil
}

type reader struct {
	row []string
	at  map[string]int
	err error
}

func (r *reader) text(name string) string { return strings.TrimSpace(r.row[r.at[name]]) }

func (r *reader) number(name string) float64 {
	s := r.text(name)
	if s == "" {
		return 0
	}
	x, err := strconv.ParseFloat(s, 64)
	if err != nil && r.err == nil {
		r.err = fmt.Errorf("%s: %w", name, err)
	}
	return x
}

func (r *reader) list(name string) []string {
	out := []string{}
	for _, s := range strings.Split(r.text(name), ";") {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (r *reader) ingredient() pantry.Ingredient {
	g := pantry.Ingredient{
		ID: r.text("id"), Name: r.text("name"), LabelUS: r.text("label_name_us"), LabelGB: r.text("label_name_gb"), Role: r.text("role"),
		DensityGPerML: r.number("density_g_ml"), BufferMmol: r.number("buffer_mmol_kg_ph"), Typical: true,
		Composition: pantry.Composition{
			Water: r.number("water"), Protein: r.number("protein"), Fat: r.number("fat"), Saturates: r.number("saturates"), Trans: r.number("trans"),
			Carbohydrate: r.number("carbohydrate"), Sugars: r.number("sugars"), Fibre: r.number("fibre"), Alcohol: r.number("alcohol"),
			SodiumMg: r.number("sodium_mg"), CholesterolMg: r.number("cholesterol_mg"), CalciumMg: r.number("calcium_mg"), IronMg: r.number("iron_mg"),
			PotassiumMg: r.number("potassium_mg"), VitaminDUg: r.number("vitamin_d_ug"),
		},
		Acids:       pantry.Acids{Acetic: r.number("acetic"), Citric: r.number("citric"), Malic: r.number("malic"), Lactic: r.number("lactic"), Tartaric: r.number("tartaric")},
		AllergensUS: r.list("allergens_us"), AllergensGB: r.list("allergens_gb"), Flags: r.list("flags"),
		SupplierList: r.text("sub_ingredients"), SupplierListUS: r.text("sub_ingredients_us"), StateOf: r.text("state_of"),
		Offers: []pantry.PriceOffer{},
	}
	if r.text("ph") != "" {
		g.PH = &pantry.PHRange{Typical: r.number("ph"), Low: r.number("ph_low"), High: r.number("ph_high")}
	}
	g.Chemistry = chemistry[g.ID]
	return g
}
