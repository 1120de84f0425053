package keeping

import (
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
)

// letter is an authority's letter that covers the subject.
func letter() Document {
	return Document{ID: 1, Kind: Authority, Law: law.US, Versions: []int{2}, MaxPH: 4.6, Storage: Ambient, HeatC: 85,
		HeatMin: 5}
}

func subject() Subject { return Subject{Version: 2, Limit: 4.6, Asked: Ambient, HeatC: 85, HeatMin: 5} }

func TestADocumentCountsOnlyForWhatItCovers(t *testing.T) {
	us := of(t, law.US)
	assert.Empty(t, letter().WhyNot(us, subject()))
	for name, c := range map[string]struct {
		change func(*Document, *Subject)
		why    string
	}{
		"another version":       {func(_ *Document, s *Subject) { s.Version = 3 }, "does not name version 3"},
		"another law":           {func(d *Document, _ *Subject) { d.Law = law.GB }, "another law"},
		"no law":                {func(d *Document, _ *Subject) { d.Law = "" }, "another law"},
		"a limit above its pH":  {func(_ *Document, s *Subject) { s.Limit = 4.61 }, "lies above the 4.60"},
		"no pH at all":          {func(d *Document, _ *Subject) { d.MaxPH = 0 }, "up to which pH"},
		"other storage":         {func(d *Document, _ *Subject) { d.Storage = Chilled }, "covers chilled storage"},
		"a cooler step":         {func(_ *Document, s *Subject) { s.HeatC = 84.9 }, "weaker than the 85 °C for 5 min"},
		"a shorter step":        {func(_ *Document, s *Subject) { s.HeatMin = 4.9 }, "weaker"},
		"a version without one": {func(_ *Document, s *Subject) { s.HeatC, s.HeatMin = 0, 0 }, "weaker"},
	} {
		d, s := letter(), subject()
		c.change(&d, &s)
		assert.Contains(t, d.WhyNot(us, s), c.why, name)
		var f Facts
		f.Believe([]Document{d}, us, s)
		assert.False(t, f.AuthorityDocument, "%s counts for nothing", name)
	}
	none := letter()
	none.NoHeat = true
	assert.Empty(t, none.WhyNot(us, Subject{Version: 2, Limit: 4.6, Asked: Ambient}), "it says that none is needed")
	warm := letter()
	warm.Kind = ListeriaStudy
	assert.Empty(t, warm.WhyNot(us, Subject{Version: 2, Limit: 4.6, Asked: Chilled}),
		"what was studied in the warm holds in the cold")
	study := Document{Kind: QualityStudy, Versions: []int{2}}
	assert.Empty(t, study.WhyNot(us, subject()), "a quality study without a law serves every one")
	study.Law = law.GB
	assert.NotEmpty(t, study.WhyNot(us, subject()))
	assert.False(t, study.OfSafety())
	assert.True(t, letter().OfSafety())
}

func TestTheNewestDocumentOfAKindCounts(t *testing.T) {
	us := of(t, law.US)
	study := func(n int, version int) Document {
		return Document{Kind: QualityStudy, Versions: []int{version}, Days: days(n)}
	}
	var f Facts
	f.Believe([]Document{study(90, 3), study(40, 2), study(60, 2)}, us, subject())
	assert.Equal(t, 40, *f.QualityCapDays, "the first that covers the version; it is handed the newest first")
	for kind, got := range map[string]func(Facts) *int{
		ListeriaStudy:     func(f Facts) *int { return f.ListeriaDays },
		ProductAssessment: func(f Facts) *int { return f.ProductAssessment },
	} {
		d := letter()
		d.Kind, d.Days = kind, days(12)
		var f Facts
		f.Believe([]Document{d}, us, subject())
		assert.Equal(t, 12, *got(f), kind)
	}
}

// TestAnAmbientWishAsksForAHeatStep tries steps at and beside the marks.
func TestAnAmbientWishAsksForAHeatStep(t *testing.T) {
	us := of(t, law.US)
	judge := func(ph float64, step Step, met bool, d Document) Verdict {
		f := Facts{DecisionPH: &ph, AW: f64(0.95), Step: &step, HeatStepMet: met, HeatInPackC: step.C,
			HeatInPackMinutes: step.Min, QualityCapDays: days(90)}
		f.Believe([]Document{d}, us, Subject{Version: 2, Limit: 4.6, Asked: Ambient, HeatC: step.C, HeatMin: step.Min})
		return Judge(us, Ambient, f, Rules())
	}
	mild := letter()
	mild.HeatC, mild.HeatMin = 60, 1
	for _, c := range []struct {
		name    string
		ph      float64
		step    Step
		met     bool
		d       Document
		ambient bool
		lacks   string
	}{
		{"the document's own step", 4.5, Step{C: 85, Min: 5}, true, letter(), true, ""},
		{"not met", 4.5, Step{C: 85, Min: 5}, false, letter(), false, "no heat step met"},
		{"82 °C for a minute", 4.0, Step{C: 82, Min: 1}, true, mild, true, ""},
		{"below 82 °C", 4.0, Step{C: 81.9, Min: 10}, true, mild, false, "below 82 °C"},
		{"less than a minute", 4.0, Step{C: 90, Min: 0.9}, true, mild, false, "below 82 °C"},
		{"a letter that says none is needed", 4.5, Step{}, false, func() Document {
			d := letter()
			d.NoHeat = true
			return d
		}(), true, ""},
		{"no letter", 4.0, Step{C: 85, Min: 5}, true, Document{}, false, "process authority's letter"},
	} {
		v := judge(c.ph, c.step, c.met, c.d)
		assert.Equal(t, c.ambient, v.Condition == Ambient, c.name)
		if c.lacks != "" {
			assert.Contains(t, v.Reason, c.lacks, c.name)
			assert.Contains(t, v.Reason, "ambient was refused", c.name)
			assert.NotEmpty(t, v.AmbientLacks, c.name)
		}
	}
}

// TestAbovePH41TheDocumentsOwnStepIsAskedOnTheColdestJar meets the version's step and misses the document's.
func TestAbovePH41TheDocumentsOwnStepIsAskedOnTheColdestJar(t *testing.T) {
	us := of(t, law.US)
	for _, c := range []struct {
		ph, celsius, minutes float64
		ambient              bool
	}{{4.1, 83, 2, true}, {4.11, 83, 2, false}, {4.11, 85, 5, true}, {4.11, 84.9, 5, false}, {4.11, 85, 4.9, false}} {
		f := Facts{DecisionPH: &c.ph, AW: f64(0.95), Step: &Step{C: 83, Min: 2}, HeatStepMet: true,
			HeatInPackC: c.celsius, HeatInPackMinutes: c.minutes, QualityCapDays: days(90), AuthorityDocument: true,
			Document: &Step{C: 85, Min: 5}}
		assert.Equal(t, c.ambient, Judge(us, Ambient, f, Rules()).Condition == Ambient, "%+v", c)
	}
}

func TestEachLawNamesItsOwnDocument(t *testing.T) {
	ph := 4.0
	f := Facts{DecisionPH: &ph, AW: f64(0.95), HeatStepMet: true, QualityCapDays: days(90)}
	assert.Contains(t, Judge(of(t, law.US), Ambient, f, Rules()).Reason, "no process authority's letter")
	assert.Contains(t, Judge(of(t, law.GB), Ambient, f, Rules()).Reason, "no validated hazard plan")
}
