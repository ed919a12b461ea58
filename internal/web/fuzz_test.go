package web

import (
	"bytes"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"maestrale/internal/store"
)

// posted lets the server itself answer a request of somebody who is signed in, without a network between.
func (s *site) posted(c *client, path, kind string, body []byte) *httptest.ResponseRecorder {
	req := httptest.NewRequest(http.MethodPost, s.url+path, bytes.NewReader(body))
	req.Header.Set("Content-Type", kind)
	for _, k := range c.Jar.Cookies(req.URL) {
		req.AddCookie(k)
	}
	w := httptest.NewRecorder()
	s.app.ServeHTTP(w, req)
	return w
}

// Whatever a device sends as what it has marked is answered, and never with a fault of the server's.
func FuzzSync(f *testing.F) {
	s := newSite(f)
	c := s.as(store.Instructor)
	id, device := store.NewID().String(), store.NewID().String()
	f.Add([]byte(fmt.Sprintf(`{"device":%q,"name":"phone","device_now":"2026-05-01T10:00:00Z","items":[{"opening":{"id":%q,
		"student":%q,"drill":"hover-tail-in"},"seq":1,"now_s":30,"marks":[{"t_s":1,"kind":"in-position"}]}]}`, device, id,
		s.student)))
	f.Add([]byte(`{"items":[{}]}`))
	f.Add([]byte(`{"device":"` + device + `","device_now":"0001-01-01T00:00:00Z","items":null}`))
	f.Add([]byte(`[`))
	f.Fuzz(func(t *testing.T, body []byte) {
		for _, path := range []string{"/pad/sync", "/pad/sealed", "/students/" + s.student.String() + "/marks"} {
			if w := s.posted(c, path, "application/json", body); w.Code >= 500 {
				t.Errorf("%s: %d %s for %q", path, w.Code, w.Body, body)
			}
		}
	})
}

// Whatever is uploaded, as whatever kind of form, is answered, and never with a fault of the server's.
func FuzzUpload(f *testing.F) {
	s := newSite(f)
	chief := s.as(store.Chief)
	f.Add("x", []byte("--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.csv\"\r\n\r\nt_s,x_m,y_m,"+
		"z_m\n0,0,6,0\n"+
		"1,0,6,0\r\n--x\r\nContent-Disposition: form-data; name=\"drill\"\r\n\r\nhover-tail-in\r\n--x--\r\n"))
	f.Add("x", []byte("--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"..\\\\..\\\\a\"\r\n\r\n\r\n--x--"))
	f.Add("", []byte("--\r\n"))
	f.Fuzz(func(t *testing.T, boundary string, body []byte) {
		if strings.ContainsAny(boundary, "\r\n\"\\") || len(boundary) > 70 {
			return
		}
		kind := `multipart/form-data; boundary="` + boundary + `"`
		for _, path := range []string{"/students/" + s.student.String() + "/log", "/import", "/fleet/import", "/courses",
			"/records/exchange"} {
			if w := s.posted(chief, path, kind, body); w.Code >= 500 {
				t.Errorf("%s: %d %s for %q", path, w.Code, w.Body, body)
			}
		}
	})
}
