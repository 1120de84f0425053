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
	By        string // who made it; empty in a shop from before
}

// journalStore keeps what was made under which key.
type journalStore interface {
	LockKey(key string) error
	Made(key string) (Made, error)
	KeepMade(m Made) error
}

// Errand identifies a request that makes something: its idempotency key and the digest of its content.
type Errand struct {
	Key       string
	Operation string
	Digest    []byte
}

// ErrandKey is the context key of an errand.
type ErrandKey struct{}

// WithErrand puts an errand into a context, where Once finds it.
func WithErrand(ctx context.Context, e Errand) context.Context {
	return context.WithValue(ctx, ErrandKey{}, e)
}

// WithErrandDigest sets the digest of an errand whose content only its handler knows.
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

// Once runs f in one transaction and stores its answer under the errand's key. The same errand sent again gets the same
// answer and makes nothing; a different errand with the same key is refused.
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
			if before.Operation != e.Operation || !bytes.Equal(before.Digest, e.Digest) ||
				before.By != "" && before.By != Actor(ctx).Name {
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
		return st.KeepMade(Made{Key: e.Key, Operation: e.Operation, Digest: e.Digest, Answer: answer})
	})
	return out, err
}

// OtherContent refuses a key that was used for something else, or by somebody else.
func OtherContent() error {
	return Problem{Kind: Clash, Code: "key_reused",
		Message: "This was sent before, with other content or by somebody else; nothing was stored now. Load the " +
			"page again and look."}
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
