package interchange

import (
	"fmt"
	"regexp"
	"strings"
	"time"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
)

// twoWays is a figure that one locale reads as a thousand and another as a fraction.
var twoWays = regexp.MustCompile(`^-?[1-9][0-9]{0,2}[.,][0-9]{3}$`)

// thousands is a figure with marks between its thousands and another before its fraction.
var thousands = regexp.MustCompile(`^(-?[0-9]{1,3}(?:([.,'\x{2019}])[0-9]{3})+)(?:([.,])([0-9]+))?$`)

// figureOf reads a figure as people type it into tables: point or comma, thousands, a currency's sign, °C or % behind
// it. Nil for an empty cell. A figure that can be read two ways is an error, as is anything left over.
func figureOf(text string) (*float64, error) {
	s := strings.TrimSpace(strings.Trim(strings.TrimSpace(text), "£$€ "))
	for _, tail := range []string{"°C", "°c", "C", "%", "GBP", "USD", "EUR"} {
		s = strings.TrimSpace(strings.TrimSuffix(s, tail))
	}
	if s == "" && strings.TrimSpace(text) == "" {
		return nil, nil
	}
	if twoWays.MatchString(s) {
		return nil, fmt.Errorf("%s can be read two ways: as %s or as %s", s,
			strings.NewReplacer(".", "", ",", "").Replace(s),
			strings.Replace(s, ",", ".", 1))
	}
	if m := thousands.FindStringSubmatch(s); m != nil && m[2] != m[3] {
		s = strings.ReplaceAll(m[1], m[2], "")
		if m[4] != "" {
			s += "." + m[4]
		}
	}
	x, err := amount.ParseNumber(s)
	if err != nil {
		return nil, fmt.Errorf("%q is not a number", text)
	}
	f := x.Float()
	return &f, nil
}

// days are the ways in which a day is written without doubt.
var days = []string{day.Layout, "2 Jan 2006", "2 January 2006", "2-Jan-06", "2-Jan-2006", "02.01.2006",
	"2.1.2006",
	"Jan 2, 2006", "January 2, 2006"}

var slashed = regexp.MustCompile(`^([0-9]{1,2})[/-]([0-9]{1,2})[/-]([0-9]{4}|[0-9]{2})$`)

// dayOf reads a day as it stands on a delivery note. 03/04/2027 can be read two ways and is an error; the text is
// answered with it.
func dayOf(text string) (day.Day, error) {
	text = strings.TrimSpace(text)
	for _, layout := range days {
		if d, err := time.Parse(layout, text); err == nil {
			return day.Of(d), nil
		}
	}
	m := slashed.FindStringSubmatch(text)
	if m == nil {
		return day.Day(text), fmt.Errorf("%q is no day; write it as 2027-04-25", text)
	}
	var a, b, year int
	if _, err := fmt.Sscan(m[1]+" "+m[2]+" "+m[3], &a, &b, &year); err != nil {
		return day.Day(text), fmt.Errorf("%q is no day; write it as 2027-04-25", text)
	}
	if year < 100 {
		year += 2000
	}
	switch {
	case a <= 12 && b <= 12 && a != b:
		return day.Day(text), fmt.Errorf("%s can be read two ways: write %04d-%02d-%02d or %04d-%02d-%02d", text,
			year, b, a,
			year, a, b)
	case a <= 12 && b > 12:
		a, b = b, a
	}
	d := time.Date(year, time.Month(b), a, 0, 0, 0, 0, time.UTC)
	if d.Day() != a || int(d.Month()) != b {
		return day.Day(text), fmt.Errorf("%q is no day", text)
	}
	return day.Of(d), nil
}
