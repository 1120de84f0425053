package reader

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gallipot/internal/core/pantry"
)

var fruitWords = map[string]string{"juice": "juice", "juiced": "juice", "zest": "zest", "zested": "zest"}

// fruits reads "juice of", "zest of", "zest and juice of", and the same said behind the fruit.
func (s *segment) fruits() {
	for i := range s.cursor {
		if !s.is(i, "juice", "zest", "juiced", "zested") {
			continue
		}
		what := fruitWords[s.cursor[i].low]
		end := i + 1
		both := (s.is(end, "and", "&") && s.is(end+1, "juice", "zest", "juiced", "zested"))
		of := end
		if both {
			of = end + 2
		}
		leads := s.is(of, "of", "from") && !s.startsAmountBefore(i)
		behind := s.cursor[i].aside
		if !leads && !behind {
			continue
		}
		s.fruit = append(s.fruit, what)
		s.cursor[i].role = UnitWord
		if both {
			s.fruit = append(s.fruit, fruitWords[s.cursor[end+1].low])
			s.mark(end, end+2, UnitWord)
		}
		if leads {
			s.mark(of, of+1, UnitWord)
			for k := i - 1; k >= 0 && s.is(k, "the", "finely", "grated", "freshly", "squeezed", "strained", "a"); k-- {
				s.cursor[k].role = Small
			}
		} else {
			s.phrase(onlyPhrases, Small)
		}
		s.secondFruit(of + 1)
		return
	}
}

// secondFruit reads "…, and zest of two": the same fruits again, so many of them.
func (s *segment) secondFruit(from int) {
	for i := from; i < len(s.cursor); i++ {
		if !s.is(i, "juice", "zest") || !s.is(i+1, "of", "from") || fruitWords[s.cursor[i].low] == s.fruit[0] {
			continue
		}
		v, next, ok := s.number(i + 2)
		if !ok || v <= 0 {
			continue
		}
		s.also = &Amount{Low: v, High: v, Unit: fruitWords[s.cursor[i].low] + "_of"}
		s.mark(i, i+2, UnitWord)
		s.mark(i+2, next, Number)
		return
	}
}

// startsAmountBefore reports an amount in front, as in 2 tbsp juice of a lemon: then the spoon counts, not the fruit.
func (s *segment) startsAmountBefore(i int) bool {
	for k := 0; k < i; k++ {
		if s.cursor[k].isNumber() || wordNumbers[s.cursor[k].low] != 0 {
			return true
		}
	}
	return false
}

// fruitLines turns juice and zest of a fruit into their lines; both come from the same fruits.
func (b *Book) fruitLines(base Line, s *segment, id string) []Line {
	var out []Line
	wanted := slices.Clone(s.fruit)
	if s.also != nil {
		wanted = append(wanted, strings.TrimSuffix(s.also.Unit, "_of"))
	}
	for k, want := range wanted {
		l := base
		l.Shares = k > 0
		l.Questions = slices.Clone(base.Questions)
		product, step, co := b.fruitStep(id, want)
		a := Amount{Low: 1, High: 1}
		if s.amount != nil {
			a = *s.amount
		}
		if k >= len(s.fruit) {
			a = *s.also
			a.Unit = ""
		}
		t := *s
		t.amount = &a
		if a.Unit == "" || a.Unit == "piece" {
			a.Unit = want + "_of"
			l = b.fruitWeight(l, a, id, product)
			if l.Grams == nil && step != nil {
				l = b.fromWhole(l, a, id, *step, co)
			}
			l.Ingredient, l.Name = product, b.name(product)
			if step != nil {
				l.Preparation = step.ID
			}
			if l.Grams == nil {
				l.ToWeigh = true
			}
			l.Amount = &a
			out = append(out, l.finish())
			continue
		}
		out = append(out, b.settle(l, &t, product))
	}
	return out
}

// fromWhole weighs what a step gives of whole fruits; of what comes out beside it where co is set.
func (b *Book) fromWhole(l Line, a Amount, fruit string, step pantry.Preparation, co bool) Line {
	whole := a
	whole.Unit = ""
	w, ok := b.named(whole, fruit)
	if !ok {
		return l
	}
	y := step.Expected()
	share := y.Percent
	if co {
		share = y.Co
	}
	w.Grams *= share / 100
	w.Spread = math.Hypot(w.Spread, y.Spread)
	w.How += fmt.Sprintf(", %s gives %s %%", strings.ReplaceAll(step.Name, "_", " "), figure(share))
	return l.weigh(w.ranged(a))
}

func (b *Book) fruitWeight(l Line, a Amount, fruit, product string) Line {
	for _, id := range []string{product, fruit} {
		if w, ok := b.named(a, id); ok {
			return l.weigh(w.ranged(a))
		}
	}
	return l
}
