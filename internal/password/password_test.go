package password

import (
	"strings"
	"testing"
)

func TestHashAndCheck(t *testing.T) {
	a, err := Hash("secret")
	if err != nil {
		t.Fatal(err)
	}
	b, _ := Hash("secret")
	if a == b || !strings.HasPrefix(a, "$argon2id$v=19$m=19456,t=2,p=1$") {
		t.Errorf("hashes %s and %s", a, b)
	}
	if ok, err := Check("secret", a); !ok || err != nil {
		t.Errorf("the right password: %v %v", ok, err)
	}
	if ok, _ := Check("Secret", a); ok {
		t.Error("a wrong password was taken")
	}
	for _, bad := range []string{"", "secret", "$argon2id$v=19$m=0,t=3,p=4$AAAA$AAAA",
		"$argon2i$v=19$m=65536,t=3,p=4$AAAA$AAAA", strings.Replace(a, "v=19", "v=16", 1)} {
		if ok, err := Check("secret", bad); ok || err == nil {
			t.Errorf("%q: %v %v", bad, ok, err)
		}
	}
	if _, err := Hash(""); err == nil {
		t.Error("an empty password was hashed")
	}
}
