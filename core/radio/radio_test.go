package radio

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"
)

const channel = `{"axis":1,"reverse":true,"low":-1,"centre":0,"high":1,"dead":0.03,"expo":0.2}`

const sound = `{"mode":2,"channels":{"throttle":` + channel + `,"yaw":` + channel + `,"pitch":` + channel + `,"roll":` +
	channel +
	`},"switches":{"aids":{"axis":4,"says":["position-hold","height-hold"]},"frame":{"button":0,"says":["nose","pilot"]}}}`

func TestReadKeepsWhatWasSet(t *testing.T) {
	s, err := Read([]byte(sound))
	if err != nil {
		t.Fatal(err)
	}
	data, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	again, err := Read(data)
	if err != nil || !reflect.DeepEqual(s, again) {
		t.Errorf("%+v, again %+v, %v", s, again, err)
	}
}

func TestReadRefuses(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{`"mode":2`, `"mode":5`, "1 to 4"},
		{`"throttle":` + channel + ",", "", "the channel of throttle is missing"},
		{`"yaw":`, `"flaps":` + channel + `,"yaw":`, "a channel is not known"},
		{`"axis":1`, `"axis":64`, "0 to 63"},
		{`"centre":0`, `"centre":1`, "low < centre < high"},
		{`"high":1`, `"high":1.6`, "low < centre < high"},
		{`"low":-1,"centre":0,"high":1`, `"low":0,"centre":0.05,"high":0.1`, "move the stick to both ends"},
		{`"dead":0.03`, `"dead":0.5`, "0 to 0.3"},
		{`"expo":0.2`, `"expo":7`, "0 to 1"},
		{`"aids":{`, `"gear":{`, "expected aids and frame"},
		{`{"axis":4,`, `{"axis":4,"button":2,`, "an axis or a button"},
		{`{"axis":4,`, `{`, "an axis or a button"},
		{`{"axis":4,`, `{"axis":-4,`, "0 to 63"},
		{`,"height-hold"`, ``, "2 to 6 positions"},
		{`"height-hold"`, `"no hold"`, "expected position-hold, height-hold"},
		{`"pilot"`, `"rate"`, "expected nose"},
		{`"mode":2`, `"mode":"two"`, "mode"},
	} {
		text := strings.Replace(sound, c.from, c.to, 1)
		if _, err := Read([]byte(text)); text == sound || err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.to, err, c.want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(sound)
	f.Fuzz(func(t *testing.T, text string) {
		s, err := Read([]byte(text))
		if err != nil {
			return
		}
		for _, name := range Sticks[:4] {
			if ch := s.Channels[name]; !(ch.Low < ch.Centre && ch.Centre < ch.High) {
				t.Errorf("%s: %+v", name, ch)
			}
		}
	})
}
