package store

import (
	"encoding/json"
	"fmt"
	"time"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
)

// deskRow is any row of a desk: settings, a step, a version or an ingredient, as Kind says.
type deskRow struct {
	Kind   string
	ID     string
	Number int // of a version its number, of a step its revision
	Name   string
	State  string
	Data   document
	Format int
	Along  document // of an ingredient its offers, of a sheet its sheetAlong
}

// The rows of a desk. Components are read with their formula's name, and what their lines name is wanted too.
const (
	settingsAndSteps = `SELECT 'shop' AS kind, '' AS id, rev AS number, '' AS name, '' AS state, data, format,
		NULL::json AS along FROM shops
		UNION ALL SELECT 'preparation', id, rev, '', '', data, format, NULL FROM preparations`
	components = `WITH components AS (SELECT v.*, f.name FROM versions v JOIN formulas f ON f.id = v.formula_id
		WHERE (v.formula_id, v.number) IN ?) `
	componentRows = ` UNION ALL SELECT 'component', formula_id, number, name, state, data, format, NULL
		FROM components`
	theirs    = ` UNION SELECT jsonb_path_query(data, '$.lines[*].ingredient') #>> '{}' FROM components`
	shelfRows = ` UNION ALL SELECT 'ingredient', id, 0, name, '', data, format, ` + offersAlong + ` FROM ingredients
		WHERE id = ANY(ARRAY(SELECT id FROM ingredients WHERE id IN ?`
	sheetRow = ` UNION ALL SELECT 'sheet', v.formula_id, v.number, f.name, v.state, v.data, v.format,
		json_build_object('rev', v.rev, 'locked_at', v.locked_at, 'updated_at', v.updated_at, 'updated_by', v.updated_by,
			'created_at', f.created_at, 'created_by', f.created_by, 'retired', f.retired, 'batches', f.batches,
			'parent_formula', f.parent_formula, 'parent_version', f.parent_version,
			'made_in', ` + madeIn + `,
			'trials', ` + trialsCounted + `, 'evidence', ` + evidenceAlong + `,
			'heads', (SELECT json_agg(h ORDER BY h.version) FROM (` + heads + ` WHERE n.formula_id = f.id) h))
		FROM versions v JOIN formulas f ON f.id = v.formula_id WHERE v.formula_id = ? AND v.number = ?`
)

// sheetAlong is what a sheet tells besides its version's lines.
type sheetAlong struct {
	Rev           int                     `json:"rev"`
	LockedAt      *time.Time              `json:"locked_at"`
	UpdatedAt     time.Time               `json:"updated_at"`
	UpdatedBy     string                  `json:"updated_by"`
	CreatedAt     time.Time               `json:"created_at"`
	CreatedBy     string                  `json:"created_by"`
	Retired       bool                    `json:"retired"`
	Batches       int                     `json:"batches"`
	ParentFormula *string                 `json:"parent_formula"`
	ParentVersion *int                    `json:"parent_version"`
	MadeIn        *bench.Vessel           `json:"made_in"`
	Trials        int                     `json:"trials"`
	Evidence      document                `json:"evidence"`
	Heads         []kernel.VersionSummary `json:"heads"`
}

// Desk reads in one reading what lies ready where versions are assessed: the settings over those on the desk, the
// stored steps by id, and into its library what is named and there. What components hold in turn is read along where
// it is simple to find; whoever needs all of it looks whether it is there.
func (s *Store) Desk(d *kernel.Desk, named kernel.Named) error {
	_, err := s.desk(d, named, "")
	return err
}

// Sheet reads a version with its formula and what there is to tell of all its versions, oldest first, and the desk in
// the same reading. Errors: ErrNotFound.
func (s *Store) Sheet(ref formula.Ref, d *kernel.Desk, named kernel.Named) (kernel.Sheet, error) {
	row, err := s.desk(d, named, sheetRow, ref.Formula, ref.Version)
	if err != nil {
		return kernel.Sheet{}, err
	}
	if row == nil {
		return kernel.Sheet{}, fmt.Errorf("%s: %w", ref, kernel.ErrNotFound)
	}
	return row.sheet(d)
}

// desk lays a desk and returns the row of a sheet where one was asked for and is there.
func (s *Store) desk(d *kernel.Desk, named kernel.Named, sheet string, ref ...any) (*deskRow, error) {
	with, parts, args, wanted := "", settingsAndSteps, []any(nil), ""
	if len(named.Components) > 0 {
		with, parts, wanted = components, parts+componentRows, theirs
		args = append(args, pairs(named.Components))
	}
	if len(named.Ingredients) > 0 {
		parts += shelfRows + wanted + "))"
		args = append(args, named.Ingredients)
	}
	var rows []deskRow
	err := s.db.Raw(with+parts+sheet+" ORDER BY kind, id", append(args, ref...)...).Find(&rows).Error
	if err != nil {
		return nil, translate(err)
	}
	var found *deskRow
	for i := range rows {
		r := &rows[i]
		if r.Kind == "sheet" {
			found = r
		} else if err := r.lay(d); err != nil {
			return nil, fmt.Errorf("%s %s: %w", r.Kind, r.ID, err)
		}
	}
	return found, nil
}

func pairs(refs []formula.Ref) [][]any {
	out := make([][]any, len(refs))
	for i, r := range refs {
		out[i] = []any{r.Formula, r.Version}
	}
	return out
}

// lay puts a row where it belongs on the desk.
func (r *deskRow) lay(d *kernel.Desk) error {
	switch r.Kind {
	case "shop":
		return read("shop", r.Format, r.Data, &d.Settings)
	case "preparation":
		step := kernel.Preparation{ID: r.ID, Rev: r.Number}
		err := read("preparation", r.Format, r.Data, &step.Data)
		d.Steps = append(d.Steps, step)
		return err
	case "component":
		v, err := versionRow{FormulaID: r.ID, Number: r.Number, State: r.State, Data: r.Data, Format: r.Format}.domain()
		d.Library.Versions[v.Ref()], d.Library.Names[r.ID] = v.Core(), r.Name
		return err
	}
	g, err := ingredientRow{ID: r.ID, Name: r.Name, Data: r.Data, Format: r.Format, Offers: r.Along}.domain()
	d.Library.Ingredients[r.ID] = &g.Data
	return err
}

func (r *deskRow) sheet(d *kernel.Desk) (kernel.Sheet, error) {
	var a sheetAlong
	if err := json.Unmarshal(r.Along, &a); err != nil {
		return kernel.Sheet{}, err
	}
	f, err := formulaRow{ID: r.ID, Name: r.Name, Retired: a.Retired, CreatedAt: a.CreatedAt, CreatedBy: a.CreatedBy,
		ParentFormula: a.ParentFormula, ParentVersion: a.ParentVersion, Batches: a.Batches, Trials: a.Trials,
		Evidence: a.Evidence}.domain()
	if err != nil {
		return kernel.Sheet{}, err
	}
	v, err := versionRow{FormulaID: r.ID, Number: r.Number, Rev: a.Rev, State: r.State, Data: r.Data, Format: r.Format,
		LockedAt: a.LockedAt, UpdatedAt: a.UpdatedAt, UpdatedBy: a.UpdatedBy, Name: r.Name}.domain()
	d.MadeIn = map[string]bench.Vessel{}
	if a.MadeIn != nil {
		d.MadeIn[r.ID] = *a.MadeIn
	}
	return kernel.Sheet{Formula: f, Version: v, Heads: a.Heads}, err
}
