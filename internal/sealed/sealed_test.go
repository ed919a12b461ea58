package sealed

import (
	"bytes"
	"encoding/json"
	"errors"
	"testing"

	"github.com/google/uuid"
)

func keys(t testing.TB) *Keys {
	t.Helper()
	private, secret, err := MakeKeys()
	if err != nil {
		t.Fatal(err)
	}
	k, err := ReadKeys(uuid.New(), private, secret)
	if err != nil {
		t.Fatal(err)
	}
	return k
}

func envelope(t testing.TB, k *Keys, signIn uuid.UUID, secret, body []byte) *Envelope {
	t.Helper()
	e := &Envelope{Kind: "attempt", ID: uuid.New(), SignIn: signIn, Key: k.ID}
	if err := Seal(e, k.Public(), secret, body); err != nil {
		t.Fatal(err)
	}
	return e
}

func TestWhatIsSealedIsOpened(t *testing.T) {
	k, signIn, body := keys(t), uuid.New(), []byte(`{"marks": "è una prova"}`)
	e := envelope(t, k, signIn, k.SecretOf(signIn), body)
	if bytes.Contains(e.Box, []byte("prova")) {
		t.Error("it can be read")
	}
	data, _ := json.Marshal(e)
	var sent Envelope
	if err := json.Unmarshal(data, &sent); err != nil {
		t.Fatal(err)
	}
	if got, err := k.Open(&sent); err != nil || !bytes.Equal(got, body) {
		t.Errorf("%s %v", got, err)
	}
	if bytes.Equal(k.SecretOf(signIn), k.SecretOf(uuid.New())) || bytes.Equal(k.SecretOf(signIn),
		keys(t).SecretOf(signIn)) {
		t.Error("two sign-ins, or two servers, have one secret")
	}
}

// Nobody adds to what was made under a sign-in, moves it to another, or changes what it is.
func TestForgeriesAreRefused(t *testing.T) {
	k, signIn, other := keys(t), uuid.New(), uuid.New()
	mine := func(change func(*Envelope)) *Envelope {
		e := envelope(t, k, signIn, k.SecretOf(signIn), []byte("{}"))
		change(e)
		return e
	}
	for what, c := range map[string]struct {
		e    *Envelope
		want error
	}{
		"the secret of another sign-in": {envelope(t, k, signIn, k.SecretOf(other), []byte("{}")), ErrProof},
		"no secret":                     {envelope(t, k, signIn, nil, []byte("{}")), ErrProof},
		"moved to another sign-in":      {mine(func(e *Envelope) { e.SignIn = other }), ErrSeal},
		"another kind":                  {mine(func(e *Envelope) { e.Kind = "run" }), ErrSeal},
		"another id":                    {mine(func(e *Envelope) { e.ID = uuid.New() }), ErrSeal},
		"another server":                {mine(func(e *Envelope) { e.Key = uuid.New() }), ErrKey},
		"changed":                       {mine(func(e *Envelope) { e.Box[3] ^= 1 }), ErrSeal},
		"cut short":                     {mine(func(e *Envelope) { e.Box = e.Box[:5] }), ErrSeal},
		"no point":                      {mine(func(e *Envelope) { e.Point = nil }), ErrSeal},
		"a short IV":                    {mine(func(e *Envelope) { e.IV = e.IV[:3] }), ErrSeal},
	} {
		if _, err := k.Open(c.e); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", what, err, c.want)
		}
	}
	if _, err := ReadKeys(k.ID, []byte("short"), make([]byte, 32)); err == nil {
		t.Error("a key that is none")
	}
}

func FuzzOpen(f *testing.F) {
	k := keys(f)
	data, _ := json.Marshal(envelope(f, k, uuid.Nil, k.SecretOf(uuid.Nil), []byte("{}")))
	f.Add(data)
	f.Add([]byte(`{"kind": "run", "point": "BA==", "iv": "AAAAAAAAAAAAAAAA"}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		var e Envelope
		if json.Unmarshal(data, &e) == nil {
			e.Key = k.ID
			if _, err := k.Open(&e); err != nil && !errors.Is(err, ErrSeal) && !errors.Is(err, ErrProof) {
				t.Fatal(err)
			}
		}
	})
}
