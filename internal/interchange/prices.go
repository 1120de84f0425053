package interchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"gallipot/internal/app"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/pantry"
)

// PriceColumns are the columns of a price list, in the order they are written.
var PriceColumns = []string{"ingredient", "supplier", "pack_amount", "pack_unit", "price", "date", "valid_until"}

// MaxPriceListBytes bounds a price list.
const MaxPriceListBytes = 4 << 20

// ReadPrices reads a price list. Columns may stand in any order, separated by comma, semicolon or tab; an unknown or a
// missing column, a wrong encoding or a number that is none is named with its line in an app.Problem, and nothing is
// returned.
func ReadPrices(r io.Reader) ([]app.PriceRow, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxPriceListBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read prices: %w", err)
	}
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	switch {
	case len(raw) > MaxPriceListBytes:
		return nil, csvProblem("file", "a price list has at most 4 MB")
	case len(bytes.TrimSpace(raw)) == 0:
		return nil, csvProblem("file", "the file is empty")
	case !utf8.Valid(raw):
		return nil, csvProblem("file", "the file is not UTF-8 text; save it as CSV UTF-8")
	}
	c := csv.NewReader(bytes.NewReader(raw))
	c.Comma = separator(raw)
	c.TrimLeadingSpace = true
	c.FieldsPerRecord = -1
	rows, err := c.ReadAll()
	var parse *csv.ParseError
	if errors.As(err, &parse) {
		return nil, csvProblem(fmt.Sprintf("line %d", parse.Line), "%v", parse.Err)
	}
	if err != nil {
		return nil, fmt.Errorf("read prices: %w", err)
	}
	at, err := columns(rows[0])
	if err != nil {
		return nil, err
	}
	return priceRows(rows[1:], at)
}

func separator(raw []byte) rune {
	first, _, _ := bytes.Cut(raw, []byte("\n"))
	for _, c := range []rune{';', '\t'} {
		if bytes.ContainsRune(first, c) {
			return c
		}
	}
	return ','
}

func columns(header []string) (map[string]int, error) {
	at := map[string]int{}
	for i, h := range header {
		name := strings.ToLower(strings.TrimSpace(h))
		if !slices.Contains(PriceColumns, name) {
			return nil, csvProblem("line 1", "unknown column %q; the columns are %s", name,
				strings.Join(PriceColumns, ", "))
		}
		at[name] = i
	}
	for _, want := range PriceColumns[:6] {
		if _, ok := at[want]; !ok {
			return nil, csvProblem("line 1", "the column %q is missing; the columns are %s", want,
				strings.Join(PriceColumns, ", "))
		}
	}
	return at, nil
}

func priceRows(rows [][]string, at map[string]int) ([]app.PriceRow, error) {
	var out []app.PriceRow
	var errs []pantry.FieldError
	for n, row := range rows {
		line := n + 2
		cell := func(name string) string {
			if i, ok := at[name]; ok && i < len(row) {
				return strings.TrimSpace(row[i])
			}
			return ""
		}
		wrong := func(name, message string) {
			errs = append(errs, pantry.FieldError{Field: fmt.Sprintf("line %d: %s", line, name), Message: message})
		}
		number := func(name string) amount.Exact {
			x, err := amount.ParseNumber(cell(name))
			if err != nil {
				wrong(name, err.Error())
			}
			return x
		}
		if strings.Join(row, "") == "" {
			continue
		}
		pack, whole := number("pack_amount").Quantity()
		if !whole {
			wrong("pack_amount", "at most three decimals")
		}
		price, exact := number("price").ExactMoney()
		if !exact {
			wrong("price", "at most six decimals")
		}
		out = append(out, app.PriceRow{Line: line, Ingredient: cell("ingredient"), Offer: pantry.PriceOffer{
			Supplier: cell("supplier"), PackAmount: pack, PackUnit: strings.ToLower(cell("pack_unit")),
			Price: price, Date: cell("date"), ValidUntil: cell("valid_until")}})
	}
	if len(errs) > 0 {
		return nil, app.Problem{Kind: app.Invalid, Code: "price_list",
			Message: "Nothing was imported; these cells are not numbers.", Fields: errs}
	}
	if len(out) == 0 {
		return nil, csvProblem("file", "the file has no prices below its header")
	}
	return out, nil
}

func csvProblem(field, format string, args ...any) error {
	msg := fmt.Sprintf(format, args...)
	return app.Problem{Kind: app.Invalid, Code: "price_list", Message: "Nothing was imported: " + msg + ".",
		Fields: []pantry.FieldError{{Field: field, Message: msg}}}
}

// WritePrices writes a price list with a header.
func WritePrices(w io.Writer, rows []app.PriceRow) error {
	c := csv.NewWriter(w)
	if err := c.Write(PriceColumns); err != nil {
		return err
	}
	for _, r := range rows {
		o := r.Offer
		if err := c.Write([]string{guard(r.Ingredient), guard(o.Supplier), o.PackAmount.String(), o.PackUnit,
			o.Price.String(), o.Date, o.ValidUntil}); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// guard keeps a spreadsheet from running a cell as a formula.
func guard(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r\n", rune(s[0])) {
		return "'" + s
	}
	return s
}
