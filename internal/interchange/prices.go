package interchange

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"unicode"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/shop"
)

// PriceColumns are the columns of a price list, in the order they are written.
var PriceColumns = []string{"ingredient", "supplier", "pack_amount", "pack_unit", "price", "date", "valid_until",
	"delivery", "tax_percent", "tax_in_it"}

// MaxPriceListBytes bounds a price list.
const MaxPriceListBytes = 4 << 20

// mostPriceRows is how many rows a price list has at most.
const mostPriceRows = 5000

// priceNames are what suppliers write over the columns of a price list, in small letters without marks.
var priceNames = map[string][]string{
	"ingredient": {"ingredient", "item", "product", "description", "article", "name", "goods", "product name",
		"item name", "product description", "item description"},
	"price": {"price", "net price", "unit price", "list price", "cost", "net", "price each", "your price", "pack price",
		"case price", "trade price", "net cost", "amount"},
	"pack": {"pack amount", "pack", "pack size", "size", "contents", "quantity", "qty", "weight", "volume", "pack qty",
		"net weight", "case size", "packing"},
	"unit":     {"pack unit", "unit", "uom", "units", "unit of measure", "measure", "u m"},
	"supplier": {"supplier", "vendor", "from", "seller", "sold by"},
	"date": {"date", "valid from", "from date", "price date", "effective", "effective date", "as of", "starts",
		"effective from"},
	"until":    {"valid until", "until", "valid to", "expires", "to date", "ends", "expiry", "to"},
	"delivery": {"delivery", "carriage", "freight", "delivery a pack", "shipping"},
	"tax":      {"tax percent", "tax", "vat", "vat rate", "tax rate", "vat percent"},
	"in":       {"tax in it", "tax included", "vat included", "incl vat"},
}

// ReadPrices reads a price file by a way: CSV with commas, semicolons, tabs or bars, or a spreadsheet; columns in any
// order, others passed over. What can be read in several ways is asked, about the whole file, and what is wrong in a
// cell stands with its row. Errors: app.Problem where there is no table.
func ReadPrices(raw []byte, way match.PriceWay, s shop.Settings) (match.PriceTable, error) {
	switch {
	case len(raw) > MaxPriceListBytes:
		return match.PriceTable{}, fileProblem("a price list has at most 4 MB")
	case len(bytes.TrimSpace(raw)) == 0:
		return match.PriceTable{}, fileProblem("the file is empty")
	}
	rows, comma, err := priceTable(raw)
	if err != nil {
		return match.PriceTable{}, err
	}
	r := priceReader{way: way, settings: s}
	head := r.header(rows)
	if len(rows)-head-1 > mostPriceRows {
		return r.table, fileProblem(fmt.Sprintf("a price list has at most %d rows", mostPriceRows))
	}
	if comma == ',' && slices.Equal(r.table.Header, PriceColumns) && r.way.Decimal == "" {
		r.way.Decimal = "." // as the program writes it
	}
	r.evidence(rows[head+1:])
	for n, cells := range rows[head+1:] {
		if line, goods := r.row(head+n+2, cells); goods {
			r.table.Rows = append(r.table.Rows, line)
		}
	}
	r.asks()
	if len(r.table.Rows) == 0 && len(r.table.Asks) == 0 {
		return r.table, fileProblem("there is no row below the names of the columns")
	}
	return r.table, nil
}

func fileProblem(message string) error {
	return kernel.Problem{Kind: kernel.Invalid, Code: "price_list", Message: "Nothing was read: " + message + ".",
		Fields: []pantry.FieldError{{Field: "file", Message: message}}}
}

// priceTable are the cells of a file, and what stands between them.
func priceTable(raw []byte) ([][]string, rune, error) {
	if bytes.HasPrefix(raw, []byte("PK")) {
		rows, err := sheetOf(raw)
		return rows, 0, err
	}
	text, err := textOf(unmarked(raw))
	if err != nil {
		return nil, 0, err
	}
	comma := rune(0)
	if first, rest, _ := bytes.Cut(text, []byte("\n")); bytes.HasPrefix(bytes.ToLower(first), []byte("sep=")) {
		if said := bytes.TrimSpace(first[4:]); len(said) > 0 {
			comma = rune(said[0])
		}
		text = rest
	}
	if comma == 0 {
		comma = likeliest(text)
	}
	c := csv.NewReader(bytes.NewReader(text))
	c.Comma, c.TrimLeadingSpace, c.FieldsPerRecord, c.LazyQuotes = comma, true, -1, true
	rows, err := c.ReadAll()
	if err != nil {
		return nil, 0, fileProblem(strings.TrimPrefix(err.Error(), "record on "))
	}
	return rows, comma, nil
}

// unmarked gives UTF-16 without its mark one, so that it is read as such: every other byte of its first letters is
// nothing.
func unmarked(raw []byte) []byte {
	if len(raw) < 4 || raw[0] >= 0xfe {
		return raw
	}
	switch {
	case raw[1] == 0 && raw[3] == 0:
		return append([]byte("\xff\xfe"), raw...)
	case raw[0] == 0 && raw[2] == 0:
		return append([]byte("\xfe\xff"), raw...)
	}
	return raw
}

// likeliest is what stands most evenly between the cells of the first lines.
func likeliest(text []byte) rune {
	best, most := ',', 0
	for _, sep := range []rune{';', '\t', '|', ','} {
		least := -1
		for n, line := range bytes.Split(text, []byte("\n")) {
			if n >= 30 {
				break
			}
			if k := bytes.Count(line, []byte(string(sep))); k > 0 && (least < 0 || k < least) {
				least = k
			}
		}
		count := bytes.Count(text, []byte(string(sep)))
		if least > 0 && count > most*2 || least > 0 && best == ',' && most == 0 {
			best, most = sep, count
		}
	}
	return best
}

// priceReader reads the rows of one file.
type priceReader struct {
	way      match.PriceWay
	settings shop.Settings
	table    match.PriceTable
	signs    map[string]bool // of currencies
	points   map[string]int  // figures whose fraction stands behind a point, and behind a comma
	twoWays  string          // a figure that can be read two ways
	orders   map[string]int  // days that can only be read with the day, or with the month, first
	someDay  string          // a day that can be read two ways
	gallons  string          // a unit that is not the same everywhere
	each     string          // the unit that the price is of, where its column says so
}

// plainHead is a column's name in small letters, without marks.
func plainHead(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}), " ")
}

// header finds the row that names the columns, and what each holds.
func (r *priceReader) header(rows [][]string) int {
	r.signs, r.points, r.orders = map[string]bool{}, map[string]int{}, map[string]int{}
	best, found := 0, map[string]int{}
	for n, cells := range rows[:min(len(rows), headersWithin)] {
		at := map[string]int{}
		for i, c := range cells {
			name := plainHead(priceHead(c))
			for field, names := range priceNames {
				if _, have := at[field]; !have && slices.Contains(names, name) {
					at[field] = i
				}
			}
		}
		if len(at) > len(found) {
			best, found = n, at
		}
	}
	names := rows[best]
	if len(found) == 0 { // no row names them: they have letters, and every row is one of goods
		best, names = -1, lettered(rows[0])
	}
	for i, c := range names {
		r.table.Header = append(r.table.Header, strings.TrimSpace(c))
		r.sign(c)
		if unit := eachIn(c); unit != "" {
			if at, has := found["price"]; has && at == i {
				r.each = unit
			}
		}
	}
	for field, i := range r.way.Columns {
		delete(found, field)
		if i >= 0 && i < len(names) {
			found[field] = i
		}
	}
	r.table.Columns = found
	heads := make([]string, len(names))
	for i, c := range names {
		heads[i] = plainHead(c)
	}
	r.table.Signature = strings.Join(heads, "|")
	r.table.Samples = samples(rows[best+1:])
	return best
}

// lettered are names of columns that have none.
func lettered(cells []string) []string {
	out := make([]string, len(cells))
	for i := range cells {
		out[i] = "column " + string(rune('A'+i%26))
	}
	return out
}

// samples are the first rows, for somebody who says what a column holds.
func samples(rows [][]string) [][]string {
	out := [][]string{}
	for _, cells := range rows {
		if len(out) < 4 && strings.TrimSpace(strings.Join(cells, "")) != "" {
			out = append(out, cells)
		}
	}
	return out
}

// eachWords are units that stand behind the word price: price per kg, GBP/lb.
var eachWords = []string{"kg", "lb", "g", "l", "litre", "liter", "ml", "gal", "each", "piece"}

// eachIn is the unit in the name of a price's column.
func eachIn(head string) string {
	words := strings.Fields(plainHead(strings.ReplaceAll(head, "/", " per ")))
	for i, w := range words {
		if w == "per" && i+1 < len(words) && slices.Contains(eachWords, words[i+1]) {
			return words[i+1]
		}
	}
	return ""
}

// priceHead is a column's name without what it is counted in: Price (EUR), Price/kg.
func priceHead(head string) string {
	for _, tail := range []string{"(", "/", " per ", ",", " in "} {
		if before, _, cut := strings.Cut(head, tail); cut && strings.TrimSpace(before) != "" {
			head = before
		}
	}
	for _, sign := range slices.Concat(slices.Collect(maps.Keys(signOf)), slices.Collect(maps.Values(signOf))) {
		head = strings.TrimSuffix(strings.TrimSpace(head), sign)
	}
	return head
}

// cell is what stands in a row under a column.
func (r *priceReader) cell(cells []string, field string) string {
	if i, has := r.table.Columns[field]; has && i < len(cells) {
		return noteCell(cells[i])
	}
	return ""
}

// evidence looks over all figures and days for what settles how others are read.
func (r *priceReader) evidence(rows [][]string) {
	for _, cells := range rows {
		for _, field := range []string{"price", "pack", "delivery"} {
			r.sign(r.cell(cells, field))
			for _, f := range figures.FindAllString(r.cell(cells, field), -1) {
				if mark := fractionOf(f); mark != "" {
					r.points[mark]++
				}
			}
		}
		for _, field := range []string{"date", "until"} {
			if order := orderOf(r.cell(cells, field)); order != "" {
				r.orders[order]++
			}
		}
	}
}

// row reads one row; goods is false for one without goods.
func (r *priceReader) row(line int, cells []string) (out match.PriceLine, goods bool) {
	name, price := r.cell(cells, "ingredient"), r.cell(cells, "price")
	if strings.TrimSpace(strings.Join(cells, "")) == "" || name == "" && price == "" {
		return out, false
	}
	out = match.PriceLine{Line: line, Name: name}
	wrong := func(field, format string, args ...any) {
		out.Wrong = append(out.Wrong, pantry.FieldError{Field: field, Message: fmt.Sprintf(format, args...)})
	}
	if name == "" {
		wrong("ingredient", "a price of nothing that is named")
	}
	o := &out.Offer
	o.Supplier = r.cell(cells, "supplier")
	if _, has := r.table.Columns["supplier"]; !has || o.Supplier == "" {
		o.Supplier = r.way.Supplier
	}
	money := func(field, text string) amount.Money {
		x, err := r.figure(text)
		if err != nil {
			wrong(field, "%v", err)
			return amount.Money{}
		}
		m, exact := x.ExactMoney()
		if !exact {
			wrong(field, "at most six decimals")
		}
		return m
	}
	if price == "" {
		wrong("price", "no price stands here")
	} else if o.Price = money("price", price); !o.Price.IsPositive() && len(out.Wrong) == 0 {
		wrong("price", "%s is no price: leave the row out, or put one", price)
	}
	if text := r.cell(cells, "delivery"); text != "" {
		o.Delivery = money("delivery", text)
	}
	if text := strings.TrimSuffix(r.cell(cells, "tax"), "%"); text != "" {
		x, err := r.figure(text)
		if err != nil {
			wrong("tax_percent", "%v", err)
		}
		o.TaxPercent = x.Over(amount.Whole(100)).Percent()
		o.WithTax = slices.Contains([]string{"yes", "y", "true", "1", "incl", "included"},
			strings.ToLower(r.cell(cells, "in")))
	}
	r.pack(cells, o, wrong)
	r.days(cells, o, wrong)
	return out, true
}

// days reads from when an offer holds, and until when.
func (r *priceReader) days(cells []string, o *pantry.PriceOffer, wrong func(field, format string, args ...any)) {
	o.Date = r.way.Date
	for _, x := range []struct {
		field, name string
		into        *day.Day
	}{{"date", "date", &o.Date}, {"until", "valid_until", &o.ValidUntil}} {
		text := r.cell(cells, x.field)
		if text == "" {
			continue
		}
		var err error
		if *x.into, err = r.day(text); err != nil {
			wrong(x.name, "%v", err)
		}
	}
}

// WritePrices writes a price list with a header.
func WritePrices(w io.Writer, rows []catalog.PriceRow) error {
	c := csv.NewWriter(w)
	if err := c.Write(PriceColumns); err != nil {
		return err
	}
	for _, r := range rows {
		o := r.Offer
		in := ""
		if o.WithTax {
			in = "yes"
		}
		if err := c.Write([]string{guard(r.Ingredient), guard(o.Supplier), o.PackAmount.String(), o.PackUnit,
			o.Price.String(), string(o.Date), string(o.ValidUntil), noZero(o.Delivery.String()),
			noZero(o.TaxPercent.String()),
			in}); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}

// noZero leaves a cell empty in which nothing is said.
func noZero(s string) string {
	if s == "0" {
		return ""
	}
	return s
}

// guard keeps a spreadsheet from running a cell as a formula.
func guard(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r\n", rune(s[0])) {
		return "'" + s
	}
	return s
}
