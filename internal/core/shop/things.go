package shop

import (
	"fmt"
	"slices"
	"strings"

	"gallipot/internal/core/amount"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/declaration"
	"gallipot/internal/core/field"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/labelart"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pack"
	"gallipot/internal/core/pantry"
)

// checkAllowable refuses a table of variations that is none.
func (s Settings) checkAllowable() []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	before := 0.0
	for i, step := range s.Allowable {
		at := fmt.Sprintf("allowable.%d", i)
		switch {
		case !(step.To > before && step.To <= 100_000):
			bad(at, "the steps rise, up to 100 kg")
		case (step.Fixed > 0) == (step.Percent > 0):
			bad(at, "a share or an amount, one of them")
		case !(step.Percent >= 0 && step.Percent <= 50 && step.Fixed >= 0 && step.Fixed < step.To):
			bad(at, "less than the jar holds")
		}
		before = step.To
	}
	if n := len([]rune(strings.TrimSpace(s.AllowableSource))); len(s.Allowable) > 0 && (n == 0 || n > 200) {
		bad("allowable_source", "say where the table stands, in at most 200 characters")
	}
	return errs
}

const (
	mostDevices = 20
	mostJars    = 40
)

// UsualDevices are what a shop has before it says otherwise.
func UsualDevices(division amount.Grams) []Device {
	return []Device{
		{ID: "bench", Kind: Scale, Name: "Bench scale", Division: division, Capacity: amount.G(15_000)},
		{ID: "fine", Kind: Scale, Name: "Fine scale", Division: amount.MustGrams("0.01"), Capacity: amount.G(500)},
		{ID: "meter", Kind: Meter, Name: "Bench meter"},
		{ID: "probe", Kind: Probe, Name: "Probe"},
		{ID: "cold", Kind: Logger, Name: "Cold room"},
		{ID: "printer", Kind: Printer, Name: "Label printer"},
	}
}

// WithThings fills in what the shop has where nobody said, and the division that its bench scale gives.
func (s Settings) WithThings() Settings {
	if s.Devices == nil {
		s.Devices = UsualDevices(s.ScaleDivision)
	}
	s.Jars, s.Stocks = WithJars(s.Jars), withStocks(s.Stocks)
	if i := slices.IndexFunc(s.Devices, func(d Device) bool { return d.Kind == Scale }); i >= 0 {
		s.ScaleDivision = s.Devices[i].Division
	}
	return s
}

// Scales are the bench scale and the finest beside it; that one has no division where there is none finer.
func (s Settings) Scales() (on, fine bench.Scale) {
	on.Division = s.ScaleDivision
	first := true
	for _, d := range s.Devices {
		if d.Kind != Scale {
			continue
		}
		x := bench.Scale{Name: d.Name, Division: d.Division, Capacity: d.Capacity}
		switch {
		case first:
			on, first = x, false
		case x.Division.Cmp(on.Division) < 0 && (fine.Division.IsZero() || x.Division.Cmp(fine.Division) < 0):
			fine = x
		}
	}
	return on, fine
}

func (s Settings) checkDevices() []pantry.FieldError {
	var errs field.Errors
	bad := func(i int, name, format string, args ...any) {
		errs.Bad(fmt.Sprintf("devices[%d].%s", i, name), format, args...)
	}
	if len(s.Devices) > mostDevices {
		return []pantry.FieldError{{Field: "devices", Message: fmt.Sprintf("at most %d devices", mostDevices)}}
	}
	scales := 0
	for i, d := range s.Devices {
		if n := len([]rune(strings.TrimSpace(d.Name))); n == 0 || n > 40 {
			bad(i, "name", "a name of 1 to 40 characters")
		}
		if d.ID == "" || len(d.ID) > 40 || slices.ContainsFunc(s.Devices[:i],
			func(o Device) bool { return o.ID == d.ID }) {
			bad(i, "id", "every device has an id of its own")
		}
		if d.Address != "" && !isAddress(d.Address) {
			bad(i, "address", "an address with its port, as in 192.168.1.20:4001; empty for the stand-in")
		}
		switch d.Kind {
		case Scale:
			scales++
			if !d.Division.IsPositive() || d.Division.Float() > 100 {
				bad(i, "division_g", "a scale's division lies above 0 and up to 100 g")
			}
			if d.Capacity.IsNegative() || d.Capacity.Float() > amount.MaxGrams ||
				d.Capacity.IsPositive() && d.Capacity.Cmp(d.Division) <= 0 {
				bad(i, "capacity_g", "what it takes at most, in grams")
			}
		case Meter, Probe, Logger, Printer:
		default:
			bad(i, "kind", "scale, meter, probe, logger or printer")
		}
	}
	if scales == 0 && s.Devices != nil {
		errs = append(errs, pantry.FieldError{Field: "devices", Message: "a shop weighs on one scale at least"})
	}
	return errs
}

func (s Settings) checkJars() []pantry.FieldError {
	return checkEach("jars", s.Jars, mostJars, "jars", pack.Jar.Check, func(j pack.Jar) string { return j.ID })
}

// checkEach checks the things on a list, no two of which may share an id. A mistake is reported at its place under a
// field.
func checkEach[T any](under string, list []T, most int, called string, check func(T, string) []pantry.FieldError,
	id func(T) string) []pantry.FieldError {
	var errs field.Errors
	if len(list) > most {
		errs.Bad(under, "at most %d %s", most, called)
		return errs
	}
	ids := map[string]bool{}
	for i, x := range list {
		at := fmt.Sprintf("%s[%d].", under, i)
		errs = append(errs, check(x, at)...)
		if ids[id(x)] {
			errs.Bad(at+"name", "two of one name")
		}
		ids[id(x)] = true
	}
	return errs
}

// WithJars are the shop's jars, each with an id; where nobody said, the usual ones.
func WithJars(jars []pack.Jar) []pack.Jar {
	if jars == nil {
		return pack.Usual()
	}
	out := slices.Clone(jars)
	for i, j := range out {
		if j.ID == "" {
			out[i].ID = field.Slug(j.Name)
		}
	}
	return out
}

func withStocks(stocks []labelart.Stock) []labelart.Stock {
	if stocks == nil {
		return labelart.UsualStocks()
	}
	out := slices.Clone(stocks)
	for i, k := range out {
		if k.ID == "" {
			out[i].ID = field.Slug(k.Name)
		}
	}
	return out
}

const mostStocks = 40

func (s Settings) checkStocks() []pantry.FieldError {
	return checkEach("stocks", s.Stocks, mostStocks, "kinds of paper", labelart.Stock.Check,
		func(k labelart.Stock) string { return k.ID })
}

// checkOnLabels checks what only labels bear.
func (s Settings) checkOnLabels() []pantry.FieldError {
	var errs field.Errors
	bad := errs.Bad
	if len([]rune(s.Country)) > 60 {
		bad("country", "at most 60 characters")
	}
	for r, text := range s.LabelAddresses {
		if len([]rune(text)) > 300 {
			bad("label_addresses."+strings.ToLower(string(r)), "at most 300 characters")
		}
	}
	if err := (labelart.Design{Form: labelart.Plain, Colour: s.Colour}).Check(); err != nil {
		bad("colour", err.Error())
	}
	return errs
}

// Jar is the jar of an id; one without sizes where the shop has none of it.
func (s Settings) Jar(id string) pack.Jar {
	if i := slices.IndexFunc(s.Jars, func(j pack.Jar) bool { return j.ID == id }); i >= 0 && id != "" {
		return s.Jars[i]
	}
	return pack.Jar{}
}

// leastFull is the share of its brim to which a jar is filled that suits a fill.
const leastFull = 0.8

// Suits is the jar that a fill suits, where one of the shop does and no other: it is filled well, and holds it.
func (s Settings) Suits(v formula.Version) string {
	ml := v.FillVolume()
	if ml == 0 {
		ml = v.NetGrams().Float() // near enough to tell jars apart
	}
	var found []string
	for _, j := range s.Jars {
		if j.Sized() && ml <= j.ML && ml >= leastFull*j.ML {
			found = append(found, j.ID)
		}
	}
	if len(found) != 1 {
		return ""
	}
	return found[0]
}

// Stock is the paper of an id.
func (s Settings) Stock(id string) (labelart.Stock, bool) {
	if i := slices.IndexFunc(s.Stocks, func(k labelart.Stock) bool { return k.ID == id }); i >= 0 && id != "" {
		return s.Stocks[i], true
	}
	return labelart.Stock{}, false
}

// Business is the name and address on labels under a law, and what is wrong with it.
func (s Settings) Business(under *law.Law) (text, wrong string) {
	home, err := law.Of(s.Regime)
	if err != nil {
		home = under
	}
	country := s.Country
	if country == "" {
		country = home.Country
	}
	if own := strings.TrimSpace(s.LabelAddresses[under.Regime]); own != "" {
		return declaration.Business(under, s.Name, own, under.Country)
	}
	return declaration.Business(under, s.Name, s.Address, country)
}
