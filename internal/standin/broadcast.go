package standin

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net"
	"sync"
	"time"
)

// broadcast runs a device, and hands what it says to everyone who connects, until the
// context ends. Who does not listen misses it. hear, where there is one, is handed every
// line that somebody says to the device.
func broadcast(ctx context.Context, l net.Listener, hear func(line string), device func(say func(string))) error {
	stop := context.AfterFunc(ctx, func() { _ = l.Close() })
	defer stop()
	var mu sync.Mutex
	listeners := map[net.Conn]chan string{}
	var wg sync.WaitGroup
	defer wg.Wait()
	wg.Go(func() {
		device(func(line string) {
			mu.Lock()
			defer mu.Unlock()
			for _, c := range listeners {
				select {
				case c <- line:
				default:
				}
			}
		})
	})
	for {
		conn, err := l.Accept()
		if err != nil {
			if ctx.Err() != nil || errors.Is(err, net.ErrClosed) {
				return nil
			}
			return fmt.Errorf("stand-in: %w", err)
		}
		lines := make(chan string, 64)
		mu.Lock()
		listeners[conn] = lines
		mu.Unlock()
		if hear != nil {
			wg.Go(func() {
				for in := bufio.NewScanner(conn); in.Scan(); {
					hear(in.Text())
				}
			})
		}
		wg.Go(func() {
			defer func() {
				mu.Lock()
				delete(listeners, conn)
				mu.Unlock()
				_ = conn.Close()
			}()
			for {
				select {
				case <-ctx.Done():
					return
				case line := <-lines:
					_ = conn.SetWriteDeadline(time.Now().Add(5 * time.Second))
					if _, err := conn.Write([]byte(line)); err != nil {
						return
					}
				}
			}
		})
	}
}
