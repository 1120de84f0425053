// Package reference holds the typical ingredient data that a new pantry starts with. The figures are starting points
// that the maker replaces with supplier data, and are marked typical until then.
package reference

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

//go:embed ingredients.csv
var ingredientsCSV []byte

// chemistry names the few ingredients that stand outside the ordinary charge balance.
var chemistry = map[string]string{
	"citric_acid": pantry.ChemistryPureAcid, "lactic_acid_80": pantry.ChemistryPureAcid,
	"malic_acid":  pantry.ChemistryPureAcid,
	"baking_soda": pantry.ChemistryBakingSoda, "potassium_sorbate": pantry.ChemistrySorbateSalt,
	"sodium_benzoate": pantry.ChemistryBenzoateSalt,
	"water":           pantry.ChemistryWater,
}

// Ingredients reads the shipped table.
func Ingredients() ([]pantry.Ingredient, error) {
	var out []pantry.Ingredient
	err := eachRow("ingredients", ingredientsCSV, func(r *reader) { out = append(out, r.ingredient()) })
	if err != nil {
		return out, err
	}
	more, err := states(out)
	return append(out, more...), err
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

// perLaw reads a column of each law.
func perLaw[T any](read func(column string) T, stem string) law.Each[T] {
	out := law.Each[T]{}
	for _, l := range law.All() {
		out[l.Regime] = read(stem + strings.ToLower(string(l.Regime)))
	}
	return out
}

// supplierLists reads the list in general wording, which stands under the first law, and those in the wording of
// others.
func (r *reader) supplierLists() law.Each[string] {
	out := law.Each[string]{}
	for i, l := range law.All() {
		column := "sub_ingredients_" + strings.ToLower(string(l.Regime))
		if _, has := r.at[column]; !has && i == 0 {
			column = "sub_ingredients"
		}
		if text := r.text(column); text != "" {
			out[l.Regime] = text
		}
	}
	return out
}

func (r *reader) ingredient() pantry.Ingredient {
	g := pantry.Ingredient{
		ID: r.text("id"), Name: r.text("name"), Labels: perLaw(r.text, "label_name_"), Role: r.text("role"),
		DensityGPerML: r.number("density_g_ml"), BufferMmol: r.number("buffer_mmol_kg_ph"), Typical: true,
		Composition: pantry.Composition{
			Water: r.number("water"), Protein: r.number("protein"), Fat: r.number("fat"),
			Saturates: r.number("saturates"), Trans: r.number("trans"),
			Carbohydrate: r.number("carbohydrate"), Sugars: r.number("sugars"), Fibre: r.number("fibre"),
			Alcohol:  r.number("alcohol"),
			SodiumMg: r.number("sodium_mg"), CholesterolMg: r.number("cholesterol_mg"),
			CalciumMg: r.number("calcium_mg"), IronMg: r.number("iron_mg"),
			PotassiumMg: r.number("potassium_mg"), VitaminDUg: r.number("vitamin_d_ug"),
		},
		Acids: pantry.Acids{Acetic: r.number("acetic"), Citric: r.number("citric"), Malic: r.number("malic"),
			Lactic: r.number("lactic"), Tartaric: r.number("tartaric")},
		Allergens: perLaw(r.list, "allergens_"), Flags: r.list("flags"),
		SupplierLists: r.supplierLists(), StateOf: r.text("state_of"),
		Offers: []pantry.PriceOffer{},
	}
	if r.text("ph") != "" {
		g.PH = &pantry.PHRange{Typical: r.number("ph"), Low: r.number("ph_low"), High: r.number("ph_high")}
	}
	g.Chemistry = chemistry[g.ID]
	if g.Plain() {
		g.Looked = &pantry.Looked{By: "Gallipot", From: "typical data: a single plain food", Texts: g.Texts()}
	}
	return g
}
