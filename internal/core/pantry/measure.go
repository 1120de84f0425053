package pantry

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"unicode"
)

// Typical is the kitchen knowledge that every shop starts with: household measures, preparations with their yields, and
// what people call ingredients. It stands until the maker weighs and records their own.
type Typical struct {
	Measures     []Measure
	Preparations []Preparation
	Synonyms     map[string][]string // by ingredient id
	Names        Names
}

// Names are what the shipped ingredients are called in the shop's own English: the locale of a tongue, then the
// ingredient's id. Every locale has the same ids.
type Names map[string]map[string]string

// Own reports whether what people call an ingredient fits a locale's English: none of its words occurs only in the
// names of the other locales.
func (n Names) Own(locale, id, called string) bool {
	words := func(text string) []string {
		return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
	}
	ours, listed := n[locale][id]
	if !listed {
		return true
	}
	foreign := func(w string) bool {
		return !slices.Contains(words(ours), w) &&
			slices.ContainsFunc(slices.Collect(maps.Keys(n)), func(other string) bool {
				return slices.Contains(words(n[other][id]), w)
			})
	}
	return !slices.ContainsFunc(words(called), foreign)
}

// Where a measure comes from, in order of preference (handbook 02).
const (
	HouseSource     = "house"
	ReferenceSource = "reference"
)

// LeastWeighings is how often a maker weighs a measure before it counts (handbook 02).
const LeastWeighings = 3

const (
	maxWeighings     = 50
	maxMeasureGrams  = 100_000
	maxMeasureName   = 40
	measureNameRunes = "abcdefghijklmnopqrstuvwxyz0123456789_"
)

// Measure is a household way of saying an amount of one ingredient: one tbsp, clove, handful or tin in grams with its
// spread, one standard deviation in percent. Name is the unit with its qualifier, as in cup_packed or clove_large.
type Measure struct {
	Ingredient string    `json:"ingredient"`
	Name       string    `json:"measure"`
	Grams      float64   `json:"grams"`
	Spread     float64   `json:"spread_percent"`
	Source     string    `json:"source"`
	Note       string    `json:"note,omitempty"`
	Weighings  []float64 `json:"weighings,omitempty"` // grams, of a house measure
}

// HouseMeasure makes the maker's own measure from what they weighed: mean and sample standard deviation in percent.
// Errors: FieldError for fewer than three weighings or one that cannot be.
func HouseMeasure(ingredient, name, note string, weighings []float64) (Measure, error) {
	if name == "" || len(name) > maxMeasureName || strings.Trim(name, measureNameRunes) != "" {
		return Measure{}, FieldError{Field: "measure",
			Message: "a measure is a word such as tbsp, clove_large or cup_packed"}
	}
	if n := len(weighings); n < LeastWeighings || n > maxWeighings {
		return Measure{}, FieldError{Field: "weighings",
			Message: fmt.Sprintf("weigh it at least %d times; %d so far", LeastWeighings, n)}
	}
	sum := 0.0
	for i, w := range weighings {
		if !(w > 0) || w > maxMeasureGrams {
			return Measure{}, FieldError{Field: fmt.Sprintf("weighings[%d]", i),
				Message: "grams above 0 and up to 100 000"}
		}
		sum += w
	}
	if len([]rune(note)) > maxTextRunes {
		return Measure{}, FieldError{Field: "note", Message: "at most 200 characters"}
	}
	mean := sum / float64(len(weighings))
	return Measure{Ingredient: ingredient, Name: name, Grams: mean, Spread: 100 * SampleDeviation(weighings) / mean,
		Source: HouseSource, Note: note,
		Weighings: slices.Clone(weighings)}, nil
}

// SampleDeviation is the sample standard deviation; 0 for fewer than two values.
func SampleDeviation(values []float64) float64 {
	if len(values) < 2 {
		return 0
	}
	mean := 0.0
	for _, v := range values {
		mean += v
	}
	mean /= float64(len(values))
	squares := 0.0
	for _, v := range values {
		squares += (v - mean) * (v - mean)
	}
	return math.Sqrt(squares / float64(len(values)-1))
}

// Measures answers what a measure of an ingredient weighs, the maker's own first. The zero value knows none.
type Measures struct {
	house, reference map[string]map[string]Measure
}

// NewMeasures gathers measures by their source; a later one of the same name wins.
func NewMeasures(lists ...[]Measure) Measures {
	m := Measures{map[string]map[string]Measure{}, map[string]map[string]Measure{}}
	for _, list := range lists {
		for _, x := range list {
			into := m.reference
			if x.Source == HouseSource {
				into = m.house
			}
			if into[x.Ingredient] == nil {
				into[x.Ingredient] = map[string]Measure{}
			}
			into[x.Ingredient][x.Name] = x
		}
	}
	return m
}

// House returns the maker's own measure of that name.
func (m Measures) House(ingredient, name string) (Measure, bool) {
	x, ok := m.house[ingredient][name]
	return x, ok
}

// Reference returns the typical measure of that name.
func (m Measures) Reference(ingredient, name string) (Measure, bool) {
	x, ok := m.reference[ingredient][name]
	return x, ok
}

// Of lists all measures of an ingredient by name, house measures before the reference they override.
func (m Measures) Of(ingredient string) []Measure {
	out := []Measure{}
	for _, x := range m.house[ingredient] {
		out = append(out, x)
	}
	for _, x := range m.reference[ingredient] {
		out = append(out, x)
	}
	slices.SortFunc(out, func(a, b Measure) int {
		if c := strings.Compare(a.Name, b.Name); c != 0 {
			return c
		}
		return strings.Compare(a.Source, b.Source)
	})
	return out
}
