package reader

import (
	"slices"
)

// The ways to say that skins stay on or come off.
var (
	skinsOn  = phrasesOf("skinsOn")
	skinsOff = phrasesOf("skinsOff")
)

// skins reads whether skins stay on or come off: hazelnuts, roasted with their skins.
func (s *segment) skins() {
	if s.phrase(skinsOff, Preparation) {
		s.prep = append(s.prep, "skinned")
	}
	s.skinsOn = s.phrase(skinsOn, Preparation)
}

// inItsSkin is the step that prepares an ingredient with its skin on, and the ingredient it makes; unchanged where the
// skin stays on anyway.
func (b *Book) inItsSkin(s *segment, id string, prep prepared) prepared {
	if !s.skinsOn || s.exact {
		return prep
	}
	for i := range b.Preparations {
		p := &b.Preparations[i]
		switch {
		case p.Name == "toast_skins_on" && (p.Input == id || p.Output == id || b.stateOf(id) == p.Input) &&
			slices.ContainsFunc(s.prep, func(w string) bool { return slices.Contains(prepWords[w], "toast") }):
			return prepared{id: p.Output, via: p, before: s.prepLate}
		case p.Name == "peel" && p.Output == id: // three carrots, unpeeled
			return prepared{id: p.Input}
		}
	}
	return prep
}
