// Package pantry describes ingredients as bought: what they are made of, how sour they are, which
// allergens they bring, what the supplier says is in them, and what a usable gram of them costs.
package pantry

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/allergen"
	"gallipot/internal/core/field"
	"gallipot/internal/core/law"
)

// SaltPerSodium converts grams of sodium to grams of sodium chloride (58.443 / 22.990, handbook 05).
const SaltPerSodium = 2.542

// Composition is what 100 g of an ingredient is made of: grams per 100 g, minerals in mg, vitamin D in µg.
// Carbohydrate includes fibre and organic acids, as in the reference table. Hexose is the part of the
// sugars known to be glucose or fructose; the rest counts as disaccharide, the cautious side (handbook 05).
type Composition struct {
	Water         float64 `json:"water"`
	Protein       float64 `json:"protein"`
	Fat           float64 `json:"fat"`
	Saturates     float64 `json:"saturates"`
	Trans         float64 `json:"trans"`
	Carbohydrate  float64 `json:"carbohydrate"`
	Sugars        float64 `json:"sugars"`
	Hexose        float64 `json:"hexose,omitempty"`
	Fibre         float64 `json:"fibre"`
	Alcohol       float64 `json:"alcohol"`
	SodiumMg      float64 `json:"sodium_mg"`
	CholesterolMg float64 `json:"cholesterol_mg"`
	CalciumMg     float64 `json:"calcium_mg"`
	IronMg        float64 `json:"iron_mg"`
	PotassiumMg   float64 `json:"potassium_mg"`
	VitaminDUg    float64 `json:"vitamin_d_ug"`
}

// Salt returns grams of salt per 100 g.
func (c Composition) Salt() float64 { return c.SodiumMg / 1000 * SaltPerSodium }

// Acids are the organic acids of an ingredient in g per 100 g.
type Acids struct {
	Acetic   float64 `json:"acetic,omitempty"`
	Citric   float64 `json:"citric,omitempty"`
	Malic    float64 `json:"malic,omitempty"`
	Lactic   float64 `json:"lactic,omitempty"`
	Tartaric float64 `json:"tartaric,omitempty"`
}

// Total returns all organic acids in g per 100 g.
func (a Acids) Total() float64 { return a.Acetic + a.Citric + a.Malic + a.Lactic + a.Tartaric }

// Scaled returns so many times as much of each acid.
func (a Acids) Scaled(k float64) Acids { return Acids{}.plus(a, k) }

// PHRange is the typical pH of an ingredient with the range it is met in.
type PHRange struct {
	Typical float64 `json:"typical"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
}

// Ingredient is a material as bought, or as made by a preparation.
type Ingredient struct {
	ID            string             `json:"id"`
	Name          string             `json:"name"`
	Labels        law.Each[string]   `json:"label_names"` // its name on a declaration
	Role          string             `json:"role,omitempty"`
	DensityGPerML float64            `json:"density_g_ml,omitempty"`
	PieceGrams    float64            `json:"piece_grams,omitempty"`
	UsablePercent float64            `json:"usable_percent,omitempty"`
	Composition   Composition        `json:"composition"`
	Acids         Acids              `json:"acids"`
	PH            *PHRange           `json:"ph"`
	BufferMmol    float64            `json:"buffer_mmol_kg_ph"`
	Chemistry     string             `json:"chemistry,omitempty"`
	Allergens     law.Each[[]string] `json:"allergens"`
	Flags         []string           `json:"flags"`
	// what the supplier says is in it, in the wording of each law
	SupplierLists law.Each[string] `json:"supplier_lists,omitempty"`
	SulphitesMgKg *float64         `json:"sulphites_mg_kg,omitempty"`
	Typical       bool             `json:"typical"`
	StateOf       string           `json:"state_of,omitempty"`
	Note          string           `json:"note,omitempty"`
	Synonyms      []string         `json:"synonyms,omitempty"`
	Offers        []PriceOffer     `json:"offers"`

	Looked     *Looked           `json:"looked,omitempty"`      // nil: open, nobody has said what is in it
	MayContain *Stated           `json:"may_contain,omitempty"` // by the supplier's statement
	Lifted     []Lifted          `json:"lifted,omitempty"`      // of what it would inherit
	Inherited  Inherited         `json:"-"`                     // what it was made of brings along; see Inherit
	Lexicon    *allergen.Lexicon `json:"-"`                     // the shop's words; nil: the shipped ones
	today      *Ingredient       // the pantry's own, of one that a locked version keeps
}

// The ways an ingredient can stand outside the ordinary charge balance (handbook 05).
const (
	ChemistryPureAcid        = "pure_acid"
	ChemistryBakingSoda      = "baking_soda"
	ChemistrySorbateSalt     = "sorbate_salt"
	ChemistryBenzoateSalt    = "benzoate_salt"
	ChemistryWater           = "water"
	ChemistryNoWaterPhase    = "no_water_phase"
	FlagWater                = "water"
	FlagAdditive             = "additive:" // with its class, as in additive:thickener
	FlagSpice                = "spice_group"
	FlagColouringSpice       = "colouring_spice"
	FlagRefinedOil           = "refined_oil"
	FlagVirginOil            = "virgin_oil"
	FlagSalt                 = "salt"
	FlagSugar                = "sugar"
	FlagRawEgg               = "raw_egg"
	FlagProcessingAid        = "processing_aid"
	defaultUsablePercent     = 100
	maxTextRunes             = 200
	maxSupplierListRunes     = 4000
	maxSynonyms              = 30
	compositionSumTolerance  = 5.0 // g per 100 g: tables round each nutrient on its own
	maxComposedMilligrams    = 100_000
	maxDensity               = 3.0
	maxPieceGrams            = 100_000
	maxBufferMmolPerKgPerPH  = 2000
	maxUsablePercent, maxLen = 1000, 64
)

// Chemistries lists the accepted values of Ingredient.Chemistry.
var Chemistries = []string{"", ChemistryPureAcid, ChemistryBakingSoda, ChemistrySorbateSalt, ChemistryBenzoateSalt,
	ChemistryWater, ChemistryNoWaterPhase}

// Roles that rules ask about: herbs, fresh and dried, and what sweetens.
const (
	RoleHerb      = "herb"
	RoleSweetener = "sweetener"
)

// RolePackaging is of jars, lids, seals, labels and cases: bought like ingredients, by the piece, and eaten by nobody.
const RolePackaging = "packaging"

// IsPackaging reports whether it is part of the pack.
func (g *Ingredient) IsPackaging() bool { return g.Role == RolePackaging }

// Has reports whether the ingredient carries the flag, itself or by what it was made of.
func (g *Ingredient) Has(flag string) bool {
	return slices.Contains(g.Flags, flag) || slices.Contains(g.Inherited.Flags, flag)
}

// HasAny reports whether the ingredient carries one of the flags.
func (g *Ingredient) HasAny(flags ...string) bool {
	return slices.ContainsFunc(flags, g.Has)
}

// Usable returns the share of a bought gram that reaches the bowl, in percent.
func (g *Ingredient) Usable() float64 {
	if g.UsablePercent == 0 {
		return defaultUsablePercent
	}
	return g.UsablePercent
}

// IsOil reports whether the ingredient is an oil by flag or role.
func (g *Ingredient) IsOil() bool {
	return g.Role == "oil" || g.HasAny(FlagRefinedOil, FlagVirginOil)
}

// Dry reports whether the ingredient has no water phase that could take part in acidity: oils, dry salt,
// dry sugar and dry additives contribute nothing, not even their trace of water (handbook 05).
func (g *Ingredient) Dry() bool {
	if g.Chemistry == ChemistryNoWaterPhase || g.IsOil() {
		return true
	}
	dryAdditive := slices.ContainsFunc(g.Flags, func(f string) bool { return strings.HasPrefix(f, "additive:") })
	return g.PH == nil && g.Composition.Water < 15 && g.Chemistry == "" &&
		(g.HasAny(FlagSalt, FlagSugar) || dryAdditive)
}

// sourWords are words of acids beside those of Acids.
var sourWords = []string{"acid", "lactone", "cream of tartar"}

// UnlistedAcid reports whether the ingredient is an acid of unknown strength, such as ascorbic acid, which leaves an
// estimate incomplete (handbook 05).
func (g *Ingredient) UnlistedAcid() bool {
	if g.Chemistry != "" || g.PH != nil || g.Acids.Total() > 0 || g.IsOil() {
		return false
	}
	return sours.Get(g.Name, func() bool {
		return slices.ContainsFunc(sourWords, func(w string) bool { return allergen.Mentions(g.Name, w) })
	})
}

// sours remembers which names are of acids.
var sours allergen.Memo[string, bool]

// ListFor returns the supplier's ingredient list in the wording of the regime, or in another where there is none in
// that.
func (g *Ingredient) ListFor(r law.Regime) string {
	if len(g.SupplierLists) == 0 {
		return g.Inherited.Lists[r]
	}
	if own := g.SupplierLists[r]; own != "" {
		return own
	}
	for _, l := range law.All() {
		if s := g.SupplierLists[l.Regime]; s != "" {
			return s
		}
	}
	return ""
}

// LabelFor returns the name on a declaration under the regime.
func (g *Ingredient) LabelFor(r law.Regime) string {
	if s := g.Labels[r]; s != "" {
		return s
	}
	return strings.ToLower(g.Name)
}

// FieldError is a mistake in one field.
type FieldError = field.Error

// Check lists everything wrong with an ingredient; none means it can be stored.
func (g *Ingredient) Check() []FieldError {
	var errs field.Errors
	bad := errs.Bad
	if strings.TrimSpace(g.Name) == "" {
		bad("name", "give the ingredient a name")
	}
	length := func(field, text string) {
		if n := len([]rune(text)); n > maxTextRunes {
			bad(field, "at most %d characters; this has %d", maxTextRunes, n)
		}
	}
	length("name", g.Name)
	for r, text := range g.Labels {
		length("label_names."+strings.ToLower(string(r)), text)
	}
	if !slices.Contains(Chemistries, g.Chemistry) {
		bad("chemistry", "unknown kind %q", g.Chemistry)
	}
	if !(g.DensityGPerML >= 0 && g.DensityGPerML <= maxDensity) {
		bad("density_g_ml", "a density lies between 0 and 3 g/mL")
	}
	if !(g.PieceGrams >= 0 && g.PieceGrams <= maxPieceGrams) {
		bad("piece_grams", "a piece weighs between 0 and 100 kg")
	}
	if !(g.UsablePercent >= 0 && g.UsablePercent <= maxUsablePercent) {
		bad("usable_percent", "a yield lies above 0 and up to 1000 %%")
	}
	if g.SulphitesMgKg != nil && (*g.SulphitesMgKg < 0 || *g.SulphitesMgKg > 1_000_000) {
		bad("sulphites_mg_kg", "mg/kg cannot be negative or over a million")
	}
	errs = append(errs, g.checkComposition()...)
	errs = append(errs, g.checkAcidity()...)
	errs = append(errs, g.checkLists()...)
	for i, o := range g.Offers {
		for _, e := range o.Check() {
			errs = append(errs, FieldError{Field: fmt.Sprintf("offers[%d].%s", i, e.Field), Message: e.Message})
		}
	}
	return errs
}

func (g *Ingredient) checkComposition() []FieldError {
	var errs []FieldError
	c := g.Composition
	for _, n := range []struct {
		field  string
		v, max float64
	}{
		{"water", c.Water, 100}, {"protein", c.Protein, 100}, {"fat", c.Fat, 100}, {"saturates", c.Saturates, 100},
		{"trans", c.Trans, 100}, {"carbohydrate", c.Carbohydrate, 100}, {"sugars", c.Sugars, 100},
		{"hexose", c.Hexose, 100},
		{"fibre", c.Fibre, 100}, {"alcohol", c.Alcohol, 100}, {"sodium_mg", c.SodiumMg, maxComposedMilligrams},
		{"cholesterol_mg", c.CholesterolMg, maxComposedMilligrams}, {"calcium_mg", c.CalciumMg, maxComposedMilligrams},
		{"iron_mg", c.IronMg, maxComposedMilligrams}, {"potassium_mg", c.PotassiumMg, maxComposedMilligrams},
		{"vitamin_d_ug", c.VitaminDUg, maxComposedMilligrams},
	} {
		if n.v < 0 || n.v > n.max {
			errs = append(errs, FieldError{Field: "composition." + n.field,
				Message: fmt.Sprintf("between 0 and %g per 100 g", n.max)})
		}
	}
	if sum := c.Water + c.Protein + c.Fat + c.Carbohydrate + c.Alcohol; sum > 100+compositionSumTolerance {
		errs = append(errs, FieldError{Field: "composition",
			Message: fmt.Sprintf("water, protein, fat, carbohydrate and alcohol add up to %.1f g in 100 g", sum)})
	}
	if c.Saturates > c.Fat+0.05 {
		errs = append(errs, FieldError{Field: "composition.saturates", Message: "more saturates than fat"})
	}
	if c.Sugars > c.Carbohydrate+0.05 {
		errs = append(errs, FieldError{Field: "composition.sugars", Message: "more sugars than carbohydrate"})
	}
	if c.Hexose > c.Sugars+0.05 {
		errs = append(errs, FieldError{Field: "composition.hexose", Message: "more hexose than sugars"})
	}
	return errs
}

func (g *Ingredient) checkAcidity() []FieldError {
	var errs []FieldError
	a := g.Acids
	for _, k := range []struct {
		field string
		v     float64
	}{{"acetic", a.Acetic}, {"citric", a.Citric}, {"malic", a.Malic}, {"lactic", a.Lactic}, {"tartaric", a.Tartaric}} {
		if k.v < 0 || k.v > 100 {
			errs = append(errs, FieldError{Field: "acids." + k.field, Message: "between 0 and 100 g per 100 g"})
		}
	}
	if p := g.PH; p != nil {
		if p.Low < 0 || p.High > 14 || p.Typical < p.Low || p.Typical > p.High {
			errs = append(errs, FieldError{Field: "ph", Message: "needs 0 ≤ low ≤ typical ≤ high ≤ 14"})
		}
	}
	if g.BufferMmol < 0 || g.BufferMmol > maxBufferMmolPerKgPerPH {
		errs = append(errs, FieldError{Field: "buffer_mmol_kg_ph", Message: "between 0 and 2000 mmol per kg and pH"})
	}
	return errs
}

func (g *Ingredient) checkLists() []FieldError {
	var errs []FieldError
	for r, text := range g.SupplierLists {
		field := "supplier_lists." + strings.ToLower(string(r))
		if n := len([]rune(text)); n > maxSupplierListRunes {
			errs = append(errs, FieldError{Field: field,
				Message: fmt.Sprintf("at most %d characters; this has %d", maxSupplierListRunes, n)})
			continue
		}
		if _, err := ParseSupplierList(text); err != nil {
			errs = append(errs, FieldError{Field: field, Message: err.Error()})
		}
	}
	if len(g.Synonyms) > maxSynonyms {
		errs = append(errs, FieldError{Field: "synonyms", Message: fmt.Sprintf("at most %d", maxSynonyms)})
	}
	for field, list := range map[string][]string{"flags": g.Flags, "synonyms": g.Synonyms} {
		for _, v := range list {
			if v == "" || len(v) > maxLen {
				errs = append(errs, FieldError{Field: field, Message: "an entry is empty or over 64 characters"})
			}
		}
	}
	for _, l := range law.All() {
		for _, v := range g.Allergens[l.Regime] {
			if !l.Known(v) || len(v) > maxLen {
				errs = append(errs, FieldError{Field: "allergens." + strings.ToLower(string(l.Regime)),
					Message: fmt.Sprintf(
						"%q is no %s allergen that Gallipot knows; for nuts, fish and cereals add the kind, as in nut:walnut", v, l.Title)})
			}
		}
	}
	return errs
}
