package main

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"time"

	"maestrale/internal/web"
)

// serveMetrics answers monitoring on an address of its own; what it returns ends that.
func serveMetrics(addr string, app *web.Server, ended chan<- error) (stop func(), err error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("cannot serve figures on %s: %w; choose another with --metrics", addr, err)
	}
	server := &http.Server{Handler: app.Metrics(), ReadTimeout: 10 * time.Second, WriteTimeout: 30 * time.Second}
	go func() {
		if err := server.Serve(l); err != http.ErrServerClosed {
			ended <- err
		}
	}()
	return func() {
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		_ = server.Shutdown(ctx)
	}, nil
}
