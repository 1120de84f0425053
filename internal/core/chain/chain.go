// Package chain proves a book by itself: every row of the journal is a link whose digest covers the link before it, and
// what stands in the tables of record is held against what its last link told (handbook 12).
package chain

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Digest is that of a link, and of all that came before it.
type Digest [sha256.Size]byte

// Next returns the digest of a link from that of the one before and the text of the link itself, a line break between
// its parts.
func Next(before []byte, text ...[]byte) (d Digest) {
	h := sha256.New()
	h.Write(before)
	for i, part := range text {
		if i > 0 {
			h.Write(lineBreak)
		}
		h.Write(part)
	}
	h.Sum(d[:0])
	return d
}

var lineBreak = []byte("\n")

// Head names a link with its digest. Whoever has one from earlier can prove that the book up to there is the same book.
type Head struct {
	Seq    int64
	Digest Digest
}

// Hex writes its digest.
func (h Head) Hex() string { return hex.EncodeToString(h.Digest[:]) }

// String writes it as SEQ:DIGEST.
func (h Head) String() string { return fmt.Sprintf("%d:%s", h.Seq, h.Hex()) }

// Join puts a head together from its two parts.
func Join(seq int64, digest string) (Head, error) {
	return ParseHead(fmt.Sprintf("%d:%s", seq, digest))
}

// ParseHead reads SEQ:DIGEST, as it stands on a printed batch record, in a backup and in the head file.
func ParseHead(s string) (Head, error) {
	wrong := fmt.Errorf("%q is no head: it reads as in 1234:0a1b…, a number, a colon and 64 digits and letters", s)
	number, digest, ok := strings.Cut(strings.TrimSpace(s), ":")
	if !ok {
		return Head{}, wrong
	}
	seq, err := strconv.ParseInt(number, 10, 64)
	raw, err2 := hex.DecodeString(strings.ToLower(digest))
	if errors.Join(err, err2) != nil || seq < 1 || len(raw) != sha256.Size {
		return Head{}, wrong
	}
	return Head{seq, Digest(raw)}, nil
}

// Link is one link as it was read.
type Link struct {
	Seq    int64
	Digest []byte
	Text   [][]byte // what its digest covers, part by part; nil where the row of the journal is gone
	Change int64    // the row of the journal, 0 where it is a row of record told whole
	At     time.Time
	By     string
	Act    string
	What   string
	Key    string // of the row of record: its keys, a space between
	Doc    []byte // how the row stands after it; nil where it tells only a part
}

// HeadText is what is digested of a link before its documents: numbers, and texts with their lengths, so that no part
// can run into another. At is in microseconds since 1970; a why of nil was not given.
func HeadText(link, change, at int64, by, act, what, which, why []byte) []byte {
	out := make([]byte, 0, 160)
	out = strconv.AppendInt(out, link, 10)
	out = strconv.AppendInt(append(out, ' '), change, 10)
	out = strconv.AppendInt(append(out, ' '), at, 10)
	for _, text := range [][]byte{by, act, what, which, why} {
		if text == nil {
			out = append(out, "\n-"...)
			continue
		}
		out = append(strconv.AppendInt(append(out, '\n'), int64(len(text)), 10), ' ')
		out = append(out, text...)
	}
	return out
}

// RowText is the same of a link that tells a row of record whole.
func RowText(link int64, what []byte) []byte {
	return fmt.Appendf(nil, "%d\n%d %s", link, len(what), what)
}

// Said tells a person which row of the journal this is.
func (l Link) Said() string {
	if l.Change == 0 {
		return fmt.Sprintf("link %d (%s %s as it stood)", l.Seq, l.What, l.Key)
	}
	if l.By == "" {
		return fmt.Sprintf("row %d of the journal (link %d)", l.Change, l.Seq)
	}
	return fmt.Sprintf("row %d of the journal (link %d: %s %s by %s, %s)", l.Change, l.Seq, l.Act, l.What, l.By,
		l.At.UTC().Format("2006-01-02 15:04:05Z"))
}

// mark tells two texts apart, by hashes whose seeds nobody knows who wrote the texts: they are drawn as the program
// starts.
type mark [2]uint64

var seeds = [2]maphash.Seed{maphash.MakeSeed(), maphash.MakeSeed()}

func markOf(text []byte) mark {
	return mark{maphash.Bytes(seeds[0], text), maphash.Bytes(seeds[1], text)}
}

type state struct {
	seq  int64
	doc  mark
	gone bool
}

// Part follows a run of links and keeps how each row of record stood after the last of them.
type Part struct {
	Links, Changes int64
	Fault          string // the first link that does not fit
	after, before  Head   // what came before the part, and its last link
	first          bool
	mu             sync.Mutex     // of the rows, while several tables are compared at once
	rows           map[mark]state // by what and key
}

// NewPart follows the links after one, about so many; the zero head for the first part of a chain.
func NewPart(after Head, links int64) *Part {
	return &Part{after: after, before: after, first: after.Seq == 0, rows: make(map[mark]state, links)}
}

func rowKey(what, key string) mark { return markOf([]byte(what + "\n" + key)) }

// Follow takes the next link; false once one does not fit.
func (p *Part) Follow(l Link) bool {
	switch {
	case p.Fault != "":
		return false
	case l.Seq != p.before.Seq+1:
		p.Fault = fmt.Sprintf("link %d of the chain is missing: after %d comes %d", p.before.Seq+1, p.before.Seq, l.Seq)
		return false
	case l.Text == nil:
		p.Fault = l.Said() + " is gone"
		return false
	}
	before := p.before.Digest[:]
	if p.first {
		before = nil
	}
	if is := Next(before, l.Text...); !bytes.Equal(is[:], l.Digest) {
		p.Fault = l.Said() + " does not fit: it was changed, or what stood before it was"
		return false
	}
	p.before, p.first = Head{l.Seq, Digest(l.Digest)}, false
	p.Links++
	if l.Change != 0 {
		p.Changes++
	}
	switch key := rowKey(l.What, l.Key); {
	case l.Act == "delete":
		p.rows[key] = state{seq: l.Seq, gone: true}
	case l.Doc != nil:
		p.rows[key] = state{seq: l.Seq, doc: markOf(l.Doc)}
	}
	return true
}

// Head returns the last link that was followed.
func (p *Part) Head() Head { return p.before }

// Then adds the part that follows.
func (p *Part) Then(next *Part) {
	switch {
	case p.Fault != "":
	case next.after != p.before: // what the next began with is not what this one came to
		p.Fault = fmt.Sprintf("link %d of the chain is missing", p.before.Seq+1)
	default:
		p.Fault, p.before = next.Fault, next.before
	}
	p.Links += next.Links
	p.Changes += next.Changes
	for key, s := range next.rows {
		p.rows[key] = s
	}
}

// Stands compares a row of record with what its last link told. told fetches that link's document where the two differ
// to the letter: the row may have columns that are younger than the link.
func (p *Part) Stands(what, key string, row []byte, told func(seq int64) ([]byte, error)) (fault string, err error) {
	k, is := rowKey(what, key), markOf(row)
	p.mu.Lock()
	defer p.mu.Unlock()
	s, ok := p.rows[k]
	if !ok || s.gone {
		return fmt.Sprintf("%s %s stands in the book, but no row of the journal tells of it", what, key), nil
	}
	delete(p.rows, k)
	if s.doc == is {
		return "", nil
	}
	doc, err := told(s.seq)
	if err != nil {
		return "", err
	}
	if same, err := Same(doc, row); err != nil || same {
		return "", err
	}
	return fmt.Sprintf("%s %s is not as the journal tells it (link %d)", what, key, s.seq), nil
}

// Missing returns the links of rows that should still stand in the tables after all of them were compared.
func (p *Part) Missing() []int64 {
	var out []int64
	for _, s := range p.rows {
		if !s.gone {
			out = append(out, s.seq)
		}
	}
	return out
}

// Same reports whether a row still says what was told of it, column by column. A value that was told by its digest is
// compared by its digest; columns that were not told are younger, or follow from others.
func Same(told, row []byte) (bool, error) {
	was, err := columns(told)
	if err != nil {
		return false, err
	}
	is, err := columns(row)
	if err != nil {
		return false, err
	}
	for name, v := range was {
		now, ok := is[name]
		if !ok {
			continue
		}
		if bytes.Equal(v, now) {
			continue
		}
		var short map[string]string
		if json.Unmarshal(v, &short) != nil || len(short) != 1 || short["sha256"] == "" {
			return false, nil
		}
		if sum := sha256.Sum256(now); hex.EncodeToString(sum[:]) != short["sha256"] {
			return false, nil
		}
	}
	return true, nil
}

func columns(doc []byte) (map[string]json.RawMessage, error) {
	var out map[string]json.RawMessage
	if err := json.Unmarshal(doc, &out); err != nil {
		return nil, fmt.Errorf("a row as JSON: %w", err)
	}
	return out, nil
}
