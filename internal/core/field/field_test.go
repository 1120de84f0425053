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

func TestWordsAreCountedCutAndMadeIDs(t *testing.T) {
	assert.Equal(t, 5, Letters("é, à – b c… d?"))
	assert.Zero(t, Letters("--- 42 ---"))
	assert.Equal(t, "éé", Cut("ééé", 2))
	assert.Equal(t, "ééé", Cut("ééé", 3))
	for name, id := range map[string]string{"Tall Jar, 300 mL": "tall_jar_300_ml", "  – ": "item", "Crème": "cr_me"} {
		assert.Equal(t, id, Slug(name))
	}
	assert.LessOrEqual(t, len(Slug(strings.Repeat("long ", 40))), 61)
}
