// Package allergen reads words for allergens: what a name or a supplier's list names, betrays, hides or leaves open,
// under every law at once. The words are data (words.csv); a shop adds its own.
package allergen

import (
	_ "embed"
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"sync"

	"gallipot/internal/core/law"
)

//go:embed words.csv
var wordsCSV string

// Saying is what a term says under one law: an allergen's code, and whether the word names it plainly or only betrays
// it, so that a label adds the plain word in brackets.
type Saying struct {
	Code    string `json:"code"`
	Plainly bool   `json:"plainly"`
}

// Term is a word or several. One that says nothing hides the misleading words inside it: coconut milk is no milk.
// Asks is what the term leaves open and somebody must answer; empty for nothing.
type Term struct {
	Words string             `json:"words"`
	Says  law.Each[[]Saying] `json:"says"`
	Asks  string             `json:"asks,omitempty"`
}

// MayContain is what a text asks that speaks of cross-contact: it goes to the assessment and is no ingredient.
const MayContain = "may contain"

// Lexicon reads texts by its terms. Make one with Shipped or With; it is safe for several hands at once.
type Lexicon struct {
	terms []*Term
	root  node
	seen  Memo[string, Reading]
}

// Shipped is the lexicon of words.csv.
var Shipped = sync.OnceValue(func() *Lexicon {
	terms, err := parse(wordsCSV)
	if err != nil {
		panic("allergen: words.csv: " + err.Error()) // part of the program, covered by a test
	}
	return of(terms)
})

func of(terms []*Term) *Lexicon {
	x := &Lexicon{terms: terms}
	for _, t := range terms {
		x.root.add(t)
	}
	return x
}

// With returns the shipped lexicon with a shop's own terms. A term that is there already says what both say.
func With(own []Term) *Lexicon {
	if len(own) == 0 {
		return Shipped()
	}
	terms := slices.Clone(Shipped().terms)
	for i := range own {
		terms = append(terms, &own[i])
	}
	return of(terms)
}

// parse reads the table: term, a column a law, ask.
func parse(text string) ([]*Term, error) {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil {
		return nil, err
	}
	head := rows[0]
	out := make([]*Term, 0, len(rows)-1)
	for _, row := range rows[1:] {
		t := &Term{Says: law.Each[[]Saying]{}}
		for i, column := range head {
			switch column {
			case "term":
				t.Words = row[i]
			case "ask":
				t.Asks = row[i]
			default:
				r := law.Regime(strings.ToUpper(column))
				if _, err := law.Of(r); err != nil {
					return nil, err
				}
				t.Says[r] = sayings(row[i])
			}
		}
		if bad := t.Check(); bad != "" {
			return nil, fmt.Errorf("%q: %s", t.Words, bad)
		}
		out = append(out, t)
	}
	return out, nil
}

func sayings(cell string) []Saying {
	var out []Saying
	for _, code := range strings.Split(cell, ",") {
		if code = strings.TrimSpace(code); code != "" {
			plain := strings.TrimSuffix(code, "~")
			out = append(out, Saying{plain, plain == code})
		}
	}
	return out
}

const (
	maxTermRunes = 60
	minTermRunes = 2
)

// Check says what is wrong with a term; empty where it can be kept.
func (t Term) Check() string {
	n := len([]rune(strings.TrimSpace(normal(t.Words).text)))
	if n < minTermRunes || n > maxTermRunes || len([]rune(t.Words)) > maxTermRunes {
		return fmt.Sprintf("a term has %d to %d characters", minTermRunes, maxTermRunes)
	}
	if len([]rune(t.Asks)) > maxTermRunes {
		return fmt.Sprintf("a question has at most %d characters", maxTermRunes)
	}
	for r, list := range t.Says {
		l, err := law.Of(r)
		if err != nil {
			return err.Error()
		}
		for _, s := range list {
			if !l.Known(s.Code) {
				return fmt.Sprintf("%q is no %s allergen", s.Code, l.Title)
			}
		}
	}
	return ""
}

// Hides reports whether the term says nothing and asks nothing: it only hides what lies inside it.
func (t Term) Hides() bool {
	for _, list := range t.Says {
		if len(list) > 0 {
			return false
		}
	}
	return t.Asks == ""
}
