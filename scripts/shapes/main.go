// Shapes writes what the Go types say into the contract and into the schema of bundles: a field of a struct is written
// once, in Go, and `make gen` carries it on. It adds properties that a schema lacks and takes out those that the type
// no longer has; what is said of a property there (its bounds, its description) stays. With -check it changes nothing
// and fails where something would change.
package main

import (
	"flag"
	"fmt"
	"go/types"
	"os"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/tools/go/packages"
)

const (
	contract = "api/openapi.yaml"
	bundle   = "docs/formats/bundle.schema.json"
)

func main() {
	check := flag.Bool("check", false, "change nothing; fail where something would change")
	flag.Parse()
	if err := run(*check); err != nil {
		fmt.Fprintln(os.Stderr, "shapes:", err)
		os.Exit(1)
	}
}

func run(check bool) error {
	known, err := load()
	if err != nil {
		return err
	}
	var stale []string
	for file, write := range map[string]func(string, map[string]*types.Named) (string, error){
		contract: inContract, bundle: inBundle} {
		raw, err := os.ReadFile(file)
		if err != nil {
			return err
		}
		text, err := write(string(raw), known)
		switch {
		case err != nil:
			return fmt.Errorf("%s: %w", file, err)
		case text == string(raw):
		case check:
			stale = append(stale, file)
		default:
			if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
				return err
			}
		}
	}
	if len(stale) > 0 {
		slices.Sort(stale)
		return fmt.Errorf("%s does not say what the Go types say: run make gen", strings.Join(stale, " and "))
	}
	return nil
}

// load finds every named type of ours by its package and name, as in formula.Line.
func load() (map[string]*types.Named, error) {
	pkgs, err := packages.Load(&packages.Config{Mode: packages.NeedName | packages.NeedTypes | packages.NeedImports |
		packages.NeedDeps | packages.NeedExportFile}, "./internal/core/...", "./internal/app/...")
	if err != nil {
		return nil, err
	}
	known := map[string]*types.Named{}
	for _, p := range pkgs {
		for _, e := range p.Errors {
			return nil, e
		}
		for _, name := range p.Types.Scope().Names() {
			if n, ok := p.Types.Scope().Lookup(name).Type().(*types.Named); ok {
				known[p.Name+"."+name] = n
			}
		}
	}
	return known, nil
}

// field is one property that a struct writes.
type field struct {
	name     string
	optional bool
	of       types.Type
}

// fieldsOf are what a struct writes as JSON, with what it embeds.
func fieldsOf(s *types.Struct) []field {
	var out []field
	for i := range s.NumFields() {
		f := s.Field(i)
		name, more, _ := strings.Cut(reflect.StructTag(s.Tag(i)).Get("json"), ",")
		if name == "-" || !f.Exported() && !f.Embedded() {
			continue
		}
		if f.Embedded() && name == "" {
			of := f.Type()
			if p, ok := of.(*types.Pointer); ok {
				of = p.Elem()
			}
			if inner, ok := of.Underlying().(*types.Struct); ok {
				out = append(out, fieldsOf(inner)...)
			}
			continue
		}
		if name == "" {
			name = f.Name()
		}
		out = append(out, field{name, strings.Contains(more, "omit"), f.Type()})
	}
	return out
}

// writesItself reports whether a type has JSON of its own making, which no field tells.
func writesItself(n *types.Named) bool {
	for _, t := range []types.Type{n, types.NewPointer(n)} {
		if m, _, _ := types.LookupFieldOrMethod(t, true, n.Obj().Pkg(), "MarshalJSON"); m != nil {
			return true
		}
	}
	return false
}

// structOf is the struct of a type whose fields a schema follows; nil where it has none or writes itself.
func structOf(n *types.Named) *types.Struct {
	if n == nil || writesItself(n) {
		return nil
	}
	s, _ := n.Underlying().(*types.Struct)
	return s
}

var (
	schemaHead = regexp.MustCompile(`(?m)^    (\w+):\n`)
	goType     = regexp.MustCompile(`(?m)^      x-go-type: (\w+\.\w+)\n`)
	property   = regexp.MustCompile(`(?m)^        (\w+):`)
)

// inContract brings the schemas of the contract that name a Go type up to it.
func inContract(text string, known map[string]*types.Named) (string, error) {
	at := strings.Index(text, "\n  schemas:\n")
	if at < 0 {
		return "", fmt.Errorf("no schemas")
	}
	before, parts, names := apart(text[at:], schemaHead, goType)
	out := text[:at] + before
	for _, part := range parts {
		if t := goType.FindStringSubmatch(part); t != nil {
			if s := structOf(known[t[1]]); s != nil && strings.Contains(part, "\n      properties:\n") {
				var err error
				if part, err = follow(part, t[1], fieldsOf(s), names); err != nil {
					return "", err
				}
			}
		}
		out += part
	}
	return out, nil
}

// apart is a list of shapes one by one, each from its head to the next, what stands before the first, and the shapes'
// names by the Go types that they follow.
func apart(list string, head, follows *regexp.Regexp) (before string, parts []string, names map[string]string) {
	starts := head.FindAllStringSubmatchIndex(list, -1)
	names = map[string]string{}
	for i, m := range starts {
		end := len(list)
		if i+1 < len(starts) {
			end = starts[i+1][0]
		}
		parts = append(parts, list[m[0]:end])
		if t := follows.FindStringSubmatch(parts[i]); t != nil {
			names[t[1]] = list[m[2]:m[3]]
		}
	}
	return list[:starts[0][0]], parts, names
}

// follow adds to a schema what its type has and it lacks, and takes out what the type has not.
func follow(part, goType string, fields []field, names map[string]string) (string, error) {
	open := strings.Index(part, "\n      properties:\n") + len("\n      properties:\n")
	head, list := part[:open], part[open:]
	starts := property.FindAllStringSubmatchIndex(list, -1)
	there := map[string]bool{}
	kept := ""
	for i, m := range starts {
		end := len(list)
		if i+1 < len(starts) {
			end = starts[i+1][0]
		}
		name := list[m[2]:m[3]]
		there[name] = true
		if slices.ContainsFunc(fields, func(f field) bool { return f.name == name }) {
			kept += list[m[0]:end]
		} else {
			head = without(head, name)
		}
	}
	strict := demanding(head, fields, there)
	var stay []string
	if m := leftOut.FindStringSubmatch(head); m != nil {
		stay = strings.Split(m[1], ", ")
	}
	for _, f := range fields {
		if there[f.name] || slices.Contains(stay, f.name) {
			continue
		}
		said, err := inYAML(f.of, names)
		if err != nil {
			return "", fmt.Errorf("%s.%s: %w", goType, f.name, err)
		}
		kept += fmt.Sprintf("        %s: %s\n", f.name, said)
		if strict && !f.optional {
			head = strings.Replace(head, "]\n      properties:", ", "+f.name+"]\n      properties:", 1)
		}
	}
	return head + kept, nil
}

// demanding reports whether a schema wants every field that is always written, as what the server answers does.
func demanding(head string, fields []field, there map[string]bool) bool {
	required := requiredList.FindStringSubmatch(head)
	if required == nil {
		return false
	}
	list := strings.Split(required[1], ", ")
	return !slices.ContainsFunc(fields, func(f field) bool {
		return there[f.name] && !f.optional && !slices.Contains(list, f.name)
	})
}

// leftOut are the fields of a type that are the program's own and do not travel.
var leftOut = regexp.MustCompile(`(?m)^      x-without: \[([^\]]*)\]`)

var requiredList = regexp.MustCompile(`(?m)^      required: \[([^\]]*)\]`)

// without takes a name out of the list of required ones.
func without(head, name string) string {
	return requiredList.ReplaceAllStringFunc(head, func(line string) string {
		m := requiredList.FindStringSubmatch(line)
		list := slices.DeleteFunc(strings.Split(m[1], ", "), func(s string) bool { return s == name })
		return "      required: [" + strings.Join(list, ", ") + "]"
	})
}

// inYAML is what the contract says of a type that it has not met in a property.
func inYAML(t types.Type, names map[string]string) (string, error) {
	switch t := types.Unalias(t).(type) {
	case *types.Pointer:
		inner, err := inYAML(t.Elem(), names)
		if strings.HasPrefix(inner, "{$ref") {
			return "{nullable: true, allOf: [" + inner + "]}", err
		}
		return "{nullable: true, " + strings.TrimPrefix(inner, "{"), err
	case *types.Slice:
		inner, err := inYAML(t.Elem(), names)
		return "{type: array, maxItems: 100000, items: " + inner + "}", err
	case *types.Map:
		inner, err := inYAML(t.Elem(), names)
		return "{type: object, additionalProperties: " + inner + "}", err
	case *types.Named:
		key := t.Obj().Pkg().Name() + "." + t.Obj().Name()
		switch {
		case names[key] != "":
			return "{$ref: '#/components/schemas/" + names[key] + "'}", nil
		case key == "time.Time":
			return "{type: string, format: date-time}", nil
		case t.Obj().Pkg().Name() == "amount":
			return "{type: number, format: double}", nil
		}
		if _, ok := t.Underlying().(*types.Basic); ok {
			return inYAML(t.Underlying(), names)
		}
		return "", fmt.Errorf("no schema names the Go type %s yet", key)
	case *types.Basic:
		switch {
		case t.Info()&types.IsString != 0:
			return "{type: string, maxLength: 5000}", nil
		case t.Info()&types.IsBoolean != 0:
			return "{type: boolean}", nil
		case t.Kind() == types.Int64:
			return "{type: integer, format: int64}", nil
		case t.Info()&types.IsInteger != 0:
			return "{type: integer, minimum: -2147483648, maximum: 2147483647}", nil
		case t.Info()&types.IsFloat != 0:
			return "{type: number, format: double}", nil
		}
	}
	return "", fmt.Errorf("the contract has no word for %s", t)
}
