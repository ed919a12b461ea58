package fleet

import (
	"errors"
	"fmt"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"maestrale/core/craft"
	"maestrale/core/pack"
	"maestrale/internal/catalogue"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// AddType keeps a craft type of the school's own from what an instructor can measure, and the first craft of it where
// it has a name.
func (s Pages) AddType(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	t, err := s.sketched(c)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgTypeNotKept, frame.FirstLine(err)), msgGoBackPut)
		return
	}
	data, err := t.YAML()
	if err == nil {
		_, err = s.Cat.With(map[string][]byte{t.Key + ".yaml": data})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	k := store.Craft{ID: store.NewID(), Name: frame.CleanName(c.PostForm("name")), Type: t.Key}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		if _, err := tx.AddFile(ctx, p.ID, store.SchoolFile{Format: catalogue.Craft, Key: t.Key,
			Source: string(data)}); err != nil || k.Name == "" {
			return err
		}
		return tx.AddCraft(ctx, k)
	}), frame.Back(c, "/fleet#type-"+t.Key))
}

// sketched reads the form that describes a type.
func (s Pages) sketched(c *gin.Context) (craft.Type, error) {
	d := pack.Sketch{Title: frame.CleanName(c.PostForm("title")), Chemistry: craft.Chemistry(c.PostForm("chemistry")),
		Guards: c.PostForm("guards") == "yes", Gimbal: c.PostForm("gimbal") == "yes"}
	if d.Key = keyOf(d.Title); d.Key == "" {
		return craft.Type{}, errors.New("the craft type has no name; expected letters or digits")
	}
	if _, there := s.Cat.Craft[d.Key]; there {
		return craft.Type{}, fmt.Errorf("there is a type %s already; expected another name", d.Key)
	}
	span, err1 := frame.NeedMeasure(c, "span_m", "length", 0.04, 3)
	mass, err2 := frame.NeedNumber(c, "mass_kg", 0.01, 60)
	rotors, err3 := frame.NeedNumber(c, "rotors", 3, 16)
	cells, err4 := frame.NeedNumber(c, "cells", 1, 24)
	capacity, err5 := frame.NeedNumber(c, "capacity_mah", 50, 200_000)
	hover, err6 := frame.FormNumber(c, "hover_minutes", 0.5, 240)
	if err := errors.Join(err1, err2, err3, err4, err5, err6); err != nil {
		return craft.Type{}, err
	}
	d.SpanM, d.MassKg, d.Rotors, d.Cells, d.CapacityMah = span, mass, int(rotors), int(cells), capacity
	if hover != nil {
		d.HoverMinutes = *hover
	}
	asked := c.PostFormArray("aids")
	for _, a := range craft.AidsOrder { // in order, whatever the form's is
		for _, x := range asked {
			if string(a) == x {
				d.Aids = append(d.Aids, a)
			}
		}
	}
	return d.Type()
}

// keyOf makes the key of a type from its name: small letters and digits, with dashes between them.
func keyOf(title string) string {
	key := strings.Map(func(r rune) rune {
		switch {
		case r < 128 && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			return unicode.ToLower(r)
		case unicode.IsSpace(r) || r == '-' || r == '_' || r == '.' || r == '/':
			return '-'
		}
		return -1
	}, title)
	for strings.Contains(key, "--") {
		key = strings.ReplaceAll(key, "--", "-")
	}
	return frame.Cut(strings.Trim(key, "-"), 40)
}

// AddPacks adds several packs of one type, as they stand on a list: all of them or none.
func (s Pages) AddPacks(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	t, ok := s.Cat.Craft[c.PostForm("type")]
	if !ok {
		s.WrongInput(c, msgTypePacksNot, msgChooseOneList)
		return
	}
	list, err := pack.ReadSeveral(frame.Cut(c.PostForm("packs"), 400), t)
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgNoPackAdded, frame.FirstLine(err)), msgWriteThemMah)
		return
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		for _, r := range list {
			if err := tx.AddPack(ctx, store.Pack{ID: store.NewID(), Record: r}); errors.Is(err, store.ErrTaken) {
				return taken(r.Name)
			} else if err != nil {
				return err
			}
		}
		return nil
	})
	var is taken
	if errors.As(err, &is) {
		s.WrongInput(c, fmt.Sprintf(msgNoPackAddedPack, string(is)),
			msgNamesStandLabels)
		return
	}
	s.Done(c, err, frame.Back(c, "/fleet"))
}

// taken is the name of a pack that is there already.
type taken string

func (t taken) Error() string { return "the name " + string(t) + " is taken" }
