package marking

import (
	"math/rand/v2"
	"testing"
	"time"
)

// The rules that a day brings say the same of every moment as the zone itself, in zones north and south, without summer
// time, of half an hour, and of such as changed their rules.
func TestZoneRulesSayWhatTheZoneSays(t *testing.T) {
	now := time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	r := rand.New(rand.NewPCG(22, 5))
	for _, name := range []string{"Europe/Rome", "UTC", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata",
		"Africa/Casablanca", "Pacific/Apia", "America/St_Johns", "Asia/Kathmandu", "Europe/Dublin"} {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		rules := ZoneRules(zone, now)
		if len(rules) > 4096 {
			t.Errorf("%s takes %d bytes", name, len(rules))
		}
		got, err := time.LoadLocationFromTZData(name, rules)
		if err != nil {
			t.Fatal(name, err)
		}
		span := int64(now.Add(zoneFor).Sub(zoneFrom) / time.Second)
		for range 20_000 {
			at := zoneFrom.Add(time.Duration(r.Int64N(span)) * time.Second)
			a, b := at.In(zone), at.In(got)
			an, ao := a.Zone()
			bn, bo := b.Zone()
			if an != bn || ao != bo || a.IsDST() != b.IsDST() {
				t.Fatalf("%s at %v: %s %d, expected %s %d", name, at, bn, bo, an, ao)
			}
		}
	}
	if _, err := zoneOf("Nowhere/At-All", nil); err == nil {
		t.Error("a zone that nobody knows was taken")
	}
	if _, err := zoneOf("Nowhere/At-All", []byte("TZif2")); err == nil {
		t.Error("broken rules were taken")
	}
	rome, _ := time.LoadLocation("Europe/Rome")
	if z, err := zoneOf("Nowhere/At-All", ZoneRules(rome, now)); err != nil || now.In(z).Hour() != 13 {
		t.Errorf("a zone that only the day knows: %v %v", z, err)
	}
}
