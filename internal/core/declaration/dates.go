package declaration

import (
	"fmt"
	"strings"
	"time"

	"gallipot/internal/core/keeping"
)

// longLife is the life from which GB dates need month and year only (Regulation 1169/2011 annex X 1(c)).
const longLife = 3

// DateLine writes the date as the regime words it. kind is keeping.UseBy or keeping.BestBefore.
func DateLine(regime, kind string, made, last time.Time) string {
	if regime == US {
		words := map[string]string{keeping.UseBy: "Use by", keeping.BestBefore: "Best if used by"}[kind]
		return words + " " + last.Format("Jan 2, 2006")
	}
	if kind == keeping.UseBy {
		return "Use by " + last.Format("2 January")
	}
	if last.After(made.AddDate(0, longLife, 0)) {
		return "Best before end " + last.Format("January 2006")
	}
	return "Best before " + last.Format("2 January")
}

// chilledOpenDays is the most an opened chilled jar keeps at a pH above 4.2 (handbook 06).
const (
	chilledOpenDays = 7
	openPH          = 4.2
)

// OpenedDays is the life after opening: the shop's figure, at most 7 days chilled above pH 4.2, never past the unopened life.
func OpenedDays(shop int, condition string, pH *float64, unopened *int) int {
	days := shop
	if condition == keeping.Chilled && (pH == nil || *pH > openPH) {
		days = min(days, chilledOpenDays)
	}
	if unopened != nil {
		days = min(days, max(1, *unopened))
	}
	return days
}

// StorageSentence is the storage instruction with the one for after opening.
func StorageSentence(regime, condition string, openedDays int) string {
	cold := "Keep refrigerated at or below 5 °C."
	if regime == US {
		cold = "Keep refrigerated at or below 41 °F."
	}
	opened := fmt.Sprintf("Once opened, use within %d days.", openedDays)
	if openedDays == 1 {
		opened = "Once opened, use within 1 day."
	}
	switch condition {
	case keeping.Frozen:
		if regime == US {
			return "Keep frozen at or below 0 °F. Thaw in the refrigerator; do not refreeze."
		}
		return "Keep frozen at or below -18 °C. Thaw in the fridge; do not refreeze."
	case keeping.Ambient:
		return "Store in a cool, dry place. Refrigerate after opening. " + opened
	}
	return cold + " " + opened
}

// LotText writes a lot code so that it is clearly one: GB with "L" (Food (Lot Marking) Regulations 1996).
func LotText(regime, code string) string {
	if code == "" {
		return ""
	}
	if regime == US {
		return "Lot " + code
	}
	return "L" + code
}

// Directions are the short instructions that style and oils ask for.
func Directions(emulsion string, setsInTheCold bool) string {
	var out []string
	if emulsion == "shaken" {
		out = append(out, "Shake well.")
	}
	if setsInTheCold {
		out = append(out, "Let stand at room temperature 15 min: the oil sets in the cold.")
	}
	return strings.Join(out, " ")
}

// Piece is a run of words in a difference: "same", "gone" or "new".
type Piece struct {
	Kind string `json:"kind"`
	Text string `json:"text"`
}

// WordDiff tells word by word what changed from one text to another (longest common subsequence).
func WordDiff(before, after string) []Piece {
	a, b := strings.Fields(before), strings.Fields(after)
	long := make([][]int, len(a)+1)
	for i := range long {
		long[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			if a[i] == b[j] {
				long[i][j] = long[i+1][j+1] + 1
			} else {
				long[i][j] = max(long[i+1][j], long[i][j+1])
			}
		}
	}
	out := []Piece{}
	put := func(kind, word string) {
		if n := len(out); n > 0 && out[n-1].Kind == kind {
			out[n-1].Text += " " + word
			return
		}
		out = append(out, Piece{kind, word})
	}
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			put("same", a[i])
			i, j = i+1, j+1
		case j >= len(b) || i < len(a) && long[i+1][j] >= long[i][j+1]:
			put("gone", a[i])
			i++
		default:
			put("new", b[j])
			j++
		}
	}
	return out
}
