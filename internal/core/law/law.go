// Package law holds what differs from country to country, one Law a file: which allergens there are and how they are
// named, how figures are rounded, how dates and quantities are written, how large type must be, and which rules of
// keeping apply. Everything else asks the law of a regime by name. Adding a country is one file and its columns of
// data.
package law

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/amount"
)

// Regime names a country's law, as in "US". An unknown one is an error, never another country's.
type Regime string

// Conditions that a product may be kept in (handbook 06).
const (
	Frozen  = "frozen"
	Chilled = "chilled"
	Ambient = "ambient"
)

// Date kinds (handbook 06).
const (
	UseBy      = "use_by"
	BestBefore = "best_before"
)

// Allergen is one allergen of a law. Kinded ones name their kind after a colon, as in tree_nut:walnut.
type Allergen struct {
	Code     string
	Kinded   bool
	Contains string   // its word in a Contains line
	Word     string   // its plain word in a list; empty: the code itself
	Usual    string   // the animal it comes from unless another is named; empty where that is not told
	Animals  []string // that are named where they are not the usual one
}

// Row is one row of a nutrition table: its printed name, the figure it shows, and the name by which that is rounded.
// Indent, Strong and Daily are how it stands in a panel; Daily is the daily value in the unit of the figure, 0 for
// none.
type Row struct {
	Name, Figure, Rounds string
	Indent               int
	Strong               bool
	Daily                float64
	Mineral              bool // its percent is told in the coarser steps of vitamins and minerals
}

// Law is what one country asks. Functions take mm, cm², grams and mL as their names say.
type Law struct {
	Regime   Regime
	Title    string // as a person says it
	Locale   string // that a shop under this law starts with
	Currency string
	TimeZone string // likewise
	English  string // the list of words that its people read
	Best     string // what they write before a day of best quality
	// days are written month first and hours by twelve
	MonthFirst bool
	Gallon     amount.Gallon
	Ounces     bool // its kitchens weigh in ounces and heat in degrees Fahrenheit

	Allergens       []Allergen // in statutory order
	NutCode         string     // the allergen whose kinds are nuts
	Nuts            []string   // that count under it
	CerealCode      string     // the allergen whose kinds are cereals; empty where wheat stands alone
	Cereals         []string
	Sulphites       string   // the code of sulphites: an allergen, or disclosed in the list alone
	SulphitesAt     bool     // declared at 10 mg/kg itself, else only above
	RefinedExempt   []string // allergens whose refined oil is exempt; "*" for all
	ContainsLine    bool     // allergens stand in a line after the list; else they are emphasised in it
	WaterByFinished bool     // added water counts as finished weight less all else, and is left out where little
	HerbsApart      bool     // herbs are grouped as herbs, spices as spices
	SpiceShare      float64  // share of the finished weight up to which spices may be grouped; 0 for any
	Tail            bool     // small amounts may stand under "Contains 2% or less of"
	Quid            bool     // the quantity of what the name features is printed
	ClassFirst      bool     // every additive stands with its class before its name
	Country         string   // its own, as an address names it
	HomeAddress     bool     // the address on a label lies in it

	Nutrition []Row
	Servings  bool // figures are told a serving, with their share of a day; else of 100 g
	Round     func(nutrient string, x float64) (string, error)

	NetQuantity func(amount float64, unit string) string
	NetVolume   func(ml float64) string                // of a volume computed from a weight: whole mL
	FigureMM    func(nominal, areaCM2 float64) float64 // least height of the net quantity's figures
	XHeightMM   func(areaCM2 float64) float64          // least lower-case height of the words
	Exemptions  []Exemption                            // from the nutrition panel, with their conditions
	SmallCM2    float64                                // surface under which the list may be kept at hand; 0: never

	DateLine  func(kind string, made, last time.Time) string
	Cold      string // keep refrigerated …
	Frozen    string // keep frozen …
	LotPrefix string

	AmbientDocument  string // that its rule on ambient storage asks for
	KeepingRules     []int  // of handbook 06 that apply
	UnpasteurisedEgg bool   // may be sold at all

	ArrivalC float64 // °C at which chilled goods may arrive, at most

	Shortage Shortage // of jars

	Cooling []CoolStep // on the way down of what was hot, one after the other
}

// Exemption is a way not to print the nutrition panel. Its condition is in our words; the maker and their authority
// decide. PackUnder is a surface in cm² above which it cannot be claimed; 0: the pack does not matter.
type Exemption struct {
	Key, Title, Condition, Source string
	PackUnder                     float64
}

// CoolStep is one step of cooling: from a temperature to another within so many minutes. FromC is
// nothing where it counts from the step before, or from when the thing came off the heat.
type CoolStep struct {
	FromC, ToC float64
	Minutes    int
}

// laws are those that Gallipot knows, in the order they are offered.
var laws = []*Law{&gb, &us}

// All returns the laws in the order they are offered.
func All() []*Law { return slices.Clone(laws) }

// Of returns the law of a regime. Errors: UnknownError.
func Of(r Regime) (*Law, error) {
	for _, l := range laws {
		if l.Regime == r {
			return l, nil
		}
	}
	return nil, UnknownError{r}
}

// Speaking is the law of the country that a locale is of; of a regime where no law has that locale.
func Speaking(locale string, home Regime) (*Law, error) {
	for _, l := range laws {
		if l.Locale == locale {
			return l, nil
		}
	}
	return Of(home)
}

// Register makes a law known and returns what takes it away again. A country that is shipped stands in the list; this
// is for trying one that is not. It is not safe beside other use.
func Register(l *Law) (remove func()) {
	was := laws
	laws = append(slices.Clone(laws), l)
	return func() { laws = was }
}

// UnknownError names a regime whose law is not known.
type UnknownError struct{ Regime Regime }

func (e UnknownError) Error() string {
	return fmt.Sprintf("%q is no law that Gallipot knows: %s", string(e.Regime), strings.Join(Names(), " or "))
}

// Names lists the regimes.
func Names() []string {
	out := make([]string, len(laws))
	for i, l := range laws {
		out[i] = string(l.Regime)
	}
	return out
}

// Known reports whether a code names an allergen of this law, its kind included where one is needed.
func (l *Law) Known(code string) bool {
	base, kind, kinded := strings.Cut(code, ":")
	if kinded && strings.TrimSpace(kind) == "" {
		return false
	}
	i := l.Rank(base)
	return i >= 0 && (kinded || !l.Allergens[i].Kinded) || code == l.Sulphites
}

// OnlyDisclosed reports whether a code is named in the list and is no allergen of this law, as sulfites in the US.
func (l *Law) OnlyDisclosed(code string) bool { return code == l.Sulphites && l.Rank(code) < 0 }

// Rank is an allergen's place in the statutory order, kind or not; -1 for what is none.
func (l *Law) Rank(code string) int {
	base, _, _ := strings.Cut(code, ":")
	return slices.IndexFunc(l.Allergens, func(a Allergen) bool { return a.Code == base })
}

// Word is the plain word of a code in a list: almonds, wheat, anchovy, milk.
func (l *Law) Word(code string) string {
	base, kind, _ := strings.Cut(code, ":")
	i := l.Rank(base)
	switch {
	case base == l.NutCode:
		return kind + "s"
	case kind == UnnamedSpecies:
		return base
	case i >= 0 && l.Allergens[i].Usual != "" && kind != "":
		return kind + " " + base
	case kind != "":
		return kind
	case i >= 0 && l.Allergens[i].Word != "":
		return l.Allergens[i].Word
	}
	return code
}

// Carry is what a code of one law is under another, where both have it: tree_nut:walnut is nut:walnut, wheat is
// gluten:wheat. A kind that the other law names and this one does not is not known.
func Carry(code string, from, to *Law) (string, bool) {
	base, kind, _ := strings.Cut(code, ":")
	switch {
	case code == from.Sulphites:
		return to.Sulphites, to.Sulphites != ""
	case base == from.NutCode:
		return to.NutCode + ":" + kind, slices.Contains(to.Nuts, kind)
	case base == from.CerealCode && to.CerealCode == "":
		return kind, to.Rank(kind) >= 0
	case from.CerealCode == "" && slices.Contains(to.Cereals, base):
		return to.CerealCode + ":" + base, true
	case to.Rank(base) < 0:
		return "", false
	case to.Allergens[to.Rank(base)].Kinded && kind == "":
		return base + ":" + UnnamedSpecies, true
	case !to.Allergens[to.Rank(base)].Kinded:
		return base, true
	}
	return code, true
}

// Tick is one allergen as somebody ticks it, with its code under each law that has it.
type Tick struct {
	Word  string       `json:"word"`
	Codes Each[string] `json:"codes"`
}

// Ticks are all allergens of all laws, each once, kinds of nuts and cereals one by one.
func Ticks() []Tick {
	var out []Tick
	for _, l := range laws {
		for _, a := range l.Allergens {
			for _, code := range l.kindsOf(a) {
				if slices.ContainsFunc(out, func(t Tick) bool { return t.Codes[l.Regime] == code }) {
					continue
				}
				t := Tick{l.Word(code), Each[string]{l.Regime: code}}
				for _, o := range laws {
					if carried, has := Carry(code, l, o); has && o != l {
						t.Codes[o.Regime] = carried
					}
				}
				out = append(out, t)
			}
		}
	}
	return out
}

// TicksOf are the ticks as the people of a law call them.
func TicksOf(home Regime) []Tick {
	out := Ticks()
	l, err := Of(home)
	if err != nil {
		return out
	}
	for i, t := range out {
		if code, has := t.Codes[home]; has {
			out[i].Word = l.Word(code)
			continue
		}
		for _, o := range laws {
			if o.Sulphites != "" && t.Codes[o.Regime] == o.Sulphites && l.Sulphites != "" {
				out[i].Word = l.Sulphites
			}
		}
	}
	return out
}

func (l *Law) kindsOf(a Allergen) []string {
	kinds := []string{UnnamedSpecies}
	switch {
	case !a.Kinded:
		return []string{a.Code}
	case a.Code == l.NutCode:
		kinds = l.Nuts
	case a.Code == l.CerealCode:
		kinds = l.Cereals
	}
	out := make([]string, len(kinds))
	for i, k := range kinds {
		out[i] = a.Code + ":" + k
	}
	return out
}

// UnnamedSpecies is the kind of a fish or crustacean that is not named.
const UnnamedSpecies = "species not named"

// OilExempt reports whether the refined oil of an allergen's plant is exempt.
func (l *Law) OilExempt(code string) bool {
	return slices.Contains(l.RefinedExempt, "*") || slices.Contains(l.RefinedExempt, code)
}

// Applies reports whether a rule of keeping applies under this law.
func (l *Law) Applies(rule int) bool { return slices.Contains(l.KeepingRules, rule) }

// preservative is the class that stands with its name under every law.
const preservative = "preservative"

// classes are those of additives (Regulation 1169/2011 annex VII part C), with the spellings of the US.
var classes = []string{"acid", "acidity regulator", "anti-caking agent", "anti-foaming agent", "antioxidant",
	"bulking agent", "colour", "color", "emulsifier", "emulsifying salts", "firming agent", "flavour enhancer",
	"flavor enhancer", "flour treatment agent", "foaming agent", "gelling agent", "glazing agent", "humectant",
	"modified starch", preservative, "propellent gas", "raising agent", "sequestrant", "stabiliser", "stabilizer",
	"sweetener", "thickener"}

// Additive is an additive's name in a list: in GB its class before it (annex VII part C), in the US a preservative with
// its function behind (21 CFR 101.22(j)). A name that has a class already keeps it.
func (l *Law) Additive(class, name string) string {
	folded := strings.ToLower(name)
	if slices.ContainsFunc(classes, func(c string) bool { return strings.HasPrefix(folded, c) }) {
		return name
	}
	switch {
	case l.ClassFirst:
		return class + ": " + name
	case class == preservative && !strings.Contains(folded, preservative):
		return name + " (" + preservative + ")"
	}
	return name
}

// Reduced reports whether a pack is so small that only name, quantity, date and allergens must be on it.
func (l *Law) Reduced(surfaceCM2 float64) bool { return surfaceCM2 < l.SmallCM2 }

// LongestDate is the widest date line that the law knows, to keep room for one that is not known yet.
func (l *Law) LongestDate() string {
	made := time.Date(2026, time.January, 1, 0, 0, 0, 0, time.UTC)
	long := ""
	for _, kind := range []string{UseBy, BestBefore} {
		for _, last := range []time.Time{made.AddDate(0, 8, 29), made.AddDate(0, 3, 27)} {
			if s := l.DateLine(kind, made, last); len(s) > len(long) {
				long = s
			}
		}
	}
	return long
}

// Storage is the storage instruction with the one for after opening.
func (l *Law) Storage(condition string, openedDays int) string {
	opened := fmt.Sprintf("Once opened, use within %d days.", openedDays)
	if openedDays == 1 {
		opened = "Once opened, use within 1 day."
	}
	switch condition {
	case Frozen:
		return l.Frozen
	case Ambient:
		return "Store in a cool, dry place. Refrigerate after opening. " + opened
	}
	return l.Cold + " " + opened
}

// Each holds a value for each law. In JSON its keys are the regimes in small letters.
type Each[T any] map[Regime]T

// MarshalJSON writes {"gb": …, "us": …}.
func (e Each[T]) MarshalJSON() ([]byte, error) {
	small := make(map[string]T, len(e))
	for r, v := range e {
		small[strings.ToLower(string(r))] = v
	}
	return json.Marshal(small)
}

// UnmarshalJSON reads what MarshalJSON wrote. Errors: UnknownError.
func (e *Each[T]) UnmarshalJSON(raw []byte) error {
	var small map[string]T
	if err := json.Unmarshal(raw, &small); err != nil {
		return err
	}
	if small == nil {
		*e = nil
		return nil
	}
	out := make(Each[T], len(small))
	for k, v := range small {
		r := Regime(strings.ToUpper(k))
		if _, err := Of(r); err != nil {
			return err
		}
		out[r] = v
	}
	*e = out
	return nil
}
