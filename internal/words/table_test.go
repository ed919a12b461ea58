package words

import "testing"

func TestTableSaysOneAndMany(t *testing.T) {
	s := Table{
		"flown": Count(1, "%d flight was flown.", "%d flights were flown."),
		"both":  Count(2, "%[1]s has one pack.", "%[1]s has %[2]d packs."),
		"plain": "The wind is %.1f m/s.",
	}.Speaker()
	for _, k := range []struct{ got, want string }{
		{s.Say("flown", 1), "1 flight was flown."},
		{s.Say("flown", 0), "0 flights were flown."},
		{s.Say("flown", 21), "21 flights were flown."},
		{s.Say("both", "Ada", 1), "Ada has one pack."},
		{s.Say("both", "Ada", 3), "Ada has 3 packs."},
		{s.Say("plain", 2.5), "The wind is 2.5 m/s."},
	} {
		if k.got != k.want {
			t.Errorf("%q; expected %q", k.got, k.want)
		}
	}
	defer func() {
		if recover() == nil {
			t.Error("a number is taken for a message")
		}
	}()
	Table{"wrong": 3}.Speaker()
}
