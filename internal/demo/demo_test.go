package demo

import (
	"context"
	"testing"
	"time"

	"gallipot/internal/app/office"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheDemoBundleChecksOutAndIsAssessed(t *testing.T) {
	b, err := Bundle()
	require.NoError(t, err)
	require.Empty(t, b.Check(context.Background()))
	a, err := office.AssessBundle(context.Background(), b, time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(a.Formulas), 7)
	for _, f := range a.Formulas {
		assert.Positive(t, f.Jars, f.Name)
		assert.True(t, f.CostPerJar.IsPositive(), f.Name)
		assert.False(t, f.PH.Incomplete, f.Name)
		if !f.PH.NoWater { // an oil has none to measure
			assert.LessOrEqual(t, *f.PH.Low, *f.PH.Estimate, f.Name)
			assert.LessOrEqual(t, *f.PH.Estimate, *f.PH.High, f.Name)
		}
		for _, l := range law.All() {
			assert.NotEmpty(t, f.Declaration[l.Regime].List, f.Name)
			assert.NotEmpty(t, f.Keeping[l.Regime].Reason, f.Name)
			assert.Equal(t, l.ContainsLine, f.Declaration[l.Regime].Contains != nil, f.Name)
		}
	}
}
