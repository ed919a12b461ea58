package frame

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"testing"
)

// An answer that fails after it has begun is cut off, so that nobody takes half of it for the whole; one that fails
// before is told to be a failure.
func TestABrokenAnswerIsCutOff(t *testing.T) {
	s := &Frame{Log: slog.New(slog.NewTextHandler(io.Discard, nil))}
	s.figures = s.newFigures()
	srv := httptest.NewServer(s.logged(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/begun" {
			_, _ = io.WriteString(w, "half of it")
			_ = http.NewResponseController(w).Flush()
		}
		panic(http.ErrAbortHandler)
	})))
	defer srv.Close()
	for path, whole := range map[string]bool{"/begun": false, "/not-begun": true} {
		r, err := http.Get(srv.URL + path)
		if err != nil {
			t.Fatal(path, err)
		}
		_, err = io.ReadAll(r.Body)
		_ = r.Body.Close()
		if (err == nil) != whole || (r.StatusCode == http.StatusInternalServerError) != whole {
			t.Errorf("%s: %d, read with %v", path, r.StatusCode, err)
		}
	}
}
