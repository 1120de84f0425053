package declaration

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"gallipot/internal/core/law"
)

var (
	postcodeUK = regexp.MustCompile(`(?i)\b[a-z]{1,2}[0-9][a-z0-9]? ?[0-9][a-z]{2}\b`)
	zipUS      = regexp.MustCompile(`\b[A-Z]{2},? +[0-9]{5}(-[0-9]{4})?\b`)
)

// Business is the name and address on a label, a line each, and what is wrong with it, empty where it will do. The
// country stands under an address that lies outside of the law's own.
func Business(l *law.Law, shop, address, country string) (text, wrong string) {
	parts := addressParts(address)
	shop = strings.TrimSpace(shop)
	if len(parts) > 0 && strings.EqualFold(parts[0], shop) {
		parts = parts[1:]
	}
	if country == "" {
		country = l.Country
	}
	home := strings.EqualFold(country, l.Country)
	says := slices.ContainsFunc(parts, func(p string) bool { return strings.EqualFold(p, country) })
	lines := []string{}
	if shop != "" {
		lines = append(lines, shop)
	}
	if len(parts) > 0 {
		lines = append(lines, strings.Join(parts, ", "))
	}
	if !home && !says && len(parts) > 0 {
		lines = append(lines, country)
	}
	return strings.Join(lines, "\n"), addressWrong(l, shop, parts, country, home)
}

// addressParts splits an address at lines and commas.
func addressParts(address string) []string {
	var out []string
	for _, p := range strings.FieldsFunc(address, func(r rune) bool { return r == '\n' || r == ',' }) {
		if p = strings.TrimSpace(p); p != "" {
			out = append(out, p)
		}
	}
	return out
}

func addressWrong(l *law.Law, shop string, parts []string, country string, home bool) string {
	whole := strings.Join(parts, ", ")
	letters := 0
	for _, r := range whole {
		if unicode.IsLetter(r) {
			letters++
		}
	}
	switch {
	case shop == "":
		return "Enter the shop's name in Shop settings."
	case len(parts) < 2 || letters < 8:
		return "Enter the whole address in Shop settings: street or place, town, and what post needs to find it."
	case l.HomeAddress && !home:
		return "A " + l.Title + " label names an address in the " + l.Country + "; yours lies in " + country +
			". Enter the one for it in Shop settings."
	case home && l.Country == countryUK && !postcodeUK.MatchString(whole):
		return "The address has no postcode: enter it in Shop settings."
	case home && l.Country == countryUS && !zipUS.MatchString(whole):
		return "The address has no state and ZIP code, as in ME 04101: enter them in Shop settings."
	}
	return ""
}

const (
	countryUK = "United Kingdom"
	countryUS = "United States"
)
