package reader_test

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gallipot/internal/core/reader"
)

// speech is a whole paste with what is in it.
type speech struct {
	text  string
	title string
	claim int
	want  []expected
}

func pastes(t testing.TB, b *reader.Book) []speech {
	t.Helper()
	raw, err := os.ReadFile("testdata/pastes.txt")
	require.NoError(t, err)
	var out []speech
	for _, one := range strings.Split(string(raw), "====\n")[1:] {
		text, facts, ok := strings.Cut(one, "\n----\n")
		require.True(t, ok, one)
		p := speech{text: text}
		for row := range strings.Lines(facts) {
			row = strings.TrimSpace(row)
			switch id, sum, isLine := strings.Cut(row, " = "); {
			case strings.HasPrefix(row, "title"):
				p.title = strings.TrimSpace(strings.TrimPrefix(row, "title"))
			case strings.HasPrefix(row, "claim "):
				p.claim, err = strconv.Atoi(strings.TrimPrefix(row, "claim "))
				require.NoError(t, err)
			case isLine:
				x := expected{ingredient: id}
				if sum != "-" {
					g := worth(t, b, id, sum)
					x.grams = &g
				}
				p.want = append(p.want, x)
			case row != "":
				t.Fatalf("%q is no fact", row)
			}
		}
		out = append(out, p)
	}
	return out
}

// amiss says in words what was heard otherwise than it was said; empty where nothing was.
func (p speech) amiss(r reader.Reading) string {
	var bowl []reader.Line
	title := ""
	for _, l := range r.Lines {
		if l.Kind == reader.Weighed && l.As == reader.AsBowl || l.Kind == reader.Unknown {
			bowl = append(bowl, l)
		}
		if l.Kind == reader.Title && title == "" {
			title = l.Name
		}
	}
	if title != p.title {
		return fmt.Sprintf("the title is %q", title)
	}
	if claim := r.ClaimDays; claim != nil && *claim != p.claim || claim == nil && p.claim > 0 {
		return "the claim"
	}
	for i, w := range p.want {
		if i >= len(bowl) {
			return "lines are lost: " + names(bowl)
		}
		if wrong := compare(example{want: []expected{w}}, reader.Reading{Lines: bowl[i : i+1]}); wrong != "" {
			return fmt.Sprintf("%q: %s", bowl[i].Words, wrong)
		}
	}
	if len(bowl) > len(p.want) {
		return "heard besides: " + names(bowl[len(p.want):])
	}
	return ""
}

// openInTen is how many points may stay open for ten spoken lines that name amounts.
const openInTen = 4

func TestWholePastesAreHeard(t *testing.T) {
	b := shippedBook(t)
	all := pastes(t, b)
	require.GreaterOrEqual(t, len(all), 60)
	right, words := 0, 0
	for _, p := range all {
		words += len(strings.Fields(p.text))
		r := b.Read(p.text, nil)
		nothingLost(t, p.text, r)
		assert.LessOrEqual(t, r.StillOpen*10, openInTen*len(p.want)+9, "%s", p.text)
		if wrong := p.amiss(r); wrong != "" {
			t.Logf("%s\n%s", p.title, wrong)
			continue
		}
		right++
	}
	t.Logf("%d of %d pastes with %d words heard wholly", right, len(all), words)
	assert.GreaterOrEqual(t, 100*right, 95*len(all))
}
