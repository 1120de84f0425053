// Command gallipot serves the app, runs the demo with a database of its own, and works headless on bundles.
package main

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"gallipot/internal/api"
	"gallipot/internal/app"
	"gallipot/internal/app/kernel"
	"gallipot/internal/app/office"
	"gallipot/internal/backup"
	"gallipot/internal/cluster"
	"gallipot/internal/core/amount"
	"gallipot/internal/core/day"
	"gallipot/internal/core/shop"
	"gallipot/internal/demo"
	"gallipot/internal/device"
	"gallipot/internal/interchange"
	"gallipot/internal/reference"
	"gallipot/internal/store"
	"gallipot/web"
)

const usage = `gallipot: weighed formulas, acidity, cost and labels for makers of dressings, pestos and dips

  gallipot demo   [-dir var] [-port 8080] [-reset]   the made-up shop, with a database of its own
  gallipot serve  [-addr 127.0.0.1:8080] [-host NAME] [-backup-dir DIR]
                                                     on the database of DATABASE_URL; NAMEs by which it is reached
  gallipot assess [-date 2026-11-25] FILE            assess every formula of a bundle; needs no database
  gallipot export [FILE]                             formulas, pantry and prices for another shop; no backup
  gallipot import [-apply] FILE                      plan a bundle, or take it in
  gallipot stand-in KIND [-addr 127.0.0.1:7301]      a simulated scale, meter, probe, logger or printer
  gallipot backup  [-dir DIR] FILE                   a whole copy of a shop, which may be at work
  gallipot restore [-dir DIR] FILE                   a shop of a backup, in an empty folder or database
  gallipot verify  [-dir DIR] [-head SEQ:DIGEST]     read the book against itself, and against a head from earlier
  gallipot rebuild [-dir DIR]                        work out anew where the batches of a book that verifies stand

DIR is the folder of a demo, as in var; without it DATABASE_URL names the database, and MIGRATE_DATABASE_URL the same
for the role that owns its tables. The role of DATABASE_URL should be another: it then cannot change what is of record.
`

func main() {
	level := slog.LevelInfo
	if os.Getenv("GALLIPOT_DEBUG") != "" {
		level = slog.LevelDebug
	}
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level})))
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := run(ctx, os.Args[1:], os.Stdout); err != nil {
		report(err)
		stop()
		os.Exit(1)
	}
}

// report prints an error, with every field of a problem on a line of its own.
func report(err error) {
	var p kernel.Problem
	if !errors.As(err, &p) {
		fmt.Fprintln(os.Stderr, "gallipot:", err)
		return
	}
	fmt.Fprintln(os.Stderr, "gallipot:", p.Message)
	for _, f := range p.Fields {
		fmt.Fprintf(os.Stderr, "  %s: %s\n", f.Field, f.Message)
	}
}

func run(ctx context.Context, args []string, out io.Writer) error {
	if len(args) == 0 {
		fmt.Fprint(out, usage)
		return nil
	}
	commands := map[string]func(context.Context, []string, io.Writer) error{
		"demo": runDemo, "serve": runServe, "assess": runAssess, "export": runExport, "import": runImport,
		"rebuild": runRebuild, "stand-in": runStandIn, "backup": runBackup, "restore": runRestore, "verify": runVerify,
	}
	command, ok := commands[args[0]]
	if !ok {
		return fmt.Errorf("unknown command %q\n\n%s", args[0], usage)
	}
	return command(ctx, args[1:], out)
}

func runAssess(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("assess", flag.ContinueOnError)
	date := flags.String("date", "", "day on which prices are judged, today where empty")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if flags.NArg() != 1 {
		return errors.New("assess: name one bundle file, or - for standard input")
	}
	today := time.Now()
	if *date != "" {
		d, err := day.Parse(*date)
		if err != nil {
			return errors.New("assess: -date is a day as in 2026-11-25")
		}
		today = d
	}
	b, err := readBundle(flags.Arg(0))
	if err != nil {
		return err
	}
	a, err := office.AssessBundle(ctx, b, today)
	if err != nil {
		return err
	}
	e := json.NewEncoder(out)
	e.SetIndent("", " ")
	e.SetEscapeHTML(false)
	return e.Encode(a)
}

func readBundle(name string) (office.Bundle, error) {
	if name == "-" {
		return interchange.ReadBundle(os.Stdin)
	}
	f, err := os.Open(name)
	if err != nil {
		return office.Bundle{}, err
	}
	defer f.Close()
	return interchange.ReadBundle(f)
}

// configured are the addresses of the environment: DATABASE_URL, and MIGRATE_DATABASE_URL for the role that owns the
// tables.
func configured() store.Addresses {
	return store.Addresses{App: os.Getenv("DATABASE_URL"), Migrate: os.Getenv("MIGRATE_DATABASE_URL")}
}

// open connects to a database and makes the use cases.
func open(ctx context.Context, at store.Addresses) (*app.App, *store.Store, error) {
	if at.App == "" {
		return nil, nil, errors.New("set DATABASE_URL to a PostgreSQL database, or run `gallipot demo`")
	}
	st, err := store.OpenAs(ctx, at, store.UsualConnections)
	if err != nil {
		return nil, nil, err
	}
	typical, err := reference.Kitchen()
	if err != nil {
		return nil, nil, err
	}
	a := app.New(st, time.Now, typical)
	a.Production.Instruments = device.NewHub()
	if n, err := a.Production.RebuildMissing(ctx); err != nil {
		return nil, nil, errors.Join(err, st.Close())
	} else if n > 0 {
		slog.Info("batches judged after the upgrade", "batches", n)
	}
	return a, st, nil
}

// runStandIn lets one simulated device listen, for a shop that points at its address.
func runStandIn(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("stand-in", flag.ContinueOnError)
	addr := flags.String("addr", "127.0.0.1:7301", "address to listen on")
	name := flags.String("name", "stand-in", "its name")
	division := flags.Float64("division", 0.1, "of a scale, in grams")
	capacity := flags.Float64("capacity", 15000, "of a scale, in grams")
	if len(args) == 0 {
		return errors.New("stand-in: a scale, meter, probe, logger or printer?")
	}
	if err := flags.Parse(args[1:]); err != nil {
		return err
	}
	s, err := device.StartStandIn(shop.Device{Kind: args[0], Name: *name, Division: amount.G(*division),
		Capacity: amount.G(*capacity)}, *addr, 1)
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "a %s that measures nothing real is at %s (Ctrl-C ends it)\n", args[0], s.Addr())
	<-ctx.Done()
	return s.Close()
}

// seed gives an empty pantry the typical ingredients.
func seed(ctx context.Context, a *app.App) error {
	typical, err := reference.Ingredients()
	if err != nil {
		return err
	}
	return a.Catalog.Seed(ctx, typical)
}

func runExport(ctx context.Context, args []string, out io.Writer) error {
	a, st, err := open(ctx, configured())
	if err != nil {
		return err
	}
	defer st.Close()
	b, err := a.Office.Export(ctx)
	if err != nil {
		return err
	}
	slog.Info("a bundle carries formulas, pantry and prices to another shop; it is no backup: gallipot backup makes one")
	if len(args) == 0 {
		return interchange.WriteBundle(out, b)
	}
	f, err := os.Create(args[0])
	if err != nil {
		return err
	}
	return errors.Join(interchange.WriteBundle(f, b), f.Close())
}

func runImport(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("import", flag.ContinueOnError)
	apply := flags.Bool("apply", false, "take the bundle in; without it only the plan is printed")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if flags.NArg() != 1 {
		return errors.New("import: name one bundle file")
	}
	b, err := readBundle(flags.Arg(0))
	if err != nil {
		return err
	}
	a, st, err := open(ctx, configured())
	if err != nil {
		return err
	}
	defer st.Close()
	plan, err := a.Office.Import(kernel.As(ctx, kernel.TheProgram), b, *apply)
	if err != nil {
		return err
	}
	e := json.NewEncoder(out)
	e.SetIndent("", " ")
	return e.Encode(plan)
}

func runServe(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("serve", flag.ContinueOnError)
	addr := flags.String("addr", "127.0.0.1:8080", "address to listen on")
	hosts := flags.String("host", os.Getenv("GALLIPOT_HOSTS"),
		"names by which the shop is reached besides loopback, comma between")
	backups := flags.String("backup-dir", "", "folder in which a backup is made each night; the last 14 are kept")
	if err := flags.Parse(args); err != nil {
		return err
	}
	a, st, err := open(ctx, configured())
	if err != nil {
		return err
	}
	defer st.Close()
	if err := seed(ctx, a); err != nil {
		return err
	}
	l, err := net.Listen("tcp", *addr)
	if err != nil {
		return err
	}
	k := backup.Keeper{URL: os.Getenv("DATABASE_URL"), Dir: *backups, EachNight: *backups != ""}
	if !k.EachNight {
		k.Dir = filepath.Join(stateFolder(), "backups")
	}
	return serve(ctx, served{a, st, l, api.Options{Hosts: namesOf(*hosts, *addr)}, "", k, headFileOf("", k.URL)}, out)
}

// namesOf are the names that were given, and the address that is listened on where it is a particular one.
func namesOf(hosts, addr string) []string {
	var out []string
	for _, h := range strings.Split(hosts, ",") {
		if h = strings.TrimSpace(h); h != "" {
			out = append(out, h)
		}
	}
	if h, _, err := net.SplitHostPort(addr); err == nil && h != "" && !net.ParseIP(h).IsUnspecified() {
		out = append(out, h)
	}
	return out
}

func runDemo(ctx context.Context, args []string, out io.Writer) error {
	flags := flag.NewFlagSet("demo", flag.ContinueOnError)
	dir := flags.String("dir", "var", "folder for the demo's data")
	port := flags.Int("port", 8080, "port to serve on; another free one where it is taken")
	reset := flags.Bool("reset", false, "start over: what was entered before is thrown away")
	empty := flags.Bool("empty", false, "no made-up shop: only typical ingredients, as on a first start")
	if err := flags.Parse(args); err != nil {
		return err
	}
	folder := filepath.Join(*dir, "postgres")
	if *reset {
		if err := startOver(*dir); err != nil {
			return err
		}
	}
	asked := false
	flags.Visit(func(f *flag.Flag) { asked = asked || f.Name == "dir" })
	pg, err := cluster.Start(ctx, folder)
	var closed cluster.ClosedError
	if errors.As(err, &closed) && !asked {
		pg, err = startElsewhere(ctx, folder, out)
	}
	if address := runsAt(err); address != "" {
		fmt.Fprintf(out, "Gallipot is at %s already\n", address)
		return nil
	}
	if err != nil {
		return err
	}
	defer pg.Stop()
	slog.Info("database", "folder", pg.Dir)
	return serveDemo(ctx, pg, *dir, *port, *empty, out)
}

// startOver throws a demo's book away, and the head that was kept of it: the next book is another.
func startOver(dir string) error {
	if err := cluster.Remove(filepath.Join(dir, "postgres")); err != nil {
		return err
	}
	err := os.Remove(string(headFileOf(dir, "")))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}

// serveDemo fills the demo's database where it is new, and serves it. dir is the folder that was asked for.
func serveDemo(ctx context.Context, pg *cluster.Cluster, dir string, port int, empty bool, out io.Writer) error {
	a, st, err := open(ctx, addresses(pg))
	if err != nil {
		return err
	}
	defer st.Close()
	a.Production.StandIns = true
	if err := seed(ctx, a); err != nil {
		return err
	}
	if !empty {
		if err := demo.Load(ctx, a); err != nil {
			return err
		}
	}
	l, err := listen(port)
	if err != nil {
		return err
	}
	if err := pg.Leave("http://" + l.Addr().String()); err != nil {
		return err
	}
	k := backup.Keeper{URL: pg.URL, Dir: filepath.Join(dir, "backups")}
	x := served{a, st, l, api.Options{Full: pg.Full}, "", k, headFileOf(dir, "")}
	if empty {
		return serve(ctx, x, out)
	}
	token, err := a.Office.SingleSignIn(ctx, demo.Owner())
	if err != nil {
		return err
	}
	x.options.MadeUp, x.door = demo.MadeUp(), "/once/"+token
	return serve(ctx, x, out)
}

// addresses are those of a database of our own.
func addresses(pg *cluster.Cluster) store.Addresses {
	return store.Addresses{App: pg.URL, Migrate: pg.OwnerURL}
}

// startElsewhere starts the demo's database where its user may enter, for root whose own folders are closed to that
// user and who named none. The place is this folder's own, a link leads there from the folder, and it is said.
func startElsewhere(ctx context.Context, folder string, out io.Writer) (*cluster.Cluster, error) {
	abs, err := filepath.Abs(folder)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256([]byte(abs))
	place := fmt.Sprintf("/var/lib/postgresql/gallipot-%x", sum[:4])
	pg, err := cluster.Start(ctx, place)
	if err != nil {
		return nil, err
	}
	if err := os.Remove(folder); err != nil { // it was made a moment ago, and is empty
		pg.Stop()
		return nil, fmt.Errorf("the demo's folder: %w", err)
	}
	if err := os.Symlink(place, folder); err != nil {
		pg.Stop()
		return nil, fmt.Errorf("the demo's folder: %w", err)
	}
	fmt.Fprintf(out, "The database's own user cannot enter %s: the demo's data is in %s, and a link leads there.\n",
		filepath.Dir(abs), place)
	return pg, nil
}

// runsAt is the address that a demo left which runs on the folder already.
func runsAt(err error) string {
	var running cluster.RunningError
	if errors.As(err, &running) {
		return running.Note()
	}
	return ""
}

// listen takes a port of loopback, another free one where it is taken.
func listen(port int) (net.Listener, error) {
	l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err != nil {
		return net.Listen("tcp", "127.0.0.1:0")
	}
	return l, nil
}

// served is what is served, and how it is kept safe. door is the address within the app that is printed.
type served struct {
	app      *app.App
	store    *store.Store
	listener net.Listener
	options  api.Options
	door     string
	backups  backup.Keeper
	head     headFile
}

// serve answers until the context ends, then lets requests finish. Beside it the head file is renewed, and backups are
// made each night where a folder is named for them.
func serve(ctx context.Context, x served, out io.Writer) error {
	x.app.Office.Keeper = x.backups
	if why, err := x.store.Unprotected(); err != nil {
		return err
	} else if why != "" {
		slog.Warn("the record is not protected: set MIGRATE_DATABASE_URL and another role in DATABASE_URL", "why", why)
	}
	h, err := api.New(x.app, web.Files(), x.options)
	if err != nil {
		return err
	}
	// What runs beside ends after the last request, so that the head it leaves is that of the last write.
	beside, end := context.WithCancel(context.WithoutCancel(ctx))
	var both sync.WaitGroup
	defer func() { // before the store is closed
		end()
		both.Wait()
	}()
	both.Go(func() { keepHead(beside, x.head, x.store) })
	if x.backups.EachNight {
		both.Go(func() { keepNightly(beside, x.backups, x.app) })
	}
	s := api.Server(h, api.UsualLimits)
	failed := make(chan error, 1)
	go func() { failed <- s.Serve(x.listener) }()
	fmt.Fprintf(out, "Gallipot is at http://%s%s (Ctrl-C ends it)\n", x.listener.Addr(), x.door)
	if x.door != "" {
		fmt.Fprintln(out, "This address signs in once, as the owner; after that sign in at its first page.")
	}
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	bounded, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	return s.Shutdown(bounded)
}
