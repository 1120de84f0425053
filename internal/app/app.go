// Package app puts the rooms of the use cases together: the kernel, and above it catalog, production, release and
// office, each of which knows only those before it. What a lower room asks of a higher one is wired here.
package app

import (
	"time"

	"gallipot/internal/app/catalog"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/app/production"
	"gallipot/internal/app/release"
	"gallipot/internal/core/pantry"
)

// App is the rooms over one store. It is not copied: a copy would share its clock; At makes another.
type App struct {
	_ uncopied
	*kernel.Kernel
	Catalog    *catalog.Room
	Production *production.Room
	Release    *release.Room
	Office     *office.Room
}

// New builds the house over a store. Now is its clock, typical what every kitchen starts with.
func New(st kernel.Store, now func() time.Time, typical pantry.Typical) *App {
	k := &kernel.Kernel{Store: st, Now: now, Typical: typical}
	c := &catalog.Room{Kernel: k}
	p := &production.Room{Kernel: k, Catalog: c, Desk: new(production.KeptDesk)}
	r := &release.Room{Kernel: k, Catalog: c, Production: p}
	c.Guard, p.Recalls = r, r
	k.OnTouched(p.JudgeThose)
	return &App{Kernel: k, Catalog: c, Production: p, Release: r,
		Office: &office.Room{Kernel: k, Catalog: c, Production: p, Release: r}}
}

// At is the same house by another clock.
func (a *App) At(now func() time.Time) *App {
	b := New(a.Store, now, a.Typical)
	b.Office.Keeper = a.Office.Keeper
	b.Production.Instruments, b.Production.StandIns = a.Production.Instruments, a.Production.StandIns
	return b
}

// uncopied has go vet tell of copies.
type uncopied struct{}

func (*uncopied) Lock()   {}
func (*uncopied) Unlock() {}
