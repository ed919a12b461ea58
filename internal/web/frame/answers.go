package frame

import (
	"errors"
	"fmt"
	"io"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/core/preflight"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// ToBoard goes back to the board, or says what was wrong.
func (s *Frame) ToBoard(c *gin.Context, err error) {
	var wrong refusal.Error
	switch {
	case errors.As(err, &wrong):
		s.WrongInput(c, string(wrong), msgGoBackBoard)
	case errors.Is(err, store.ErrElsewhere):
		s.Problem(c, http.StatusConflict, Problem{What: msgSomebodyElseChanged,
			Do: msgLookBoardAgain})
	case errors.Is(err, store.ErrBusy):
		s.Problem(c, http.StatusConflict, Problem{What: err.Error() + ".",
			Do: msgLandFlightGoes})
	case err != nil:
		s.Failed(c, err)
	case WantsJSON(c):
		c.JSON(http.StatusOK, gin.H{"kept": true})
	default:
		c.Redirect(http.StatusSeeOther, "/today")
	}
}

func Send(c *gin.Context, name, kind string, data []byte) {
	SendAs(c, name, kind)
	c.Data(http.StatusOK, kind, data)
}

// SendAs begins to answer with a file that is to be kept; what is written next is in it.
func SendAs(c *gin.Context, name, kind string) {
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Header("Content-Type", kind)
}

func PolicyOf(kind string, km *float64, days *float64) preflight.Policy {
	p := preflight.Policy{Kind: preflight.PolicyKind(kind), Km: preflight.DefaultPolicy.Km,
		Days: preflight.DefaultPolicy.Days}
	if km != nil {
		p.Km = *km
	}
	if days != nil {
		p.Days = int(*days)
	}
	return p
}

func SchoolPolicy(s store.Settings) preflight.Policy {
	return preflight.Policy{Kind: preflight.PolicyKind(s.CompassKind), Km: s.CompassKm, Days: s.CompassDays}
}

// Done goes on to a page, or says what is in the way.
func (s *Frame) Done(c *gin.Context, err error, to string) {
	switch {
	case errors.Is(err, store.ErrTaken):
		s.WrongInput(c, msgNameTaken, msgChooseAnotherNames)
	case err != nil:
		s.Failed(c, err)
	default:
		c.Redirect(http.StatusSeeOther, to)
	}
}

func Attach(c *gin.Context, name, kind string, data []byte) {
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
	c.Data(http.StatusOK, kind, data)
}

// Uploaded reads the file of a form, up to a size.
func (s *Frame) Uploaded(c *gin.Context, most int64) ([]byte, string, error) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most+64<<10)
	h, err := c.FormFile("file")
	if err != nil || h.Size == 0 {
		return nil, "", errors.New("no file came, or it was empty or too large")
	}
	f, err := h.Open()
	if err != nil {
		return nil, "", fmt.Errorf("the file could not be opened: %w", err)
	}
	defer func() { _ = f.Close() }()
	data, err := io.ReadAll(io.LimitReader(f, most+1))
	if err != nil || int64(len(data)) > most {
		return nil, "", fmt.Errorf("the file is larger than %d kB", most>>10)
	}
	return data, CleanName(h.Filename), nil
}

// Slip is a why slip: the figure, its inputs, the rule in words, its source,
// and the evidence.
type Slip struct {
	Figure   string
	Says     string
	Inputs   [][2]string
	Rule     string
	Source   string
	Evidence []Evidence
}

type Evidence struct{ Text, Href string }

// CutOff ends the session of a device that was cut off.
func (s *Frame) CutOff(c *gin.Context) {
	_ = s.Sessions.Destroy(c.Request.Context())
	c.JSON(http.StatusForbidden, gin.H{"error": msgDeviceCutOff, "cut": true})
}

// DeviceKey is the device of a session.
const DeviceKey = "device"
