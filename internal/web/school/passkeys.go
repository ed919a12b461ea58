package school

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"

	"github.com/gin-gonic/gin"
	"github.com/go-webauthn/webauthn/protocol"
	"github.com/go-webauthn/webauthn/webauthn"
	"github.com/google/uuid"

	"maestrale/internal/reach"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// mostKey is the largest answer of a device that is read, in bytes.
const mostKey = 64 << 10

// ceremonyKey is where the session keeps what a device was asked.
const ceremonyKey = "passkey"

// keyHolder is a person as the passkey protocol knows them.
type keyHolder struct {
	id          uuid.UUID
	email, name string
	keys        []webauthn.Credential
}

func (h keyHolder) WebAuthnID() []byte                         { return h.id[:] }
func (h keyHolder) WebAuthnName() string                       { return h.email }
func (h keyHolder) WebAuthnDisplayName() string                { return h.name }
func (h keyHolder) WebAuthnCredentials() []webauthn.Credential { return h.keys }

// relying is this server as the protocol knows it: passkeys belong to the name by which it is reached. An address of
// numbers has none.
func (s Pages) relying(c *gin.Context) (*webauthn.WebAuthn, string, error) {
	address := s.Frame.Address("")
	// A browser that reaches this very machine by the name localhost has its passkeys under that name.
	if host, _, err := net.SplitHostPort(c.Request.Host); err == nil && host == "localhost" {
		scheme := "http"
		if reach.OverHTTPS(c.Request) {
			scheme = "https"
		}
		address = scheme + "://" + c.Request.Host
	}
	u, err := url.Parse(address)
	if err != nil || u.Hostname() == "" || net.ParseIP(u.Hostname()) != nil {
		return nil, "", errors.New("passkeys work where the server is reached by a name, such as localhost or " +
			"school.example, and not by a number")
	}
	w, err := webauthn.New(&webauthn.Config{RPID: u.Hostname(), RPDisplayName: "Maestrale",
		RPOrigins: []string{u.Scheme + "://" + u.Host}})
	if err != nil {
		return nil, "", fmt.Errorf("passkeys: %w", err)
	}
	return w, u.Hostname(), nil
}

// ask keeps in the session what the device was asked, and sends it.
func (s Pages) ask(c *gin.Context, options any, asked *webauthn.SessionData, err error) {
	if err == nil {
		var data []byte
		if data, err = json.Marshal(asked); err == nil {
			s.Sessions.Put(c.Request.Context(), ceremonyKey, string(data))
			c.JSON(http.StatusOK, options)
			return
		}
	}
	s.keyRefused(c, err)
}

// asked takes what the device was asked out of the session, and puts a body of limited size into the request.
func (s Pages) asked(c *gin.Context) (data webauthn.SessionData, err error) {
	body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, mostKey))
	if err != nil {
		return data, errors.New("the device's answer is too large")
	}
	c.Request.Body = io.NopCloser(bytes.NewReader(body))
	text := s.Sessions.PopString(c.Request.Context(), ceremonyKey)
	if text == "" || json.Unmarshal([]byte(text), &data) != nil {
		return data, errors.New("the question to the device is not known any more; begin again")
	}
	return data, nil
}

func (s Pages) keyRefused(c *gin.Context, err error) {
	var p *protocol.Error
	if errors.As(err, &p) { // what the library says is for developers
		s.Log.InfoContext(c.Request.Context(), "passkey", "error", err, "detail", p.DevInfo)
		err = errors.New("the device's answer does not prove the passkey")
	}
	s.Problem(c, http.StatusUnprocessableEntity, frame.Problem{What: frame.Said(err),
		Do: msgTryAgainOr})
}

// BeginPasskey asks the device for a new passkey.
func (s Pages) BeginPasskey(c *gin.Context) {
	w, _, err := s.relying(c)
	var h keyHolder
	if err == nil {
		h, err = s.holder(c.Request.Context(), s.Who)
	}
	if err != nil {
		s.keyRefused(c, err)
		return
	}
	options, asked, err := w.BeginRegistration(h,
		webauthn.WithResidentKeyRequirement(protocol.ResidentKeyRequirementRequired),
		webauthn.WithExclusions(webauthn.Credentials(h.keys).CredentialDescriptors()))
	s.ask(c, options, asked, err)
}

// holder is a signed-in person with their passkeys.
func (s Pages) holder(ctx context.Context, p *store.Person) (h keyHolder, err error) {
	h = keyHolder{id: p.ID, email: p.Email, name: p.Name}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := tx.Passkeys(ctx, p.ID)
		for _, k := range list {
			var cred webauthn.Credential
			if err == nil {
				err = json.Unmarshal(k.Body, &cred)
			}
			h.keys = append(h.keys, cred)
		}
		return err
	})
	return h, err
}

// AddPasskey keeps the passkey that the device made.
func (s Pages) AddPasskey(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	w, host, err := s.relying(c)
	var asked webauthn.SessionData
	var h keyHolder
	var cred *webauthn.Credential
	if err == nil {
		asked, err = s.asked(c)
	}
	if err == nil {
		h, err = s.holder(ctx, p)
	}
	if err == nil {
		cred, err = w.FinishRegistration(h, asked, c.Request)
	}
	var body []byte
	if err == nil {
		body, err = json.Marshal(cred)
	}
	if err != nil {
		s.keyRefused(c, err)
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k := store.Passkey{ID: store.NewID(), Name: passkeyName(c.Query("name"), s.Now().In(p.Zone())), Host: host,
			Body: body, MadeAt: s.Now()}
		return errors.Join(tx.AddPasskey(ctx, p.ID, k, cred.ID), tx.Did(ctx, p.ID, nil, "added a passkey"))
	})
	switch {
	case errors.Is(err, store.ErrTaken):
		s.keyRefused(c, errors.New("this passkey is kept already"))
	case err != nil:
		s.Failed(c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"to": "/account#passkeys"})
	}
}

// RemovePasskey takes an own passkey away.
func (s Pages) RemovePasskey(c *gin.Context) {
	p := frame.Person(c)
	_, ok := s.About(c, "passkey", func(tx store.Tx, id uuid.UUID) error {
		return errors.Join(tx.RemovePasskey(c.Request.Context(), p.ID, id),
			tx.Did(c.Request.Context(), p.ID, nil, msgTookPasskeyAway))
	})
	if ok {
		c.Redirect(http.StatusSeeOther, "/account#passkeys")
	}
}

// AskPasskey asks a device for any passkey of this server: it is not known yet who signs in.
func (s Pages) AskPasskey(c *gin.Context) {
	w, _, err := s.relying(c)
	if err != nil {
		s.keyRefused(c, err)
		return
	}
	options, asked, err := w.BeginDiscoverableLogin(webauthn.WithUserVerification(protocol.VerificationPreferred))
	s.ask(c, options, asked, err)
}

// PasskeySignIn signs in whoever proved to have a passkey.
func (s Pages) PasskeySignIn(c *gin.Context) {
	ctx := c.Request.Context()
	tries := s.TriesAt(c, "passkey", c.ClientIP())
	if many, err := tries.TooMany(ctx); err != nil || many {
		s.Problem(c, http.StatusTooManyRequests, frame.Problem{What: msgTooManyPasskeys,
			Do: msgWaitQuarterHourOr})
		return
	}
	var owner store.KeyOwner
	w, _, err := s.relying(c)
	var asked webauthn.SessionData
	if err == nil {
		asked, err = s.asked(c)
	}
	var cred *webauthn.Credential
	if err == nil {
		_, cred, err = w.FinishPasskeyLogin(func(rawID, userHandle []byte) (webauthn.User, error) {
			owner, err = s.Store.ByPasskey(ctx, rawID)
			if err != nil {
				return nil, errors.New("the passkey is not known here, or its account was closed")
			}
			var k webauthn.Credential
			if err := json.Unmarshal(owner.Body, &k); err != nil || !bytes.Equal(userHandle, owner.AccountID[:]) {
				return nil, errors.New("the passkey is another person's")
			}
			return keyHolder{id: owner.AccountID, keys: []webauthn.Credential{k}}, nil
		}, asked, c.Request)
	}
	if err == nil && cred.Authenticator.CloneWarning {
		err = errors.New("the passkey counted backwards: there may be a copy of it. It was not taken")
	}
	if err != nil {
		s.keyRefused(c, err)
		return
	}
	err = tries.Right(ctx)
	var body []byte
	if err == nil {
		body, err = json.Marshal(cred)
	}
	if err == nil {
		err = s.Store.InSchool(ctx, owner.SchoolID, func(tx store.Tx) error {
			return tx.UsedPasskey(ctx, owner.ID, body, s.Now())
		})
	}
	var after string
	if err == nil {
		after, err = s.Enter(c, owner.SchoolID, owner.AccountID, "passkey")
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"to": after})
}
