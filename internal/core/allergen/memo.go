package allergen

import "sync"

// memoLimit bounds a memo; a shop has a few hundred ingredients.
const memoLimit = 4096

// Memo remembers what a pure function gave. The words of an ingredient are read again on every edit of a gram, and
// change hardly ever.
type Memo[K comparable, V any] struct {
	mu   sync.RWMutex
	seen map[K]V
}

// Get is what is remembered for a key, or what compute gives.
func (m *Memo[K, V]) Get(key K, compute func() V) V {
	m.mu.RLock()
	v, ok := m.seen[key]
	m.mu.RUnlock()
	if ok {
		return v
	}
	v = compute()
	m.mu.Lock()
	if m.seen == nil || len(m.seen) >= memoLimit {
		m.seen = make(map[K]V)
	}
	m.seen[key] = v
	m.mu.Unlock()
	return v
}
