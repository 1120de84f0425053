package store

import "gallipot/internal/app"

type personRow struct {
	ID    int64
	Name  string
	Owner bool
}

func (personRow) TableName() string { return "people" }

// People returns everybody, the first first.
func (s *Store) People() ([]app.Person, error) {
	var rows []personRow
	if err := s.db.Order("id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make([]app.Person, len(rows))
	for i, r := range rows {
		out[i] = app.Person(r)
	}
	return out, nil
}

// AddPerson stores a person and fills in the id. Errors: ErrTaken.
func (s *Store) AddPerson(p *app.Person) error {
	row := personRow(*p)
	err := translate(s.db.Create(&row).Error)
	p.ID = row.ID
	return err
}
