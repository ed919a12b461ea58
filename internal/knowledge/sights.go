package knowledge

import (
	"crypto/sha256"
	"encoding/binary"
	"math"

	lru "github.com/hashicorp/golang-lru/v2"

	"maestrale/core/orient"
)

// sightsHeld is how many answers of sightOf are held; each is about a hundred bytes.
const sightsHeld = 4096

// sights are answers under all that they were made of, so that none is ever out of date.
var sights = func() *lru.Cache[sightAsked, orient.Sight] {
	c, err := lru.New[sightAsked, orient.Sight](sightsHeld)
	if err != nil {
		panic(err) // its size is wrong
	}
	return c
}()

type sightAsked struct {
	spacing float64
	light   orient.Light
	calls   [sha256.Size]byte
}

// sightOf is orient.SightOf for an eye of acuity 1: it takes some milliseconds, and the day's pages ask for
// everybody who is in the air each time.
func sightOf(spacing float64, light orient.Light, calls []orient.Call) (orient.Sight, error) {
	sum := sha256.New()
	var b [9]byte
	for _, k := range calls {
		binary.LittleEndian.PutUint64(b[:], math.Float64bits(k.DistanceM))
		if b[8] = 0; k.Right {
			b[8] = 1
		}
		sum.Write(b[:])
		sum.Write([]byte(k.Light + "\n"))
	}
	key := sightAsked{spacing: spacing, light: light}
	sum.Sum(key.calls[:0])
	if x, ok := sights.Get(key); ok {
		return x, nil
	}
	x, err := orient.SightOf(spacing, 1, light, calls)
	if err == nil {
		sights.Add(key, x)
	}
	return x, err
}
