package store

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/entry"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/core/recall"
	"gallipot/internal/core/shop"
	"gallipot/internal/upcast"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func golden(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("..", "..", "testdata", "formats", name))
	require.NoError(t, err)
	return raw
}

// reads decodes a stored document into the type of its kind and encodes it in the present format.
var reads = map[string]func(kind string, format int, raw []byte) (any, error){
	"shop":        as[shop.Settings],
	"ingredient":  as[pantry.Ingredient],
	"version":     as[formula.Version],
	"answers":     as[map[string]reader.Answer],
	"weighings":   as[[]float64],
	"preparation": as[pantry.Preparation],
	"trial":       as[formula.Trial],
	"targets":     as[[]bench.Target],
	"planned":     as[bench.Planned],
	"facts":       as[kernel.LabelFacts],
	"lock":        as[kernel.LockKept],
}

func as[T any](kind string, format int, raw []byte) (any, error) {
	var v T
	err := read(kind, format, raw, &v)
	return v, err
}

func TestDocumentsOfEveryFormatAreReadAsTheSame(t *testing.T) {
	for kind := range upcasts {
		t.Run(kind, func(t *testing.T) {
			require.Contains(t, reads, kind, "every kind of document has its golden files")
			old, err := reads[kind](kind, 1, golden(t, kind+"-1.json"))
			require.NoError(t, err)
			present := golden(t, kind+"-2.json")
			raw, err := json.Marshal(old)
			require.NoError(t, err)
			assert.JSONEq(t, string(present), string(raw), "format 1 becomes the present format")
			now, err := reads[kind](kind, upcast.Present, present)
			require.NoError(t, err)
			assert.Equal(t, old, now)
			_, err = reads[kind](kind, upcast.Present+1, present)
			assert.ErrorContains(t, err, "knows formats up to", "what a later program wrote is not guessed at")
		})
	}
}

func TestEntriesOfEveryFormatAreReadAsTheSame(t *testing.T) {
	files, err := filepath.Glob(filepath.Join("..", "..", "testdata", "formats", "entry-*-1.json"))
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, f := range files {
		kind := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(f), "entry-"), "-1.json")
		t.Run(kind, func(t *testing.T) {
			seen[kind] = true
			row := batchEntryRow{Written: Written{Kind: kind, Format: 1, Body: golden(t, "entry-"+kind+"-1.json")}}
			old, err := row.domain()
			require.NoError(t, err)
			assert.Equal(t, kind, old.Kind())
			present := golden(t, "entry-"+kind+"-2.json")
			raw, err := json.Marshal(old.Body)
			require.NoError(t, err)
			assert.JSONEq(t, string(present), string(raw))
			now, err := batchEntryRow{Written: Written{Kind: kind, Format: upcast.Present, Body: present}}.domain()
			require.NoError(t, err)
			assert.Equal(t, old, now)
		})
	}
	for _, kind := range bench.Kinds() { // later kinds begin with the present format
		if seen[kind] {
			continue
		}
		raw := golden(t, "entry-"+kind+"-2.json")
		e, err := batchEntryRow{Written: Written{Kind: kind, Format: upcast.Present, Body: raw}}.domain()
		require.NoError(t, err)
		again, err := json.Marshal(e.Body)
		require.NoError(t, err)
		assert.JSONEq(t, string(raw), string(again))
	}
	_, err = batchEntryRow{Written: Written{Kind: "joy", Format: 2, Body: []byte(`{}`)}}.domain()
	assert.ErrorAs(t, err, &entry.KindError{})
}

func TestActsOnLotsAreReadAsTheyWereWritten(t *testing.T) {
	for _, kind := range lots.Kinds() {
		t.Run(kind, func(t *testing.T) {
			raw := golden(t, "lot-"+kind+"-2.json")
			e, err := lotEntryRow{Written: Written{Kind: kind, Format: upcast.Present, Body: raw}}.domain()
			require.NoError(t, err)
			assert.Equal(t, kind, e.Kind())
			again, err := json.Marshal(e.Body)
			require.NoError(t, err)
			assert.JSONEq(t, string(raw), string(again))
		})
	}
	_, err := lotEntryRow{Written: Written{Kind: "held", Format: upcast.Present + 1, Body: []byte(`{}`)}}.domain()
	assert.ErrorContains(t, err, "knows formats up to")
}

func TestActsInRecallsAreReadAsTheyWereWritten(t *testing.T) {
	for _, kind := range recall.Kinds() {
		t.Run(kind, func(t *testing.T) {
			raw := golden(t, "recall-"+kind+"-2.json")
			e, err := recallEntryRow{Written: Written{Kind: kind, Format: upcast.Present, Body: raw}}.domain()
			require.NoError(t, err)
			assert.Equal(t, kind, e.Kind())
			again, err := json.Marshal(e.Body)
			require.NoError(t, err)
			assert.JSONEq(t, string(raw), string(again))
		})
	}
	_, err := recallEntryRow{Written: Written{Kind: "told", Format: upcast.Present + 1, Body: []byte(`{}`)}}.domain()
	assert.ErrorContains(t, err, "knows formats up to")
}
