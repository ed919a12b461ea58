# make demo   installs what is missing, starts everything, loads the sample school and serves
# make test   installs what is missing and runs every test
# make build  makes the interface files and bin/maestrale
# make check  vet, staticcheck and the unit tests: the quick round
# make nightly long cohorts, and the tables of docs/tables made anew
# make bench  the benchmarks
SHELL := /bin/bash
ADDR ?= 127.0.0.1:8080
ARGS ?=

.PHONY: demo test build check nightly tables bench ui school needs-postgres needs-own-postgres needs-peers needs-browser screenshots clean

demo: needs-postgres build
	./bin/maestrale demo --addr $(ADDR) $(ARGS)

build: ui school
	go build -o bin/maestrale ./cmd/maestrale

UI_SOURCES := $(wildcard ui/styles/* ui/scripts/* ui/fonts/* ui/templates/*.html ui/templates/parts/*.html) ui/icon.svg

ui: ui/dist/built ui/dist/flight.wasm ui/dist/pad.wasm

node_modules/installed: package.json package-lock.json
	npm ci --no-audit --no-fund --loglevel=error
	touch $@

ui/dist/built: node_modules/installed $(UI_SOURCES)
	rm -rf ui/dist && mkdir -p ui/dist
	npx tailwindcss -i ui/styles/app.css -o ui/dist/app.css --minify
	npx esbuild ui/scripts/app.js ui/scripts/fly.js ui/scripts/follow.js ui/scripts/mixing.js ui/scripts/pad.js ui/scripts/padaway.js ui/scripts/radio.js ui/scripts/reflex.js ui/scripts/replay.js ui/scripts/sight.js ui/scripts/sw.js ui/scripts/theme.js ui/scripts/today.js ui/scripts/watch.js --bundle --minify --format=esm --target=es2022 --outdir=ui/dist --log-level=warning
	cp ui/fonts/archivo.woff2 ui/icon.svg ui/dist/
	touch $@

# The simulator for the browser, and the glue that ships with the compiler.
SIM_SOURCES := $(wildcard cmd/simwasm/*.go core/flight/*.go core/flight/fmath/*.go core/flight/trace/*.go core/orient/*.go) go.mod

ui/dist/flight.wasm: ui/dist/built $(SIM_SOURCES)
	GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o $@ ./cmd/simwasm
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" ui/dist/wasm_exec.js

# The marking pad's judge for the browser.
PAD_SOURCES := $(wildcard cmd/padwasm/*.go core/marking/*.go core/drill/*.go core/drill/catalogue/*.yaml core/craft/*.go core/craft/catalogue/*.yaml core/score/*.go core/orient/*.go core/readiness/*.go core/record/*.go core/track/*.go core/course/*.go core/field/*.go) go.mod

ui/dist/pad.wasm: ui/dist/built $(PAD_SOURCES)
	GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o $@ ./cmd/padwasm

# The weeks of the sample school, flown by the pilot model; a quarter of a minute.
SCHOOL_SOURCES := $(filter-out %_test.go,$(wildcard cmd/packschool/*.go internal/demo/pilot/*.go internal/demo/weeks/[ew]*.go core/flight/*.go core/flight/*/*.go core/drill/*.go core/drill/catalogue/*.yaml core/craft/*.go core/craft/catalogue/*.yaml core/score/*.go core/readiness/*.go core/record/*.go core/track/*.go core/course/*.go core/field/*.go core/pack/*.go)) go.mod

school: internal/demo/packed/school.zst

internal/demo/packed/school.zst: $(SCHOOL_SOURCES)
	go run ./cmd/packschool $@

needs-postgres:
	@scripts/needs postgres

needs-own-postgres: # the tests start their own, whatever DATABASE_URL says
	@scripts/needs postgres always

needs-peers: # programs that read and write tracks, for the tests
	@scripts/needs peers

needs-browser:
	@scripts/needs browser

check: ui school needs-own-postgres
	gofmt -l cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	go test -short -p 4 -timeout 20m ./...

test: needs-own-postgres needs-peers needs-browser build
	gofmt -l cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	go test -p 4 -timeout 40m ./...
	node --test --test-concurrency=2 e2e/

# Long cohorts and the tables of docs/tables, made anew from fixed seeds; an hour or so.
nightly: needs-own-postgres needs-peers ui school tables
	MAESTRALE_NIGHTLY=1 go test -timeout 90m ./core/score ./core/readiness ./core/orient ./core/track

tables:
	go run ./cmd/tables -out docs/tables

bench: ui school needs-own-postgres
	go test -run xxx -bench . ./...

screenshots: needs-own-postgres needs-browser build
	node e2e/screenshots.mjs

clean:
	rm -rf bin ui/dist node_modules internal/demo/packed/school.zst
