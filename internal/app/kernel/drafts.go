package kernel

import (
	"strings"

	"gallipot/internal/core/formula"
	"gallipot/internal/core/told"
)

// Changed tells what differs between two states of a draft.
func Changed(lib formula.Library, before, after formula.Version) told.DraftChange {
	return told.DraftChange(lib.Changed(before, after))
}

// SaveDraft stores a draft over a revision, noting what changed in it.
func (a *Kernel) SaveDraft(st Store, before Version, v formula.Version, by Stamp) error {
	lib, err := Library(st, before.Core(), v)
	if err != nil {
		return err
	}
	return st.SaveDraft(v, before.Rev, Changed(lib, before.Core(), v), by)
}

// ReasonFor checks the reason of something that is taken out of use.
func ReasonFor(why string) (string, error) {
	why = strings.TrimSpace(why)
	if n := len([]rune(why)); n == 0 || n > 300 {
		return "", Mistake("why", "say why, in at most 300 characters: it stays on record")
	}
	return why, nil
}
