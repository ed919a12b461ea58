package pad

import (
	"encoding/json"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/attempt"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// sentVoice is a voice note as a pad sends it.
type sentVoice struct {
	ID      uuid.UUID `json:"id"`
	Attempt uuid.UUID `json:"attempt"`
	TS      float64   `json:"t_s"`
	Seconds float64   `json:"seconds"`
	Mime    string    `json:"mime"`
	Sound   []byte    `json:"sound"`
}

// How long and how large a voice note is.
const (
	mostVoiceS     = 21
	mostVoiceBytes = 600 << 10
)

// voiceTypes are what browsers record speech as, and the kind under which it is played.
var voiceTypes = map[string]string{"audio/webm": "audio/webm", "audio/webm;codecs=opus": "audio/webm",
	"audio/ogg": "audio/ogg", "audio/ogg;codecs=opus": "audio/ogg", "audio/mp4": "audio/mp4"}

// PostVoice keeps what was said while an attempt was flown.
func (s Pages) PostVoice(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in sentVoice
	err = json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 2*mostVoiceBytes)).Decode(&in)
	kind, known := voiceTypes[in.Mime]
	if err != nil || in.ID == uuid.Nil || in.Attempt == uuid.Nil || !known || len(in.Sound) == 0 ||
		len(in.Sound) > mostVoiceBytes || !(in.Seconds > 0 && in.Seconds <= mostVoiceS) || !(in.TS >= 0 && in.TS <= 86400) {
		s.WrongInput(c, msgVoiceNoteCould, msgSayAgain)
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddVoice(ctx, store.VoiceNote{ID: in.ID, Student: student, Attempt: in.Attempt, TS: in.TS,
			Seconds: in.Seconds, Mime: kind, SpokenBy: p.ID}, in.Sound)
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"kept": true})
}

// Sound plays a voice note.
func (s Pages) Sound(c *gin.Context) {
	var n store.VoiceNote
	var sound []byte
	if _, ok := s.About(c, "note", func(tx store.Tx, id uuid.UUID) (err error) {
		if n, err = tx.Voice(c.Request.Context(), id); err == nil {
			err = frame.OwnOnly(frame.Person(c), n.Student)
		}
		if err == nil {
			sound, err = tx.Sound(c.Request.Context(), id)
		}
		return err
	}); ok {
		c.Data(http.StatusOK, n.Mime, sound)
	}
}

// DropVoice deletes a voice note for good: who spoke may, and a chief instructor.
func (s Pages) DropVoice(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var n store.VoiceNote
	if _, ok := s.About(c, "note", func(tx store.Tx, id uuid.UUID) (err error) {
		if n, err = tx.Voice(ctx, id); err != nil {
			return err
		}
		if p.Role != store.Chief && p.ID != n.SpokenBy {
			return store.ErrNotFound
		}
		return tx.DropVoice(ctx, id, p.ID)
	}); ok {
		c.Redirect(http.StatusSeeOther, "/attempts/"+n.Attempt.String())
	}
}

// PostSighting keeps what a spotter saw.
func (s Pages) PostSighting(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in attempt.Seen
	if err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 1<<20)).Decode(&in); err != nil {
		s.WrongInput(c, msgWhatSpotterSawCould, msgReloadPad)
		return
	}
	if wrong := in.Check(); wrong != "" {
		s.WrongInput(c, wrong, msgMarkAgain)
		return
	}
	if err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return s.Attempts().Spot(ctx, tx, student, in)
	}); err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"kept": true})
}

// seenLately is how old what a spotter saw may be to be said on the instructor's pad.
const seenLately = 30 * time.Second

// SightingsNow is what others have seen of a student lately: the pad of the instructor says it.
func (s Pages) SightingsNow(c *gin.Context) {
	p := frame.Person(c)
	out := []gin.H{}
	if _, ok := s.About(c, "student", func(tx store.Tx, id uuid.UUID) error {
		list, err := tx.Sightings(c.Request.Context(), id, s.Now().Add(-seenLately), s.Now())
		for _, x := range list {
			if x.SeenBy != p.ID {
				out = append(out, gin.H{"id": x.ID, "mark": x.Mark, "toward": x.Toward, "by": x.By})
			}
		}
		return err
	}); ok {
		c.JSON(http.StatusOK, gin.H{"seen": out})
	}
}
