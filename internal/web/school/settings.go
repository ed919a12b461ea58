package school

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/units"
	"maestrale/internal/device"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// PostSettings keeps what the chief sets: the wind meter and the compass policy.
func (s Pages) PostSettings(c *gin.Context) {
	back := "/school#devices"
	var change func(*store.Settings) error
	switch c.Param("what") {
	case "meter":
		change = s.meterChange(c)
	case "position", "charger":
		addr := strings.TrimSpace(c.PostForm("address"))
		if addr != "" {
			if err := device.CheckAddr(addr); err != nil {
				s.WrongInput(c, fmt.Sprintf(msgStreamCouldNot, err.Error()), msgWriteAddress)
				return
			}
		}
		change = func(set *store.Settings) error {
			if c.Param("what") == "charger" {
				set.ChargerAddr = addr
			} else {
				set.PositionAddr = addr
			}
			return nil
		}
	case "hand-catch":
		back = "/school#hand-catch"
		on := c.PostForm("on") == "yes"
		if on && c.PostForm("cautions") != "read" {
			s.WrongInput(c, msgCatchingHandNot,
				msgReadThemTick)
			return
		}
		change = func(set *store.Settings) error {
			set.HandCatch = on
			return nil
		}
	case "compass":
		back = "/school#policy"
		change = s.compassChange(c)
	default:
		s.NotFound(c)
		return
	}
	if change == nil { // it was said why
		return
	}
	if err := s.changeSettings(c, change); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

// meterChange reads where the wind meter is heard; nil once it was answered what is wrong.
func (s Pages) meterChange(c *gin.Context) func(*store.Settings) error {
	addr := strings.TrimSpace(c.PostForm("address"))
	zero, err := frame.FormNumber(c, "zero_deg", -360, 360)
	if addr != "" && err == nil {
		err = device.CheckAddr(addr)
	}
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgWindMeterCould, err.Error()),
			msgWriteAddressTrue)
		return nil
	}
	return func(set *store.Settings) error {
		set.MeterAddr, set.MeterZeroDeg = addr, 0
		if zero != nil {
			set.MeterZeroDeg = *zero
		}
		return nil
	}
}

// compassChange reads when a compass is calibrated; nil once it was answered what is wrong.
func (s Pages) compassChange(c *gin.Context) func(*store.Settings) error {
	km, err1 := frame.FormNumber(c, "km", 0, 1e6)
	days, err2 := frame.FormNumber(c, "days", 0, 1e6)
	policy := frame.PolicyOf(c.PostForm("kind"), km, days)
	if err := errors.Join(err1, err2, policy.Check()); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgCompassPolicyCould, frame.FirstLine(err)),
			msgChooseOneThree)
		return nil
	}
	return func(set *store.Settings) error {
		set.CompassKind, set.CompassKm, set.CompassDays = string(policy.Kind), policy.Km, policy.Days
		return nil
	}
}

// changeSettings changes what the school has set.
func (s Pages) changeSettings(c *gin.Context, change func(*store.Settings) error) error {
	ctx, p := c.Request.Context(), frame.Person(c)
	return s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		if err := change(&set); err != nil {
			return err
		}
		return tx.KeepSettings(ctx, set)
	})
}

// PostPace keeps the length of the person's own pace.
func (s Pages) PostPace(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	metres, err1 := frame.NeedMeasure(c, "metres", units.Length, 1, 200)
	paces, err2 := frame.NeedNumber(c, "paces", 1, 400)
	if err := errors.Join(err1, err2); err != nil || metres/paces < 0.3 || metres/paces > 1.5 {
		what := fmt.Sprintf("%.2f m a pace", metres/paces)
		if err != nil {
			what = frame.FirstLine(err)
		}
		s.WrongInput(c, fmt.Sprintf(msgPaceCouldNot, what),
			msgWalkTapedLength)
		return
	}
	if err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.SetPace(ctx, p.ID,
			metres/paces)
	}); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sites")
}
