package app

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
)

// Errors that a Store returns and use cases act upon.
var (
	ErrNotFound = errors.New("not found")
	ErrConflict = errors.New("changed meanwhile")        // the revision does not match
	ErrTaken    = errors.New("taken")                    // a name or key is in use
	ErrInUse    = errors.New("referred to by something") // a foreign key forbids it
	ErrLocked   = errors.New("locked")                   // a locked version or a batch record never changes
)

// Store is what use cases need of the database; package store fulfils it. Methods say there which errors they return.
type Store interface {
	With(ctx context.Context) Store
	In(ctx context.Context, f func(Store) error) error

	Ingredients(ids ...string) ([]Ingredient, error)
	Ingredient(id string) (Ingredient, error)
	AddIngredient(g pantry.Ingredient, retired bool, by string) error
	SaveIngredient(g pantry.Ingredient, retired bool, rev int, by string) error
	ReplaceOffers(id string, offers []pantry.PriceOffer, by string) error

	Formulas() ([]Formula, error)
	Formula(id string) (Formula, error)
	AddFormula(f Formula) error
	SaveFormula(id, name string, retired bool) error
	Versions(formulaID string) ([]Version, error)
	Version(ref formula.Ref) (Version, error)
	AddVersion(v formula.Version, lockedAt *time.Time, by string) error
	SaveVersion(v formula.Version, rev int, lockedAt *time.Time, by string) error
	DropDraft(ref formula.Ref, rev int) error

	SetParent(formulaID string, parentFormula *string, parentVersion *int) error

	Recipes() ([]Recipe, error)
	Recipe(id int64) (Recipe, error)
	AddRecipe(r *Recipe) error
	SaveRecipe(r Recipe, rev int) error
	DropRecipe(id int64) error
	HouseMeasures(ingredientID string) ([]HouseMeasure, error)
	PutHouseMeasure(m HouseMeasure) error
	DropHouseMeasure(ingredientID, measure string) error
	Preparations() ([]Preparation, error)
	AddPreparation(p *Preparation) error
	SavePreparation(p Preparation, rev int) error
	Trials(formulaID string) ([]Trial, error)
	AddTrial(t *Trial) error
	SaveTrial(t Trial, rev int) error
	DropTrial(formulaID string, id int64) error

	Batches() ([]Batch, error)
	Batch(id int64) (Batch, error)
	AddBatch(b *Batch) error
	LockBatch(id int64) error
	Entries(batch int64) (map[int64][]bench.Entry, error)
	AddEntry(batch int64, e bench.Entry, key string) error
	HasEntry(batch int64, key string) (bool, error)
	MeterChecks(since time.Time) ([]MeterCheck, error)
	MeterCheck(id int64) (MeterCheck, error)
	AddMeterCheck(c *MeterCheck) error
	CloseMeterCheck(c MeterCheck) error
	FailedChecks() ([]int64, error)

	Shop() (Shop, error)
	AddShop(data json.RawMessage, by string) error
	SaveShop(data json.RawMessage, rev int, by string) error
	People() ([]Person, error)
	AddPerson(p *Person) error
	EvidenceList(formulaID string) ([]Evidence, error)
	EvidenceOf(id int64) (Evidence, error)
	AddEvidence(e *Evidence) error
	WithdrawEvidence(id int64) error

	Labels() ([]Label, error)
	Label(id int64) (Label, error)
	AddLabel(l *Label) error
	SaveLabel(l Label, rev int) error
}
