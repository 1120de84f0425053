package internal

import (
	"fmt"
	"go/ast"
	"go/parser"
	"go/scanner"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The shape of the code (handbook 10): columns of a line, where a tab counts four, and lines of a function.
const (
	mostColumns       = 120
	mostFunctionLines = 50
)

// ownCode calls f with each Go file of ours that is written by hand.
func ownCode(t *testing.T, f func(path string, src []byte)) {
	t.Helper()
	for _, root := range []string{"../internal", "../cmd", "../e2e", "../api", "../docs", "../web"} {
		require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
				return filepath.SkipDir
			}
			if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, ".gen.go") {
				return nil
			}
			src, err := os.ReadFile(path)
			if err == nil {
				f(path, src)
			}
			return err
		}))
	}
}

// TestLinesAreNotTooLong allows a line to go over only within one text, which would not be found again if it were cut.
func TestLinesAreNotTooLong(t *testing.T) {
	seen := 0
	ownCode(t, func(path string, src []byte) {
		seen++
		text := texts(src)
		at := 0
		for n, line := range strings.SplitAfter(string(src), "\n") {
			columns := 0
			for i, r := range strings.TrimRight(line, "\n") {
				columns++
				if r == '\t' {
					columns += 3
				}
				if columns > mostColumns {
					assert.True(t, text[at+i], "%s:%d is wider than %d columns", path, n+1, mostColumns)
					break
				}
			}
			at += len(line)
		}
	})
	assert.Greater(t, seen, 100)
}

// texts marks the bytes of a source that belong to texts, with the brackets and commas that close a line after one.
func texts(src []byte) map[int]bool {
	files := token.NewFileSet()
	file := files.AddFile("", files.Base(), len(src))
	var s scanner.Scanner
	s.Init(file, src, nil, 0)
	in, after := map[int]bool{}, false
	for {
		pos, tok, text := s.Scan()
		from := file.Offset(pos)
		switch {
		case tok == token.EOF:
			return in
		case tok == token.STRING:
			for i := range text {
				in[from+i] = true
			}
		case after && (tok == token.COMMA || tok == token.RPAREN || tok == token.RBRACE):
			in[from] = true
			continue
		}
		after = tok == token.STRING
	}
}

func TestFunctionsAreNotTooLong(t *testing.T) {
	ownCode(t, func(path string, src []byte) {
		if strings.HasSuffix(path, "_test.go") {
			return // a table of cases may be as long as it needs
		}
		files := token.NewFileSet()
		tree, err := parser.ParseFile(files, path, src, parser.SkipObjectResolution)
		require.NoError(t, err)
		for _, d := range tree.Decls {
			f, ok := d.(*ast.FuncDecl)
			if !ok {
				continue
			}
			lines := files.Position(f.End()).Line - files.Position(f.Pos()).Line + 1
			assert.LessOrEqual(t, lines, mostFunctionLines, fmt.Sprintf("%s: %s", path, f.Name.Name))
		}
	})
}
