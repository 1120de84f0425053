package formula

import (
	"sort"
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestStandardiseCases runs every worked case.
func TestStandardiseCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name      string               `json:"name"`
			Trials    []map[string]float64 `json:"trials"`
			Reference float64              `json:"reference_g"`
			Division  float64              `json:"scale_division_g"`
			Want      []struct {
				Line     string  `json:"line"`
				Mean     float64 `json:"mean_percent"`
				SD       float64 `json:"sd"`
				CV       float64 `json:"cv_percent"`
				Grams    float64 `json:"grams"`
				AbsentIn int     `json:"absent_in"`
			} `json:"want"`
		} `json:"cases"`
	}
	cases.Load(t, "standardise.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			got, err := Standardise(trialsOf(c.Trials), amount.G(c.Reference), amount.G(c.Division), false)
			require.NoError(t, err)
			require.Len(t, got, len(c.Want))
			byKey := map[string]StandardLine{}
			for _, s := range got {
				byKey[s.Key] = s
			}
			for _, w := range c.Want {
				s, ok := byKey[w.Line]
				require.True(t, ok, w.Line)
				assert.InDelta(t, w.Mean, s.Mean, 0.0001, w.Line)
				assert.InDelta(t, w.SD, s.Deviation, 0.0001, w.Line)
				assert.InDelta(t, w.CV, s.CV, 0.01, w.Line)
				assert.InDelta(t, w.Grams, s.Grams.Float(), 1e-9, w.Line)
				assert.Equal(t, w.AbsentIn, s.AbsentIn, w.Line)
			}
		})
	}
}

func trialsOf(list []map[string]float64) []Trial {
	var out []Trial
	for _, m := range list {
		names := make([]string, 0, len(m))
		for k := range m {
			names = append(names, k)
		}
		sort.Strings(names)
		t := Trial{MadeOn: "2026-11-01"}
		for _, k := range names {
			t.Lines = append(t.Lines, TrialLine{Ingredient: k, Grams: amount.G(m[k])})
		}
		out = append(out, t)
	}
	return out
}

func TestStandardiseByScore(t *testing.T) {
	trials := trialsOf([]map[string]float64{{"carrot": 80, "oil": 20}, {"carrot": 60, "oil": 40}})
	trials[0].Score, trials[1].Score = 9, 3
	got, err := Standardise(trials, amount.G(1000), amount.G(1), true)
	require.NoError(t, err)
	assert.InDelta(t, 75, got[0].Mean, 1e-9, "(9 x 80 + 3 x 60) / 12")
	assert.Equal(t, "750", got[0].Grams.String())
	trials[0].Score, trials[1].Score = 1, 0
	got, err = Standardise(trials, amount.G(1000), amount.G(1), true)
	require.NoError(t, err, "one point is a score")
	assert.Equal(t, "800", got[0].Grams.String())
	trials[0].Score, trials[1].Score = 0, 0
	_, err = Standardise(trials, amount.G(1000), amount.G(1), true)
	assert.ErrorContains(t, err, "none of these trials has a score")
}

func TestStandardiseRefusesWhatCannotBe(t *testing.T) {
	good := trialsOf([]map[string]float64{{"carrot": 80}, {"carrot": 60}})
	for field, try := range map[string]func() error{
		"trials":      func() error { _, err := Standardise(good[:1], amount.G(1000), amount.G(1), false); return err },
		"reference_g": func() error { _, err := Standardise(good, amount.G(0), amount.G(1), false); return err },
		"division_g":  func() error { _, err := Standardise(good, amount.G(1000), amount.G(0), false); return err },
	} {
		var wrong pantry.FieldError
		require.ErrorAs(t, try(), &wrong)
		assert.Equal(t, field, wrong.Field)
	}
	_, err := Standardise([]Trial{good[0], {Lines: []TrialLine{{Ingredient: "carrot"}}}}, amount.G(1000), amount.G(1),
		false)
	assert.ErrorContains(t, err, "has no grams")
}

func TestAProposedStandardAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var list []map[string]float64
		for range rapid.IntRange(2, 6).Draw(t, "trials") {
			m := map[string]float64{"carrot": rapid.Float64Range(1, 900).Draw(t, "carrot")}
			for _, k := range []string{"oil", "salt", "dill"} {
				if rapid.Bool().Draw(t, "has "+k) {
					m[k] = rapid.Float64Range(0.1, 300).Draw(t, k)
				}
			}
			list = append(list, m)
		}
		division := rapid.SampledFrom([]float64{0.1, 1, 5}).Draw(t, "division")
		got, err := Standardise(trialsOf(list), amount.G(1000), amount.G(division), false)
		require.NoError(t, err)
		sum, mean := amount.Grams{}, 0.0
		for _, s := range got {
			sum = sum.Plus(s.Grams)
			mean += s.Mean
			step := amount.ExactFloat(division)
			whole := s.Grams.Exact().Over(step).Round(0).Times(step)
			assert.Zero(t, whole.Cmp(s.Grams.Exact()), "whole divisions: %s", s.Grams)
		}
		assert.Equal(t, "1000", sum.String())
		assert.InDelta(t, 100, mean, 1e-9)
	})
}

func TestFromStandardKeepsWhatALineSays(t *testing.T) {
	v := Blank("x")
	v.Lines = []Line{{ID: "a", Ingredient: "carrot", Grams: amount.G(500), Words: "three carrots", Purpose: "binds"},
		{ID: "b", Ingredient: "water", Grams: amount.G(5)},
		{ID: "c", Ingredient: "carrot", Grams: amount.G(20)}}
	next := v.FromStandard([]StandardLine{{Key: "carrot", Grams: amount.G(600)}, {Key: "oil", Grams: amount.G(390)},
		{Key: "formula:base", Grams: amount.G(10)}},
		map[string]Ref{"formula:base": {"base", 2}}, map[string]float64{"carrot": 1, "oil": 1.239})
	require.Len(t, next.Lines, 3, "water was in no trial; the second carrot line is in the first one's grams")
	assert.Equal(t, "three carrots", next.Lines[0].Words)
	assert.Equal(t, "600", next.Lines[0].Grams.String())
	assert.Equal(t, 1.24, next.Lines[1].TolerancePercent)
	assert.Equal(t, Ref{"base", 2}, *next.Lines[2].Component)
	assert.Empty(t, next.Check())
	assert.Len(t, v.Lines, 3, "the version itself stays as it is")
}

func TestTrialCheckNamesTheField(t *testing.T) {
	good := Trial{Lines: []TrialLine{{Ingredient: "oil", Grams: amount.G(10), Added: amount.G(2), Reason: "too dry"}},
		Score: 7}
	assert.Empty(t, good.Check())
	for field, change := range map[string]func(*Trial){
		"lines":    func(x *Trial) { x.Lines = nil },
		"lines[0]": func(x *Trial) { x.Lines = []TrialLine{{Grams: amount.G(1)}} },
		"lines[0].added_g": func(x *Trial) {
			x.Lines = []TrialLine{{Ingredient: "oil", Grams: amount.G(1),
				Added: amount.G(2)}}
		},
		"lines[0].grams": func(x *Trial) { x.Lines = []TrialLine{{Ingredient: "oil", Grams: amount.G(-1)}} },
		"finished_g":     func(x *Trial) { x.Finished = amount.G(-1) },
		"score":          func(x *Trial) { x.Score = 11 },
	} {
		bad := good
		change(&bad)
		var fields []string
		for _, e := range bad.Check() {
			fields = append(fields, e.Field)
		}
		assert.Contains(t, fields, field)
	}
}

func TestWhatTrialsAndTheNewestVersionHaveOfALine(t *testing.T) {
	paste := &Ref{Formula: "paste", Version: 2}
	trials := []Trial{{Lines: []TrialLine{{Ingredient: "oil", Grams: amount.G(900)}, {Component: paste,
		Grams: amount.G(80)}}},
		{Lines: []TrialLine{{Ingredient: "oil", Grams: amount.G(880)}}}}
	assert.Equal(t, amount.G(980), trials[0].GramsIn())
	assert.Equal(t, map[string]Ref{"formula:paste": *paste}, Components(trials))
	v := Version{Lines: []Line{{Ingredient: "oil", Grams: amount.G(1500)}, {Ingredient: "salt", Grams: amount.G(20)},
		{Ingredient: "oil", Grams: amount.G(300)}, {Component: paste, Grams: amount.G(180)}}}
	grams, ok := v.GramsOf("oil", amount.G(1000))
	assert.True(t, ok)
	assert.Equal(t, amount.G(900), grams, "of both lines, at half the size")
	_, ok = v.GramsOf("dill", amount.G(1000))
	assert.False(t, ok)
}
