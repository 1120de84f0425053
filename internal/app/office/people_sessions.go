package office

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"

	"gallipot/internal/app/kernel"
	"gallipot/internal/core/people"
)

// The rules of signing in (handbook 12).
const (
	pinDigits      = 6
	leastPhrase    = 10
	mostSecret     = 200
	mostTries      = 5
	waitAfterTries = time.Minute
	longestSession = 16 * time.Hour
	touchEvery     = 30 * time.Second
)

// Costs of argon2id: 19 MiB, two passes, one lane.
const (
	argonKiB    = 19 * 1024
	argonPasses = 2
	argonLanes  = 1
	argonSalt   = 16
	argonKey    = 32
)

// hashing limits how many secrets are hashed at once: each takes 19 MiB.
var hashing = make(chan struct{}, 4)

// hashed checks a new secret and hashes it. Errors: FieldError at "secret".
func hashed(secret string) (string, error) {
	digits := strings.Trim(secret, "0123456789") == ""
	switch {
	case len(secret) > mostSecret:
		return "", kernel.Mistake("secret", "at most %d characters", mostSecret)
	case digits && len(secret) != pinDigits || !digits && len([]rune(secret)) < leastPhrase:
		return "", kernel.Mistake("secret", "a PIN of %d digits, or a passphrase of at least %d characters", pinDigits,
			leastPhrase)
	case digits && simple(secret):
		return "", kernel.Mistake("secret", "this PIN is among the first that anybody would try; choose another")
	}
	salt := make([]byte, argonSalt)
	rand.Read(salt)
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonKiB, argonPasses, argonLanes,
		base64.RawStdEncoding.EncodeToString(salt),
		base64.RawStdEncoding.EncodeToString(argonOf(secret, salt, argonPasses, argonKiB, argonLanes))), nil
}

// simple reports whether a PIN is one digit repeated, or counts up or down.
func simple(pin string) bool {
	step := int(pin[1]) - int(pin[0])
	for i := 2; i < len(pin); i++ {
		if int(pin[i])-int(pin[i-1]) != step {
			return false
		}
	}
	return step >= -1 && step <= 1
}

func argonOf(secret string, salt []byte, passes, kib uint32, lanes uint8) []byte {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2.IDKey([]byte(secret), salt, passes, kib, lanes, argonKey)
}

// opens reports whether a secret matches a hash. An empty hash matches nothing, and takes as long to say so.
func opens(kept, secret string) bool {
	var version, kib, passes, lanes int
	parts := strings.Split(kept, "$")
	salt, key := make([]byte, argonSalt), []byte(nil)
	kib, passes, lanes = argonKiB, argonPasses, argonLanes
	if len(parts) == 6 {
		_, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &kib, &passes, &lanes)
		s, saltErr := base64.RawStdEncoding.DecodeString(parts[4])
		k, keyErr := base64.RawStdEncoding.DecodeString(parts[5])
		if errors.Join(err, saltErr, keyErr) == nil && version == argon2.Version {
			salt, key = s, k
		}
	}
	got := argonOf(secret, salt, uint32(passes), uint32(kib), uint8(lanes))
	return len(key) > 0 && subtle.ConstantTimeCompare(got, key) == 1
}

func tokenDigest(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// SignIn opens a session for somebody by name and secret and returns its token. Five wrong tries wait a minute. Errors:
// Problem of kind Refused with the code wrong_secret or wait.
func (a *Room) SignIn(ctx context.Context, name, secret string) (token string, err error) {
	st := a.On(ctx)
	all, err := st.People()
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(all, func(p kernel.Person) bool { return p.Name == name && p.RetiredAt == nil })
	if i < 0 {
		opens("", secret)
		return "", wrongSecret(0)
	}
	who := all[i]
	var wrong error
	err = a.Store.In(ctx, kernel.Stamp{By: who.Name, At: a.Now()}, func(st kernel.Store) error {
		t, err := st.LockTries(who.ID)
		if err != nil {
			return err
		}
		now := a.Now()
		if t.WaitUntil != nil && now.Before(*t.WaitUntil) {
			wrong = wait(t.WaitUntil.Sub(now))
			return nil
		}
		if !opens(who.Secret, secret) {
			wrong = wrongSecret(mostTries - t.Wrong - 1)
			if t.Wrong++; t.Wrong >= mostTries {
				until := now.Add(waitAfterTries)
				t, wrong = kernel.Tries{WaitUntil: &until}, wait(waitAfterTries)
			}
			return st.PutTries(who.ID, t)
		}
		if still, err := unchanged(st, who); err != nil || !still {
			wrong = wrongSecret(0)
			return err
		}
		if err := st.PutTries(who.ID, kernel.Tries{}); err != nil {
			return err
		}
		token = rand.Text()
		return st.AddSession(tokenDigest(token), who.ID, now)
	})
	if err == nil {
		err = wrong
	}
	return token, err
}

// unchanged reports whether somebody still works here and has the secret that was checked. It locks the row until the
// transaction ends.
func unchanged(st kernel.Store, who kernel.Person) (bool, error) {
	if err := st.LockPeople(); err != nil {
		return false, err
	}
	all, err := st.People()
	return slices.ContainsFunc(all, func(p kernel.Person) bool {
		return p.ID == who.ID && p.Secret == who.Secret && p.RetiredAt == nil
	}), err
}

func wrongSecret(left int) error {
	told := "This is not the right PIN or passphrase."
	if left == 1 {
		told += " One more wrong try, and it waits a minute."
	}
	return kernel.Problem{Kind: kernel.Refused, Code: "wrong_secret", Message: told}
}

func wait(d time.Duration) error {
	return kernel.Problem{Kind: kernel.Refused, Code: "wait",
		Message: fmt.Sprintf("Too many wrong tries. Wait %d seconds, then try again.", int(d.Seconds()+0.999))}
}

// SignOut ends a session.
func (a *Room) SignOut(ctx context.Context, token string) error {
	return a.On(ctx).EndSession(tokenDigest(token), a.Now())
}

// Known returns who a token belongs to. writes says that the request changes something: after the shop's idle time it
// asks for the secret again. Errors: Problem of kind Unknown with the code sign_in or locked.
func (a *Room) Known(ctx context.Context, token string, writes bool) (people.Person, error) {
	none := kernel.Problem{Kind: kernel.Unknown, Code: "sign_in",
		Message: "Sign in first; what you typed is kept here."}
	if token == "" {
		return people.Person{}, none
	}
	st, digest, now := a.On(ctx), tokenDigest(token), a.Now()
	s, err := st.Session(digest)
	if errors.Is(err, kernel.ErrNotFound) || err == nil && now.Sub(s.MadeAt) > longestSession {
		return people.Person{}, none
	}
	if err != nil {
		return people.Person{}, err
	}
	who := people.Person{Name: s.Person.Name, Role: s.Person.Role}
	if !writes || now.Sub(s.SeenAt) < touchEvery {
		return who, nil
	}
	settings, _, err := a.Settings(st)
	if err != nil {
		return who, err
	}
	if now.Sub(s.SeenAt) > time.Duration(settings.IdleMinutes)*time.Minute {
		return who, kernel.Problem{Kind: kernel.Unknown, Code: "locked",
			Message: "Nobody did anything here for a while. Is it still you? Type your PIN; what you typed is kept here."}
	}
	return who, st.TouchSession(digest, now)
}

// OtherHands asks who it is when a screen shows somebody other than the person signed in.
func OtherHands(who people.Person) error {
	return kernel.Problem{Kind: kernel.Unknown, Code: "other_hands",
		Message: who.Name + " signed in here meanwhile, in another tab. Who is it now? What you typed is kept here."}
}

// SessionView is who is signed in here, and who may.
type SessionView struct {
	Person *PersonView  `json:"person"`
	First  bool         `json:"first"` // nobody can sign in yet: the first makes the owner
	People []PersonView `json:"people"`
	Shop   string       `json:"shop"`
	Made   []MadeUp     `json:"made_up"` // of the demo: its people with their PINs
}

// MadeUp is one of the demo's people with the PIN.
type MadeUp struct {
	Name   string `json:"name"`
	Secret string `json:"secret"`
}

// SessionHere says who a token has signed in, and who may sign in.
func (a *Room) SessionHere(ctx context.Context, token string) (SessionView, error) {
	st := a.On(ctx)
	out := SessionView{People: []PersonView{}, Made: []MadeUp{}}
	all, err := st.People()
	if err != nil {
		return out, err
	}
	out.First = nobodySignsIn(all)
	who, err := a.Known(ctx, token, false)
	var asked kernel.Problem
	if err != nil && !errors.As(err, &asked) {
		return out, err
	}
	for _, p := range all {
		v := personView(p)
		if v.CanSignIn {
			out.People = append(out.People, v)
		}
		if p.Name == who.Name {
			out.Person = &v
		}
	}
	s, _, err := a.Settings(st)
	out.Shop = s.Name
	return out, err
}

// SingleSignIn makes a token that signs somebody in once, such as in the address that the demo prints.
func (a *Room) SingleSignIn(ctx context.Context, name string) (token string, err error) {
	st := a.On(ctx)
	all, err := st.People()
	if err != nil {
		return "", err
	}
	i := slices.IndexFunc(all, func(p kernel.Person) bool { return p.Name == name && p.RetiredAt == nil })
	if i < 0 {
		return "", fmt.Errorf("person %q: %w", name, kernel.ErrNotFound)
	}
	token = rand.Text()
	return token, st.AddSingleSignIn(tokenDigest(token), all[i].ID, a.Now())
}

// UseSingleSignIn opens a session by such a token, once. Errors: ErrNotFound.
func (a *Room) UseSingleSignIn(ctx context.Context, token string) (session string, err error) {
	session = rand.Text()
	err = a.In(kernel.As(ctx, kernel.TheProgram), func(st kernel.Store) error {
		person, err := st.UseSingleSignIn(tokenDigest(token), a.Now())
		if err != nil {
			return err
		}
		return st.AddSession(tokenDigest(session), person, a.Now())
	})
	return session, err
}
