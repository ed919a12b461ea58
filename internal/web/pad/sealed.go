package pad

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/sealed"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// ServerTime is the server's time, by which devices tell theirs.
func (s Pages) ServerTime(c *gin.Context) {
	c.JSON(http.StatusOK, gin.H{"now_ms": float64(s.Now().UnixMicro()) / 1000})
}

// Key is what a sign-in proves itself with, and what its device seals to.
func (s Pages) Key(c *gin.Context) {
	p := frame.Person(c)
	keys, err := s.SealKeys(c.Request.Context())
	if err != nil || s.SignIn == nil {
		s.Failed(c, errors.Join(err, store.ErrNotFound))
		return
	}
	c.JSON(http.StatusOK, gin.H{"sign_in": s.SignIn, "account": p.ID, "name": p.Name, "role": p.Role,
		"school": p.SchoolID, "until": s.Sessions.Deadline(c.Request.Context()), "key": keys.ID,
		"public": base64.StdEncoding.EncodeToString(keys.Public()),
		"secret": base64.StdEncoding.EncodeToString(keys.SecretOf(*s.SignIn))})
}

// sealedAnswer is what became of an envelope. What is final is not sent again: the device keeps a refusal until
// somebody has read it, and then forgets it.
type sealedAnswer struct {
	ID     uuid.UUID       `json:"id"`
	Taken  bool            `json:"taken"`
	Held   bool            `json:"held"` // it waits for a person's decision
	Final  bool            `json:"final"`
	Status int             `json:"status"`
	Said   json.RawMessage `json:"said,omitempty"` // what the address answered
	Error  string          `json:"error,omitempty"`
	Do     string          `json:"do,omitempty"`
}

// TakeSealed takes what a device has kept. What was made under the sign-in that delivers it is done at once; what was
// made under another goes to a person for a decision, whoever delivers it.
func (s Pages) TakeSealed(c *gin.Context) {
	ctx := c.Request.Context()
	var in struct {
		Device uuid.UUID         `json:"device"`
		Name   string            `json:"name"`
		Items  []sealed.Envelope `json:"items"`
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, MaxSync)
	if err := c.ShouldBindJSON(&in); err != nil || len(in.Items) > maxSyncItems || s.SignIn == nil {
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: msgWhatDeviceSent,
			Kept: msgDeviceKeeps, Do: msgReloadPageSent})
		return
	}
	if in.Device != uuid.Nil && !s.seen(c, in.Device, in.Name) {
		return
	}
	keys, err := s.SealKeys(ctx)
	if err != nil {
		s.Failed(c, err)
		return
	}
	out := make([]sealedAnswer, len(in.Items))
	for i := range in.Items {
		out[i] = s.open(c, keys, &in.Items[i])
	}
	c.JSON(http.StatusOK, gin.H{"items": out})
}

// found is the kind of what an earlier version left on a device in the clear: nobody knows who made it.
const found = "found"

// open breaks one seal and does what is inside, or holds it.
func (s Pages) open(c *gin.Context, keys *sealed.Keys, e *sealed.Envelope) sealedAnswer {
	ctx := c.Request.Context()
	ans := sealedAnswer{ID: e.ID}
	refuse := func(why, do string) sealedAnswer {
		ans.Final, ans.Status, ans.Error, ans.Do = true, http.StatusUnprocessableEntity, why, do
		return ans
	}
	later := func(err error) sealedAnswer {
		s.Log.ErrorContext(ctx, "sealed", "error", err)
		ans.Status, ans.Error, ans.Do = http.StatusInternalServerError, msgCouldNotKept,
			msgStaysDeviceSent
		return ans
	}
	body, err := keys.Open(e)
	if err != nil {
		return refuse(fmt.Sprintf(msgWhatDeviceKeptRefused, err.Error()), msgShowChiefInstructor)
	}
	var d frame.Delivery
	if err := json.Unmarshal(body, &d); err != nil || !s.TakesSealed(d.Path) {
		return refuse(msgWhatDeviceKept, msgShowChiefInstructor)
	}
	if e.SignIn == *s.SignIn && e.Kind != found {
		ans.Status, ans.Said = s.Deliver(ctx, s.Who, *s.SignIn, d)
		ans.settle()
		if ans.Taken {
			s.Delivered(begunAt(d.Body))
		}
		return ans
	}
	owner, err := s.Store.OwnerOf(ctx, e.SignIn)
	if errors.Is(err, store.ErrNotFound) {
		return refuse(msgWhatDeviceKeptMade,
			msgShowChiefInstructor)
	}
	if err == nil {
		err = s.Store.InSchool(ctx, owner.School, func(tx store.Tx) error {
			return tx.Hold(ctx, store.Held{Item: e.ID, Kind: e.Kind, Account: owner.Account, SignIn: e.SignIn, Body: body},
				s.Who.ID)
		})
	}
	if err != nil {
		return later(err)
	}
	ans.Held, ans.Final, ans.Status = true, true, http.StatusAccepted
	return ans
}

// begunAt is when what a device delivers was begun, by the device's own clock; zero where it does not say.
func begunAt(body string) time.Time {
	var in struct {
		Opening struct {
			DeviceAt time.Time `json:"device_at"`
		} `json:"opening"`
		FlownAt time.Time `json:"flown_at"`
		At      time.Time `json:"at"`
	}
	if json.Unmarshal([]byte(body), &in) != nil {
		return time.Time{}
	}
	for _, t := range []time.Time{in.Opening.DeviceAt, in.FlownAt, in.At} {
		if !t.IsZero() {
			return t
		}
	}
	return time.Time{}
}

// settle reads the answer of an address.
func (a *sealedAnswer) settle() {
	var problem struct {
		Error string `json:"error"`
		Do    string `json:"do"`
	}
	if !json.Valid(a.Said) {
		a.Said = nil
	}
	a.Taken = a.Status < http.StatusBadRequest // a page that is gone to is an answer too
	a.Final = a.Taken || a.Status < http.StatusInternalServerError && a.Status != http.StatusTooManyRequests
	if a.Taken {
		return
	}
	if a.Said != nil && json.Unmarshal(a.Said, &problem) == nil {
		a.Error, a.Do = problem.Error, problem.Do
	}
	if a.Error == "" {
		a.Error = msgSchoolDidNot
	}
}
