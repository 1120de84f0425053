package kernel

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gallipot/internal/core/assess"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/keeping"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// KeptOf returns what a print stored of its label.
func KeptOf(p *bench.Print) (LabelKept, error) {
	kept := LabelKept{}
	err := json.Unmarshal(p.Kept, &kept)
	if kept.Allergens == nil { // none was kept as nothing
		kept.Allergens = []string{}
	}
	return kept, err
}

// Label is the label of a formula under a law, with the facts it was made from, as it is kept.
type Label struct {
	ID        int64
	Rev       int
	FormulaID string
	Regime    law.Regime
	WidthMM   float64
	HeightMM  float64
	Version   int
	Facts     LabelFacts
	Design    LabelDesign
	UpdatedAt time.Time
	UpdatedBy string
}

// labelStore keeps labels.
type labelStore interface {
	Labels() ([]Label, error)
	Label(id int64) (Label, error)
	AddLabel(l *Label) error
	SaveLabel(l Label, rev int) error
	NextPlace(stock string) (int, error)
	PlaceOf(batch int64, key string) (int, error)
	PrintsOf(batches []int64) (map[int64][]bench.Entry, error)
}

// LabelFacts are the words a label was confirmed with; when they change it is out of date.
type LabelFacts struct {
	Name        string   `json:"name"`
	LegalName   string   `json:"legal_name"`
	List        string   `json:"list"`
	Contains    string   `json:"contains"`
	NetQuantity string   `json:"net_quantity"`
	Directions  string   `json:"directions"`
	Allergens   []string `json:"allergens"`
}

// Words is the text that a difference is shown over.
func (f LabelFacts) Words() string {
	s := f.Name + ". "
	if f.LegalName != "" {
		s += f.LegalName + ". "
	}
	return strings.ReplaceAll(s+f.List+" "+f.Contains+" "+f.NetQuantity+" "+f.Directions, "**", "")
}

// Equal reports whether two labels say the same.
func (f LabelFacts) Equal(g LabelFacts) bool {
	return f.Words() == g.Words() && slices.Equal(f.Allergens, g.Allergens)
}

// States of a label.
const (
	LabelCurrent = "current"
	LabelOld     = "out_of_date"
	LabelStop    = "stop_using" // an allergen was gained
)

// LabelRow is a label in the list.
type LabelRow struct {
	ID          int64      `json:"id"`
	Formula     string     `json:"formula"`
	FormulaName string     `json:"formula_name"`
	Regime      law.Regime `json:"regime"`
	Version     int        `json:"version"`
	Newest      int        `json:"newest_locked"`
	WidthMM     float64    `json:"width_mm"`
	HeightMM    float64    `json:"height_mm"`
	Form        string     `json:"form"`
	State       string     `json:"state"`
	Gained      []string   `json:"allergens_gained"`
}

// Facts draws up what a label of this version says now.
func Facts(name string, v formula.Version, p assess.Panel, under *law.Law) LabelFacts {
	d := p.Declaration[under.Regime]
	f := LabelFacts{Name: name, LegalName: v.Wording.LegalName, List: d.List, Contains: d.Contains,
		Allergens: append(append([]string{}, p.Allergens[under.Regime]...), d.Disclosed...),
		Directions: declaration.Directions(assess.Separates(v, p.OilShare), len(p.SetsInTheCold) > 0 &&
			v.Keeping.Asked == keeping.Chilled)}
	f.Name = nameOnLabel(name, v, under)
	f.NetQuantity = netQuantity(v, under)
	return f
}

// netQuantity states what is in a jar: the volume it is filled to, that of a pourable product where the density is
// known, else its weight (handbook 08).
func netQuantity(v formula.Version, under *law.Law) string {
	amount, unit := Nominal(v)
	state := func() (string, error) { return declaration.NetQuantity(under, amount, unit) }
	if unit == "ml" && !byVolume(v) {
		state = func() (string, error) { return declaration.NetVolume(under, amount) }
	}
	text, err := state()
	if err != nil {
		return ""
	}
	return text
}

// byVolume reports whether the maker fills to a volume, with nothing on top of it.
func byVolume(v formula.Version) bool { return v.FillML > 0 && len(v.Toppings) == 0 }

// nameOnLabel is the product's name under a law: its own there, else the formula's.
func nameOnLabel(name string, v formula.Version, under *law.Law) string {
	if own := v.Wording.Names[under.Regime]; own != "" {
		return Capital(own)
	}
	return name
}

// Nominal is the net quantity by volume or by weight.
func Nominal(v formula.Version) (float64, string) {
	switch {
	case byVolume(v):
		return v.FillML, "ml"
	case v.DensityGPerML > 0 && (v.ProductStyle == "pourable dressing" || v.FillML > 0):
		return v.FillVolume(), "ml"
	}
	return v.NetGrams().Float(), "g"
}

// PanelKey tells labels apart whose panels differ: of other formulas, or with other ingredients marked.
func (l Label) PanelKey() string { return l.FormulaID + "\n" + strings.Join(l.Design.Named, "\n") }

// LabelDesign is how a label looks and what its maker decided about it.
type LabelDesign struct {
	Form         string       `json:"form"`
	Stock        string       `json:"stock,omitempty"`  // paper of the shop; empty: a size of its own
	Jar          string       `json:"jar,omitempty"`    // where the version names none
	Colour       string       `json:"colour,omitempty"` // of the band; empty: the shop's
	Mono         bool         `json:"mono,omitempty"`   // printed in black alone
	Barcode      string       `json:"barcode,omitempty"`
	QR           string       `json:"qr,omitempty"`
	Nutrition    string       `json:"nutrition,omitempty"` // shown, or the key of an exemption
	ServingGrams float64      `json:"serving_g,omitempty"` // the shop's own serving
	Claims       []LabelClaim `json:"claims,omitempty"`

	// the maker's answers to what the list asks
	Named       []string `json:"named,omitempty"`        // what the name or a picture features
	NotNamed    []string `json:"not_named,omitempty"`    // what shares a word with the name and only flavours
	NothingElse string   `json:"nothing_else,omitempty"` // the name of which it was said
	NameSays    string   `json:"name_says,omitempty"`    // the name that says what it is
}

// LabelClaim is a claim that a label makes: one that has a rule, with what is shown for it, or words of the maker's
// own with the figure and the rule they stand on.
type LabelClaim struct {
	Key   string `json:"key,omitempty"`
	Words string `json:"words,omitempty"`
	Shown string `json:"shown,omitempty"`
}

// DrawnForm is the form that a label is drawn in.
func (d LabelDesign) DrawnForm() string {
	if d.Form == "" {
		return labelart.Plain // labels from before there were others
	}
	return d.Form
}

const (
	mostClaims     = 8
	mostClaimWords = 80
	mostShown      = 300
	mostServing    = 1000
)

// Check reports what cannot be, in the place where it was typed.
func (d LabelDesign) Check(s shop.Settings) error {
	if err := (labelart.Design{Form: d.DrawnForm(), Colour: d.Colour}).Check(); err != nil {
		return Mistake("design.form", "%s", err.Error())
	}
	if _, have := s.Stock(d.Stock); d.Stock != "" && !have {
		return Mistake("design.stock", "choose one of the shop's papers")
	}
	if d.Jar != "" && !s.Jar(d.Jar).Sized() {
		return Mistake("design.jar", "choose a jar of the shop whose sizes are known")
	}
	if err := labelart.CheckBarcode(d.Barcode); err != nil {
		return Mistake("design.barcode", "%s", field.Sentence(err.Error()))
	}
	if err := labelart.CheckQR(d.QR); err != nil {
		return Mistake("design.qr", "%s", field.Sentence(err.Error()))
	}
	if !(d.ServingGrams >= 0 && d.ServingGrams <= mostServing) {
		return Mistake("design.serving_g", "between 0 and %d g", mostServing)
	}
	return d.checkClaims()
}

func (d LabelDesign) checkClaims() error {
	if len(d.Claims) > mostClaims {
		return Mistake("design.claims", "at most %d claims", mostClaims)
	}
	for i, c := range d.Claims {
		at := fmt.Sprintf("design.claims[%d]", i)
		_, ruled := claimRule(c.Key)
		switch words := strings.TrimSpace(c.Words); {
		case c.Key != "" && !ruled:
			return Mistake(at+".key", "there is no rule for this claim")
		case c.Key == "" && (words == "" || len([]rune(words)) > mostClaimWords):
			return Mistake(at+".words", "1 to %d characters", mostClaimWords)
		case len([]rune(c.Shown)) > mostShown:
			return Mistake(at+".shown", "at most %d characters", mostShown)
		}
	}
	return nil
}

func claimRule(key string) (assess.ClaimRule, bool) {
	for _, r := range assess.ClaimRules() {
		if r.Key == key {
			return r, true
		}
	}
	return assess.ClaimRule{}, false
}

// ClaimsUnder are the verdicts on what a label claims, and the words of those that hold.
func (d LabelDesign) ClaimsUnder(p assess.Panel, under *law.Law) (verdicts []labelart.ClaimVerdict, words string) {
	var hold []string
	for _, c := range d.Claims {
		v := labelart.ClaimVerdict{Words: c.Words, Breaks: []string{}, Because: "shown: " + c.Shown}
		if rule, ruled := claimRule(c.Key); ruled {
			v.Words, v.Breaks, v.Because = p.ClaimWords(rule, under), p.ClaimBreaks(rule), rule.Because
			switch {
			case len(v.Breaks) > 0:
			case rule.Shows != "" && c.Shown == "":
				v.Breaks, v.Because = []string{"nothing is shown for it"}, "it needs "+rule.Shows
			case rule.Shows != "":
				v.Because = "shown: " + c.Shown
			default:
				v.Because = "no ingredient speaks against it"
			}
		} else if c.Shown == "" {
			v.Breaks = []string{"neither is entered"}
			v.Because = "words on nutrients, health or origin need their figure and the rule it meets"
		}
		if len(v.Breaks) == 0 {
			hold = append(hold, v.Words+".")
		}
		verdicts = append(verdicts, v)
	}
	return verdicts, strings.Join(hold, " ")
}

// OwnClaims reports whether a label says something about nutrients or health, which takes an exemption from the panel
// away.
func (d LabelDesign) OwnClaims() bool {
	return slices.ContainsFunc(d.Claims, func(c LabelClaim) bool { return c.Key == "" || c.Key == assess.NoAddedSugar })
}

// JarOf is the jar of a version, else the one that was chosen on the label.
func (d LabelDesign) JarOf(s shop.Settings, v formula.Version) pack.Jar {
	if j := s.Jar(v.Jar); j.Sized() {
		return j
	}
	return s.Jar(d.Jar)
}

// Paper is what a label is printed on, by its size.
func (l Label) Paper(s shop.Settings) labelart.Stock {
	if k, have := s.Stock(l.Design.Stock); have {
		return k
	}
	return labelart.Stock{Kind: labelart.Single, Name: "single", WidthMM: l.WidthMM, HeightMM: l.HeightMM}
}

// Answer is what an answer of the check list changes. name is that of the product on this label.
func (d *LabelDesign) Answer(key, name string) error {
	what, of, _ := strings.Cut(key, ":")
	drop := func(list []string) []string { return slices.DeleteFunc(list, func(s string) bool { return s == of }) }
	of = strings.TrimSpace(of)
	switch {
	case what == "named" && of != "" && len(d.Named) < mostNamed:
		d.NotNamed, d.Named = drop(d.NotNamed), append(drop(d.Named), of)
	case what == "not" && of != "" && len(d.NotNamed) < mostNamed:
		d.Named, d.NotNamed = drop(d.Named), append(drop(d.NotNamed), of)
	case key == "nothing_else":
		d.NothingElse = name
	case key == "name_says":
		d.NameSays = name
	case what == "nutrition" && of != "":
		d.Nutrition = of
	case what == "jar" && of != "":
		d.Jar = of
	case key == "again:quid":
		d.Named, d.NotNamed, d.NothingElse = nil, nil, ""
	case key == "again:legal_name":
		d.NameSays = ""
	case key == "again:nutrition":
		d.Nutrition = ""
	case key == "again:jar":
		d.Jar = ""
	default:
		return Mistake("answer", "this is none of the answers")
	}
	return nil
}

const mostNamed = 30

// LabelKept is what a printed label said, word for word, with the stock it stood on.
type LabelKept struct {
	Regime      law.Regime `json:"regime"`
	Version     int        `json:"version"`
	WidthMM     float64    `json:"width_mm"`
	HeightMM    float64    `json:"height_mm"`
	ProductName string     `json:"product_name"`
	LegalName   string     `json:"legal_name"`
	List        string     `json:"list"`
	Contains    string     `json:"contains"`
	MayContain  string     `json:"may_contain,omitempty"`
	Allergens   []string   `json:"allergens"`
	NetQuantity string     `json:"net_quantity"`
	Nominal     float64    `json:"nominal"`
	DateLine    string     `json:"date_line"`
	Storage     string     `json:"storage"`
	UseBy       bool       `json:"use_by,omitempty"`
	Directions  string     `json:"directions"`
	Lot         string     `json:"lot"`
	Business    string     `json:"business"`
	Hold        bool       `json:"hold"`
	// how it looked; a print from before that was kept is drawn plain
	Shop      string                      `json:"shop,omitempty"`
	Claims    string                      `json:"claims,omitempty"`
	Nutrition *declaration.NutritionPanel `json:"nutrition,omitempty"`
	Barcode   string                      `json:"barcode,omitempty"`
	QR        string                      `json:"qr,omitempty"`
	Form      string                      `json:"form,omitempty"`
	Colour    string                      `json:"colour,omitempty"`
	Mono      bool                        `json:"mono,omitempty"`
	Jar       *pack.Jar                   `json:"jar,omitempty"`
}

// Facts are the words that a difference is told over.
func (k LabelKept) Facts() LabelFacts {
	return LabelFacts{Name: k.ProductName, LegalName: k.LegalName, List: k.List, Contains: k.Contains,
		NetQuantity: k.NetQuantity, Directions: k.Directions, Allergens: k.Allergens}
}

// Drawn is the label as it was printed.
func (k LabelKept) Drawn(under *law.Law, mark *labelart.Mark) (*labelart.Layout, error) {
	design := labelart.Design{Form: cmp.Or(k.Form, labelart.Plain), Colour: k.Colour, Mono: k.Mono, Mark: mark}
	jar := pack.Jar{}
	if k.Jar != nil {
		jar = *k.Jar
	}
	return labelart.Lay(labelart.Content{Law: under, Shop: k.Shop, ProductName: k.ProductName, LegalName: k.LegalName,
		List: k.List, Contains: k.Contains, MayContain: k.MayContain, Claims: k.Claims, NetQuantity: k.NetQuantity,
		Allergens: pantry.PlainAllergens(k.Allergens), Nominal: k.Nominal, DateLine: k.DateLine, Storage: k.Storage,
		UseBy:      k.UseBy,
		Directions: k.Directions, Lot: k.Lot, Business: k.Business, Nutrition: k.Nutrition, Barcode: k.Barcode,
		QR: k.QR, Hold: k.Hold}, design, labelart.Size{WidthMM: k.WidthMM, HeightMM: k.HeightMM}, jar)
}

// PrintRun is a finished print.
type PrintRun struct {
	PDF   []byte
	Name  string
	Pages int    // of paper: a label in two takes two
	Said  string // by the printer that has it
}
