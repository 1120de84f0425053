package store

import (
	"context"
	"fmt"
	"reflect"
	"strings"
	"sync"

	"gorm.io/gorm/clause"
	"gorm.io/gorm/schema"
)

// insertion is the statement that writes a row of a kind, with the fields that are its values. It is made once, by what
// gorm knows of the kind, and not again for each row.
type insertion struct {
	query  string
	fields []*schema.Field
}

// insertions are those that were made, by the kind of row and what is done where there is one with its key.
var insertions sync.Map

type insertionKey struct {
	kind        reflect.Type
	over, drawn bool
}

// insertionOf is the statement for a kind of row, over one with its key or not; a key that is drawn is left to the
// database.
func insertionOf[R any](over, drawn bool) (insertion, error) {
	key := insertionKey{reflect.TypeFor[R](), over, drawn}
	if made, ok := insertions.Load(key); ok {
		return made.(insertion), nil
	}
	kind, err := schema.Parse(new(R), new(sync.Map), schema.NamingStrategy{})
	if err != nil {
		return insertion{}, fmt.Errorf("rows of %T: %w", *new(R), err)
	}
	var out insertion
	var columns, places, others []string
	for _, f := range kind.Fields {
		if f.DBName == "" || f.PrimaryKey && drawn {
			continue
		}
		out.fields = append(out.fields, f)
		columns = append(columns, f.DBName)
		places = append(places, fmt.Sprintf("$%d", len(columns)))
		if !f.PrimaryKey {
			others = append(others, f.DBName)
		}
	}
	out.query = fmt.Sprintf("INSERT INTO %s (%s) VALUES (%s)", kind.Table, strings.Join(columns, ", "),
		strings.Join(places, ", "))
	if over {
		out.query += fmt.Sprintf(" ON CONFLICT (%s) DO UPDATE SET (%s) = ROW (excluded.%s)",
			strings.Join(kind.PrimaryFieldDBNames, ", "), strings.Join(others, ", "), strings.Join(others,
				", excluded."))
	}
	insertions.Store(key, out)
	return out, nil
}

// values are what the statement takes from a row.
func (i insertion) values(ctx context.Context, row any) []any {
	of := reflect.ValueOf(row).Elem()
	out := make([]any, len(i.fields))
	for n, f := range i.fields {
		out[n], _ = f.ValueOf(ctx, of)
	}
	return out
}

// put has rows wait to be written, over those with their keys or not; keys that are drawn are left to the database.
func put[R any](s *Store, over, drawn bool, rows ...R) error {
	p, ok := s.db.Statement.ConnPool.(*pipe)
	switch {
	case ok || len(rows) == 0:
	case over:
		return translate(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&rows).Error)
	default:
		return translate(s.db.Create(&rows).Error)
	}
	made, err := insertionOf[R](over, drawn)
	if err != nil {
		return err
	}
	for i := range rows {
		p.queue(made.query, made.values(s.db.Statement.Context, &rows[i])...)
	}
	return nil
}
