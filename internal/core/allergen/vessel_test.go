package allergen

import (
	"testing"

	"gallipot/internal/core/law"

	"github.com/stretchr/testify/assert"
)

func TestWhatAVesselCarriesIntoABatch(t *testing.T) {
	const ours = 7
	in := func(what string, batch int64, codes ...string) Turn {
		return Turn{What: what, Batch: batch, Allergens: law.Each[[]string]{law.GB: codes}}
	}
	cleaned := Turn{Cleaned: true}
	for _, c := range []struct {
		name  string
		turns []Turn
		own   []string
		want  []Carry
	}{
		{"all that was in it before",
			[]Turn{in("Sesame paste", 3, "sesame"), in("Crab paste", 0, "crustacean"), in("", ours, "milk")}, nil,
			[]Carry{{"sesame", "Sesame paste"}, {"crustacean", "Crab paste"}}},
		{"nothing from before a clean-down",
			[]Turn{in("Sesame paste", 3, "sesame"), cleaned, in("Mustard dip", 4, "mustard"), in("", ours)}, nil,
			[]Carry{{"mustard", "Mustard dip"}}},
		{"nothing that came after it", []Turn{in("", ours), in("Sesame paste", 3, "sesame")}, nil, nil},
		{"what came between two of its loads", []Turn{in("", ours), in("Sesame paste", 3, "sesame"), in("", ours)},
			nil, []Carry{{"sesame", "Sesame paste"}}},
		{"a thing once, however often the batch goes in",
			[]Turn{in("Sesame paste", 3, "sesame"), in("", ours), in("", ours)},
			nil, []Carry{{"sesame", "Sesame paste"}}},
		{"but for what it has of its own", []Turn{in("Sesame paste", 3, "sesame", "milk"), in("", ours, "milk")},
			[]string{"milk"}, []Carry{{"sesame", "Sesame paste"}}},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := CarriedInto(c.turns, ours, law.Each[[]string]{law.GB: c.own})
			assert.Equal(t, c.want, got[law.GB])
			assert.Empty(t, got[law.US], "each law by its own codes")
		})
	}
}
