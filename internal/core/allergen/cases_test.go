package allergen

import (
	"slices"
	"testing"

	"gallipot/internal/cases"
	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWordsSayWhatTheWorkedCasesSay(t *testing.T) {
	var file struct {
		Cases []struct {
			Text string
			Want struct{ US, GB, Ask []string }
		}
	}
	cases.Load(t, "allergen_words.json", &file)
	require.NotEmpty(t, file.Cases)
	for _, c := range file.Cases {
		t.Run(c.Text, func(t *testing.T) {
			got := Shipped().Read(c.Text)
			assert.Equal(t, slices.Sorted(slices.Values(c.Want.US)), nilEmpty(got.Codes(under(t, law.US))))
			assert.Equal(t, slices.Sorted(slices.Values(c.Want.GB)), nilEmpty(got.Codes(under(t, law.GB))))
			assert.Equal(t, slices.Sorted(slices.Values(c.Want.Ask)), nilEmpty(got.Asks()))
		})
	}
}

func nilEmpty(list []string) []string {
	if len(list) == 0 {
		return nil
	}
	return list
}

func under(t testing.TB, r law.Regime) *law.Law {
	t.Helper()
	l, err := law.Of(r)
	require.NoError(t, err)
	return l
}
