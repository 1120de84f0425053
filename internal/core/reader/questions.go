package reader

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// subject is the words that stand for the unknown ingredient.
func (s *segment) subject() string {
	var parts []string
	for _, t := range s.cursor {
		if t.isWord() && t.role == Unread && !t.aside {
			parts = append(parts, t.text)
		}
	}
	return strings.Join(parts, " ")
}

// askAlso asks whether ingredients named aside are lines of their own.
func (b *Book) askAlso(ids []string) Question {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = b.name(id)
	}
	text := names[0] + " is named too. Is it a line of its own?"
	if len(ids) > 1 {
		text = strings.Join(names, "; ") + " are named too. Are they lines of their own?"
	}
	return Question{Code: "also", Text: text, Options: []string{"yes", "no"}}
}

func (b *Book) candidates(ids []string) []Candidate {
	out := []Candidate{}
	for _, id := range ids {
		out = append(out, Candidate{id, b.name(id)})
	}
	return out
}

// aside finds ingredients that only a remark names: 1 tbsp each: tahini, honey.
func (s *segment) aside(x *Index, known []string) []string {
	x.know(s.cursor)
	if !slices.ContainsFunc(s.cursor, func(t token) bool { return t.role == Note && t.stem != noName }) {
		return nil
	}
	rest := slices.Clone(s.cursor)
	for i := range rest {
		rest[i].aside = false
		if rest[i].role == Note {
			rest[i].role = Unread
		} else {
			rest[i].role = Small
		}
	}
	var out []string
	for {
		id, taken := x.find(rest, false)
		if id == "" {
			return out
		}
		for _, i := range taken {
			rest[i].role = Small
		}
		if !slices.Contains(known, id) && !slices.Contains(out, id) && !s.meantOtherwise(taken[0]) {
			out = append(out, id)
		}
	}
}

// otherwise are words before a name that say it is not in the bowl: no salt, without oil, for the water.
var otherwise = words("otherwise")

// meantOtherwise reports whether a name aside is said to be no ingredient here.
func (s *segment) meantOtherwise(at int) bool {
	for i := at - 1; i >= 0 && i >= at-3; i-- {
		w := s.cursor[i].low
		if otherwise[w] {
			return true
		}
		if !s.cursor[i].isWord() || !smallWords[w] {
			return false
		}
	}
	return false
}

// between asks which of two weights holds; taken is the one that counts until that is answered.
func (l *Line) between(first, second Weight, taken int, text string) {
	l.either = []Weight{first, second}
	l.Questions = append(l.Questions, Question{Code: "units",
		Text: fmt.Sprintf(text, figure(first.Grams), figure(second.Grams)), Options: []string{"first", "second"}})
	if taken == 1 {
		*l = l.weigh(second)
	}
}

// agreeing is how far two statements of one amount may differ, in percent of the greater (handbook 02).
const agreeing = 10.0

// reconcile holds what was said twice against each other: 6 oz (200 g). A mass beats a spoon or a piece.
func (b *Book) reconcile(l *Line, s *segment, w Weight, ok bool, id string, prep prepared) (Weight, bool) {
	for _, f := range s.stated {
		other, known := b.weigh(f.Amount, id, prep, false)
		if !known {
			continue
		}
		if !ok {
			w, ok = other, true
			continue
		}
		if vague[s.amount.Unit] && other.Source != FromAssumed && !vague[f.Unit] { // a good glug, about 50 ml
			w = other
			continue
		}
		exact := w.Source == FromWords && other.Source == FromWords
		if apart := 100 * math.Abs(w.Grams-other.Grams) / max(w.Grams, other.Grams); apart > agreeing &&
			(exact || other.Source != FromWords && other.Source != FromAssumed) {
			l.between(w, other, 0, "%s g and %s g were both said. Which one holds?")
			continue
		}
		if other.Source == FromWords && w.Source != FromWords {
			w = other
		}
	}
	return w, ok
}
