package interchange

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/match"
	"gallipot/internal/core/pantry"
)

// figures are numbers in a text, with what stands between their thousands.
var figures = regexp.MustCompile(`[0-9]+(?:[.,'\x{2019}\x{a0}\x{202f} ][0-9]+)*`)

// signOf are the signs of currencies in price lists, by their codes (ISO 4217).
var signOf = map[string]string{"GBP": "£", "USD": "$", "EUR": "€"}

// sign notes a currency that a text is in.
func (r *priceReader) sign(text string) {
	for code, sign := range signOf {
		if strings.Contains(text, sign) || strings.Contains(strings.ToUpper(text), code) {
			r.signs[code] = true
		}
	}
}

// fractionOf is the mark before the fraction of a figure where only one way of reading it is possible; empty where it
// has none, or can be read two ways.
func fractionOf(f string) string {
	f = spaceless(f)
	last := strings.LastIndexAny(f, ".,")
	if last < 0 || twoWays.MatchString(f) {
		return ""
	}
	mark, other := f[last:last+1], "."
	if mark == "." {
		other = ","
	}
	switch {
	case strings.Count(f, mark) > 1: // 1.234.567
		return other
	case strings.Contains(f, other), len(f)-last-1 != 3, strings.HasPrefix(f, "0"):
		return mark
	}
	return ""
}

var spaces = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "\u2019", "")

func spaceless(s string) string { return spaces.Replace(s) }

// figure reads a figure with a currency's sign, thousands and a fraction. One that can be read two ways is read as the
// file's way says; where that says nothing it is asked, and answered as if its mark stood before a fraction.
func (r *priceReader) figure(text string) (amount.Exact, error) {
	s := text
	for code, sign := range signOf {
		s = strings.ReplaceAll(s, sign, "")
		s = strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(s), code), code))
	}
	s = spaceless(s)
	mark := fractionOf(s)
	if twoWays.MatchString(s) {
		if mark = r.way.Decimal; mark == "" {
			r.twoWays = s
			return amount.Exact{}, fmt.Errorf("%s can be read two ways", s)
		}
	}
	if mark == "," {
		s = strings.ReplaceAll(strings.ReplaceAll(s, ".", ""), ",", ".")
	} else if mark == "." {
		s = strings.ReplaceAll(s, ",", "")
	}
	x, err := amount.ParseNumber(s)
	if err != nil {
		return amount.Exact{}, fmt.Errorf("%q is no number", text)
	}
	return x, nil
}

// orderOf is whether the day or the month stands first in a day that can be read one way only.
func orderOf(text string) string {
	m := slashed.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return ""
	}
	var a, b int
	if _, err := fmt.Sscan(m[1]+" "+m[2], &a, &b); err != nil {
		return ""
	}
	switch {
	case a > 12 && b <= 12:
		return "day"
	case b > 12 && a <= 12:
		return "month"
	}
	return ""
}

// day reads a day; one that can be read two ways as the file's way says, else it is asked.
func (r *priceReader) day(text string) (day.Day, error) {
	day, err := dayOf(text)
	if err == nil {
		return day, nil
	}
	m := slashed.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil || orderOf(text) != "" {
		return "", err
	}
	if r.way.Days == "" {
		r.someDay = text
		return "", err
	}
	first, second := m[1], m[2]
	if r.way.Days == "month" {
		first, second = second, first
	}
	year := m[3]
	if len(year) == 2 {
		year = "20" + year
	}
	return dayOf(fmt.Sprintf("%s.%s.%s", two(first), two(second), year))
}

func two(s string) string {
	if len(s) == 1 {
		return "0" + s
	}
	return s
}

var packText = regexp.MustCompile(`^(?:(` + figures.String() + `)\s*[xX×*]\s*)?(` + figures.String() + `)?\s*([\pL][\pL. ]*)?$`)

// pack reads how much a pack holds, from one cell or from two: 5 and kg, 6 x 750 ml, 1 gal.
func (r *priceReader) pack(cells []string, o *pantry.PriceOffer, wrong func(field, format string, args ...any)) {
	text, unit := r.cell(cells, "pack"), r.cell(cells, "unit")
	_, hasPack := r.table.Columns["pack"]
	if text == "" && (!hasPack && unit != "" || r.each != "") {
		text = "1"
	}
	m := packText.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil || text == "" || m[2] == "" && m[3] == "" {
		wrong("pack_amount", "how much is in a pack? 5 kg, 6 x 750 ml, 12 pieces")
		return
	}
	count := amount.Whole(1)
	for _, f := range m[1:3] {
		if f == "" {
			continue
		}
		x, err := r.figure(f)
		if err != nil {
			wrong("pack_amount", "%v", err)
			return
		}
		count = count.Times(x)
	}
	if m[2] == "" && unit != "" {
		wrong("pack_amount", "%q is no number", text)
		return
	}
	one := amount.Exact{}
	if o.PackUnit, one = r.unit(cmp.Or(m[3], unit, r.each), wrong); one.IsPositive() {
		o.PackAmount, _ = count.Times(one).Round(3).Quantity()
	}
}

// unit is what a pack is counted in, and how many of that one of a word is; empty where the word is asked about.
func (r *priceReader) unit(word string, wrong func(field, format string, args ...any)) (unit string, of amount.Exact) {
	u, known := amount.WrittenUnit(word)
	counted := map[string]string{amount.OfMass: "g", amount.OfVolume: "ml", amount.OfCount: "piece"}[u.Of]
	switch {
	case !known || counted == "":
		wrong("pack_unit", "how much is a %q? Write it in g, kg, ml, L or pieces", word)
	case u.TwoWays() && r.way.Gallon == "":
		r.gallons = word
		wrong("pack_unit", "a %s is not the same everywhere", strings.ToLower(word))
		return counted, amount.Exact{}
	}
	return counted, u.In(amount.Gallon(r.way.Gallon))
}

// asker asks something about the whole file.
type asker func(key, text, suggested string, options ...match.PriceOption)

// asks are what the whole file leaves open.
func (r *priceReader) asks() {
	ask := func(key, text, suggested string, options ...match.PriceOption) {
		r.table.Asks = append(r.table.Asks, match.PriceAsk{Key: key, Text: text, Options: options,
			Suggested: suggested})
	}
	r.askColumns(ask)
	r.askFigures(ask)
	r.askMore(ask)
}

// askColumns asks where what is needed stands.
func (r *priceReader) askColumns(ask asker) {
	for _, need := range []struct{ field, text string }{{"ingredient", "Which column says what it is?"},
		{"price", "Which column holds the price?"}, {"pack", "Which column says how much is in a pack?"}} {
		_, has := r.table.Columns[need.field]
		if _, unit := r.table.Columns["unit"]; has || need.field == "pack" && (r.each != "" || unit) {
			continue
		}
		var options []match.PriceOption
		for i, h := range r.table.Header {
			options = append(options, match.PriceOption{Value: fmt.Sprint(i), Text: h})
		}
		ask("column:"+need.field, need.text, "", options...)
	}
}

// more is the one of two that more speaks for; empty where as much speaks for both.
func more(count map[string]int, a, b string) string {
	switch {
	case count[a] > count[b]:
		return a
	case count[b] > count[a]:
		return b
	}
	return ""
}

// askFigures asks about figures, days and units that can be read two ways.
func (r *priceReader) askFigures(ask asker) {
	if r.twoWays != "" {
		mark, thousand := r.twoWays[len(r.twoWays)-4:len(r.twoWays)-3], "."
		if mark == "." {
			thousand = ","
		}
		ask("decimal", fmt.Sprintf("%s can be read two ways. Which is it?", r.twoWays), more(r.points, mark, thousand),
			match.PriceOption{Value: mark, Text: strings.Replace(r.twoWays, ",", ".", 1)},
			match.PriceOption{Value: thousand, Text: strings.NewReplacer(".", "", ",", "").Replace(r.twoWays)})
	}
	if r.someDay != "" {
		ask("days", fmt.Sprintf("%s can be read two ways. Which stands first?", r.someDay), more(r.orders, "day",
			"month"),
			match.PriceOption{Value: "day", Text: "the day"}, match.PriceOption{Value: "month", Text: "the month"})
	}
	if r.gallons != "" {
		ask("gallon", fmt.Sprintf("A %s is not the same everywhere. Whose is it?", strings.ToLower(r.gallons)),
			string(r.settings.OwnGallon()), match.PriceOption{Value: "us", Text: "of the US: a gallon of 3.785 L"},
			match.PriceOption{Value: "imperial", Text: "imperial: a gallon of 4.546 L"})
	}
}

// askMore asks what no column tells, and about prices in another currency.
func (r *priceReader) askMore(ask asker) {
	lacks := func(field string, get func(match.PriceLine) string) bool {
		return slices.ContainsFunc(r.table.Rows, func(x match.PriceLine) bool {
			wrong := slices.ContainsFunc(x.Wrong, func(e pantry.FieldError) bool { return e.Field == field })
			return get(x) == "" && !wrong
		})
	}
	if lacks("supplier", func(x match.PriceLine) string { return x.Offer.Supplier }) {
		ask("supplier", "Whose prices are these?", "")
	}
	if lacks("date", func(x match.PriceLine) string { return string(x.Offer.Date) }) {
		ask("date", "From which day do they hold?", "")
	}
	own := r.settings.Currency
	for _, code := range slices.Sorted(maps.Keys(r.signs)) {
		if code != own && r.way.Currency != code {
			ask("currency", fmt.Sprintf("The file is in %s, and this shop counts in %s. Nothing is converted here.",
				code, own), "", match.PriceOption{Value: code, Text: "take the figures as " + own})
			return
		}
	}
}
