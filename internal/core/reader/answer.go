package reader

import (
	"slices"
)

// answer applies what the maker said.
func (b *Book) answer(l *Line, a Answer) {
	if a.Also != "" {
		l.drop("also")
	}
	if l.Kind != Weighed && l.Kind != Unknown {
		return
	}
	if a.Ingredient != "" && a.Ingredient != l.Ingredient && b.Ingredients[a.Ingredient] != nil {
		fresh := b.reread(*l, a.Ingredient)
		*l = fresh
	}
	if a.Ingredient != "" && a.Ingredient == l.Ingredient {
		l.drop("unread")
		l.drop("state")
	}
	if a.Pack != nil || a.Fill != "" || a.ML != nil {
		b.answerMeasure(l, a)
	}
	if a.As == AsBowl || a.As == AsTopping || a.As == AsLeft {
		l.As = a.As
		l.drop("serving")
	}
	if a.Units != "" {
		if at := slices.Index([]string{"first", "second"}, a.Units); at >= 0 && len(l.either) == 2 {
			w := l.either[at]
			w.Ask = nil
			*l = l.weigh(w)
		}
		l.drop("units")
	}
	if a.Grams != nil && *a.Grams > 0 && *a.Grams <= maxGrams && l.Ingredient != "" {
		g := *a.Grams
		l.Grams, l.Spread, l.Source, l.How, l.ToWeigh, l.Measure = &g, 1, FromScale, "weighed by you", false, ""
		if a.Guessed {
			l.Spread, l.Source, l.How = guessSpread, FromGuess, "guessed by you"
		}
		for _, code := range []string{"measure", "drained", "pack", "units", "each", "unread", "minus"} {
			l.drop(code)
		}
	}
	if a.OK {
		for _, code := range []string{"measure", "drained", "pack", "unread", "each", "minus", "state"} {
			l.drop(code)
		}
		if l.Kind == Unknown {
			l.As = AsLeft
		}
	}
}

// answerMeasure applies what the maker answered about the measure: what the tin says, how the cup is filled, what the
// spoon holds.
func (b *Book) answerMeasure(l *Line, a Answer) {
	s := b.again(l.Words)
	if s.amount == nil || l.Ingredient == "" {
		return
	}
	if a.Pack != nil && isContainer(s.amount.Unit) {
		s.amount.Pack = *a.Pack
	}
	if a.Fill != "" {
		s.amount.Fill = a.Fill
	}
	if a.ML != nil {
		s.amount.Low, s.amount.High, s.amount.Unit = s.amount.Low**a.ML, s.amount.High**a.ML, "ml"
		s.amount.Size = ""
	}
	fresh := *l
	fresh.Grams, fresh.ToWeigh, fresh.Heard = nil, false, []int64{}
	fresh.Questions = slices.DeleteFunc(slices.Clone(l.Questions), func(q Question) bool {
		return slices.Contains([]string{"pack", "measure", "drained"}, q.Code)
	})
	id := l.Ingredient
	if s.bare != "" {
		id = s.bare
	}
	*l = b.settle(fresh, s, id)
}

func (l *Line) drop(code string) {
	l.Questions = slices.DeleteFunc(l.Questions, func(q Question) bool { return q.Code == code })
}

// again reads the words of a line by themselves.
func (b *Book) again(words string) *segment {
	s := newSegment(words)
	s.scan()
	s.identify(b.Index)
	s.leftovers()
	return s
}

// reread reads the words again with the ingredient that the maker named.
func (b *Book) reread(l Line, id string) Line {
	s := b.again(l.Words)
	fresh := l
	fresh.Kind, fresh.Near, fresh.AnyOf, fresh.Preparation, fresh.Grams, fresh.ToWeigh = Weighed, []Candidate{},
		[]string{}, "", nil, false
	fresh.Questions = slices.DeleteFunc(slices.Clone(l.Questions), func(q Question) bool { return q.Code != "serving" })
	if fresh.As == "" {
		fresh.As = AsBowl
	}
	return b.settle(fresh, s, id)
}

// Weigh reads an amount of a known ingredient from its words, as a line of a formula keeps them. ok is false where
// only a scale can tell; what was assumed water-like counts as that.
func (b *Book) Weigh(words, id string) (Weight, bool) {
	s := b.again(words)
	l := Line{Questions: []Question{}}
	if len(s.fruit) > 0 {
		a := Amount{Low: 1, High: 1}
		if s.amount != nil {
			a = *s.amount
		}
		if a.Unit == "" {
			a.Unit = s.fruit[0] + "_of"
			l = b.fruitWeight(l, a, id, id)
		}
	}
	if l.Grams == nil {
		l = b.settle(l, s, id)
	}
	if l.Grams == nil {
		return Weight{How: l.How}, false
	}
	return Weight{Grams: *l.Grams, Spread: l.Spread, Source: l.Source, Measure: l.Measure, Times: l.Times, How: l.How},
		l.Source != FromAssumed
}
