package chain

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// of links texts to a chain, each the state of a row of its own.
func of(texts ...string) []Link {
	var out []Link
	var before []byte
	for i, s := range texts {
		d := Next(before, []byte(s))
		out = append(out, Link{Seq: int64(i + 1), Change: int64(i + 10), Digest: d[:], Text: [][]byte{[]byte(s)}, Act: "insert",
			What: "lot", Key: fmt.Sprint(i), Doc: fmt.Appendf(nil, `{"id": %d, "said": %q}`, i, s)})
		before = d[:]
	}
	return out
}

func followed(links []Link) *Part {
	p := NewPart(Head{}, 0)
	for _, l := range links {
		p.Follow(l)
	}
	return p
}

func TestTheTextOfALinkIsItsPartsWithALineBreak(t *testing.T) {
	assert.Equal(t, Next([]byte("x"), []byte("a\nb\n")), Next([]byte("x"), []byte("a"), []byte("b"), nil))
	assert.NotEqual(t, Next(nil, []byte("ab")), Next(nil, []byte("a"), []byte("b")))
}

func TestNoPartOfALinkRunsIntoAnother(t *testing.T) {
	const at = 1_772_442_000_000_001
	text := func(by, act, why string) string {
		return string(HeadText(7, 5, at, []byte(by), []byte(act), []byte("lot"), []byte("1"), []byte(why)))
	}
	assert.Equal(t, "7 5 1772442000000001\n4 Ines\n6 insert\n3 lot\n1 1\n0 ", text("Ines", "insert", ""))
	assert.NotEqual(t, text("Ines\n6 insert", "", ""), text("Ines", "insert", ""))
	assert.NotEqual(t, text("Ines", "insert", ""),
		string(HeadText(7, 5, at, []byte("Ines"), []byte("insert"), []byte("lot"), []byte("1"), nil)),
		"no reason is another thing than an empty one")
	assert.Equal(t, "9\n3 lot", string(RowText(9, []byte("lot"))))
}

func TestAHeadReadsAsItIsWritten(t *testing.T) {
	h := Head{1234, Next(nil, []byte("a"))}
	got, err := ParseHead(" " + h.String() + "\n")
	require.NoError(t, err)
	assert.Equal(t, h, got)
	got, err = ParseHead(strings.ToUpper(h.String()))
	require.NoError(t, err)
	assert.Equal(t, h, got, "as somebody types it from paper")
	for _, s := range []string{"", "12", "12:", "0:" + h.String()[5:], "-1:" + h.String()[5:], h.String() + "00",
		h.String()[:40], "twelve:" + h.String()[5:]} {
		_, err := ParseHead(s)
		assert.ErrorContains(t, err, "is no head", s)
	}
}

func TestAChainIsFollowedToItsHead(t *testing.T) {
	links := of("a", "b", "c")
	p := followed(links)
	assert.Empty(t, p.Fault)
	assert.EqualValues(t, 3, p.Links)
	assert.EqualValues(t, 3, p.Changes)
	assert.EqualValues(t, 3, p.Head().Seq)
	assert.Equal(t, Digest(links[2].Digest), p.Head().Digest)
}

func TestTheFirstLinkThatDoesNotFitIsNamed(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func([]Link) []Link
		said  string
	}{
		"changed": {func(l []Link) []Link { l[1].Text = [][]byte{[]byte("x")}; return l }, "row 11 of the journal (link 2) does not fit"},
		"taken out": {func(l []Link) []Link { return append(l[:1:1], l[2:]...) },
			"link 2 of the chain is missing: after 1 comes 3"},
		"the first taken out": {func(l []Link) []Link { return l[1:] }, "link 1 of the chain is missing: after 0 comes 2"},
		"swapped": {func(l []Link) []Link { l[1].Text, l[2].Text = l[2].Text, l[1].Text; return l },
			"row 11 of the journal (link 2) does not fit"},
		"its row gone": {func(l []Link) []Link { l[2].Text = nil; return l }, "row 12 of the journal (link 3) is gone"},
		"another digest": {func(l []Link) []Link { l[0].Digest = l[1].Digest; return l },
			"row 10 of the journal (link 1) does not fit"},
		"a row told whole": {func(l []Link) []Link { l[1].Change, l[1].Text = 0, [][]byte{[]byte("x")}; return l },
			"link 2 (lot 1 as it stood) does not fit"},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Contains(t, followed(c.spoil(of("a", "b", "c", "d"))).Fault, c.said)
		})
	}
}

func TestPartsThatWereFollowedApartAreOneChain(t *testing.T) {
	links := of("a", "b", "c", "d")
	links[2].Key = "0" // the row of the first link, as it stands later
	first, second := followed(links[:2]), NewPart(Head{2, Digest(links[1].Digest)}, 2)
	for _, l := range links[2:] {
		second.Follow(l)
	}
	first.Then(second)
	assert.Empty(t, first.Fault)
	assert.EqualValues(t, 4, first.Links)
	assert.EqualValues(t, 4, first.Head().Seq)
	fault, err := first.Stands("lot", "0", links[2].Doc, nil)
	require.NoError(t, err)
	assert.Empty(t, fault, "the later state counts")

	for name, next := range map[string]Head{"another link before it": {2, Digest(links[0].Digest)},
		"one between is missing": {3, Digest(links[2].Digest)}, "nothing is known of the one before": {Seq: 3}} {
		whole := followed(links[:2])
		whole.Then(NewPart(next, 0))
		assert.Contains(t, whole.Fault, "link 3 of the chain is missing", name)
	}
}

func TestRowsStandAsTheirLastLinkTells(t *testing.T) {
	links := of("a", "b", "c")
	gone := links[1]
	gone.Seq, gone.Act, gone.Text = 4, "delete", [][]byte{[]byte("d")}
	d := Next(links[2].Digest, gone.Text...)
	gone.Digest = d[:]
	links = append(links, gone)
	told := func(seq int64) ([]byte, error) { return links[seq-1].Doc, nil }
	p := followed(links)
	require.Empty(t, p.Fault)
	for _, c := range []struct{ key, row, said string }{
		{"0", string(links[0].Doc), ""},
		{"9", `{"id": 9}`, "no row of the journal tells of it"},
		{"1", string(links[1].Doc), "no row of the journal tells of it"},
	} {
		fault, err := p.Stands("lot", c.key, []byte(c.row), told)
		require.NoError(t, err)
		assert.Contains(t, fault, c.said, c.key)
		assert.Equal(t, c.said == "", fault == "", c.key)
	}
	assert.Equal(t, []int64{3}, p.Missing(), "the third was not met")
	fault, err := p.Stands("lot", "2", []byte(`{"id": 2, "said": "x"}`), told)
	require.NoError(t, err)
	assert.Contains(t, fault, "lot 2 is not as the journal tells it (link 3)")
	assert.Empty(t, p.Missing())

	p = followed(links)
	_, err = p.Stands("lot", "2", []byte(`{"id": 2}`), func(int64) ([]byte, error) { return nil, errors.New("away") })
	assert.ErrorContains(t, err, "away")
}

func TestARowIsComparedColumnByColumn(t *testing.T) {
	for name, c := range map[string]struct {
		told, row string
		same      bool
	}{
		"the same":                {`{"a": 1}`, `{"a": 1}`, true},
		"a younger column":        {`{"a": 1}`, `{"a": 1, "b": 2}`, true},
		"a column that is gone":   {`{"a": 1, "b": 2}`, `{"a": 1}`, true},
		"another value":           {`{"a": 1}`, `{"a": 2}`, false},
		"nothing":                 {`{"a": 1}`, `{"a": null}`, false},
		"told by its digest":      {`{"a": {"sha256": "8eccbaca2e8f2119e8b8ff32dd14f52c7fbf3bff9dfdfb0b29a2b8f8dc1bd9a8"}}`, `{"a": "x"}`, false},
		"what only looks like it": {`{"a": {"sha256": "1", "b": "2"}}`, `{"a": {"sha256": "1", "b": "3"}}`, false},
	} {
		t.Run(name, func(t *testing.T) {
			same, err := Same([]byte(c.told), []byte(c.row))
			require.NoError(t, err)
			assert.Equal(t, c.same, same)
		})
	}
	long := `"` + strings.Repeat("z", 9000) + `"`
	sum := Next(nil, []byte(long))
	same, err := Same(fmt.Appendf(nil, `{"a": {"sha256": "%x"}}`, sum[:]), []byte(`{"a": `+long+`}`))
	require.NoError(t, err)
	assert.True(t, same, "what is long is told by its digest")
	_, err = Same([]byte("x"), []byte("{}"))
	assert.Error(t, err)
}
