package store

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"time"

	"gallipot/internal/core/chain"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgproto3"
)

// recorded is a table of record: what its rows are called in the journal, the columns that name a row, and those that
// follow from other rows.
type recorded struct {
	what, table, keys, follows string
	where                      string // which rows the journal tells whole
}

// ofRecord are the tables of record. Migrations number 18 and later name the same.
var ofRecord = []recorded{
	{what: "shop", table: "shops", keys: "id"}, {what: "person", table: "people", keys: "id"},
	{what: "ingredient", table: "ingredients", keys: "id"}, {what: "price", table: "price_offers", keys: "id"},
	{what: "measure", table: "house_measures", keys: "ingredient_id measure"},
	{what: "preparation", table: "preparations", keys: "id"}, {what: "formula", table: "formulas", keys: "id"},
	// A draft is told by what was typed in it.
	{what: "version", table: "versions", keys: "formula_id number", where: "state = 'locked'"},
	{what: "trial", table: "trials", keys: "id"}, {what: "recipe", table: "recipes", keys: "id"},
	{what: "batch", table: "batches", keys: "id"}, {what: "entry", table: "batch_entries", keys: "id"},
	{what: "meter_check", table: "meter_checks", keys: "id"}, {what: "meter_look", table: "meter_looks", keys: "id"},
	{what: "document", table: "evidence", keys: "id"}, {what: "label", table: "labels", keys: "id"},
	{what: "delivery", table: "deliveries", keys: "id"}, {what: "lot", table: "lots", keys: "id"},
	{what: "lot_entry", table: "lot_entries", keys: "id"}, {what: "party", table: "parties", keys: "id"},
	{what: "allergen_change", table: "allergen_changes", keys: "id"}, {what: "vessel", table: "vessels", keys: "id"},
	{what: "vessel_entry", table: "vessel_entries", keys: "id"}, {what: "recall", table: "recall_entries", keys: "id"},
	{what: "word", table: "shop_words", keys: "id"}, {what: "mark", table: "shop_marks", keys: "id"},
	{what: "price_way", table: "price_ways", keys: "shape"}, {what: "backup", table: "backups", keys: "id"},
	{what: "lock", table: "version_locks", keys: "formula_id number"},
	{what: "split", table: "batch_splits", keys: "batch_id"},
	{what: "search", table: "recalls", keys: "id", follows: "told_at,closed_at,account,batches"},
}

func (r recorded) keyOf(doc string) string {
	var parts []string
	for _, k := range strings.Fields(r.keys) {
		parts = append(parts, fmt.Sprintf("(%s->>'%s')", doc, k))
	}
	return strings.Join(parts, "||' '||")
}

// keyIn is the key of a row of the table itself.
func (r recorded) keyIn(row string) string {
	var parts []string
	for _, k := range strings.Fields(r.keys) {
		parts = append(parts, row+"."+k+"::text")
	}
	return strings.Join(parts, "||' '||")
}

// Verified is what was found when a book was read against itself.
type Verified struct {
	Links, Changes, Rows int64      // links of the chain, rows of the journal, rows of record
	Begun                int64      // the link from which on each was written with what it tells
	Since                time.Time  // when that was
	Head                 chain.Head // the last link
	Faults               []string   // what does not fit, the first first; none: the book proves itself
}

// mostFaults bounds how much is told of a book that does not verify: the first fault is the one that matters.
const mostFaults = 20

func (v *Verified) fault(format string, args ...any) {
	if len(v.Faults) < mostFaults {
		v.Faults = append(v.Faults, fmt.Sprintf(format, args...))
	}
}

// Verify reads the whole chain and every row of record of the database at an address. Heads from earlier also prove
// that nothing was cut off or written anew since then. Errors: only those of reading; what does not fit is in Faults.
func Verify(ctx context.Context, url string, heads ...chain.Head) (Verified, error) {
	v := &verifying{url: url}
	defer v.close()
	if err := v.open(ctx); err != nil {
		return Verified{}, translate(err)
	}
	err := v.begins(ctx)
	if err == nil {
		err = v.walk(ctx)
	}
	if err == nil {
		err = v.whole(ctx, heads)
	}
	if err == nil && len(v.found.Faults) == 0 {
		err = v.stands(ctx)
	}
	return v.found, translate(err)
}

// verifying is one reading of a book: connections that see the same state of it.
type verifying struct {
	url   string
	conns []*pgx.Conn
	book  *chain.Part
	mu    sync.Mutex // of what is found, while several connections read
	found Verified
}

// readers is how many connections read at once; one more fetches single links.
const (
	readers   = 2
	readAhead = 256 << 10 // bytes from the database at once: all of the book comes over the wire
)

// open begins the same snapshot on each connection, with every setting that the text of a row depends on.
func (v *verifying) open(ctx context.Context) error {
	config, err := pgx.ParseConfig(v.url)
	if err != nil {
		return err
	}
	for name, value := range map[string]string{"timezone": "UTC", "extra_float_digits": "1", "bytea_output": "hex",
		"jit": "off", "search_path": "public", "enable_hashjoin": "off", "enable_mergejoin": "off"} {
		config.RuntimeParams[name] = value
	}
	config.BuildFrontend = func(r io.Reader, w io.Writer) *pgproto3.Frontend {
		return pgproto3.NewFrontend(bufio.NewReaderSize(r, readAhead), w)
	}
	snapshot := ""
	for range readers + 1 {
		c, err := pgx.ConnectConfig(ctx, config)
		if err != nil {
			return err
		}
		v.conns = append(v.conns, c)
		if _, err := c.Exec(ctx, query("reads_begin")); err != nil {
			return err
		}
		if snapshot == "" {
			err = c.QueryRow(ctx, query("snapshot_taken")).Scan(&snapshot)
		} else {
			_, err = c.Exec(ctx, query("snapshot_shared")+" '"+snapshot+"'")
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (v *verifying) close() {
	for _, c := range v.conns {
		_ = c.Close(context.Background()) // it only read
	}
}

// begins finds the link from which on each was written with what it tells.
func (v *verifying) begins(ctx context.Context) error {
	err := v.conns[0].QueryRow(ctx, query("chain_begun")).Scan(&v.found.Begun, &v.found.Since)
	var none *pgconn.PgError
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		v.found.fault("the chain has no beginning: its link “begun” is gone")
		return nil
	case errors.As(err, &none) && none.Code == "42P01":
		return errors.New("this book is from before Gallipot chained its journal: start this program on it once, " +
			"which chains it as it stands; then verify")
	}
	return err
}

// linksAtOnce is how much of the chain one connection follows before it takes the next part.
var linksAtOnce int64 = 50_000

// shared has the readers do so many pieces of work, each taking the next as it is done with one.
func shared(pieces int, do func(reader, piece int) error) error {
	waits, wrong := make(chan int, pieces), make([]error, readers)
	for i := range pieces {
		waits <- i
	}
	close(waits)
	var all sync.WaitGroup
	for reader := range readers {
		all.Go(func() {
			for i := range waits {
				if wrong[reader] == nil {
					wrong[reader] = do(reader, i)
				}
			}
		})
	}
	all.Wait()
	return errors.Join(wrong...)
}

// walk follows the chain, part by part over several connections.
func (v *verifying) walk(ctx context.Context) error {
	end, err := headOf(ctx, v.conns[0])
	if err != nil {
		return err
	}
	parts := make([]*chain.Part, (end.Seq+linksAtOnce-1)/linksAtOnce)
	if err := shared(len(parts), func(reader, i int) (err error) {
		from, to := int64(i)*linksAtOnce, min(end.Seq, int64(i+1)*linksAtOnce)
		parts[i], err = v.follow(ctx, v.conns[reader], from, to)
		return err
	}); err != nil {
		return err
	}
	v.book = chain.NewPart(chain.Head{}, end.Seq)
	for _, p := range parts {
		v.book.Then(p)
	}
	v.found.Links, v.found.Changes, v.found.Head = v.book.Links, v.book.Changes, v.book.Head()
	if v.book.Fault != "" {
		v.found.fault("%s", v.book.Fault)
	}
	return nil
}

// linkKey is the key of the row of record that a link is of.
var linkKey = func() string {
	const doc = "coalesce(ch.kept, c.after, c.before)"
	keys := "CASE coalesce(c.what, ch.what)"
	for _, r := range ofRecord {
		if r.keys != "id" {
			keys += fmt.Sprintf(" WHEN '%s' THEN %s", r.what, r.keyOf(doc))
		}
	}
	return keys + " ELSE " + doc + "->>'id' END"
}()

// with fills the places of a statement.
func with(name string, places ...string) string {
	return strings.NewReplacer(places...).Replace(query(name))
}

var (
	linked    = with("links", "{{key}}", linkKey)
	linkOfRow = with("link_of_row", "{{key}}", linkKey)
)

func (v *verifying) follow(ctx context.Context, c *pgx.Conn, from, to int64) (*chain.Part, error) {
	after := chain.Head{Seq: from}
	if from > 0 {
		var digest []byte
		err := c.QueryRow(ctx, query("digest_of"), from).Scan(&digest)
		if errors.Is(err, pgx.ErrNoRows) {
			return chain.NewPart(after, 0), nil // it does not go on from the part before
		}
		if err != nil {
			return nil, err
		}
		copy(after.Digest[:], digest)
	}
	p := chain.NewPart(after, to-from)
	rows, err := c.Query(ctx, linked, from, to, v.found.Begun)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() && p.Follow(linkOf(rows.RawValues())) {
	}
	rows.Close()
	return p, rows.Err()
}

// linkOf reads a row as it came over the wire, whose bytes last until the next one.
func linkOf(raw [][]byte) chain.Link {
	l := chain.Link{Seq: number(raw[0]), Digest: raw[1], By: string(raw[5]), Act: string(raw[6]), What: string(raw[7]),
		Key: string(raw[12])}
	doc := orNothing(raw[11])
	switch change := raw[2]; {
	case change == nil:
		l.Text = [][]byte{chain.RowText(l.Seq, raw[7]), doc}
	case raw[3] == nil: // the row of the journal is gone
		l.Change = number(change)
	default:
		l.Change = number(change)
		since := number(raw[4]) // 2000
		l.At = epoch.Add(time.Duration(since) * time.Microsecond)
		head := chain.HeadText(l.Seq, l.Change, since+epoch.UnixMicro(), raw[5], raw[6], raw[7], raw[8], raw[9])
		l.Text = [][]byte{head, orNothing(raw[10]), doc}
	}
	if partly := raw[13][0] != 0; !partly && raw[11] != nil {
		l.Doc = doc
	}
	return l
}

func orNothing(text []byte) []byte {
	if text == nil {
		return []byte{}
	}
	return text
}

// epoch is where PostgreSQL counts microseconds from.
var epoch = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)

func number(raw []byte) int64 { return int64(binary.BigEndian.Uint64(raw)) }

// whole holds the chain against heads from earlier and against the journal: each of its rows is a link.
func (v *verifying) whole(ctx context.Context, heads []chain.Head) error {
	c := v.conns[0]
	for _, h := range heads {
		if err := v.reaches(ctx, h); err != nil {
			return err
		}
	}
	if len(v.found.Faults) > 0 {
		return nil
	}
	var rows int64
	if err := c.QueryRow(ctx, query("count_changes")).Scan(&rows); err != nil || rows == v.found.Changes {
		return err
	}
	var loose *int64
	err := c.QueryRow(ctx, query("change_in_no_link")).Scan(&loose)
	if err == nil && loose != nil {
		v.found.fault("row %d of the journal is no link of the chain: it was put there beside it", *loose)
	}
	return err
}

// reaches holds the chain against a head from earlier.
func (v *verifying) reaches(ctx context.Context, h chain.Head) error {
	var is []byte
	err := v.conns[0].QueryRow(ctx, query("digest_of"), h.Seq).Scan(&is)
	switch {
	case errors.Is(err, pgx.ErrNoRows):
		v.found.fault("the head names link %d, and the book ends at link %d: its end was cut off", h.Seq,
			v.found.Head.Seq)
		return nil
	case err == nil && !bytes.Equal(is, h.Digest[:]):
		v.found.fault("link %d is not the one that the head names: the book was written anew since then", h.Seq)
	}
	return err
}

// headOf is the last link of the chain, the zero head where there is none.
func headOf(ctx context.Context, c *pgx.Conn) (chain.Head, error) {
	var h chain.Head
	var digest []byte
	err := c.QueryRow(ctx, query("chain_ends")).Scan(&h.Seq, &digest)
	if errors.Is(err, pgx.ErrNoRows) {
		return h, nil
	}
	copy(h.Digest[:], digest)
	return h, err
}
