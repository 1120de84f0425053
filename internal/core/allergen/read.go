package allergen

import (
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/core/law"
)

// Find is a term met in a text, from byte Start to before byte End of it. Negated ones ("milk-free") and those in a
// statement of cross-contact are not among finds.
type Find struct {
	Start, End int
	Terms      []*Term
	inside     []span // plain words of the same allergens that the term holds, for emphasis
}

type span struct {
	start, end int
	terms      []*Term
}

// Statement is a part of a text that speaks of cross-contact.
type Statement struct {
	Start, End int
	Codes      law.Each[[]string] // named in it
}

// Reading is what a text names, betrays and leaves open.
type Reading struct {
	Finds      []Find // in the order of the text
	Statements []Statement
}

// Read reads a text; the same text is read once.
func (x *Lexicon) Read(text string) Reading {
	return x.seen.Get(text, func() Reading { return x.read(text) })
}

func (x *Lexicon) read(text string) Reading {
	n := normal(text)
	all := x.matches(n.text)
	var out Reading
	stated := statements(n.text)
	for _, s := range stated {
		st := Statement{Start: n.starts[s.start], End: n.ends[s.end-1], Codes: law.Each[[]string]{}}
		for _, l := range law.All() {
			st.Codes[l.Regime] = codes(finds(all, n, within(s)), l)
		}
		out.Statements = append(out.Statements, st)
	}
	out.Finds = finds(all, n, func(m span) bool {
		return !slices.ContainsFunc(stated, func(s span) bool { return within(s)(m) })
	})
	return out
}

func within(s span) func(span) bool {
	return func(m span) bool { return m.start >= s.start && m.end <= s.end }
}

// matches are all terms of a normal text that are not negated, those inside others too.
func (x *Lexicon) matches(s string) []span {
	var out []span
	for at := range s {
		if !wordStarts(s, at) {
			continue
		}
		x.root.walk(s, at, func(end int, terms []*Term) {
			if !negated(s, end) {
				out = append(out, span{at, end, terms})
			}
		})
	}
	return out
}

// negated reports whether "free" follows: "milk-free", "egg free". "Free of", "free from" and "free range" negate
// nothing.
func negated(s string, end int) bool {
	at := skipGaps(s, end)
	if at == end || !strings.HasPrefix(s[at:], "free") || !wordEnds(s, at+len("free")) {
		return false
	}
	after := s[skipGaps(s, at+len("free")):]
	return !slices.ContainsFunc([]string{"of", "from", "range"}, func(w string) bool {
		return strings.HasPrefix(after, w) && wordEnds(after, len(w))
	})
}

// finds keeps of the matches those asked for that lie not wholly inside a longer one, as places of the text.
func finds(all []span, n normalised, asked func(span) bool) []Find {
	var out []Find
	for _, m := range all {
		if !asked(m) || hidden(m, all) {
			continue
		}
		f := Find{Start: n.starts[m.start], End: n.ends[m.end-1], Terms: m.terms}
		for _, in := range all {
			if in.start >= m.start && in.end <= m.end && in.end-in.start < m.end-m.start {
				f.inside = append(f.inside, span{n.starts[in.start], n.ends[in.end-1], in.terms})
			}
		}
		out = append(out, f)
	}
	return out
}

func hidden(m span, all []span) bool {
	return slices.ContainsFunc(all, func(o span) bool {
		return o.start <= m.start && o.end >= m.end && o.end-o.start > m.end-m.start
	})
}

// crossContact opens a statement that is about the place, not about what went in.
var crossContact = regexp.MustCompile(strings.ReplaceAll(`\bmay (?:also )?contains?\b|\bmay be present\b|`+
	`\b(?:made|produced|packed|packaged|prepared|manufactured|processed|handled|milled|bottled) (?:in|on|at) `+
	`(?:a |an |the |our |same |shared |dedicated )*(?:facility|factory|factories|kitchen|site|plant|premises|line|`+
	`lines|equipment|machinery|bakery|mill|environment)\b`, " ", `[\s-]+`))

// statements are the parts of a normal text that speak of cross-contact: from their opening words to the end of the
// sentence, or of the bracket they stand in.
func statements(s string) []span {
	var out []span
	for at := 0; at < len(s); {
		m := crossContact.FindStringIndex(s[at:])
		if m == nil {
			break
		}
		end := sentenceEnd(s, at+m[1])
		out = append(out, span{start: at + m[0], end: end})
		at = end
	}
	return out
}

// sentenceEnd is where the sentence ends that runs at a byte: at a full stop that ends a word, at a semicolon, at an
// empty row, at the word "ingredients", or at the bracket that closes around it.
func sentenceEnd(s string, at int) int {
	depth := 0
	for i := at; i < len(s); i++ {
		switch s[i] {
		case '(', '[':
			depth++
		case ')', ']':
			if depth--; depth < 0 {
				return i
			}
		case '.':
			if i+1 >= len(s) || gap(s[i+1]) || s[i+1] == ')' {
				return i
			}
		case ';':
			return i
		case '\n':
			if rest := strings.TrimLeft(s[i+1:], " \t\r"); strings.HasPrefix(rest, "\n") {
				return i
			}
		case 'i':
			if wordStarts(s, i) && strings.HasPrefix(s[i:], "ingredients") {
				return i
			}
		}
	}
	return len(s)
}

// Codes are the allergens of a law that the text names or betrays, sorted; a species that is not named falls away
// where one is.
func (r Reading) Codes(l *law.Law) []string { return codes(r.Finds, l) }

func codes(finds []Find, l *law.Law) []string {
	out := []string{}
	for _, f := range finds {
		for _, t := range f.Terms {
			for _, s := range t.Says[l.Regime] {
				if !slices.Contains(out, s.Code) {
					out = append(out, s.Code)
				}
			}
		}
	}
	return Tidy(out)
}

// Tidy sorts codes and takes out species that are not named where one of the kind is.
func Tidy(codes []string) []string {
	out := slices.DeleteFunc(slices.Clone(codes), func(c string) bool {
		base, kind, _ := strings.Cut(c, ":")
		return kind == law.UnnamedSpecies && slices.ContainsFunc(codes, func(o string) bool {
			other, named, _ := strings.Cut(o, ":")
			return other == base && named != "" && named != law.UnnamedSpecies
		})
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// Asks are what the text leaves open, sorted.
func (r Reading) Asks() []string {
	out := []string{}
	for _, f := range r.Finds {
		for _, t := range f.Terms {
			if t.Asks != "" {
				out = append(out, t.Asks)
			}
		}
	}
	if len(r.Statements) > 0 {
		out = append(out, MayContain)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Mark is a word of the text to be emphasised, or one behind whose entry the plain word is missing.
type Mark struct {
	Start, End int
	Code       string
	Plainly    bool
}

// Marks are the words that name or betray allergens under a law, in the order of the text. A term that holds the plain
// word is marked by that word: of "soya milk", soya.
func (r Reading) Marks(l *law.Law) []Mark {
	var out []Mark
	for _, f := range r.Finds {
		for _, t := range f.Terms {
			for _, s := range t.Says[l.Regime] {
				marks := []Mark{{f.Start, f.End, s.Code, false}}
				if s.Plainly {
					marks = f.plainWords(s.Code, l)
				}
				for _, m := range marks {
					if !slices.Contains(out, m) {
						out = append(out, m)
					}
				}
			}
		}
	}
	return out
}

// plainWords are the shortest words inside a find that name an allergen, else the whole find.
func (f Find) plainWords(code string, l *law.Law) []Mark {
	var within []span
	for _, in := range f.inside {
		if slices.ContainsFunc(in.terms, func(t *Term) bool {
			return slices.Contains(t.Says[l.Regime], Saying{code, true})
		}) {
			within = append(within, in)
		}
	}
	var out []Mark
	for _, in := range within {
		if !slices.ContainsFunc(within, func(o span) bool {
			return o.start >= in.start && o.end <= in.end && o.end-o.start < in.end-in.start
		}) {
			out = append(out, Mark{in.start, in.end, code, true})
		}
	}
	if out == nil {
		return []Mark{{f.Start, f.End, code, true}}
	}
	return out
}

// Mentions reports whether a text has a word, in any regular form of it and of its owner: goat, goats, goat's.
func Mentions(text, word string) bool {
	n := normal(text).text
	for _, form := range plurals(normal(word).text) {
		for at := 0; ; {
			i := strings.Index(n[at:], form)
			if i < 0 {
				break
			}
			if i += at; wordStarts(n, i) && wordEnds(n, i+len(form)) {
				return true
			}
			at = i + 1
		}
	}
	return false
}
