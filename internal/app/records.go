package app

import (
	"encoding/json"
	"time"

	"gallipot/internal/core/bench"
	"gallipot/internal/core/formula"
	"gallipot/internal/core/pantry"
	"gallipot/internal/core/reader"
)

// Ingredient is a stored ingredient. Offers are rows of their own and filled in on reading.
type Ingredient struct {
	ID        string
	Rev       int
	Name      string
	Retired   bool
	Data      pantry.Ingredient `gorm:"serializer:json"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Formula is a product. Its versions are rows of their own.
type Formula struct {
	ID        string
	Name      string
	Retired   bool
	CreatedAt time.Time
	CreatedBy string

	ParentFormula *string // the locked version that a variant is stated against
	ParentVersion *int
}

// Parent names the version that a variant is stated against; nil where the formula is none.
func (f Formula) Parent() *formula.Ref {
	if f.ParentFormula == nil || f.ParentVersion == nil {
		return nil
	}
	return &formula.Ref{Formula: *f.ParentFormula, Version: *f.ParentVersion}
}

// Recipe is a maker's words with what the maker answered; Formula and Version say what draft was made of it.
type Recipe struct {
	ID        int64
	Rev       int
	Name      string
	Words     string
	Answers   map[string]reader.Answer `gorm:"serializer:json"`
	FormulaID *string
	Version   *int
	UpdatedAt time.Time
	UpdatedBy string
}

// HouseMeasure is what the maker weighed of a measure of their own.
type HouseMeasure struct {
	IngredientID string    `gorm:"primaryKey"`
	Measure      string    `gorm:"primaryKey"`
	Weighings    []float64 `gorm:"serializer:json"`
	Note         string
	UpdatedAt    time.Time
	UpdatedBy    string
}

// Core returns the measure with its mean and deviation.
func (m HouseMeasure) Core() (pantry.Measure, error) {
	return pantry.HouseMeasure(m.IngredientID, m.Measure, m.Note, m.Weighings)
}

// Preparation is a stored kitchen step.
type Preparation struct {
	ID        string
	Rev       int
	Data      pantry.Preparation `gorm:"serializer:json"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Trial is a stored making of a formula.
type Trial struct {
	ID        int64
	Rev       int
	FormulaID string
	MadeOn    time.Time
	Data      formula.Trial `gorm:"serializer:json"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Core returns the trial with the identity of its row.
func (t Trial) Core() formula.Trial {
	c := t.Data
	c.ID, c.MadeOn = t.ID, t.MadeOn.Format(pantry.DateLayout)
	return c
}

// Version is a stored version of a formula.
type Version struct {
	FormulaID string `gorm:"primaryKey"`
	Number    int    `gorm:"primaryKey;autoIncrement:false"`
	Rev       int
	State     string
	Data      formula.Version `gorm:"serializer:json"`
	LockedAt  *time.Time
	UpdatedAt time.Time
	UpdatedBy string
}

// Core returns the version with the identity of its row.
func (v Version) Core() formula.Version {
	c := v.Data
	c.Formula, c.Number, c.State = v.FormulaID, v.Number, v.State
	return c
}

// Ref names the version.
func (v Version) Ref() formula.Ref { return formula.Ref{Formula: v.FormulaID, Version: v.Number} }

// Batch is one production run with the targets it was planned with.
type Batch struct {
	ID        int64
	Code      string
	FormulaID string
	Version   int
	Jars      int
	MadeOn    time.Time
	Targets   []bench.Target `gorm:"serializer:json"`
	CreatedAt time.Time
	CreatedBy string
}

// MeterCheck is a meter check with its closing look.
type MeterCheck struct {
	ID             int64
	Meter          string
	Mv4            float64 `gorm:"column:mv4"`
	Mv7            float64 `gorm:"column:mv7"`
	Celsius        float64
	SlopePercent   float64
	Accepted       bool
	CheckedAt      time.Time
	CheckedBy      string
	ClosingPh      *float64
	ClosingCelsius *float64
	ClosingGood    *bool
	ClosingAt      *time.Time
}

// Shop is the one row of settings; its shape belongs to the use cases.
type Shop struct {
	ID        int
	Rev       int
	Data      json.RawMessage `gorm:"type:jsonb"`
	UpdatedAt time.Time
	UpdatedBy string
}

// Person is somebody who works in the shop.
type Person struct {
	ID    int64
	Name  string
	Owner bool
}

// Evidence is a document attached to a formula.
type Evidence struct {
	ID         int64
	FormulaID  string
	Kind       string
	Title      string
	Days       *int
	FileName   string
	MediaType  string
	Content    []byte
	Withdrawn  bool
	AttachedAt time.Time
	AttachedBy string
}

// TableName keeps GORM's plural in line with the migration.
func (Person) TableName() string { return "people" }

// TableName keeps GORM's plural in line with the migration.
func (Evidence) TableName() string { return "evidence" }

// Label is the label of a formula under a regime, with the facts it was made from.
type Label struct {
	ID        int64
	Rev       int
	FormulaID string
	Regime    string
	WidthMM   float64 `gorm:"column:width_mm"`
	HeightMM  float64 `gorm:"column:height_mm"`
	Version   int
	Facts     json.RawMessage `gorm:"type:jsonb"`
	UpdatedAt time.Time
	UpdatedBy string
}
