package keeping

import (
	"fmt"
	"slices"

	"gallipot/internal/core/day"
	"gallipot/internal/core/law"
)

// Kinds of documents that rules believe.
const (
	Authority         = "authority"          // rule 2
	ProductAssessment = "product_assessment" // rule 3
	ListeriaStudy     = "listeria_study"     // rule 4
	QualityStudy      = "quality_study"      // rule 9
)

// Document is a document as far as rules believe it (handbook 06): for which versions, under which law, and what it
// covers. MaxPH is the greatest pH, Storage the condition; the heat step is on the coldest jar. A quality study without
// a law serves every one.
type Document struct {
	ID          int64      `json:"id"`
	Kind        string     `json:"kind"`
	Title       string     `json:"title"`
	Law         law.Regime `json:"law,omitempty"`
	Versions    []int      `json:"versions"`
	Product     string     `json:"product,omitempty"`
	MaxPH       float64    `json:"max_ph,omitempty"`
	Storage     string     `json:"storage,omitempty"`
	HeatC       float64    `json:"heat_c,omitempty"`
	HeatMin     float64    `json:"heat_min,omitempty"`
	NoHeat      bool       `json:"no_heat,omitempty"` // says that no heat step is needed
	Days        *int       `json:"days,omitempty"`
	IssuedBy    string     `json:"issued_by,omitempty"`
	Dated       day.Day    `json:"dated,omitempty"`
	Fingerprint string     `json:"fingerprint,omitempty"`
}

// OfSafety reports whether the document speaks to a rule of safety: withdrawing it calls back what needed it.
func (d Document) OfSafety() bool { return d.Kind != QualityStudy }

// Subject is the version that a document is held against.
type Subject struct {
	Version int
	Limit   float64 // pH
	Asked   string  // condition wished for
	HeatC   float64 // the version's own step
	HeatMin float64
}

// WhyNot says why a document does not count for a version under a law; empty where it does.
func (d Document) WhyNot(l *law.Law, s Subject) string {
	if !slices.Contains(d.Versions, s.Version) {
		return fmt.Sprintf("it does not name version %d", s.Version)
	}
	if d.Law != l.Regime && (d.Law != "" || d.OfSafety()) {
		return "it is a document under another law"
	}
	if !d.OfSafety() {
		return ""
	}
	switch {
	case d.MaxPH <= 0:
		return "it does not say up to which pH it covers"
	case s.Limit > d.MaxPH:
		return fmt.Sprintf("the version's limit of pH %.2f lies above the %.2f it covers", s.Limit, d.MaxPH)
	case d.Storage != s.Asked && !(d.Storage == Ambient && s.Asked == Chilled):
		return fmt.Sprintf("it covers %s storage, the version asks for %s", d.Storage, s.Asked)
	case d.Kind == Authority && !d.NoHeat && (s.HeatC < d.HeatC || s.HeatMin < d.HeatMin):
		return fmt.Sprintf("the version's heat step is weaker than the %g °C for %g min it asks for", d.HeatC,
			d.HeatMin)
	}
	return ""
}

// Believe puts into facts what documents that cover a version say under a law. The first of a kind counts: hand over
// the newest first.
func (f *Facts) Believe(docs []Document, l *law.Law, s Subject) {
	for _, d := range docs {
		if d.WhyNot(l, s) != "" {
			continue
		}
		switch {
		case d.Kind == Authority && !f.AuthorityDocument:
			f.AuthorityDocument = true
			f.Document = &Step{d.HeatC, d.HeatMin, d.NoHeat}
		case d.Kind == ListeriaStudy && f.ListeriaDays == nil:
			f.ListeriaDays = d.Days
		case d.Kind == ProductAssessment && f.ProductAssessment == nil:
			f.ProductAssessment = d.Days
		case d.Kind == QualityStudy && f.QualityCapDays == nil:
			f.QualityCapDays = d.Days
		}
	}
}

// Step is the heat step that an authority's document asks for, or its word that none is needed.
type Step struct {
	C    float64 `json:"c"`
	Min  float64 `json:"min"`
	None bool    `json:"none,omitempty"`
}

// Marks of an ambient wish (handbook 06): below the step it is refused, which is a mark for refusal and no process;
// above the pH the document's own step is required.
const (
	leastAmbientC   = 82.0
	leastAmbientMin = 1.0
	ownStepAbovePH  = 4.1
)

// ambientHeat says what the heat step lacks for an ambient wish; empty where it lacks nothing.
func (f Facts) ambientHeat() string {
	if f.Document != nil && f.Document.None {
		return ""
	}
	switch {
	case f.Step != nil && f.Step.C <= 0:
		return "no heat or hot-fill step"
	case !f.HeatStepMet && (f.Step == nil || f.Step.C >= leastAmbientC && f.Step.Min >= leastAmbientMin):
		return NotMet
	case f.Step != nil && (f.Step.C < leastAmbientC || f.Step.Min < leastAmbientMin):
		return fmt.Sprintf("a heat step below %g °C for %g min", leastAmbientC, leastAmbientMin)
	case f.Document != nil && f.DecisionPH != nil && *f.DecisionPH > ownStepAbovePH &&
		(f.HeatInPackC < f.Document.C || f.HeatInPackMinutes < f.Document.Min):
		return fmt.Sprintf("above pH %.1f the document's own step of %g °C for %g min, which was not met",
			ownStepAbovePH,
			f.Document.C, f.Document.Min)
	}
	return ""
}
