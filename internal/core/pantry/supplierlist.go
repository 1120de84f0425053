package pantry

import (
	"fmt"
	"strings"
)

// ListItem is one entry of a supplier's ingredient list, with its own list where it is compound.
type ListItem struct {
	Name  string     `json:"name"`
	Parts []ListItem `json:"parts,omitempty"`
}

// ListError says where a supplier's list cannot be read. At counts characters from 1.
type ListError struct {
	At      int
	Message string
}

func (e ListError) Error() string { return fmt.Sprintf("character %d: %s", e.At, e.Message) }

const maxListDepth = 6

// ParseSupplierList reads a supplier's ingredient list: entries separated by commas or semicolons, an entry's own
// list in (round) or [square] brackets, to a depth of 6. Where a list uses semicolons, commas inside an entry
// belong to the entry. The order is kept. An empty text is an empty list. It returns a ListError at the first fault.
func ParseSupplierList(text string) ([]ListItem, error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	p := listParser{runes: []rune(text)}
	items, err := p.list(0, 0)
	if err != nil {
		return nil, err
	}
	return items, nil
}

type listParser struct {
	runes []rune
	at    int
}

var closing = map[rune]rune{'(': ')', '[': ']'}

// list reads entries until the bracket that closes them, or the end of the text at depth 0.
func (p *listParser) list(depth int, end rune) ([]ListItem, error) {
	if depth > maxListDepth {
		return nil, ListError{p.at + 1, "lists nest deeper than 6"}
	}
	start := p.at
	separator := p.separator()
	var items []ListItem
	var name strings.Builder
	var parts []ListItem
	flush := func() error {
		item, err := p.entry(depth, name.String(), parts)
		if err != nil {
			return err
		}
		items = append(items, item)
		name.Reset()
		parts = nil
		return nil
	}
	for ; p.at < len(p.runes); p.at++ {
		r := p.runes[p.at]
		switch {
		case r == '(' || r == '[':
			inner, err := p.bracket(depth, strings.TrimSpace(name.String()) != "")
			if err != nil {
				return nil, err
			}
			parts = append(parts, inner...)
		case r == ')' || r == ']':
			if r != end {
				return nil, ListError{p.at + 1, "this bracket closes nothing"}
			}
			return items, flush()
		case r == separator || r == ';':
			if err := flush(); err != nil {
				return nil, err
			}
		default:
			name.WriteRune(r)
		}
	}
	if depth > 0 {
		return nil, ListError{start, "this bracket is never closed"}
	}
	// A closing full stop or separator after the last entry is no entry of its own.
	if strings.Trim(name.String(), " .\n\t") == "" && parts == nil && len(items) > 0 {
		return items, nil
	}
	return items, flush()
}

// entry is one item of a list; the last one of a whole list may end with a full stop.
func (p *listParser) entry(depth int, name string, parts []ListItem) (ListItem, error) {
	n := strings.Join(strings.Fields(name), " ")
	if depth == 0 {
		n = strings.TrimSuffix(n, ".")
	}
	if n == "" {
		return ListItem{}, ListError{p.at + 1, "an entry is empty here"}
	}
	return ListItem{n, parts}, nil
}

// bracket reads the list in the bracket that opens here, after a name.
func (p *listParser) bracket(depth int, named bool) ([]ListItem, error) {
	if !named {
		return nil, ListError{p.at + 1, "a bracket opens before any name"}
	}
	opened := p.at
	p.at++
	inner, err := p.list(depth+1, closing[p.runes[opened]])
	if err == nil && p.at >= len(p.runes) {
		err = ListError{opened + 1, "this bracket is never closed"}
	}
	return inner, err
}

// separator tells which sign parts the entries of the list that starts here: a semicolon if the list has one at its own
// level.
func (p *listParser) separator() rune {
	level := 0
	for _, r := range p.runes[p.at:] {
		switch r {
		case '(', '[':
			level++
		case ')', ']':
			level--
		case ';':
			if level == 0 {
				return ';'
			}
		}
		if level < 0 {
			break
		}
	}
	return ','
}

// PrintList writes a parsed list the way labels do: commas between, own lists in parentheses.
func PrintList(items []ListItem) string {
	var b strings.Builder
	for i, it := range items {
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString(it.Name)
		if len(it.Parts) > 0 {
			b.WriteString(" (" + PrintList(it.Parts) + ")")
		}
	}
	return b.String()
}
