package labelart

import (
	"fmt"
	"strings"

	"gallipot/internal/core/pantry"
)

// States of a point on the check list.
const (
	Passed  = "pass"
	Failed  = "fail"
	Decides = "decide"
)

// Point is one legal point of a label.
type Point struct {
	Title string `json:"title"`
	State string `json:"state"`
	Why   string `json:"why"`
}

// Facts are what the check list needs beyond the words themselves.
type Facts struct {
	Released   bool
	HasReading bool
	Allergens  []string
	Open       []string // ingredients that nobody has looked at
	Unnamed    []string // allergens of which the law names the kind and nothing does
	Contact    []string // why the product may contain what it is not made of, each in words
	Assessed   bool     // somebody wrote down which vessels it was in
	Notes      []string
	OutOfDate  bool
	QuidNamed  bool // at least one line is marked as named on the label
}

// Check runs down the legal points of a label. Gallipot drafts and checks; the maker and their authority decide.
func (l *Layout) Check(f Facts) []Point {
	c := l.content
	var out []Point
	add := func(title string, ok bool, yes, no string) {
		if ok {
			out = append(out, Point{title, Passed, yes})
		} else {
			out = append(out, Point{title, Failed, no})
		}
	}
	decide := func(title, why string) { out = append(out, Point{title, Decides, why}) }
	add("Name of the food", strings.TrimSpace(c.ProductName) != "", "The label names the product.",
		"Give the product a name.")
	if c.LegalName == "" {
		decide("Descriptive name",
			"Where the product name does not say what it is, add a descriptive name on the formula.")
	}
	add("Ingredient list", c.List != "", "All ingredients in falling order by weight at mixing.",
		"The formula has no lines to declare.")
	l.checkAllergens(add, f)
	l.checkContact(add, decide, f)
	add("Net quantity", c.NetQuantity != "", c.NetQuantity+", in the lowest part of the label.",
		"The version states no fill.")
	if !c.Hold { // a HOLD sticker carries neither
		l.checkSizes(add)
	}
	add("Fits the stock", l.ShortMM == 0, "Everything is on the label.", l.Advice())
	if len(l.Unprintable) > 0 {
		add("Characters", false, "", "The label font lacks "+strings.Join(l.Unprintable, " ")+".")
	}
	add("Reading behind the date", f.HasReading, "The date rests on a batch's measured pH.",
		"No reading yet: no date may be printed.")
	add("Date", c.DateLine != "", c.DateLine, "No date: it comes with a released batch.")
	add("Batch released", f.Released, "The batch is released.", "On hold: only HOLD stickers may be printed.")
	add("Storage", c.Storage != "", c.Storage, "The storage sentence comes with the keeping verdict.")
	add("Lot", c.Lot != "", c.Lot, "The lot comes with a batch.")
	add("Name and address", strings.Count(c.Business, "\n") >= 1 || strings.Contains(c.Business, ","),
		"Your name and address are on the label.", "Enter the shop's name and address in Shop settings.")
	if c.Law.Quid {
		add("Quantity of what is named (QUID)", f.QuidNamed, "A percent stands beside what the name features.",
			"Mark the lines that the name or a picture features, on the formula sheet.")
	}
	l.leaveToMaker(decide, f.Notes)
	if f.OutOfDate {
		add("Up to date", false, "", "The formula or a supplier's list has changed since this label was drawn.")
	}
	return out
}

// leaveToMaker names what only the maker can decide.
func (l *Layout) leaveToMaker(decide func(title, why string), notes []string) {
	if p := l.content.Law.AddressPoint; p[0] != "" {
		decide(p[0], p[1])
	}
	decide("Nutrition panel", "Not on this label: see whether a small-producer exemption covers you.")
	decide("Claims", "Add none that the formula cannot prove.")
	for _, n := range notes {
		decide("Note", n)
	}
}

func (l *Layout) checkSizes(add func(string, bool, string, string)) {
	figures := fmt.Sprintf("Figures are %.1f mm high; at least %.1f mm are asked.", l.FigureMM, l.LeastFigure)
	add("Size of the quantity", l.FigureMM >= l.LeastFigure-1e-6, figures, figures)
	letters := fmt.Sprintf("Lower-case letters are %.2f mm high; at least %.2f mm are asked.", l.XHeightMM, l.LeastMM)
	add("Size of the type", l.XHeightMM >= l.LeastMM-1e-6, letters, letters)
}

func (l *Layout) checkAllergens(add func(string, bool, string, string), f Facts) {
	c := l.content
	if len(f.Allergens) == 0 {
		add("Allergens", true, "None of the allergens of this regime is in the formula by its records.", "")
		return
	}
	names := pantry.PlainAllergens(f.Allergens)
	if c.Law.ContainsLine {
		add("Allergens", c.Contains != "", "A Contains line right after the list, type at the list's size: "+names+".",
			"The Contains line is missing.")
		return
	}
	add("Allergens", strings.Contains(c.List, "**"), "Emphasised in the list each time: "+names+".",
		"No allergen is emphasised in the list.")
}

// checkContact tells what nobody looked at, which kinds are not named, and what the product may contain.
func (l *Layout) checkContact(add func(string, bool, string, string), decide func(string, string), f Facts) {
	c := l.content
	if len(f.Open) > 0 {
		add("Looked at", false, "", "Nobody has said what is in "+strings.Join(f.Open, ", ")+".")
	}
	if len(f.Unnamed) > 0 {
		add("Kinds named", false, "", "The law names the kind of "+strings.Join(f.Unnamed, ", ")+", and nothing does.")
	}
	switch {
	case len(f.Contact) > 0:
		add("May contain", c.MayContain != "", c.MayContain+" Assessed: "+strings.Join(f.Contact, "; ")+".",
			"The assessment is not on the label.")
	case f.Assessed:
		add("May contain", true, "Assessed: the vessels were cleaned down, and no supplier states any.", "")
	default:
		decide("May contain",
			"No vessel is written down for this batch: cross-contact is not assessed, and no precautionary words "+
				"are printed.")
	}
}

// Blocking lists the failed points that forbid printing a label for sale.
func Blocking(points []Point) []string {
	var out []string
	for _, p := range points {
		if p.State == Failed {
			out = append(out, p.Title+": "+p.Why)
		}
	}
	return out
}
