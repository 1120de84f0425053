package interchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"gallipot/internal/app/kernel"
	"gallipot/internal/app/production"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/lots"
	"gallipot/internal/core/pantry"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// MaxDeliveryBytes bounds the file of a delivery note.
const MaxDeliveryBytes = 4 << 20

// noteColumns are what suppliers write over the columns of a delivery note, in small letters.
var noteColumns = map[string][]string{
	"ingredient": {"ingredient", "item", "product", "goods", "description", "article", "name"},
	"text": {"lot", "lot no", "lot number", "batch", "batch no", "batch number", "batch code", "lot code",
		"charge"},
	"pack":      {"quantity", "qty", "amount", "pack", "packs", "weight", "how much"},
	"use_by":    {"use by", "use-by", "use by date", "expiry", "expires", "exp"},
	"best":      {"best before", "bbe", "bb", "best before end", "best by"},
	"cost":      {"total", "line total", "net", "value", "amount due", "cost of all"},
	"each":      {"unit price", "unit cost", "price each", "each", "per pack"},
	"price":     {"price", "cost"}, // of all of it, or of one pack: asked where there are several
	"arrival":   {"temperature", "temp", "°c", "arrival temperature", "temp on arrival"},
	"statement": {"kill step", "kill-step", "kill step statement", "statement", "certificate"},
	"strength":  {"acid strength", "acidity", "acid", "strength"},
	"ph":        {"ph"},
	"list":      {"ingredients", "ingredient list", "list"},
	"note":      {"note", "notes", "remark"},
}

// ReadDelivery reads the rows of a delivery note from CSV, text with tabs, or a spreadsheet (XLSX). Columns are known
// by what suppliers call them and may stand in any order; others are passed over. A figure or a day that cannot be
// read, or can be read two ways, is kept as a mistake of its cell. Errors: app.Problem where there is no table.
func ReadDelivery(raw []byte) ([]production.ReadRow, error) {
	switch {
	case len(raw) > MaxDeliveryBytes:
		return nil, noteProblem("a delivery note has at most 4 MB")
	case len(bytes.TrimSpace(raw)) == 0:
		return nil, noteProblem("the file is empty")
	}
	rows, err := tableOf(raw)
	if err != nil {
		return nil, err
	}
	at, header := noteHeader(rows)
	if at == nil {
		return nil,
			noteProblem("no row names its columns; one is needed that says ingredient and quantity, above the goods")
	}
	var out []production.ReadRow
	for _, cells := range rows[header+1:] {
		if strings.TrimSpace(strings.Join(cells, "")) != "" {
			out = append(out, noteRow(cells, at))
		}
	}
	if len(out) == 0 {
		return nil, noteProblem("there is no row below the names of the columns")
	}
	return out, nil
}

func noteProblem(message string) error {
	return kernel.Problem{Kind: kernel.Invalid, Code: "delivery_note", Message: "Nothing was read: " + message + ".",
		Fields: []pantry.FieldError{{Field: "file", Message: message}}}
}

// tableOf are the cells of a file, row by row.
func tableOf(raw []byte) ([][]string, error) {
	if bytes.HasPrefix(raw, []byte("PK")) {
		return sheetOf(raw)
	}
	text, err := textOf(raw)
	if err != nil {
		return nil, err
	}
	c := csv.NewReader(bytes.NewReader(text))
	c.Comma, c.TrimLeadingSpace, c.FieldsPerRecord, c.LazyQuotes = likeliest(text), true, -1, true
	rows, err := c.ReadAll()
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return nil, noteProblem(fmt.Sprintf("line %d: %v", parse.Line, parse.Err))
	}
	return rows, err
}

// mostSheetBytes bounds what a spreadsheet unpacks to.
const mostSheetBytes = 64 << 20

func sheetOf(raw []byte) ([][]string, error) {
	f, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{UnzipSizeLimit: mostSheetBytes,
		UnzipXMLSizeLimit: mostSheetBytes, ShortDatePattern: "yyyy-mm-dd"})
	if err != nil {
		return nil, noteProblem("this is no spreadsheet that can be read")
	}
	defer f.Close()
	names := f.GetSheetList()
	if len(names) == 0 {
		return nil, noteProblem("the spreadsheet has no sheet")
	}
	rows, err := f.GetRows(names[0])
	if err != nil {
		return nil, noteProblem("the first sheet cannot be read")
	}
	return rows, nil
}

// textOf is a file's text, which may be UTF-8, UTF-16 with its mark, or Latin-1.
func textOf(raw []byte) ([]byte, error) {
	if bytes.HasPrefix(raw, []byte("\xff\xfe")) || bytes.HasPrefix(raw, []byte("\xfe\xff")) {
		out, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(raw)
		if err != nil {
			return nil, noteProblem("the text cannot be read")
		}
		return out, nil
	}
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	if utf8.Valid(raw) {
		return raw, nil
	}
	return charmap.Windows1252.NewDecoder().Bytes(raw)
}

// headersWithin is how many rows may stand above the names of the columns.
const headersWithin = 20

// noteHeader finds the row that names the columns, and where each stands.
func noteHeader(rows [][]string) (at map[string]int, row int) {
	for n, cells := range rows[:min(len(rows), headersWithin)] {
		at := map[string]int{}
		for i, c := range cells {
			name := strings.Trim(strings.ToLower(strings.Join(strings.Fields(c), " ")), " .:*")
			for column, names := range noteColumns {
				if _, have := at[column]; !have && slices.Contains(names, name) {
					at[column] = i
				}
			}
		}
		_, goods := at["ingredient"]
		if _, much := at["pack"]; goods && much {
			return at, n
		}
	}
	return nil, 0
}

func noteRow(cells []string, at map[string]int) production.ReadRow {
	cell := func(name string) string {
		if i, ok := at[name]; ok && i < len(cells) {
			return noteCell(cells[i])
		}
		return ""
	}
	r := production.ReadRow{NewLot: production.NewLot{Ingredient: cell("ingredient"), Text: cell("text"),
		Pack:      cell("pack"),
		Statement: cell("statement"), List: cell("list"), Note: cell("note")}}
	wrong := func(field, format string, args ...any) {
		r.Wrong = append(r.Wrong, pantry.FieldError{Field: field, Message: fmt.Sprintf(format, args...)})
	}
	figure := func(column, field string) *float64 {
		x, err := figureOf(cell(column))
		if err != nil {
			wrong(field, "%v", err)
		}
		return x
	}
	r.ArrivalC, r.Strength, r.PH = figure("arrival", "arrival_c"), figure("strength", "strength"), figure("ph", "ph")
	packs := packsIn(r.Pack)
	for _, column := range []string{"cost", "each", "price"} {
		x := figure(column, "cost")
		if x == nil || r.Cost != nil {
			continue
		}
		times := int64(1)
		if column == "each" {
			times = packs
		}
		m := amount.ExactFloat(*x).Times(amount.Whole(times)).Money()
		r.Cost = &m
		if column == "price" && packs > 1 {
			wrong("cost", "is %s for all of it, or for one of %d? Write what all of it cost", m, packs)
		}
	}
	for column, kind := range map[string]string{"use_by": lots.UseBy, "best": lots.BestBefore} {
		if text := cell(column); text != "" && (r.Ends == "" || kind == lots.UseBy) {
			day, err := dayOf(text)
			if err != nil {
				wrong("ends", "%v", err)
			}
			r.Ends, r.EndKind = day, kind
		}
	}
	return r
}

var severalPacks = regexp.MustCompile(`^([0-9]{1,4})\s*[xX×*]`)

// packsIn is how many packs a quantity is of: 3 of 3 x 2 kg; else 1.
func packsIn(pack string) int64 {
	n := int64(1)
	if m := severalPacks.FindStringSubmatch(pack); m != nil {
		n, _ = strconv.ParseInt(m[1], 10, 64)
	}
	return max(n, 1)
}

// noteCell is a cell without the mark that guards it from being run as a formula.
func noteCell(s string) string {
	s = strings.TrimSpace(s)
	if len(s) > 1 && s[0] == '\'' {
		return s[1:]
	}
	return s
}
