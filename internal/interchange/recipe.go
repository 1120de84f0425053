package interchange

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"gallipot/internal/app/catalog"
)

// MaxRecipeBytes bounds a recipe file.
const MaxRecipeBytes = 2 << 20

// ReadRecipe reads a schema.org Recipe as JSON-LD, alone, in a list or in a @graph, and returns its name and the words
// that the reader reads: the ingredients as they stand, the yield and the method. Errors: app.Problem.
func ReadRecipe(r io.Reader) (name, words string, err error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxRecipeBytes+1))
	if err != nil {
		return "", "", fmt.Errorf("read recipe: %w", err)
	}
	if len(raw) > MaxRecipeBytes {
		return "", "", problem("recipe", "a recipe file has at most 2 MB")
	}
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(raw) {
		return "", "", problem("recipe", "the file is not UTF-8 text")
	}
	var doc any
	if err := json.Unmarshal(raw, &doc); err != nil {
		return "", "", problem("recipe", "the file is not JSON: %v", err)
	}
	found := findRecipe(doc, 0)
	if found == nil {
		return "", "", problem("recipe", "there is no schema.org Recipe in this file")
	}
	name = strings.Join(texts(found["name"]), " ")
	ingredients := texts(found["recipeIngredient"])
	if len(ingredients) == 0 {
		ingredients = texts(found["ingredients"])
	}
	if len(ingredients) == 0 {
		return "", "", problem("recipeIngredient", "the recipe names no ingredients")
	}
	var b strings.Builder
	if name != "" {
		b.WriteString(name + "\n\n")
	}
	if made := texts(found["recipeYield"]); len(made) > 0 {
		b.WriteString("Makes " + made[0] + "\n\n")
	}
	b.WriteString("Ingredients\n" + strings.Join(ingredients, "\n") + "\n")
	if steps := texts(found["recipeInstructions"]); len(steps) > 0 {
		b.WriteString("\nMethod\n" + strings.Join(steps, "\n") + "\n")
	}
	return name, b.String(), nil
}

// deepest bounds how far a document is searched.
const deepest = 8

func findRecipe(doc any, depth int) map[string]any {
	if depth > deepest {
		return nil
	}
	switch x := doc.(type) {
	case []any:
		for _, y := range x {
			if r := findRecipe(y, depth+1); r != nil {
				return r
			}
		}
	case map[string]any:
		if slices.ContainsFunc(texts(x["@type"]),
			func(t string) bool { return t == "Recipe" || strings.HasSuffix(t, "schema.org/Recipe") }) {
			return x
		}
		for _, key := range []string{"@graph", "mainEntity", "mainEntityOfPage"} {
			if r := findRecipe(x[key], depth+1); r != nil {
				return r
			}
		}
	}
	return nil
}

// texts flattens a JSON-LD value to rows of words: strings, numbers, HowToStep and HowToSection.
func texts(v any) []string {
	switch x := v.(type) {
	case string:
		var out []string
		for _, row := range strings.Split(html.UnescapeString(x), "\n") {
			if row = strings.TrimSpace(row); row != "" {
				out = append(out, row)
			}
		}
		return out
	case float64:
		return []string{fmt.Sprintf("%g", x)}
	case []any:
		var out []string
		for _, y := range x {
			out = append(out, texts(y)...)
		}
		return out
	case map[string]any:
		for _, key := range []string{"itemListElement", "text", "name", "@value"} {
			if x[key] != nil {
				return texts(x[key])
			}
		}
	}
	return nil
}

type howTo struct {
	Type string `json:"@type"`
	Text string `json:"text"`
}

// WriteRecipe writes a version as a schema.org Recipe. The ingredients are weighed.
func WriteRecipe(w io.Writer, v catalog.SheetView) error {
	doc := struct {
		Context      string   `json:"@context"`
		Type         string   `json:"@type"`
		Name         string   `json:"name"`
		Version      string   `json:"version"`
		Yield        string   `json:"recipeYield,omitempty"`
		Ingredients  []string `json:"recipeIngredient"`
		Instructions []howTo  `json:"recipeInstructions"`
	}{Context: "https://schema.org", Type: "Recipe", Name: v.Name, Version: fmt.Sprint(v.Version.Number),
		Ingredients: []string{}, Instructions: []howTo{}}
	if v.Panel.Jars > 0 {
		doc.Yield = fmt.Sprintf("%d jars of %s g", v.Panel.Jars, v.Version.FillGrams)
	}
	for _, l := range v.Panel.Lines {
		doc.Ingredients = append(doc.Ingredients, fmt.Sprintf("%s g %s", l.Grams, l.Name))
	}
	for _, s := range v.Version.Steps {
		doc.Instructions = append(doc.Instructions, howTo{"HowToStep", s.Text})
	}
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(doc)
}

// WriteSheet writes a version's lines as CSV: what, grams, percent, cost in a jar, the words it was read from.
func WriteSheet(w io.Writer, v catalog.SheetView) error {
	out := csv.NewWriter(w)
	rows := [][]string{{"line", "grams", "percent", "cost_per_jar", "phase", "words"}}
	for i, l := range v.Panel.Lines {
		cost := l.PerJar.Fixed(4)
		if l.NoPrice {
			cost = ""
		}
		rows = append(rows, []string{plainCell(l.Name), l.Grams.String(), l.Percent.Fixed(2), cost,
			plainCell(v.Version.Lines[i].Phase), plainCell(v.Version.Lines[i].Words)})
	}
	rows = append(rows, []string{"total", v.Panel.Grams.String(), "100.00", v.Panel.Cost.Ingredients.Fixed(4), "", ""})
	return out.WriteAll(rows)
}

// plainCell keeps a spreadsheet from taking words for a formula.
func plainCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
