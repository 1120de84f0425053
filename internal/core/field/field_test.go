package field

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMistakesAreGatheredAtTheirPlaces(t *testing.T) {
	var errs Errors
	assert.Empty(t, errs)
	errs.Bad("name", "give it a name")
	errs.Bad("tax", "between 0 and 100 %")
	errs.Bad("grams", "at most %d kg", 10)
	bad := errs.At("devices[2].")
	bad("address", "with its port, as in %s", "192.168.1.20:4001")
	errs.Under("shop", []Error{{Field: "locale", Message: "choose one"}})
	assert.Equal(t, Errors{{"name", "give it a name"}, {"tax", "between 0 and 100 %"}, {"grams", "at most 10 kg"},
		{"devices[2].address", "with its port, as in 192.168.1.20:4001"}, {"shop.locale", "choose one"}}, errs)
	assert.Equal(t, "name: give it a name", errs[0].Error())
}

func TestAMessageBecomesASentence(t *testing.T) {
	for said, want := range map[string]string{"": "", "at most 5": "At most 5.", "is it?": "Is it?", "Done.": "Done.",
		"éclair": "Éclair."} {
		assert.Equal(t, want, Sentence(said))
	}
	assert.Equal(t, "short", Clip("short"))
	assert.Equal(t, strings.Repeat("é", 40)+"…", Clip(strings.Repeat("é", 41)))
	assert.Equal(t, strings.Repeat("é", 40), Clip(strings.Repeat("é", 40)))
}
