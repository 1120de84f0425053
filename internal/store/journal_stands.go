package store

import (
	"context"
	"fmt"
	"math"
	"strings"

	"github.com/jackc/pgx/v5"
)

// piece is a run of a table's blocks.
type piece struct {
	of       recorded
	row      string // the expression that writes a row as JSON
	from, to int64  // to: not with it; the last of a table has no end
}

// blocksAtOnce is how much of a table one connection compares before it takes the next piece.
const blocksAtOnce = 2000

// stands compares the tables of record with what the journal tells of each of their rows.
func (v *verifying) stands(ctx context.Context) error {
	pieces, err := v.pieces(ctx)
	if err != nil {
		return err
	}
	if err := shared(len(pieces), func(reader, i int) error {
		return v.compare(ctx, v.conns[reader], pieces[i])
	}); err != nil {
		return err
	}
	return v.missing(ctx)
}

func (v *verifying) pieces(ctx context.Context) (out []piece, err error) {
	for _, r := range ofRecord {
		var blocks int64
		if err := v.conns[0].QueryRow(ctx, query("blocks_of"), r.table).Scan(&blocks); err != nil {
			return nil, err
		}
		row, err := v.rowOf(ctx, r)
		if err != nil {
			return nil, err
		}
		for from := int64(0); from == 0 || from < blocks; from += blocksAtOnce {
			out = append(out, piece{r, row, from, from + blocksAtOnce})
		}
		out[len(out)-1].to = math.MaxUint32
	}
	return out, nil
}

// rowOf is the expression that writes a row of a table as PostgreSQL writes the same row as jsonb: columns by the
// length of their names, then by their letters.
func (v *verifying) rowOf(ctx context.Context, r recorded) (string, error) {
	rows, err := v.conns[0].Query(ctx, query("columns_of"), r.table, strings.FieldsFunc(r.follows,
		func(c rune) bool { return c == ',' }))
	if err != nil {
		return "", err
	}
	var name, kind string
	var parts []string
	_, err = pgx.ForEachRow(rows, []any{&name, &kind}, func() error {
		column := "t." + pgx.Identifier{name}.Sanitize()
		switch kind {
		case "jsonb", "smallint", "integer", "bigint", "numeric", "boolean":
			column += "::text"
		case "text":
			column = "to_json(" + column + ")::text"
		default:
			column = "to_jsonb(" + column + ")::text"
		}
		parts = append(parts, fmt.Sprintf(`'"%s": ' || coalesce(%s, 'null')`, name, column))
		return nil
	})
	return "'{' || " + strings.Join(parts, " || ', ' || ") + " || '}'", err
}

// missing names what the journal tells of and no table has.
func (v *verifying) missing(ctx context.Context) error {
	for _, seq := range v.book.Missing() {
		var what, key, state string
		err := v.conns[0].QueryRow(ctx, linkOfRow, seq).Scan(&what, &key, &state)
		if err != nil {
			return err
		}
		if what == "version" && state != "locked" {
			continue
		}
		v.found.fault("%s %s is gone: link %d tells of it", what, key, seq)
	}
	return nil
}

// told fetches the document of a link, over a connection of its own: the others are reading.
func (v *verifying) told(seq int64) (doc []byte, err error) {
	var text string
	err = v.conns[readers].QueryRow(context.Background(), query("told_by_link"), seq).Scan(&text)
	return []byte(text), err
}

func (v *verifying) compare(ctx context.Context, c *pgx.Conn, p piece) error {
	where := p.of.where
	if where == "" {
		where = "true"
	}
	rows, err := c.Query(ctx, with("rows_of_record", "{{key}}", p.of.keyIn("t"), "{{row}}", p.row, "{{table}}",
		p.of.table, "{{where}}", where), fmt.Sprintf("(%d,0)", p.from), fmt.Sprintf("(%d,0)", p.to))
	if err != nil {
		return err
	}
	defer rows.Close()
	n, faults := int64(0), []string(nil)
	for rows.Next() {
		raw := rows.RawValues()
		fault, err := v.book.Stands(p.of.what, string(raw[0]), raw[1], v.told)
		if err != nil {
			return fmt.Errorf("%s: %w", p.of.table, err)
		}
		if n++; fault != "" {
			faults = append(faults, fault)
		}
	}
	v.mu.Lock()
	defer v.mu.Unlock()
	v.found.Rows += n
	for _, f := range faults {
		v.found.fault("%s", f)
	}
	return rows.Err()
}
