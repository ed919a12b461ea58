# make demo   installs what is missing, starts everything, loads the sample school and serves
# make test   installs what is missing and runs every test
# make build  makes the interface files and bin/maestrale
# make check  vet, staticcheck and the unit tests: the quick round
# make bench  the benchmarks
SHELL := /bin/bash
ADDR ?= 127.0.0.1:8080
ARGS ?=

.PHONY: demo test build check bench ui needs-postgres needs-own-postgres needs-browser screenshots clean

demo: needs-postgres build
	./bin/maestrale demo --addr $(ADDR) $(ARGS)

build: ui
	go build -o bin/maestrale ./cmd/maestrale

UI_SOURCES := $(wildcard ui/styles/* ui/scripts/* ui/fonts/* ui/templates/*.html ui/templates/parts/*.html) ui/icon.svg

ui: ui/dist/built

node_modules/installed: package.json package-lock.json
	npm ci --no-audit --no-fund --loglevel=error
	touch $@

ui/dist/built: node_modules/installed $(UI_SOURCES)
	rm -rf ui/dist && mkdir -p ui/dist
	npx tailwindcss -i ui/styles/app.css -o ui/dist/app.css --minify
	npx esbuild ui/scripts/app.js ui/scripts/pad.js ui/scripts/theme.js --bundle --minify --format=esm --target=es2022 --outdir=ui/dist --log-level=warning
	cp ui/fonts/archivo.woff2 ui/icon.svg ui/dist/
	touch $@

needs-postgres:
	@scripts/needs postgres

needs-own-postgres: # the tests start their own, whatever DATABASE_URL says
	@scripts/needs postgres always

needs-browser:
	@scripts/needs browser

check: ui needs-own-postgres
	gofmt -l cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	go test -short -timeout 20m ./...

test: needs-own-postgres needs-browser build
	gofmt -l cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	go test -timeout 40m ./...
	node --test --test-concurrency=1 e2e/

bench: ui needs-own-postgres
	go test -run xxx -bench . ./...

screenshots: needs-own-postgres needs-browser build
	node e2e/screenshots.mjs

clean:
	rm -rf bin ui/dist node_modules
