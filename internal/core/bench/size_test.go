package bench

import (
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/amount"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWorkedPlans(t *testing.T) {
	var file struct {
		Cases []struct {
			Name     string  `json:"name"`
			Jars     int     `json:"jars"`
			Fill     float64 `json:"fill"`
			Over     float64 `json:"over"`
			Loss     float64 `json:"loss"`
			Residue  float64 `json:"residue"`
			Samples  float64 `json:"samples"`
			Least    float64 `json:"least"`
			Greatest float64 `json:"greatest"`
			Division float64 `json:"division"`
			Want     struct {
				Loads      int       `json:"loads"`
				Total      float64   `json:"total_g"`
				Load       []float64 `json:"load_g"`
				BelowLeast bool      `json:"below_least"`
			} `json:"want"`
		} `json:"cases"`
	}
	cases.Load(t, "plan.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			s, err := Ask{Jars: c.Jars, Fill: amount.G(c.Fill), Over: amount.Pct(c.Over), Loss: amount.Pct(c.Loss),
				Residue: amount.G(c.Residue), Samples: amount.G(c.Samples), Least: amount.G(c.Least),
				Greatest: amount.G(c.Greatest), Division: amount.G(c.Division)}.Size()
			require.NoError(t, err)
			assert.Equal(t, c.Want.Loads, s.Loads)
			assert.InDelta(t, c.Want.Total, s.Total.Float(), 1e-9)
			assert.Equal(t, c.Want.BelowLeast, s.BelowLeast)
			require.Len(t, s.Load, len(c.Want.Load))
			for i, g := range c.Want.Load {
				assert.InDelta(t, g, s.Load[i].Float(), 1e-9)
			}
		})
	}
}

func TestWorkedRebalances(t *testing.T) {
	var file struct {
		Cases []struct {
			Name      string     `json:"name"`
			Target    []float64  `json:"target_g"`
			Weighed   []*float64 `json:"weighed_g"`
			Tolerance []float64  `json:"tolerance_percent"`
			Want      struct {
				Factor   float64    `json:"factor"`
				Targets  []float64  `json:"new_target_g"`
				TopUp    []*float64 `json:"top_up_g"`
				NewTotal float64    `json:"new_total_g"`
			} `json:"want"`
		} `json:"cases"`
	}
	cases.Load(t, "rebalance.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			targets, weighed := []amount.Exact{}, []*amount.Exact{}
			for i, g := range c.Target {
				targets, weighed = append(targets, amount.ExactFloat(g)), append(weighed, nil)
				if w := c.Weighed[i]; w != nil {
					x := amount.ExactFloat(*w)
					weighed[i] = &x
				}
			}
			r := Rebalanced(targets, weighed, c.Tolerance)
			assert.InDelta(t, c.Want.Factor, r.Factor.Float(), 1e-9)
			assert.InDelta(t, c.Want.NewTotal, r.NewTotal.Float(), 1e-6)
			for i, want := range c.Want.Targets {
				assert.InDelta(t, want, r.Targets[i].Float(), 1e-6, "line %d", i+1)
				if top := c.Want.TopUp[i]; top == nil {
					assert.Nil(t, r.TopUp[i], "line %d", i+1)
				} else if assert.NotNil(t, r.TopUp[i], "line %d", i+1) {
					assert.InDelta(t, *top, r.TopUp[i].Float(), 1e-6, "line %d", i+1)
				}
			}
		})
	}
}

func TestAResidueThatFillsTheVesselIsAMistake(t *testing.T) {
	_, err := Ask{Jars: 5, Fill: amount.G(150), Residue: amount.G(6000), Greatest: amount.G(6000)}.Size()
	assert.ErrorContains(t, err, "stay in the vessel")
	_, err = Ask{Jars: 90000, Fill: amount.G(150), Greatest: amount.G(6000), Division: amount.G(1)}.Size()
	assert.ErrorContains(t, err, "more than 40 loads")
}

func TestLoadsAddUpAndFitTheirVessel(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		grams := func(name string, low, high int) amount.Grams {
			return amount.Milligrams(int64(rapid.IntRange(low, high).Draw(t, name)))
		}
		a := Ask{Jars: rapid.IntRange(1, 400).Draw(t, "jars"), Fill: grams("fill", 20_000, 1_000_000),
			Over: amount.Pct(rapid.Float64Range(0, 10).Draw(t, "over")),
			Loss: amount.Pct(rapid.Float64Range(0, 20).Draw(t, "loss")), Samples: grams("samples", 0, 500_000),
			Residue: grams("residue", 0, 400_000), Least: grams("least", 0, 3_000_000),
			Greatest: grams("greatest", 3_000_000, 30_000_000),
			Division: amount.Milligrams(rapid.SampledFrom([]int64{10, 100, 1000, 5000}).Draw(t, "division"))}
		s, err := a.Size()
		if err != nil {
			return
		}
		sum := amount.Sum(s.Load)
		assert.Equal(t, s.Total, sum)
		assert.Zero(t, s.Total.Steps()%a.Division.Steps())
		for _, g := range s.Load {
			assert.LessOrEqual(t, s.Load[0].Minus(g).Steps(), a.Division.Steps())
			if s.Loads < mostLoads {
				assert.LessOrEqual(t, g.Cmp(a.Greatest), 0)
			}
		}
		assert.GreaterOrEqual(t, a.JarsOf(s.Total.Exact(), s.Loads), a.Jars)
		if s.BelowLeast && s.Loads == 1 {
			a.Jars = a.LeastJars()
			big, err := a.Size()
			require.NoError(t, err)
			assert.False(t, big.BelowLeast && big.Loads == 1)
		}
	})
}
