package labelart

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
)

// States of a point on the check list.
const (
	Passed  = "pass"
	Failed  = "fail"
	Decides = "decide" // the maker's to answer
	Waits   = "wait"   // comes with the batch
	Noted   = "note"
)

// Answer is one way to answer a point.
type Answer struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// Point is one legal point of a label. A blocking one forbids to print.
type Point struct {
	Key     string   `json:"key"`
	Title   string   `json:"title"`
	State   string   `json:"state"`
	Blocks  bool     `json:"blocks"`
	Why     string   `json:"why"`
	Answers []Answer `json:"answers"`
}

// Facts are what the check list needs beyond the words themselves.
type Facts struct {
	HasBatch     bool
	Released     bool
	HasReading   bool
	Allergens    []string
	Open         []string // ingredients that nobody has looked at
	Unnamed      []string // allergens of which the law names the kind and nothing does
	Contact      []string // why the product may contain what it is not made of, each in words
	Assessed     bool     // somebody wrote down which vessels it was in
	Notes        []string
	OutOfDate    bool
	AddressWrong string   // what is wrong with the name and address
	Stressed     []string // what the name features without a percent, unless the maker said it does not
	Named        []string // what has its percent
	MayName      []string // what could have one, the most first
	NothingElse  bool     // the maker's word that name and picture stress nothing else
	NameSays     bool     // the maker's word that the name says what it is
	Jars         []Answer // that the shop could fill it in
	Fill         string   // how full the jar is
	Overfull     bool
	Nutrition    string         // what was answered: shown, an exemption's key, or nothing
	SugarUnknown []string       // of which nobody knows how much sugar was added
	Claims       []ClaimVerdict // that the label makes
	SurfaceCM2   float64        // of the pack; 0 where nobody measured it
}

// ClaimVerdict is a claim with what breaks it.
type ClaimVerdict struct {
	Words   string   `json:"words"`
	Breaks  []string `json:"breaks"`
	Because string   `json:"because"`
}

// checking gathers points.
type checking struct {
	l   *Layout
	c   Content
	f   Facts
	out []Point
}

// Check runs down the legal points of a label, what the maker has to decide first. Gallipot drafts and checks; the
// maker and their authority decide.
func (l *Layout) Check(f Facts) []Point {
	k := &checking{l: l, c: l.content, f: f}
	k.identity()
	k.quid()
	k.allergens()
	k.contact()
	k.quantity()
	k.paper()
	k.dates()
	k.counted()
	for _, n := range f.Notes {
		k.point("note", Noted, false, "Note", n)
	}
	if f.OutOfDate {
		k.point("up_to_date", Failed, true, "Up to date",
			"The formula or a supplier's list has changed since this label was confirmed.")
	}
	slices.SortStableFunc(k.out, func(a, b Point) int { return rank(a) - rank(b) })
	return k.out
}

// rank puts what is for the maker first, then what fails, what waits, what is noted, what holds.
func rank(p Point) int {
	at := slices.Index([]string{Decides, Failed, Waits, Noted, Passed}, p.State) * 2
	if !p.Blocks {
		at++
	}
	return at
}

func (k *checking) point(key, state string, blocks bool, title, why string, answers ...Answer) {
	if answers == nil {
		answers = []Answer{}
	}
	k.out = append(k.out, Point{key, title, state, blocks, why, answers})
}

// holds adds a point that passes or fails.
func (k *checking) holds(key, title string, ok bool, yes, no string) {
	if ok {
		k.point(key, Passed, false, title, yes)
		return
	}
	k.point(key, Failed, true, title, no)
}

// comes adds a point that comes with the batch, or with its release.
func (k *checking) comes(key, title string, ok bool, yes, no string) {
	if !ok && !(k.f.HasBatch && k.f.Released) {
		k.point(key, Waits, false, title, no)
		return
	}
	k.holds(key, title, ok, yes, no)
}

// again takes an answer back.
func again(key string) Answer { return Answer{"again:" + key, "ask again"} }

func (k *checking) identity() {
	c := k.c
	k.holds("name", "Name of the food", strings.TrimSpace(c.ProductName) != "", c.ProductName,
		"Give the product a name.")
	switch {
	case c.LegalName != "":
		k.point("legal_name", Passed, false, "Descriptive name", c.LegalName)
	case k.f.NameSays:
		k.point("legal_name", Passed, false, "Descriptive name", "The name says what it is, by your word.",
			again("legal_name"))
	default:
		k.point("legal_name", Decides, false, "Does the name say what it is?",
			"Where it does not, add a descriptive name on the formula.", Answer{"name_says", "It does"})
	}
	k.holds("address", "Name and address", k.f.AddressWrong == "", strings.ReplaceAll(c.Business, "\n", ", "),
		k.f.AddressWrong)
}

// quid asks for the quantity of what the name or a picture features.
func (k *checking) quid() {
	if !k.c.Law.Quid {
		return
	}
	for _, s := range k.f.Stressed {
		k.point("quid:"+s, Decides, true, "Does the name feature "+s+"?",
			"The name has the word. What it features needs its percent in the list; a pinch that only flavours does not.",
			Answer{"named:" + s, "Give its percent"}, Answer{"not:" + s, "It only flavours"})
	}
	if !k.f.NothingElse {
		have := "The name stresses nothing that the list has."
		if len(k.f.Named) > 0 {
			have = "Percents stand beside " + strings.Join(k.f.Named, ", ") + "."
		}
		answers := []Answer{{"nothing_else", k.nothing()}}
		for _, s := range k.f.MayName {
			if !slices.Contains(k.f.Stressed, s) {
				answers = append(answers, Answer{"named:" + s, "Mark " + s})
			}
		}
		k.point("quid", Decides, true, "Does a picture or the name stress "+k.anything()+"?",
			have+" What a drawing shows needs one too.", answers...)
		return
	}
	if len(k.f.Stressed) > 0 {
		return
	}
	why := "Nothing is named, by your word."
	if len(k.f.Named) > 0 {
		why = strings.Join(k.f.Named, ", ")
	}
	k.point("quid", Passed, false, "Quantities of what is named", why, again("quid"))
}

func (k *checking) nothing() string {
	if len(k.f.Named) > 0 {
		return "Nothing else"
	}
	return "Nothing is named"
}

func (k *checking) anything() string {
	if len(k.f.Named) > 0 {
		return "anything else"
	}
	return "an ingredient"
}

func (k *checking) allergens() {
	c, f := k.c, k.f
	k.holds("list", "Order of the list", c.List != "" || k.l.Reduced, "By weight at mixing.",
		"The formula has no lines to declare.")
	names := pantry.PlainAllergens(f.Allergens)
	switch {
	case len(f.Allergens) == 0:
		k.point("allergens", Passed, false, "Allergens", "None of the allergens of this law is in it by its records.")
	case !k.l.Fits():
		k.point("allergens", Waits, false, "Allergens", names+": once the words fit.")
	case k.l.Reduced || c.Law.ContainsLine:
		k.holds("allergens", "Allergens", c.Contains != "", c.Contains, "The Contains line is missing.")
	default:
		k.holds("allergens", "Allergens", strings.Contains(c.List, "**"), names+", bold each time.",
			"No allergen is emphasised in the list.")
	}
	if len(f.Open) > 0 {
		k.point("looked_at", Failed, true, "Looked at", "Nobody has said what is in "+strings.Join(f.Open, ", ")+".")
	}
	if len(f.Unnamed) > 0 {
		k.point("kinds", Failed, true, "Kinds named",
			"The law names the kind of "+strings.Join(f.Unnamed, ", ")+", and nothing does.")
	}
}

// contact tells what the product may contain.
func (k *checking) contact() {
	c, f := k.c, k.f
	switch {
	case len(f.Contact) > 0:
		k.holds("may_contain", "May contain", c.MayContain != "" || k.l.Reduced,
			c.MayContain+" Assessed: "+strings.Join(f.Contact, "; ")+".", "The assessment is not on the label.")
	case f.Assessed:
		k.point("may_contain", Passed, false, "May contain",
			"Assessed: the vessels were cleaned down, and no supplier states any.")
	case f.HasBatch:
		k.point("may_contain", Noted, false, "May contain",
			"No vessel is written down for this batch: cross-contact is not assessed, and no precautionary words are "+
				"printed.")
	default:
		k.point("may_contain", Waits, false, "May contain", "The assessment comes with the batch.")
	}
}

func (k *checking) quantity() {
	c, l, f := k.c, k.l, k.f
	k.holds("quantity", "Net quantity", c.NetQuantity != "", c.NetQuantity+", in the field of view of the name.",
		"The version states no fill.")
	if f.SurfaceCM2 == 0 {
		answers := f.Jars
		why := "The least size of type follows the pack, not the label."
		if len(answers) == 0 {
			why += " Enter the sizes of your jars in Shop settings."
		}
		k.point("jar", Decides, true, "Which jar is it filled in?", why, answers...)
	} else {
		k.holds("jar", "Pack", !f.Overfull, f.Fill, f.Fill)
	}
	if c.Hold {
		return // a HOLD sticker carries neither
	}
	figures := fmt.Sprintf("%.1f mm high; at least %.1f mm are asked.", l.FigureMM, l.LeastFigure)
	letters := fmt.Sprintf("Lower-case letters %.2f mm high; at least %.2f mm are asked.", l.XHeightMM, l.LeastMM)
	if f.SurfaceCM2 > 0 {
		letters = fmt.Sprintf("Lower-case letters %.2f mm high; a pack of %.0f cm² asks %.2f mm.", l.XHeightMM,
			f.SurfaceCM2, l.LeastMM)
	}
	if !l.Fits() {
		k.point("type", Waits, false, "Size of the type", "Once the words fit.")
		return
	}
	k.holds("figures", "Size of the quantity", l.FigureMM >= l.LeastFigure-1e-6, figures, figures)
	k.holds("type", "Size of the type", l.XHeightMM >= l.LeastMM-1e-6, letters, letters)
}

func (k *checking) paper() {
	l := k.l
	k.holds("fits", "Fits the paper", l.ShortMM == 0 && l.WideMM == 0, "Everything is on the label.", l.Advice())
	if around, half, high := l.jar.RoomMM(); l.jar.Sized() {
		room, name := around, "around it"
		if l.design.Form == Two {
			room, name = half, "on each side of it"
		}
		if over := max(l.Size.WidthMM-room, l.Size.HeightMM-high); over > 0.5 {
			k.point("jar_room", Failed, true, "Fits the jar",
				fmt.Sprintf("%s has %.0f × %.0f mm for a label %s; this one is %.0f × %.0f mm.", l.jar.Name, room, high,
					name, l.Size.WidthMM, l.Size.HeightMM))
		} else {
			k.point("jar_room", Passed, false, "Fits the jar", fmt.Sprintf("%.0f × %.0f mm of %.0f × %.0f mm.",
				l.Size.WidthMM, l.Size.HeightMM, room, high))
		}
	}
	if len(l.Unprintable) > 0 {
		k.point("characters", Failed, true, "Characters", "The label font lacks "+strings.Join(l.Unprintable, " ")+".")
	}
	if l.Reduced {
		k.point("reduced", Noted, false, "Reduced set",
			"So small a pack needs only name, quantity, date and allergens on it: keep the ingredient list at hand for who asks.")
	}
}

func (k *checking) dates() {
	c, f := k.c, k.f
	k.comes("reading", "Reading behind the date", f.HasReading, "The date rests on a batch's measured pH.",
		"No reading yet: no date may be printed.")
	k.comes("date", "Date", c.DateLine != "", c.DateLine, "It comes with a released batch.")
	held := "It is to be released first."
	if f.HasBatch {
		held = "On hold: only HOLD stickers may be printed."
	}
	k.comes("released", "Batch released", f.Released, "The batch is released.", held)
	if !k.l.Reduced || c.UseBy {
		k.holds("storage", "Storage beside the date", c.Storage != "", c.Storage,
			"The storage sentence comes with the keeping verdict.")
	}
	if !k.l.Reduced {
		k.comes("lot", "Lot", c.Lot != "", c.Lot, "It comes with the batch.")
	}
}

// counted looks at nutrition, claims and the barcode.
func (k *checking) counted() {
	k.nutrition()
	for _, v := range k.f.Claims {
		if len(v.Breaks) > 0 {
			k.point("claim:"+v.Words, Failed, true, "“"+v.Words+"”",
				v.Because+": "+strings.Join(v.Breaks, ", ")+". It cannot be printed.")
			continue
		}
		k.point("claim:"+v.Words, Passed, false, "“"+v.Words+"”", v.Because)
	}
	if k.c.Barcode != "" {
		k.holds("barcode", "Barcode", CheckBarcode(k.c.Barcode) == nil, k.c.Barcode+", "+k.l.barcodeSize()+".",
			fmt.Sprint(CheckBarcode(k.c.Barcode)))
	}
}

// Shown is the answer that the nutrition panel stands on the label.
const Shown = "shown"

func (k *checking) nutrition() {
	f := k.f
	if f.Nutrition == Shown {
		if len(f.SugarUnknown) > 0 && k.c.Law.Servings {
			k.point("nutrition", Failed, true, "Nutrition panel",
				"Nobody knows how much of the sugar in "+strings.Join(f.SugarUnknown, ", ")+
					" was added: ask the supplier, and enter the ingredient by its parts.")
			return
		}
		k.point("nutrition", Passed, false, "Nutrition panel", "On the label.", again("nutrition"))
		return
	}
	for _, x := range k.c.Law.Exemptions {
		if x.Key != f.Nutrition {
			continue
		}
		if over := overPack(x, f.SurfaceCM2); over != "" {
			k.point("nutrition", Failed, true, "Nutrition panel", over)
			return
		}
		k.point("nutrition", Passed, false, "Nutrition panel", "Left off by your word: "+x.Title+" ("+x.Source+").",
			again("nutrition"))
		return
	}
	answers := []Answer{{"nutrition:" + Shown, "Print it"}}
	var why []string
	for _, x := range k.c.Law.Exemptions {
		if overPack(x, f.SurfaceCM2) == "" {
			answers = append(answers, Answer{"nutrition:" + x.Key, x.Title})
			why = append(why, x.Title+": "+x.Condition)
		}
	}
	k.point("nutrition", Decides, true, "Nutrition panel: on the label, or exempt?", strings.Join(why, " "), answers...)
}

// overPack says why an exemption cannot be claimed for a pack.
func overPack(x law.Exemption, surface float64) string {
	if x.PackUnder > 0 && surface >= x.PackUnder {
		return fmt.Sprintf("%s: this one has %.0f cm². Print the panel, or choose another exemption.", x.Title, surface)
	}
	return ""
}

// Blocking lists the points that forbid printing a label for sale.
func Blocking(points []Point) []string {
	var out []string
	for _, p := range points {
		if p.Blocks && (p.State == Failed || p.State == Decides) {
			out = append(out, p.Title+": "+p.Why)
		}
	}
	return out
}
