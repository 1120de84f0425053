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

// insertion is the INSERT for one type of row with the fields it takes its values from. It is built once a type, from
// gorm's schema.
type insertion struct {
	query  string
	fields []*schema.Field
}

// insertions caches them by the type of row and by what happens when the key exists.
var insertions sync.Map

type insertionKey struct {
	kind        reflect.Type
	over, drawn bool
}

// insertionOf returns the INSERT for a type of row; over says whether it replaces a row with the same key. A generated
// key is left to the database.
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

// values returns the arguments of the statement for a row.
func (i insertion) values(ctx context.Context, row any) []any {
	of := reflect.ValueOf(row).Elem()
	out := make([]any, len(i.fields))
	for n, f := range i.fields {
		out[n], _ = f.ValueOf(ctx, of)
	}
	return out
}

// put queues rows to be written; over says whether they replace rows with the same keys. Generated keys are left to the
// database.
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
