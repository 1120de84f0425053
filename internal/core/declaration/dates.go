package declaration

import (
	"strings"

	"gallipot/internal/core/law"
)

// chilledOpenDays is the most an opened chilled jar keeps at a pH above 4.2 (handbook 06).
const (
	chilledOpenDays = 7
	openPH          = 4.2
)

// OpenedDays is the life after opening: the shop's figure, at most 7 days chilled above pH 4.2, never past the unopened
// life.
func OpenedDays(shop int, condition string, pH *float64, unopened *int) int {
	days := shop
	if condition == law.Chilled && (pH == nil || *pH > openPH) {
		days = min(days, chilledOpenDays)
	}
	if unopened != nil {
		days = min(days, max(1, *unopened))
	}
	return days
}

// LotText writes a lot code so that it is clearly one.
func LotText(l *law.Law, code string) string {
	if code == "" {
		return ""
	}
	return l.LotPrefix + code
}

// Directions are the short instructions that what separates and oils that set ask for.
func Directions(separates, setsInTheCold bool) string {
	var out []string
	if separates {
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
