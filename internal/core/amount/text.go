package amount

import (
	"errors"
	"fmt"
	"math/big"
	"strconv"
	"strings"
)

// wirePlaces is to how many decimals an Exact travels in JSON: far below anything that is shown or billed.
const wirePlaces = 12

// largest bounds a number in its unit, so that sums of some hundreds of them never run over.
const largest = 1_000_000_000_000_000

// maxDigits bounds a number as text, so that no one can make us multiply out a gigabyte of zeros.
const maxDigits = 40

// ErrNotANumber is returned for text that is no plain decimal number.
var ErrNotANumber = errors.New("not a number")

// LiteralError says which number in a JSON text cannot be taken, and why. Literal is the number as it was written.
type LiteralError struct {
	Literal string
	Message string
}

func (e LiteralError) Error() string { return fmt.Sprintf("%s: %s", e.Literal, e.Message) }

// ParseNumber reads a typed number: surrounding blanks, a thin or plain space between thousands, and one decimal point
// or comma are accepted. It returns ErrNotANumber for anything else.
func ParseNumber(text string) (Exact, error) {
	s := strings.Map(func(r rune) rune {
		switch r {
		case ' ', '\u00a0', '\u2009', '\u202f':
			return -1
		case ',':
			return '.'
		}
		return r
	}, strings.TrimSpace(text))
	if s == "" || strings.Count(s, ".") > 1 || len(s) > 24 ||
		strings.Trim(strings.TrimPrefix(s, "-"), "0123456789.") != "" || strings.Trim(s, "-.") == "" {
		return Exact{}, fmt.Errorf("%q: %w", clip(text), ErrNotANumber)
	}
	r, ok := new(big.Rat).SetString(s)
	if !ok {
		return Exact{}, fmt.Errorf("%q: %w", clip(text), ErrNotANumber)
	}
	return small(r), nil
}

func clip(s string) string {
	if r := []rune(s); len(r) > 30 {
		return string(r[:30]) + "…"
	}
	return s
}

// Quantity takes a number that has no more than three decimals; ok is false for a finer or a larger one.
func (x Exact) Quantity() (q Quantity, ok bool) {
	q = Quantity{x.whole(places[each]())}
	return q, q.Exact().Cmp(x) == 0
}

// ExactMoney takes a number that has no more than six decimals; ok is false for a finer or a larger one.
func (x Exact) ExactMoney() (m Money, ok bool) {
	m = x.Money()
	return m, m.Exact().Cmp(x) == 0
}

// fixedOf reads a plain number with at most so many decimals. What a computation in binary leaves below them is rounded
// off.
func fixedOf(s string, places int) (int64, error) {
	if n, ok := plainFixed(s, places); ok {
		return n, nil
	}
	r, err := ratOf(s)
	if err != nil {
		return 0, err
	}
	n := small(r).scaled(places)
	if !n.IsInt64() || n.Int64() > largest || n.Int64() < -largest {
		return 0, LiteralError{clip(s), "not a number of a size that can be"}
	}
	unit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
	off := new(big.Rat).Sub(r, new(big.Rat).SetFrac(n, unit))
	if off.Abs(off).Cmp(binaryNoise) > 0 {
		return 0, LiteralError{clip(s), fmt.Sprintf("at most %d decimals", places)}
	}
	return n.Int64(), nil
}

// ratOf reads a number as JSON writes it, of a size that can be.
func ratOf(s string) (*big.Rat, error) {
	mantissa, exponent, hasExponent := strings.Cut(strings.ToLower(s), "e")
	e, err := 0, error(nil)
	if hasExponent {
		e, err = strconv.Atoi(exponent)
	}
	if err != nil || len(mantissa) > maxDigits || e > maxDigits || e < -maxDigits {
		return nil, LiteralError{clip(s), "not a number of a size that can be"}
	}
	r, ok := new(big.Rat).SetString(s)
	if !ok || strings.Trim(mantissa, "-.0123456789") != "" {
		return nil, LiteralError{clip(s), "not a number"}
	}
	return r, nil
}

// binaryNoise is what adding tenths in binary leaves behind: 12.4 comes as 12.400000000000002.
var binaryNoise = big.NewRat(1, 100_000_000)

// plainFixed reads what nearly every number looks like, without allocating.
func plainFixed(s string, places int) (int64, bool) {
	digits, negative := s, false
	if strings.HasPrefix(digits, "-") {
		digits, negative = digits[1:], true
	}
	n, after, seen := int64(0), -1, 0
	for i := range len(digits) {
		switch c := digits[i]; {
		case c == '.' && after < 0 && i > 0:
			after = 0
		case c >= '0' && c <= '9' && after < places:
			n = n*10 + int64(c-'0')
			seen++
			if after >= 0 {
				after++
			}
		default:
			return 0, false
		}
	}
	if seen == 0 || seen > 15 || after == 0 {
		return 0, false
	}
	n, ok := mul(n, powers[places-max(after, 0)])
	if !ok || n > largest {
		return 0, false
	}
	if negative {
		n = -n
	}
	return n, true
}

func mustFixed(s string, places int) int64 {
	n, err := fixedOf(s, places)
	if err != nil {
		panic("amount: " + err.Error())
	}
	return n
}

// appendFixed writes n / 10^places; trim drops zeros at the end.
func appendFixed(out []byte, n int64, places int, trim bool) []byte {
	if n < 0 {
		out = append(out, '-')
	}
	u := magnitude(n)
	unit := uint64(powers[places])
	out = strconv.AppendUint(out, u/unit, 10)
	rest := u % unit
	if places == 0 || trim && rest == 0 {
		return out
	}
	out = append(out, '.')
	start := len(out)
	for range places {
		out = append(out, '0')
	}
	for i := len(out) - 1; i >= start; i-- {
		out[i] = byte('0' + rest%10)
		rest /= 10
	}
	for trim && out[len(out)-1] == '0' {
		out = out[:len(out)-1]
	}
	return out
}

func trimZeros(s string) string {
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

// unquote takes a JSON number, or one in quotes; null is empty.
func unquote(raw []byte) string {
	s := string(raw)
	if s == "null" {
		return ""
	}
	if len(s) >= 2 && s[0] == '"' && s[len(s)-1] == '"' {
		return s[1 : len(s)-1]
	}
	return s
}

func readJSON(raw []byte, places int, into *int64) error {
	s := unquote(raw)
	if s == "" {
		return nil
	}
	n, err := fixedOf(s, places)
	if err == nil {
		*into = n
	}
	return err
}

// MarshalJSON writes a plain decimal.
func (x Fixed[U]) MarshalJSON() ([]byte, error) {
	return appendFixed(nil, x.steps, places[U](), true), nil
}

// UnmarshalJSON reads a plain decimal that its places hold. Errors: LiteralError.
func (x *Fixed[U]) UnmarshalJSON(raw []byte) error { return readJSON(raw, places[U](), &x.steps) }

// MarshalJSON writes the number to twelve decimals.
func (x Exact) MarshalJSON() ([]byte, error) { return []byte(x.String()), nil }

// UnmarshalJSON reads a plain number. Errors: LiteralError.
func (x *Exact) UnmarshalJSON(raw []byte) error {
	s := unquote(raw)
	if s == "" {
		return nil
	}
	r, err := ratOf(s)
	if err == nil {
		*x = small(r)
	}
	return err
}
