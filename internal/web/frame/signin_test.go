package frame

import "testing"

func TestLocalKeepsToThisSite(t *testing.T) {
	for in, want := range map[string]string{"/students": "/students", "/students?x=1": "/students?x=1", "": "/",
		"//evil.example": "/", "https://evil.example": "/", "/\\evil.example": "/", "students": "/"} {
		if got := local(in); got != want {
			t.Errorf("local(%q) = %q, want %q", in, got, want)
		}
	}
}
