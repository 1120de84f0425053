package kernel

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
)

// Made is what a request made under its key: the digest of what was asked and the answer that was given.
type Made struct {
	Key       string
	Operation string
	Digest    []byte
	Answer    []byte
}

// journalStore keeps what was made under which key.
type journalStore interface {
	LockKey(key string) error
	Made(key string) (Made, error)
	KeepMade(m Made) error
}

// Errand is what the edge knows of a request that makes something: its idempotency key and the digest of what it asks.
type Errand struct {
	Key       string
	Operation string
	Digest    []byte
}

// ErrandKey is how an errand stands in a context.
type ErrandKey struct{}

// WithErrand puts an errand into a context, for once to find.
func WithErrand(ctx context.Context, e Errand) context.Context {
	return context.WithValue(ctx, ErrandKey{}, e)
}

// WithErrandDigest gives an errand whose content only its handler knows the digest of it.
func WithErrandDigest(ctx context.Context, content any) context.Context {
	e, ok := ctx.Value(ErrandKey{}).(Errand)
	if !ok {
		return ctx
	}
	e.Digest = DigestOf(content)
	return WithErrand(ctx, e)
}

// MaxKey is how many characters an idempotency key may have.
const MaxKey = 100

// Once is the door through which something is made: f runs in one transaction. Where the errand carries a key the
// answer is kept under it, so that the same errand sent again is answered the same and makes nothing; another one under
// the same key is refused.
func Once[T any](ctx context.Context, a *Kernel, f func(Store) (T, error)) (T, error) {
	var out T
	e, _ := ctx.Value(ErrandKey{}).(Errand)
	err := a.In(ctx, func(st Store) error {
		if e.Key == "" {
			var err error
			out, err = f(st)
			return err
		}
		if err := st.LockKey(e.Key); err != nil {
			return err
		}
		before, err := st.Made(e.Key)
		if err == nil {
			if before.Operation != e.Operation || !bytes.Equal(before.Digest, e.Digest) {
				return OtherContent()
			}
			if err := json.Unmarshal(before.Answer, &out); err != nil {
				return fmt.Errorf("answer kept under key: %w", err)
			}
			return nil
		}
		if !errors.Is(err, ErrNotFound) {
			return err
		}
		if out, err = f(st); err != nil {
			return err
		}
		answer, err := json.Marshal(out)
		if err != nil {
			return fmt.Errorf("answer to keep: %w", err)
		}
		return st.KeepMade(Made{e.Key, e.Operation, e.Digest, answer})
	})
	return out, err
}

// OtherContent refuses a key that stood for something else.
func OtherContent() error {
	return Problem{Kind: Clash, Code: "key_reused",
		Message: "This was sent before with other content; nothing was stored. Load the page again and look."}
}

// DigestOf is the digest of a value as JSON.
func DigestOf(v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	sum := sha256.Sum256(raw)
	return sum[:]
}
