package main

import (
	"fmt"
	"go/types"
	"regexp"
	"slices"
	"strings"
)

// In the schema of bundles a shape says in its $comment which Go type it follows, and after "without" which of the
// type's fields do not travel.
var (
	shapeHead = regexp.MustCompile(`(?m)^  "(\w+)": \{\n`)
	follows   = regexp.MustCompile(`(?m)^   "\$comment": "(\w+\.\w+)(?: without ([\w, ]+))?",\n`)
	entry     = regexp.MustCompile(`(?m)^    "(\w+)": \{`)
)

// inBundle brings the shapes of the bundle's schema up to their Go types.
func inBundle(text string, known map[string]*types.Named) (string, error) {
	at := strings.Index(text, "\n \"$defs\": {\n")
	if at < 0 {
		return "", fmt.Errorf("no $defs")
	}
	before, parts, names := apart(text[at:], shapeHead, follows)
	out := text[:at] + before
	for _, part := range parts {
		if t := follows.FindStringSubmatch(part); t != nil {
			n := known[t[1]]
			if n == nil {
				return "", fmt.Errorf("there is no Go type %s", t[1])
			}
			if s, ok := n.Underlying().(*types.Struct); ok {
				var err error
				if part, err = followInBundle(part, t[1], t[2], fieldsOf(s), names); err != nil {
					return "", err
				}
			}
		}
		out += part
	}
	return out, nil
}

// followInBundle adds to a shape what its type has and it lacks, and takes out what the type has not.
func followInBundle(part, goType, without string, fields []field, names map[string]string) (string, error) {
	const opens, closes = "\n   \"properties\": {\n", "\n   }"
	open := strings.Index(part, opens) + len(opens)
	shut := open + strings.Index(part[open-1:], closes) - 1
	list := part[open:shut]
	stay := strings.Split(without, ", ")
	starts := entry.FindAllStringSubmatchIndex(list, -1)
	there := map[string]bool{}
	var kept []string
	for i, m := range starts {
		end := len(list)
		if i+1 < len(starts) {
			end = starts[i+1][0]
		}
		name := list[m[2]:m[3]]
		there[name] = true
		if slices.ContainsFunc(fields, func(f field) bool { return f.name == name }) {
			kept = append(kept, strings.TrimRight(list[m[0]:end], ",\n"))
		}
	}
	for _, f := range fields {
		if there[f.name] || slices.Contains(stay, f.name) {
			continue
		}
		said, err := inJSON(f.of, names, "     ")
		if err != nil {
			return "", fmt.Errorf("%s.%s: %w", goType, f.name, err)
		}
		kept = append(kept, fmt.Sprintf("    %q: {\n%s\n    }", f.name, said))
	}
	return part[:open] + strings.Join(kept, ",\n") + part[shut:], nil
}

// inJSON is what the schema of bundles says of a type, each line behind the indent.
func inJSON(t types.Type, names map[string]string, indent string) (string, error) {
	plain := func(kind string) (string, error) { return indent + `"type": "` + kind + `"`, nil }
	within := func(kind, key string, of types.Type) (string, error) {
		inner, err := inJSON(of, names, indent+" ")
		return fmt.Sprintf("%s\"type\": %q,\n%s%q: {\n%s\n%s}", indent, kind, indent, key, inner, indent), err
	}
	switch t := types.Unalias(t).(type) {
	case *types.Pointer:
		return inJSON(t.Elem(), names, indent)
	case *types.Slice:
		return within("array", "items", t.Elem())
	case *types.Map:
		return within("object", "additionalProperties", t.Elem())
	case *types.Named:
		key := t.Obj().Pkg().Name() + "." + t.Obj().Name()
		switch {
		case names[key] != "":
			return indent + `"$ref": "#/$defs/` + names[key] + `"`, nil
		case key == "time.Time":
			return plain("string")
		case t.Obj().Pkg().Name() == "amount":
			return plain("number")
		}
		if _, ok := t.Underlying().(*types.Struct); !ok {
			return inJSON(t.Underlying(), names, indent)
		}
		return "", fmt.Errorf("no shape follows the Go type %s yet", key)
	case *types.Basic:
		switch {
		case t.Info()&types.IsString != 0:
			return plain("string")
		case t.Info()&types.IsBoolean != 0:
			return plain("boolean")
		case t.Info()&types.IsInteger != 0:
			return plain("integer")
		case t.Info()&types.IsFloat != 0:
			return plain("number")
		}
	}
	return "", fmt.Errorf("the schema has no word for %s", t)
}
