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
var (
	settingsAndSteps = query("settings_and_steps")
	components       = query("components")
	componentRows    = query("component_rows")
	theirs           = query("theirs")
	shelfRows        = query("shelf_head") + offersAlong + query("shelf_tail")
	sheetRow         = query("sheet_head") + madeIn + `,
			'trials', ` + trialsCounted + `, 'evidence', ` + evidenceAlong + query("sheet_heads") + heads + query("sheet_tail")
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
