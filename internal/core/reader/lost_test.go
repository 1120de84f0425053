package reader_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gallipot/internal/core/reader"
)

// spokenNames are names of the shipped pantry as people say them, with what they mean. Of names that begin or end with
// another name only the longest is said, so that what is heard can be told from what was said.
func spokenNames(b *reader.Book) map[string]string {
	out := map[string]string{}
	for id, g := range b.Ingredients {
		name, _, _ := strings.Cut(g.Name, ",")
		name, _, _ = strings.Cut(name, "(")
		name = strings.ToLower(strings.TrimSpace(name))
		l := b.Read("100 g "+name, nil)
		if len(l.Lines) == 1 && l.Lines[0].Ingredient == id && !strings.ContainsAny(name, "0123456789%") &&
			!strings.Contains(name, " in ") && !strings.Contains(name, " from ") && !strings.Contains(name, "-") {
			out[name] = id
		}
	}
	return out
}

// TestNoNameOfThePantryIsLostInSpeech: whatever is said around them, and in whatever kind of sentence they stand, names
// are lines, are left out because it was said, or are asked about.
func TestNoNameOfThePantryIsLostInSpeech(t *testing.T) {
	b := shippedBook(t)
	names := spokenNames(b)
	require.Greater(t, len(names), 120)
	all := slices.Sorted(func(yield func(string) bool) {
		for n := range names {
			if !yield(n) {
				return
			}
		}
	})
	sentences := []string{"Take half a cup of %s.", "Then %s, two tablespoons.", "And then the %s, about 30 grams.",
		"A bit of %s.", "No %s in this one.", "I never put %s in.", "My mother always used %s, you know.",
		"You add the %s at the end.", "Blend it with the %s until it is smooth.", "Skip the %s if you like.",
		"Now a teaspoon of %s, no, two teaspoons.", "So it is about a cup of %s, maybe a bit more.",
		"[01:20] Two spoons of %s and stir.", "%s, a pinch.", "And %s to taste.", "I think the %s makes it what it is."}
	joins := []string{" ", "\n", " So, ", " And, well, "}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom([]string{"", "Okay. ", "[00:00] Right.\n", "Sunday sauce\n"}).Draw(t, "begin")
		said := map[string]bool{}
		for range rapid.IntRange(1, 6).Draw(t, "sentences") {
			name := rapid.SampledFrom(all).Draw(t, "name")
			said[names[name]] = true
			text += strings.ReplaceAll(rapid.SampledFrom(sentences).Draw(t, "sentence"), "%s", name) +
				rapid.SampledFrom(joins).Draw(t, "join")
		}
		heard := map[string]bool{}
		for _, l := range b.Read(text, nil).Lines {
			for _, id := range append(slices.Clone(l.AnyOf), l.Ingredient) {
				if g := b.Ingredients[id]; g != nil {
					heard[g.Labels["GB"]] = true
				}
				for _, p := range b.Preparations {
					if p.Output == id { // what it is made of is in it
						heard[b.Ingredients[p.Input].Labels["GB"]] = true
					}
				}
			}
			for _, also := range l.Also {
				heard[b.Ingredients[also.ID].Labels["GB"]] = true
			}
		}
		for id := range said {
			require.True(t, heard[b.Ingredients[id].Labels["GB"]], "%s of %q is in no line: %v", id, text, heard)
		}
	})
}
