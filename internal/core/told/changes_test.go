package told

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type fields = map[string]any

// TestEachChangeIsOneSentence: what was done to anything in the shop, told as its history tells it.
func TestEachChangeIsOneSentence(t *testing.T) {
	for want, c := range map[string]struct {
		what          string
		before, after fields
	}{
		"put Tahini into the pantry": {"ingredient", nil, fields{"name": "Tahini", "retired": false}},
		"retired Tahini": {"ingredient", fields{"retired": false}, fields{"name": "Tahini",
			"retired": true}},
		"took Tahini back into the pantry": {"ingredient", fields{"retired": true}, fields{"name": "Tahini",
			"retired": false}},
		"changed Tahini": {"ingredient", fields{"retired": false}, fields{"name": "Tahini",
			"retired": false}},
		"began Carrot dip": {"formula", nil, fields{"name": "Carrot dip"}},
		"renamed it from Dip to Carrot dip": {"formula", fields{"name": "Dip"},
			fields{"name": "Carrot dip"}},
		"retired it": {"formula", fields{"name": "Dip"}, fields{"name": "Dip", "retired": true}},
		"took it back": {"formula", fields{"name": "Dip", "retired": true},
			fields{"name": "Dip", "retired": false}},
		"changed what it is a variant of": {"formula", fields{"name": "Dip"}, fields{"name": "Dip"}},
		"began version 3":                 {"version", nil, fields{"state": "draft"}},
		"began version 3 from version 2": {"version", nil, fields{"state": "draft",
			"data": fields{"from": 2}}},
		"brought version 3 in, locked": {"version", nil, fields{"state": "locked"}},
		"locked version 3":             {"version", fields{"state": "draft"}, fields{"state": "locked"}},
		"set up the shop":              {"shop", nil, fields{}},
		"changed the settings":         {"shop", fields{}, fields{}},
		"added Bram, maker":            {"person", nil, fields{"name": "Bram", "role": "maker"}},
		"retired Bram: moved away": {"person", fields{}, fields{"name": "Bram",
			"retired_at": "2026-11-26", "retired_why": "moved away"}},
		"took Bram back": {"person", fields{"retired_at": "2026-11-26"},
			fields{"name": "Bram"}},
		"made Bram owner, who was maker": {"person", fields{"role": "maker"}, fields{"name": "Bram",
			"role": "owner"}},
		"gave Bram a new PIN or passphrase": {"person", fields{"role": "maker"}, fields{"name": "Bram",
			"role": "maker"}},
		"weighed “heaping tbsp”: 23.8, 26.1 g": {"measure", nil, fields{"measure": "heaping_tbsp",
			"weighings": []any{23.8, 26.1}}},
		"took the own measure “tin” out: old": {"measure", fields{}, fields{"measure": "tin",
			"retired_at": "2026-11-26", "retired_why": "old"}},
		"told the reader what “a slug” means": {"word", nil, fields{"words": "a slug"}},
		"took back what “a slug” means: a guess": {"word", fields{}, fields{"words": "a slug",
			"retired_at": "2026-11-26", "retired_why": "a guess"}},
		"attached “Letter 7”: for the summer": {"document", nil, fields{"title": "Letter 7",
			"attached_why": "for the summer"}},
		"withdrew “Letter 7”: it ran out": {"document", fields{}, fields{"title": "Letter 7",
			"withdrawn_why": "it ran out"}},
		"added the vessel 12 L cutter": {"vessel", nil, fields{"name": "12 L cutter"}},
		"retired the vessel 12 L cutter": {"vessel", fields{}, fields{"name": "12 L cutter",
			"retired_at": "2026-11-26"}},
		"changed the vessel 12 L cutter": {"vessel", fields{}, fields{"name": "12 L cutter"}},
		"cleaned a vessel down: before 26-1": {"vessel_entry", nil, fields{"kind": "cleaned",
			"what": "before 26-1"}},
		"used a vessel for dip":                     {"vessel_entry", nil, fields{"kind": "used", "what": "dip"}},
		"added Saltings Deli to those who get jars": {"party", nil, fields{"name": "Saltings Deli"}},
		"wrote the step “pit” down":                 {"preparation", nil, fields{"data": fields{"name": "pit"}}},
		"threw the recipe “Dip” away: twice": {"recipe", fields{}, fields{"name": "Dip",
			"retired_at": "2026-11-26", "retired_why": "twice"}},
		"made the backup monday.backup": {"backup", nil, fields{"file": "monday.backup"}},
		"changed a thing x/3":           {"a thing", fields{}, fields{}},
		"what Tahini carries changed, and of 1 more with it": {"allergen_change", nil,
			fields{"what": fields{"ingredients": []any{fields{"name": "Tahini"}, fields{"name": "Dukkah"}}}}},
	} {
		change := Change{Act: "update", What: c.what, Which: "x/3", After: note(t, c.after)}
		if change.Before = note(t, c.before); c.before == nil {
			change.Act, change.Before = "insert", nil
		}
		assert.Equal(t, want, said(t, change))
	}
}

func TestAReasonAndADeletionAreTold(t *testing.T) {
	assert.Equal(t, "changed Tahini: a new supplier", said(t, Change{Act: "update", What: "ingredient",
		Before: note(t, fields{}), After: note(t, fields{"name": "Tahini"}), Why: "a new supplier"}))
	assert.Equal(t, "threw draft 4 away", said(t, Change{Act: "delete", What: "version", Which: "dip/4"}))
}

// TestWhatMovedIsListedAndWhatStayedIsNot: the details of a change are what differs, each with its place in words.
func TestWhatMovedIsListedAndWhatStayedIsNot(t *testing.T) {
	row, err := Told([]Change{{Act: "update", What: "ingredient",
		Before: note(t, fields{"name": "Tahini", "data": fields{"ph": fields{"low": 5, "high": 6}, "note": "jar"}}),
		After:  note(t, fields{"name": "Tahini", "data": fields{"ph": fields{"low": 5, "high": 6.2}, "note": "jar"}})}})
	require.NoError(t, err)
	require.Len(t, row.Details, 1)
	assert.Contains(t, row.Details[0], "high")
	assert.Contains(t, row.Details[0], "6.2")
	row, err = Told([]Change{{Act: "update", What: "person",
		Before: note(t, fields{"name": "Bram", "secret": fields{"sha256": "1a"}, "format": 1}),
		After:  note(t, fields{"name": "Bram", "secret": fields{"sha256": "2b"}, "format": 2})}})
	require.NoError(t, err)
	assert.Empty(t, row.Details, "what proves a secret is nobody's to read")
	_, err = Told([]Change{{Act: "update", What: "ingredient", Before: json.RawMessage("{")}})
	assert.Error(t, err, "what cannot be read is no sentence")
}
