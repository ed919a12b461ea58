package plan

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
	"time"
)

var update = flag.Bool("update", false, "make the shipped days anew")

// doc is a day as a document.
type doc map[string]any

func readDoc(t testing.TB, d doc) Day {
	t.Helper()
	data, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	day, notes, err := Read(bytes.NewReader(data))
	if err != nil || len(notes) > 0 {
		t.Fatalf("%v %v\n%s", err, notes, data)
	}
	return day
}

var types = []string{"rondine", "gheppio", "poiana", "airone"}

// makeDay makes a day of a school from a seed: everything that the rules know comes up.
func makeDay(seed uint64, students, flights, packs, chargers, boxes int) doc {
	rng := rand.New(rand.NewPCG(seed, 77))
	start := time.Date(2026, 5, 1+int(seed)%27, 8, 30, 0, 0, time.FixedZone("", 2*3600))
	at := func(min int) string { return start.Add(time.Duration(min) * time.Minute).Format(time.RFC3339) }
	pick := func(list ...int) int { return list[rng.IntN(len(list))] }
	length := (students*flights*14/boxes*5/4+60)/30*30 + 30
	if seed%6 == 4 { // too short for all
		length = length * 2 / 3
	}
	kinds := 1 + rng.IntN(3)
	var craft, packList, chargerList, people []any
	byType := map[string][]string{}
	for i := range max(boxes+1, 4) {
		typ := types[(i%kinds+1)%len(types)]
		id := fmt.Sprintf("%s-%d", typ, len(byType[typ])+1)
		byType[typ] = append(byType[typ], id)
		c := doc{"id": id, "type": typ}
		if rng.IntN(3) == 0 {
			c["wind_mps"] = pick(7, 9, 11)
		}
		craft = append(craft, c)
	}
	var used []string
	for _, typ := range types {
		if byType[typ] != nil {
			used = append(used, typ)
		}
	}
	for i := range packs {
		typ := used[i%len(used)]
		packList = append(packList, doc{"id": fmt.Sprintf("P%d", i+1), "type": typ, "full": rng.IntN(10) < 8,
			"charge_minutes": pick(40, 50, 60), "cool_minutes": pick(5, 10, 15)})
	}
	for i := range chargers {
		chargerList = append(chargerList, doc{"id": fmt.Sprintf("C%d", i+1), "slots": pick(2, 2, 4)})
	}
	for i := range students {
		typ := used[rng.IntN(len(used))]
		s := doc{"id": fmt.Sprintf("S%d", i+1), "flights": flights, "minutes": pick(8, 10, 10, 12), "craft": byType[typ],
			"rest_minutes": pick(5, 10, 15)}
		if rng.IntN(4) == 0 && len(used) > 1 {
			s["craft"] = append(append([]string{}, byType[used[0]]...), byType[used[1]]...)
		}
		needs := []string{"instructor"}
		if rng.IntN(3) == 0 {
			needs = append(needs, "spotter")
		}
		s["needs"] = needs
		if rng.IntN(6) == 0 {
			s["from"] = at(pick(30, 60))
		}
		if rng.IntN(8) == 0 {
			s["until"] = at(length - pick(0, 30, 60))
		}
		if rng.IntN(5) == 0 {
			s["wind_mps"] = pick(5, 6)
		}
		people = append(people, s)
	}
	d := doc{"format": "maestrale-day/1", "start": at(0), "end": at(length), "boxes": boxes, "turnaround_minutes": 3,
		"craft": craft, "packs": packList, "chargers": chargerList,
		"students": people, "instructors": boxes, "spotters": max(1, boxes-1)}
	if rng.IntN(2) == 0 {
		d["wind"] = []any{doc{"from": at(0), "mps": 3}, doc{"from": at(150), "mps": 5 + rng.IntN(3)}}
	}
	return d
}

const shipped = "../../examples/days"

// The shipped set: twenty days, made from seeds. A day on which somebody cannot fly all
// is as good as one on which everybody can.
func shippedDays(t testing.TB) []Day {
	t.Helper()
	if *update {
		if err := os.MkdirAll(shipped, 0o755); err != nil {
			t.Fatal(err)
		}
		for i := range 20 {
			// The first is the size that the figures are stated for, the others lie round it.
			d := makeDay(uint64(i+1), 24-i%11, 3-i%2, 30-2*(i%6), 4-i%3, 3-i%3/2)
			data, err := json.MarshalIndent(d, "", " ")
			if err == nil {
				err = os.WriteFile(filepath.Join(shipped, fmt.Sprintf("day-%02d.json", i+1)), append(data, '\n'), 0o644)
			}
			if err != nil {
				t.Fatal(err)
			}
		}
	}
	files, err := filepath.Glob(filepath.Join(shipped, "day-*.json"))
	if err != nil || len(files) != 20 {
		t.Fatalf("%d days, %v", len(files), err)
	}
	var out []Day
	for _, name := range files {
		f, err := os.Open(name)
		if err != nil {
			t.Fatal(err)
		}
		d, notes, err := Read(f)
		_ = f.Close()
		if err != nil || len(notes) > 0 {
			t.Fatalf("%s: %v %v", name, err, notes)
		}
		out = append(out, d)
	}
	return out
}
