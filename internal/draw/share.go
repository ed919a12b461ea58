package draw

import (
	"fmt"
	"html/template"
)

// Share draws how much of a ladder is held, as a bar from the ground (the left) on.
func Share(held, of int) template.HTML {
	const w, h = 96.0, 12.0
	var s svg
	s.open(w, h, "share", fmt.Sprintf(msgCellsHeld, held, of))
	s.rect(0.5, 0.5, w-1, h-1, "share-all", "")
	if of > 0 && held > 0 {
		s.rect(0.5, 0.5, (w-1)*float64(held)/float64(of), h-1, "share-held", "")
	}
	return s.done()
}
