package reader_test

import (
	"bufio"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
	"gallipot/internal/reference"
)

// shippedBook is what a new shop reads with.
func shippedBook(t testing.TB) *reader.Book {
	t.Helper()
	list, err := reference.Ingredients()
	require.NoError(t, err)
	ingredients := map[string]*pantry.Ingredient{}
	for i := range list {
		ingredients[list[i].ID] = &list[i]
	}
	measures, err := reference.Measures()
	require.NoError(t, err)
	preparations, err := reference.Preparations()
	require.NoError(t, err)
	synonyms, err := reference.Synonyms()
	require.NoError(t, err)
	return &reader.Book{Index: reader.NewIndex(ingredients, synonyms), Ingredients: ingredients,
		Measures: pantry.NewMeasures(measures), Preparations: preparations, Spoons: amount.USSpoons}
}

type expected struct {
	ingredient string
	grams      *float64
}

type example struct {
	words string
	want  []expected
}

func corpus(t testing.TB, b *reader.Book) []example {
	t.Helper()
	f, err := os.Open("testdata/corpus.txt")
	require.NoError(t, err)
	defer f.Close()
	var out []example
	rows := bufio.NewScanner(f)
	for rows.Scan() {
		if strings.HasPrefix(rows.Text(), "#") {
			continue
		}
		at := strings.LastIndex(rows.Text(), " ; ")
		require.Positive(t, at, rows.Text())
		e := example{words: rows.Text()[:at]}
		for _, part := range strings.Split(rows.Text()[at+3:], " | ") {
			id, sum, ok := strings.Cut(part, " = ")
			require.True(t, ok, part)
			x := expected{ingredient: strings.TrimSpace(id)}
			if sum != "-" {
				g := worth(t, b, x.ingredient, sum)
				x.grams = &g
			}
			e.want = append(e.want, x)
		}
		out = append(out, e)
	}
	return out
}

// worth works out an expectation from the shipped table, on its own: sums of products.
func worth(t testing.TB, b *reader.Book, id, sum string) float64 {
	total := 0.0
	for _, product := range strings.Split(sum, "+") {
		value := 1.0
		for _, factor := range strings.Split(product, "*") {
			if x, err := strconv.ParseFloat(factor, 64); err == nil {
				value *= x
				continue
			}
			if factor == "density" {
				value *= b.Ingredients[id].DensityGPerML
				continue
			}
			name, of, elsewhere := strings.Cut(factor, "@")
			if !elsewhere {
				of = id
			}
			m, ok := b.Measures.Reference(of, name)
			require.True(t, ok, "the table has no %s of %s", name, of)
			value *= m.Grams
		}
		total += value
	}
	return total
}

func TestCorpusReadsFullyAndLosesNothing(t *testing.T) {
	b := shippedBook(t)
	examples := corpus(t, b)
	require.GreaterOrEqual(t, len(examples), 540)
	right := 0
	for _, e := range examples {
		r := b.Read(e.words, nil)
		nothingLost(t, e.words, r)
		if wrong := compare(e, r); wrong == "" {
			right++
		} else {
			t.Logf("%q: %s", e.words, wrong)
		}
	}
	share := 100 * float64(right) / float64(len(examples))
	t.Logf("%d of %d lines read fully, %.1f %%", right, len(examples), share)
	assert.GreaterOrEqual(t, share, 95.0)
}

// compare says in words what differs from what was expected.
func compare(e example, r reader.Reading) string {
	var lines []reader.Line
	for _, l := range r.Lines {
		if l.Kind == reader.Weighed && l.As != reader.AsLeft || l.Kind == reader.Unknown {
			lines = append(lines, l)
		}
	}
	if len(lines) != len(e.want) {
		return "read as " + strconv.Itoa(len(lines)) + " lines " + names(lines)
	}
	for i, w := range e.want {
		l := lines[i]
		switch {
		case w.ingredient == "?" && l.Ingredient == "" && len(l.Questions) > 0:
			continue // unknown to the pantry, and asked about
		case l.Ingredient != w.ingredient:
			return "took it for " + l.Ingredient
		case !l.FullyRead:
			return "words not understood"
		case w.grams == nil && (l.Grams != nil || !l.ToWeigh):
			return "should be still to weigh"
		case w.grams != nil && l.Grams == nil:
			return "no grams: " + l.How
		case w.grams != nil && math.Abs(*w.grams-*l.Grams) > 0.005*math.Abs(*w.grams)+0.01:
			return strconv.FormatFloat(*l.Grams, 'f', 2, 64) + " g, wanted " +
				strconv.FormatFloat(*w.grams, 'f', 2, 64) + " (" + l.How + ")"
		}
	}
	return ""
}

func names(lines []reader.Line) string {
	var out []string
	for _, l := range lines {
		out = append(out, l.Kind+":"+l.Ingredient+"«"+l.Words+"»")
	}
	return strings.Join(out, " ")
}

// nothingLost asserts that the words of the lines are the text, and that every word of an ingredient line has a role.
func nothingLost(t testing.TB, text string, r reader.Reading) {
	t.Helper()
	bare := func(s string) string {
		return strings.Map(func(c rune) rune {
			if unicode.IsSpace(c) || unicode.IsControl(c) || unicode.Is(unicode.Cf, c) {
				return -1
			}
			return c
		}, s)
	}
	var kept strings.Builder
	for _, l := range r.Lines {
		if !l.Shares {
			kept.WriteString(l.Words)
		}
		require.False(t, l.Also == nil || l.Near == nil || l.AnyOf == nil || l.Questions == nil || l.Heard == nil ||
			l.Marks == nil, "%q: a list that is not there", l.Words)
		if l.Kind != reader.Weighed {
			continue
		}
		covered := make([]bool, len([]rune(l.Words)))
		for _, m := range l.Marks {
			require.True(t, m.From >= 0 && m.From <= m.To && m.To <= len(covered), "%q: mark %v", l.Words, m)
			for i := m.From; i < m.To; i++ {
				covered[i] = true
			}
		}
		for i, c := range []rune(l.Words) {
			if unicode.IsLetter(c) || unicode.IsDigit(c) {
				require.True(t, covered[i], "%q: %q has no role", l.Words, string(c))
			}
		}
	}
	require.Equal(t, bare(text), bare(kept.String()))
}
