package reader

import (
	"slices"
)

// beside is the line of another ingredient that the same words name.
func (b *Book) beside(base Line, s *segment, other string) Line {
	l := base
	l.Shares, l.Questions, l.AnyOf, l.Also = true, []Question{}, nil, nil
	if s.amount != nil && (s.amount.Unit == "part" || s.each) {
		return b.settle(l, s, other) // equal parts of both; a tablespoon each
	}
	if s.amount != nil && !s.toTaste {
		l.Questions = append(l.Questions, Question{Code: "each",
			Text: "So much of each, or together? Weigh this one.", Options: []string{"each"}})
		l.Amount = nil
	}
	t := *s
	t.amount = nil
	return b.settle(l, &t, other)
}

// companions finds further ingredients joined by "and" (lines of their own) or by "or" (any of them).
func (s *segment) companions(x *Index, id string) (first string, more, either []string) {
	either = []string{}
	if id == "" {
		return id, nil, either
	}
	if list := s.choices(x, id); len(list) > 1 {
		return id, nil, list
	}
	join := s.last + 1
	for join < len(s.cursor) && (!s.free(join) || s.is(join, ",", "/") || cutWords[s.cursor[join].low]) {
		join++
	}
	if s.is(join, "and", "&", "+") {
		if other, taken := s.nextName(x, join); other != "" && other != id {
			other = s.sameKind(x, other, taken)
			s.join(join, taken)
			return id, []string{other}, either
		}
	}
	join = s.first - 1
	for s.free(join) && (cutWords[s.cursor[join].low] || s.is(join, "freshly", "fresh")) {
		join--
	}
	if s.is(join, "and", "&") && (s.amount == nil || s.amount.Unit == "part") {
		rest := slices.Clone(s.cursor)
		for i := join; i < len(rest); i++ {
			rest[i].role = Small
		}
		if other, taken := x.find(rest, false); other != "" && other != id {
			s.join(join, taken)
			return other, []string{id}, either
		}
	}
	if other := s.lacksLastWord(x, id); other != "" {
		return id, nil, []string{other, id}
	}
	return id, nil, either
}

// eachOf finds what else an amount applies to when it is given for each of a list: a teaspoon each of cumin, turmeric
// and sumac.
func (s *segment) eachOf(x *Index, known []string) []string {
	s.each = s.amount != nil && says(s.cursor, "each")
	if !s.each {
		return nil
	}
	var out []string
	for {
		id, taken := x.find(s.cursor, false)
		if id == "" {
			if id, taken = x.find(s.cursor, true); id == "" {
				return out
			}
		}
		for _, i := range taken {
			s.cursor[i].role = Ingredient
		}
		if !slices.Contains(known, id) {
			known, out = append(known, id), append(out, id)
		}
	}
}

// nextName finds the name behind a joining word.
func (s *segment) nextName(x *Index, join int) (id string, taken []int) {
	rest := slices.Clone(s.cursor)
	for i := range rest[:join+1] {
		rest[i].role = Small
	}
	for i := range rest {
		rest[i].aside = rest[i].aside && i > join+4
	}
	return x.find(rest, false)
}

// choices are the ingredients of an "or" of any length, the one that was found first: walnuts or pistachios or almonds;
// parsley, dill or basil.
func (s *segment) choices(x *Index, id string) []string {
	list, at := []string{id}, s.last
	for {
		join, or := at+1, false
		for s.free(join) && (s.is(join, ",", "/", "or") || s.is(join, "and") && s.is(join+1, "/", "or") ||
			cutWords[s.cursor[join].low] || s.is(join, "either", "fresh")) {
			or = or || s.is(join, "or")
			join++
		}
		if s.is(at+1, ",") || s.is(at+1, "or") {
			if end := s.alternative(at + 1 + btoi(s.is(at+1, ","))); end > at+2 && s.alternates(end) {
				join, or = end, true
			}
		}
		if join == at+1 || !or && !s.orComes(join) {
			return list
		}
		other, taken := s.nextName(x, join-1)
		if other == "" || taken[0] > join+1 || slices.Contains(list, other) {
			return list
		}
		other = s.sameKind(x, other, taken)
		for i := at + 1; i < taken[0]; i++ {
			s.mark(i, i+1, Small)
		}
		s.join(taken[0]-1, taken)
		list, at = append(list, other), taken[len(taken)-1]
		s.last = max(s.last, at)
	}
}

// alternates reports whether what is named at i goes in instead of what was named before: you can use honey instead.
func (s *segment) alternates(i int) bool {
	for k := i; k < len(s.cursor) && k < i+8 && !s.is(k, ".", ";"); k++ {
		if s.is(k, "instead", "too") || s.run(k, "as", "well") || s.is(k-1, "or") {
			s.mark(k, k+1, Small)
			return true
		}
	}
	for k := i - 1; k >= 0 && k > i-6; k-- {
		if s.is(k, "or") {
			return true
		}
	}
	return false
}

// orComes reports whether the list at i goes on to an "or" before an amount or a full stop.
func (s *segment) orComes(i int) bool {
	for k := i; k < len(s.cursor) && k < i+12; k++ {
		if s.is(k, "or") {
			return true
		}
		if s.is(k, ".", ";", "(") || s.cursor[k].isNumber() || s.cursor[k].role != Unread && s.cursor[k].role != Small {
			return false
		}
	}
	return false
}

// join takes the word that joins two names, and the words of the other name.
func (s *segment) join(at int, name []int) {
	s.mark(at, at+1, Small)
	for _, i := range name {
		s.cursor[i].role = Ingredient
	}
}

// lacksLastWord finds the first of two names that share their last word: sunflower or rapeseed oil.
func (s *segment) lacksLastWord(x *Index, id string) string {
	at := s.first - 1
	if !s.is(at, "or") || !s.free(at-1) || !s.cursor[at-1].isWord() {
		return ""
	}
	other, ok := x.keys[joinKey([]string{stem(s.cursor[at-1].low), stem(s.cursor[s.last].low)})]
	if !ok || other == id {
		return ""
	}
	s.cursor[at-1].role, s.cursor[at].role = Ingredient, Small
	return other
}

// sameKind gives a second ingredient the kind of the first: ground cumin and coriander are both ground.
func (s *segment) sameKind(x *Index, other string, taken []int) string {
	for _, t := range s.cursor {
		if t.low != "ground" && t.low != "dried" && t.low != "toasted" {
			continue
		}
		stems := []string{t.low}
		for _, i := range taken {
			stems = append(stems, stem(s.cursor[i].low))
		}
		if id, ok := x.keys[joinKey(stems)]; ok {
			return id
		}
	}
	return other
}
