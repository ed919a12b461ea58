package frame

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/misread"
	"maestrale/core/track"
)

// ReadUpload reads the parts of the form as they come, and no more of the file
// than may be.
func ReadUpload(c *gin.Context) (name string, data []byte, form map[string]string, err error) {
	form = map[string]string{}
	_ = c.Request.ParseForm() // the address only: the body is read here
	if c.Request.PostForm == nil {
		c.Request.PostForm = map[string][]string{}
	}
	// The file and a little for the other parts; a larger body ends here.
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, track.MaxBytes+1<<20)
	parts, err := c.Request.MultipartReader()
	if err != nil {
		return "", nil, form, errors.New("no file was sent")
	}
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return "", nil, form, tooLarge(err)
		}
		if part.FormName() != "file" {
			v, err := io.ReadAll(io.LimitReader(part, 4096))
			if err != nil {
				return "", nil, form, tooLarge(err)
			}
			form[part.FormName()] = string(v)
			continue
		}
		name = path.Base(strings.ReplaceAll(CleanName(part.FileName()), "\\", "/"))
		if data, err = io.ReadAll(io.LimitReader(part, track.MaxBytes+1)); err != nil {
			return "", nil, form, tooLarge(err)
		}
		if len(data) > track.MaxBytes {
			return "", nil, form, track.ErrTooLarge
		}
	}
	if len(data) == 0 {
		return name, nil, form, errors.New("the file is empty, or none was chosen")
	}
	return name, data, form, nil
}

func tooLarge(err error) error {
	var m *http.MaxBytesError
	if errors.As(err, &m) {
		return track.ErrTooLarge
	}
	return err
}

// Mendable tells whether naming the columns, a place on earth, or a
// confirmation can make the file readable.
func Mendable(data []byte, err error) bool {
	var semi track.SemicolonsError
	if errors.As(err, &semi) {
		return true
	}
	if errors.Is(err, track.ErrNoPlane) {
		return true
	}
	var m *misread.Error
	if !errors.As(err, &m) || m.Line != 1 || track.Sniff(data[:min(len(data), 4096)]) != track.CSV {
		return false
	}
	_, rows, _, herr := track.Header(bytes.NewReader(data), 1)
	return herr == nil && len(rows) > 0
}

func Sentence(name string, err error) string {
	var m *misread.Error
	if errors.As(err, &m) {
		if m.Line > 0 {
			return fmt.Sprintf("%s, line %d: %s.", name, m.Line, m.Sentence())
		}
		return name + ": " + m.Sentence() + "."
	}
	return name + ": " + err.Error() + "."
}
