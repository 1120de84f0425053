package reader

import (
	"unicode"
	"unicode/utf8"
)

// trait is what a word may be, so that a stage that looks for it passes over texts without it.
type trait uint32

const (
	opensAmount trait = 1 << iota // an amount may begin with it
	opensPhrase                   // a phrase about the whole line may
	opensSkin                     // a phrase about its skin may
	tellsVerb                     // what somebody does to something
	tellsCook                     // what is done in the kitchen
	tellsFruit                    // juice, zest
	tellsNot                      // that something is not so, or is there instead
	tellsLess                     // that less goes in
	tellsState
	namesDish
	isWord   // it begins with a letter
	isNumber // it begins with a figure or is a typographic fraction
	isSmall
	isLead
	corrects
	tellsAbout     // about, maybe, say
	opensReference // an amount that is told by another may begin with it
)

// traits are the traits of every word that has one.
var traits = func() map[string]trait {
	out := map[string]trait{}
	add := func(t trait, words map[string]bool) {
		for w := range words {
			out[w] |= t
		}
	}
	add(opensAmount, words("amountWords"))
	add(opensAmount, keysOf(wordNumbers))
	add(opensAmount, keysOf(wordFractions))
	for w := range wordFractions {
		out[w+"s"] |= opensAmount
	}
	add(opensAmount, keysOf(heaps))
	add(opensAmount, keysOf(sizeWords))
	add(opensAmount, keysOf(unitWords))
	add(opensAmount, keysOf(timesWords))
	for _, list := range []phrases{tastePhrases, keepPhrases, dividedPhrases} {
		add(opensPhrase, keysOf(list))
	}
	add(opensSkin, keysOf(skinsOn))
	add(opensSkin, keysOf(skinsOff))
	add(tellsVerb, keysOf(verbStates))
	add(tellsCook, cookingVerbs)
	add(tellsFruit, keysOf(fruitWords))
	add(tellsNot, words("notWords"))
	add(tellsLess, words("lessWords"))
	add(tellsState, stateWords)
	add(tellsState, keysOf(stateBases))
	add(namesDish, dishWords)
	add(isSmall, smallWords)
	add(isLead, leadWords)
	add(corrects, correctionWords)
	add(tellsAbout, words("aboutWords"))
	add(opensReference, words("referenceWords"))
	add(opensReference, keysOf(timesWords))
	add(opensReference, keysOf(wordNumbers))
	return out
}()

func keysOf[V any](m map[string]V) map[string]bool {
	out := map[string]bool{}
	for k := range m {
		out[k] = true
	}
	return out
}

// traitsOf is what a word, a figure or a sign may be.
func traitsOf(low string) trait {
	if low == "" {
		return 0
	}
	switch r, _ := utf8.DecodeRuneInString(low); {
	case r >= '0' && r <= '9' || fractions[r] != 0:
		return traits[low] | isNumber | opensAmount
	case unicode.IsLetter(r):
		return traits[low] | isWord
	case r >= utf8.RuneSelf:
		return traits[low] | opensAmount
	}
	return traits[low]
}

// any reports whether a word of a stretch has one of the traits.
func (c cursor) any(t trait) bool {
	for i := range c {
		if c[i].traits&t != 0 {
			return true
		}
	}
	return false
}
