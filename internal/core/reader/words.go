package reader

import (
	_ "embed"
	"strings"
)

// wordsTable is the table of words: a section a set, in square brackets, and its words below.
//
//go:embed words.txt
var wordsTable string

// sections are the words of the table by the name of their section.
var sections = func() map[string][]string {
	out := map[string][]string{}
	name := ""
	for row := range strings.Lines(wordsTable) {
		row = strings.TrimSpace(row)
		switch {
		case strings.HasPrefix(row, "#"):
		case strings.HasPrefix(row, "["):
			name = strings.Trim(row, "[]")
		default:
			out[name] = append(out[name], strings.Fields(row)...)
		}
	}
	return out
}()

// words is a set of the table. One that is not there is a slip of ours, found by any test that starts.
func words(name string) map[string]bool {
	out := map[string]bool{}
	for _, w := range section(name) {
		out[w] = true
	}
	return out
}

// phraseList are the phrases of a section of the table, in its order.
func phraseList(name string) [][]string {
	var out [][]string
	for _, p := range strings.Split(strings.Join(section(name), " "), ";") {
		out = append(out, strings.Fields(p))
	}
	return out
}

func section(name string) []string {
	if len(sections[name]) == 0 {
		panic("reader: no words " + name)
	}
	return sections[name]
}
