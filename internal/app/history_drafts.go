package app

import (
	"strings"

	"gallipot/internal/core/formula"
)

// DraftChange is what changed in a draft: the lines and settings that differ.
type DraftChange struct {
	Lines  []formula.LineChange  `json:"lines"`
	Fields []formula.FieldChange `json:"fields"`
}

// changed tells what differs between two states of a draft.
func changed(lib formula.Library, before, after formula.Version) DraftChange {
	return DraftChange(lib.Changed(before, after))
}

// saveDraft stores a draft over a revision, noting what changed in it.
func (a *App) saveDraft(st Store, before Version, v formula.Version, by Stamp) error {
	lib, err := library(st, before.Core(), v)
	if err != nil {
		return err
	}
	return st.SaveDraft(v, before.Rev, changed(lib, before.Core(), v), by)
}

// reasonFor checks the reason of something that is taken out of use.
func reasonFor(why string) (string, error) {
	why = strings.TrimSpace(why)
	if n := len([]rune(why)); n == 0 || n > 300 {
		return "", field("why", "say why, in at most 300 characters: it stays on record")
	}
	return why, nil
}
