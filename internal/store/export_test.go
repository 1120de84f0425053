package store

// Exec runs raw SQL, so that tests can try what the program never does.
func (s *Store) Exec(sql string) error { return translate(s.db.Exec(sql).Error) }
