package reader_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/cases"
	"gallipot/internal/core/reader"
)

// wantedLine is what a worked case says of a line; what is absent is not looked at.
type wantedLine struct {
	Ingredient json.RawMessage `json:"ingredient"` // an id, a list of ids that are all right, or any_of
	Grams      json.RawMessage `json:"grams"`
	Within     *float64        `json:"within"`
	Ask        *bool           `json:"ask"`
	Parts      *float64        `json:"parts"`
	Fixed      *bool           `json:"fixed"`
}

type wantedText struct {
	Lines      []wantedLine `json:"lines"`
	Title      *string      `json:"title"`
	SaidML     *float64     `json:"said_ml"`
	ClaimDays  *int         `json:"claim_days"`
	OpenAtMost *int         `json:"open_at_most"`
}

// TestTextsAreRead runs every worked text with the shipped pantry.
func TestTextsAreRead(t *testing.T) {
	var file struct {
		Cases []struct {
			Text string     `json:"text"`
			Want wantedText `json:"want"`
		} `json:"cases"`
	}
	cases.Load(t, "reader.json", &file)
	require.NotEmpty(t, file.Cases)
	b := shippedBook(t)
	for _, c := range file.Cases {
		t.Run(c.Text, func(t *testing.T) {
			r := b.Read(c.Text, nil)
			nothingLost(t, c.Text, r)
			c.Want.check(t, r)
		})
	}
}

func (w wantedText) check(t *testing.T, r reader.Reading) {
	t.Helper()
	var bowl []reader.Line
	var title *string
	for _, l := range r.Lines {
		if l.Kind == reader.Weighed && l.As == reader.AsBowl {
			bowl = append(bowl, l)
		}
		if l.Kind == reader.Title {
			title = &l.Name
		}
	}
	names := []string{}
	for _, l := range bowl {
		names = append(names, l.Ingredient)
	}
	if assert.Len(t, bowl, len(w.Lines), "%v", names) {
		for i, want := range w.Lines {
			want.check(t, bowl[i])
		}
	}
	if w.Title != nil && assert.NotNil(t, title, "the title") {
		assert.Equal(t, *w.Title, *title)
	}
	if w.SaidML != nil && assert.NotNil(t, r.SaidML, "what it makes") {
		assert.InDelta(t, *w.SaidML, *r.SaidML, *w.SaidML*0.03)
	}
	if w.ClaimDays != nil && assert.NotNil(t, r.ClaimDays, "what it is said to keep") {
		assert.Equal(t, *w.ClaimDays, *r.ClaimDays)
	}
	if w.OpenAtMost != nil {
		assert.LessOrEqual(t, r.StillOpen, *w.OpenAtMost)
	}
}

func (w wantedLine) check(t *testing.T, l reader.Line) {
	t.Helper()
	var one string
	var several []string
	var group struct {
		AnyOf []string `json:"any_of"`
	}
	switch {
	case len(w.Ingredient) == 0:
	case json.Unmarshal(w.Ingredient, &one) == nil:
		assert.Equal(t, one, l.Ingredient)
		assert.Empty(t, l.AnyOf)
	case json.Unmarshal(w.Ingredient, &several) == nil:
		assert.Contains(t, several, l.Ingredient)
	default:
		require.NoError(t, json.Unmarshal(w.Ingredient, &group))
		assert.ElementsMatch(t, group.AnyOf, l.AnyOf)
	}
	switch {
	case len(w.Grams) == 0:
	case string(w.Grams) == "null":
		if l.Grams != nil {
			assert.True(t, l.ToWeigh, "%s is still to weigh, and has %g g", l.Ingredient, *l.Grams)
		}
	default:
		var grams float64
		require.NoError(t, json.Unmarshal(w.Grams, &grams))
		within := 0.03
		if w.Within != nil {
			within = *w.Within
		}
		if assert.NotNil(t, l.Grams, l.How) {
			assert.InDelta(t, grams, *l.Grams, grams*within, l.How)
		}
	}
	if w.Ask != nil {
		codes := []string{}
		for _, q := range l.Questions {
			codes = append(codes, q.Code+": "+q.Text)
		}
		assert.Equal(t, *w.Ask, l.Open(), "%v", codes)
	}
	if w.Parts != nil {
		assert.InDelta(t, *w.Parts, l.Parts, 1e-9)
	}
	if w.Fixed != nil {
		assert.Equal(t, *w.Fixed, l.Fixed)
	}
	assert.False(t, slices.Contains(l.AnyOf, ""))
}
