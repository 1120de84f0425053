package acidity

import (
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/pantry"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type caseIngredient struct {
	Name     string       `json:"name"`
	PH       *float64     `json:"ph"`
	Low      *float64     `json:"ph_low"`
	High     *float64     `json:"ph_high"`
	Water    float64      `json:"water"`
	Buffer   float64      `json:"buffer_mmol_kg_ph"`
	Acids    pantry.Acids `json:"acids"`
	PureAcid bool         `json:"pure_acid"`
}

func (c caseIngredient) ingredient() *pantry.Ingredient {
	g := &pantry.Ingredient{ID: c.Name, Name: c.Name, Composition: pantry.Composition{Water: c.Water}, Acids: c.Acids,
		BufferMmol: c.Buffer}
	if c.PH != nil {
		g.PH = &pantry.PHRange{Typical: *c.PH, Low: *c.PH, High: *c.PH}
		if c.Low != nil {
			g.PH.Low = *c.Low
		}
		if c.High != nil {
			g.PH.High = *c.High
		}
	}
	if c.PureAcid {
		g.Chemistry = pantry.ChemistryPureAcid
	}
	return g
}

func TestEstimateReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name  string
			Lines []struct {
				Ingredient caseIngredient
				Grams      float64
			}
			Want struct {
				PH   float64
				Low  float64 `json:"ph_low"`
				High float64 `json:"ph_high"`
			}
			Tolerance float64
		}
	}
	cases.Load(t, "acidity.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			var parts []Part
			for _, l := range c.Lines {
				g := l.Ingredient.ingredient()
				parts = append(parts, Part{g.Name, l.Grams, g})
			}
			e := EstimatePH(parts, 0)
			assert.InDelta(t, c.Want.PH, e.PH, c.Tolerance)
			assert.InDelta(t, c.Want.Low, e.Low, c.Tolerance)
			assert.InDelta(t, c.Want.High, e.High, c.Tolerance)
			assert.False(t, e.Incomplete())
		})
	}
}

func TestWaterActivityReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Name  string
			Grams Solutes
			PH    float64
			Want  struct {
				AW          *float64 `json:"aw"`
				SaltInWater *float64 `json:"salt_in_water_percent"`
				Aqueous     *float64 `json:"aqueous_g"`
				Index       *float64 `json:"preservation_index"`
			}
		}
	}
	cases.Load(t, "water_activity.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			aw, err := c.Grams.WaterActivity()
			require.NoError(t, err)
			if c.Want.AW != nil {
				assert.InDelta(t, *c.Want.AW, aw, 0.00002)
			}
			if c.Want.SaltInWater != nil {
				assert.InDelta(t, *c.Want.SaltInWater, c.Grams.SaltInWater(), 0.0001)
			}
			if c.Want.Aqueous != nil {
				assert.InDelta(t, *c.Want.Aqueous, c.Grams.Aqueous(), 0.001)
			}
			if c.Want.Index != nil {
				assert.InDelta(t, *c.Want.Index, c.Grams.PreservationIndex(c.PH), 0.002)
			}
		})
	}
}

func TestMeterReproducesWorkedCases(t *testing.T) {
	var file struct {
		Cases []struct {
			Check
			Name     string
			SampleMV float64 `json:"sample_mv"`
			SampleC  float64 `json:"sample_temperature_c"`
			Want     struct {
				Slope    float64 `json:"slope_percent"`
				Offset   float64 `json:"offset_mv"`
				Accepted bool
				PH       float64
			}
		}
	}
	cases.Load(t, "meter.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Name, func(t *testing.T) {
			r := c.Judge()
			assert.InDelta(t, c.Want.Slope, r.SlopePercent, 0.0006)
			assert.InDelta(t, c.Want.Offset, r.OffsetMV, 1e-9)
			assert.Equal(t, c.Want.Accepted, r.Accepted)
			assert.NotEmpty(t, r.Reasons)
			assert.InDelta(t, c.Want.PH, c.PH(c.SampleMV, c.SampleC), 0.0002)
		})
	}
}
