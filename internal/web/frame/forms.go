package frame

import (
	"fmt"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/refusal"
	"maestrale/internal/store"
)

// FormID reads an id of a form; nil where the field is empty.
func FormID(c *gin.Context, name string) (*uuid.UUID, error) {
	t := strings.TrimSpace(c.PostForm(name))
	if t == "" {
		return nil, nil //nolint:nilnil // nothing was said
	}
	id, err := uuid.Parse(t)
	if err != nil {
		return nil, refusal.Error(fmt.Sprintf(msgNotKnown, strings.ReplaceAll(name, "_", " ")))
	}
	return &id, nil
}

// CleanName takes line breaks and the like out of a name and cuts it at 120
// letters.
func CleanName(s string) string {
	s = strings.TrimSpace(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(s, "")))
	if r := []rune(s); len(r) > 120 {
		return string(r[:120])
	}
	return s
}

// CleanText keeps line breaks, and cuts at 2000 letters.
func CleanText(t string) string {
	t = strings.TrimSpace(strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' {
			return -1
		}
		return r
	}, strings.ToValidUTF8(t, "")))
	if r := []rune(t); len(r) > 2000 {
		return string(r[:2000])
	}
	return t
}

// FirstLine is the first of several errors.
func FirstLine(err error) string {
	t, _, _ := strings.Cut(err.Error(), "\n")
	return t
}

// Said is the first line of an error as a sentence: with a capital letter and a full stop.
func Said(err error) string {
	r := []rune(FirstLine(err))
	if len(r) == 0 {
		return ""
	}
	r[0] = unicode.ToUpper(r[0])
	if last := r[len(r)-1]; last != '.' && last != '?' {
		r = append(r, '.')
	}
	return string(r)
}

// Back is where a form wants to go on to: the first steps of a school where it stood there, or else the usual page.
func Back(c *gin.Context, usual string) string {
	if c.PostForm("back") == "/start" {
		return "/start"
	}
	return usual
}

// siteOf is the site that a form changes, or a new one.
func siteOf(v any) store.Site {
	if row, ok := v.(interface{ FormSite() store.Site }); ok {
		return row.FormSite()
	}
	return store.Site{ID: store.NewID()}
}

func Cut(text string, most int) string {
	if len(text) > most {
		return text[:most]
	}
	return text
}

// Listed says some names, and how many more there are.
func Listed(names []string, most int) string {
	out := ""
	for i, n := range names {
		if i == most {
			return fmt.Sprintf("%s and %d more", out, len(names)-most)
		}
		if i > 0 {
			out += ", "
		}
		out += n
	}
	return out
}
