package demo

import (
	"testing"
	"time"

	"gallipot/internal/app"

	"github.com/stretchr/testify/require"
)

func TestTheDemoBundleChecksOutAndIsAssessed(t *testing.T) {
	b, err := Bundle()
	require.NoError(t, err)
	require.Empty(t, b.Check())
	a, err := app.AssessBundle(b, time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(a.Formulas), 7)
	for _, f := range a.Formulas {
		t.Logf("%-26s v%d %s jars %d cost %s pH %v %v-%v aw %v salt %.2f PI %v | US %v %s | GB %v", f.Name, f.Version, f.State, f.Jars, f.CostPerJar, *f.PH.Estimate, *f.PH.Low, *f.PH.High, *f.WaterActivity, f.SaltInWater, *f.PreservationIndex, f.Allergens.US, f.Declaration.US.Contains, f.Declaration.GB.List)
		t.Logf("     US: %s", f.Declaration.US.List)
		t.Logf("     keep GB %s", f.Keeping.GB.Reason)
		for _, c := range f.Cautions {
			t.Logf("     ! %s %s", c.Title, c.Text)
		}
	}
}
