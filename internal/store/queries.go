package store

import (
	"embed"
	"io/fs"
	"regexp"
)

//go:embed queries/*.sql
var queryFiles embed.FS

var queryName = regexp.MustCompile(`(?m)^-- name: (\w+)\n`)

// queries are the statements, and parts of statements, that are written by hand, by name.
var queries = readQueries()

func readQueries() map[string]string {
	out := map[string]string{}
	names, err := fs.Glob(queryFiles, "queries/*.sql")
	if err != nil {
		panic(err)
	}
	for _, name := range names {
		raw, err := queryFiles.ReadFile(name)
		if err != nil {
			panic(err)
		}
		text := string(raw)
		at := queryName.FindAllStringSubmatchIndex(text, -1)
		for i, m := range at {
			end := len(text)
			if i+1 < len(at) {
				end = at[i+1][0]
			}
			out[text[m[2]:m[3]]] = " " + text[m[1]:end] + " "
		}
	}
	return out
}

// query is a statement of the files by its name, or a part of one, with space around it. A name that is in no file is a
// mistake of the program.
func query(name string) string {
	text, there := queries[name]
	if !there {
		panic("no query is called " + name)
	}
	return text
}
