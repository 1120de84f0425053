// Package interchange reads and writes Gallipot's files: the bundle as JSON, price lists as CSV.
package interchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sync"
	"unicode/utf8"

	"gallipot/docs/formats"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/law"
	"gallipot/internal/core/pantry"
	"gallipot/internal/upcast"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// MaxBundleBytes bounds a bundle.
const MaxBundleBytes = 32 << 20

var bundleSchema = sync.OnceValues(func() (*jsonschema.Schema, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(formats.BundleSchema))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("bundle.schema.json", doc); err != nil {
		return nil, err
	}
	return c.Compile("bundle.schema.json")
})

// ReadBundle reads a bundle and checks its shape against the schema: unknown fields, missing fields and wrong types are
// named with their path in an app.Problem. References and amounts are checked by app.Bundle.Check.
func ReadBundle(r io.Reader) (office.Bundle, error) {
	raw, err := io.ReadAll(io.LimitReader(r, MaxBundleBytes+1))
	if err != nil {
		return office.Bundle{}, fmt.Errorf("read bundle: %w", err)
	}
	if len(raw) > MaxBundleBytes {
		return office.Bundle{}, problem("bundle", "a bundle has at most 32 MB")
	}
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(raw) {
		return office.Bundle{}, problem("bundle", "the file is not UTF-8 text")
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		return office.Bundle{}, problem("bundle", "the file is not JSON: %v", err)
	}
	doc = present(doc)
	schema, err := bundleSchema()
	if err != nil {
		return office.Bundle{}, fmt.Errorf("bundle schema: %w", err)
	}
	if err := schema.Validate(doc); err != nil {
		var v *jsonschema.ValidationError
		if !errors.As(err, &v) {
			return office.Bundle{}, err
		}
		return office.Bundle{}, kernel.Problem{Kind: kernel.Invalid, Code: "bundle_shape",
			Message: "This is no bundle that Gallipot can read; nothing was stored.", Fields: shapeErrors(v)}
	}
	if raw, err = json.Marshal(doc); err != nil {
		return office.Bundle{}, fmt.Errorf("read bundle: %w", err)
	}
	b := office.Bundle{}
	if err := json.Unmarshal(raw, &b); err != nil {
		return office.Bundle{}, problem("bundle", "%v", err)
	}
	if errs := unknownLaws(b); len(errs) > 0 {
		return office.Bundle{}, kernel.Problem{Kind: kernel.Invalid, Code: "bundle_shape",
			Message: "This is no bundle that Gallipot can read; nothing was stored.", Fields: errs}
	}
	return complete(b), nil
}

// unknownLaws names where a bundle speaks of a country that this program does not know.
func unknownLaws(b office.Bundle) []pantry.FieldError {
	var errs []pantry.FieldError
	check := func(r law.Regime, field string) {
		if _, err := law.Of(r); err != nil {
			errs = append(errs, pantry.FieldError{Field: field, Message: err.Error()})
		}
	}
	check(b.Shop.Regime, "shop.regime")
	for i, l := range b.Labels {
		check(l.Regime, fmt.Sprintf("labels[%d].regime", i))
	}
	return errs
}

// present takes a bundle of an older format to the present one. What has not the shape that is asked is left as it is,
// for the schema to name.
func present(doc any) any {
	b, ok := doc.(upcast.Doc)
	if !ok || b["format_version"] != json.Number("1") {
		return doc
	}
	b["format_version"] = json.Number("2")
	each := func(list any, turn func(upcast.Doc)) {
		items, _ := list.([]any)
		for _, x := range items {
			if d, ok := x.(upcast.Doc); ok {
				turn(d)
			}
		}
	}
	each(b["ingredients"], upcast.Ingredient)
	each(b["formulas"], func(f upcast.Doc) { each(f["versions"], upcast.Version) })
	each(b["trials"], func(t upcast.Doc) { upcast.Amounts(t) })
	upcast.Amounts(b["shop"])
	return b
}

// complete fills in what a bundle may leave out.
func complete(b office.Bundle) office.Bundle {
	b.Shop = b.Shop.WithDefaults()
	for i := range b.Ingredients {
		g := &b.Ingredients[i].Ingredient
		g.Flags = list(g.Flags)
		if g.Offers == nil {
			g.Offers = []pantry.PriceOffer{}
		}
	}
	for i := range b.Formulas {
		for j := range b.Formulas[i].Versions {
			v := &b.Formulas[i].Versions[j]
			if v.Packaging == nil {
				v.Packaging = []formula.PackagingItem{}
			}
			v.Keeping.Styles = list(v.Keeping.Styles)
			if v.PHLimit == 0 {
				v.PHLimit = formula.DefaultPHLimit
			}
			if v.PHTarget == 0 {
				v.PHTarget = min(formula.DefaultPHTarget, v.PHLimit)
			}
			if v.CostingJars == 0 {
				v.CostingJars = formula.Blank("").CostingJars
			}
			if v.Keeping.Asked == "" {
				v.Keeping.Asked = "chilled"
			}
		}
	}
	if b.Labels == nil {
		b.Labels = []office.BundleLabel{}
	}
	return b
}

func list(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func problem(field, format string, args ...any) error {
	msg := fmt.Sprintf(format, args...)
	return kernel.Problem{Kind: kernel.Invalid, Code: "bundle_shape", Message: msg,
		Fields: []pantry.FieldError{{Field: field, Message: msg}}}
}

var english = message.NewPrinter(language.English)

// shapeErrors lists the innermost causes with their paths.
func shapeErrors(v *jsonschema.ValidationError) []pantry.FieldError {
	if len(v.Causes) > 0 {
		var out []pantry.FieldError
		for _, c := range v.Causes {
			out = append(out, shapeErrors(c)...)
			if len(out) >= 20 {
				return out[:20]
			}
		}
		return out
	}
	path := "bundle"
	for _, p := range v.InstanceLocation {
		path += "." + p
	}
	return []pantry.FieldError{{Field: path, Message: v.ErrorKind.LocalizedString(english)}}
}

// WriteBundle writes a bundle as indented JSON.
func WriteBundle(w io.Writer, b office.Bundle) error {
	e := json.NewEncoder(w)
	e.SetIndent("", " ")
	e.SetEscapeHTML(false)
	return e.Encode(b)
}
