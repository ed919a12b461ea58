package frame

import (
	"context"
	"time"

	"github.com/google/uuid"
)

// listen follows the database's own word of changes, and begins again where the line
// breaks; whoever looks is told once it stands again, since something may have been
// missed.
func (s *Frame) listen() {
	ctx, cancel := context.WithCancel(context.Background())
	go func() { <-s.Ended; cancel() }()
	for ctx.Err() == nil {
		err := s.Store.Listen(ctx, func() { s.Boards.Changed(uuid.Nil) }, s.Boards.Changed)
		if ctx.Err() != nil {
			return
		}
		s.Log.Warn(msgLineBoardsBroke, "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}
