package pantry

import "strings"

// PlainAllergens writes codes as words: the kind where there is one.
func PlainAllergens(codes []string) string {
	words := make([]string, len(codes))
	for i, c := range codes {
		base, kind, kinded := strings.Cut(c, ":")
		words[i] = strings.ReplaceAll(base, "_", " ")
		if kinded {
			words[i] = kind
		}
	}
	return strings.Join(words, ", ")
}
