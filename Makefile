# make demo   installs what is missing, starts everything, loads the sample school and serves
# make dev    serves the interface from disk, and builds and reloads what is saved
# make test   installs what is missing and runs every test
# make build  makes the interface files and bin/maestrale
# make check  vet, staticcheck and the unit tests: the quick round
# make nightly faults, fuzzing, races, long cohorts, and the tables of docs/tables made anew
# make mutants tries small mistakes in the rules, and lists those that no test notices
# make bench  the benchmarks
# make bench-all measures what has a target for its speed, and writes docs/tables/speed.md
SHELL := /bin/bash
ADDR ?= 127.0.0.1:8080
ARGS ?=
DATA ?=
EACH ?= 40
FAULTS ?= 1000
FUZZ ?= 60s
SEED ?= 1
ROUNDS ?= 5

.PHONY: demo dev vitals bench-all test build check nightly mutants tables bench ui school needs-postgres needs-own-postgres needs-peers needs-browser needs-cc needs-certutil needs-deploy screenshots clean words

demo: needs-postgres build
	./bin/maestrale demo --addr $(ADDR) $(ARGS)

dev: needs-postgres build
	go build -o bin/develop ./cmd/develop
	./bin/develop $(ADDR) $(DATA)

build:
	$(MAKE) -j2 ui school
	go build -buildvcs=auto -o bin/maestrale ./cmd/maestrale

# The scripts that pages load; the others are parts of these.
UI_PAGES := ui/scripts/frame/app.js ui/scripts/frame/live.js ui/scripts/frame/forget.js ui/scripts/frame/keptform.js ui/scripts/frame/reload.js ui/scripts/fly/fly.js ui/scripts/pad/follow.js ui/scripts/fly/mixing.js ui/scripts/fly/quarters.js \
	ui/scripts/pad/pad.js ui/scripts/programmes/teach.js ui/scripts/pad/judge.js ui/scripts/fly/radio.js ui/scripts/fly/reflex.js \
	ui/scripts/school/passkey.js ui/scripts/students/replay.js ui/scripts/students/signature.js ui/scripts/fly/sight.js ui/scripts/pad/sw.js ui/scripts/frame/theme.js \
	ui/scripts/today/logs.js ui/scripts/today/today.js ui/scripts/fly/watch.js

UI_TEMPLATES := $(wildcard ui/templates/*/*.html ui/templates/*/parts/*.html)

ui: ui/dist/app.css ui/dist/app.js ui/dist/icon.svg ui/dist/archivo-3-text.woff2 ui/dist/flight.wasm.br ui/dist/pad.wasm.br

# What is text or large is squeezed once, here, and not at every request.
ui/dist/%.br: ui/dist/%
	node scripts/squeeze.mjs $<

node_modules/installed: package.json package-lock.json
	npm ci --no-audit --no-fund --loglevel=error
	touch $@

ui/dist/app.css: node_modules/installed $(wildcard ui/styles/*) $(UI_TEMPLATES)
	npx tailwindcss -i ui/styles/app.css -o $@ --minify
	npx tailwindcss -i ui/styles/tools.css -o ui/dist/tools.css --minify
	touch $@
	node scripts/squeeze.mjs $@ ui/dist/tools.css

ui/dist/app.js: node_modules/installed $(wildcard ui/scripts/*/*.js)
	npx esbuild $(UI_PAGES) --bundle --minify --format=esm --target=es2022 \
		--outdir=ui/dist --entry-names=[name] --log-level=warning
	touch $@
	node scripts/squeeze.mjs ui/dist/*.js

ui/dist/icon.svg: ui/icon.svg
	mkdir -p ui/dist
	cp ui/icon.svg ui/dist/

# The faces that the interface uses, cut out of its one variable font.
ui/dist/archivo-3-text.woff2: ui/fonts/archivo.woff2 scripts/fonts.mjs node_modules/installed
	mkdir -p ui/dist
	node scripts/fonts.mjs $< ui/dist
	touch $@

# Modules come over slow lines: without inlining they are a tenth smaller. The tick of the simulator is inlined.
SMALL := -gcflags=all=-l

# The simulator for the browser, and the glue that ships with the compiler.
SIM_SOURCES := $(filter-out %_test.go,$(wildcard cmd/simwasm/*.go core/flight/*.go core/flight/*/*.go core/bench/*.go core/orient/*.go)) go.mod

ui/dist/flight.wasm: $(SIM_SOURCES)
	mkdir -p ui/dist
	GOOS=js GOARCH=wasm go build -trimpath $(SMALL) -gcflags=maestrale/core/flight/...= -ldflags="-s -w" -o $@ ./cmd/simwasm
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" ui/dist/wasm_exec.js

# The marking pad's judge for the browser: with the tag pad, which leaves out reading YAML and signing.
PAD_SOURCES := $(filter-out %_test.go,$(wildcard cmd/padwasm/*.go core/marking/*.go core/drill/*.go \
	core/drill/catalogue/*.yaml core/craft/*.go core/craft/catalogue/*.yaml core/score/*.go core/orient/*.go \
	core/readiness/*.go core/record/*.go core/track/*.go core/course/*.go core/field/*.go core/plan/*.go \
	core/units/*.go core/yamldoc/*.go)) go.mod

# What ships, parsed: a browser reads no YAML.
TREE_SOURCES := $(filter-out %_test.go,$(wildcard cmd/padtrees/*.go core/drill/*.go core/drill/catalogue/*.yaml \
	core/craft/*.go core/craft/catalogue/*.yaml core/yamldoc/*.go))

cmd/padwasm/trees.bin: $(TREE_SOURCES)
	go run ./cmd/padtrees $@

ui/dist/pad.wasm: $(PAD_SOURCES) cmd/padwasm/trees.bin
	mkdir -p ui/dist
	GOOS=js GOARCH=wasm go build -tags=pad -trimpath $(SMALL) -ldflags="-s -w" -o $@ ./cmd/padwasm

# The weeks of the sample school, flown by the pilot model; a quarter of a minute. Where only the scorer has changed they
# are judged anew, and who flew what stays as it was: "make clean school" flies them again.
SCHOOL_SOURCES := $(filter-out %_test.go,$(wildcard cmd/packschool/*.go internal/demo/pilot/*.go \
	internal/demo/weeks/*.go core/flight/*.go core/flight/*/*.go core/rig/*.go core/drill/*.go core/drill/catalogue/*.yaml \
	core/craft/*.go core/craft/catalogue/*.yaml core/field/*.go core/pack/*.go)) go.mod
SCORE_SOURCES := $(filter-out %_test.go,$(wildcard core/score/*.go core/track/*.go core/course/*.go))

school: bin/school-judged

internal/demo/packed/school.zst: $(SCHOOL_SOURCES)
	go run ./cmd/packschool $@
	mkdir -p bin
	touch bin/school-judged

bin/school-judged: internal/demo/packed/school.zst $(SCORE_SOURCES)
	mkdir -p bin
	go run ./cmd/packschool -judge $<
	touch $@

needs-postgres:
	@scripts/needs postgres

needs-own-postgres: # the tests start their own, whatever DATABASE_URL says
	@scripts/needs postgres always

needs-peers: # programs that read and write tracks, for the tests
	@scripts/needs peers

needs-browser:
	@scripts/needs browser

needs-certutil: # lets Chromium trust an authority, for the tests
	@scripts/needs certutil

needs-cc: # the C twin of the simulator
	@scripts/needs cc

needs-deploy: # the checks of systemd and nginx
	@scripts/needs deploy

# What takes longest begins first, so that nothing is waited for at the end.
LONG_FIRST := ./internal/web ./cmd/maestrale ./core/plan ./core/orient ./core/score

check: ui school needs-own-postgres needs-deploy
	gofmt -l bench cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	npx eslint .
	npx prettier --check --log-level=warn ui/scripts e2e
	go test -short -p 4 -timeout 20m $(LONG_FIRST) ./...

test: needs-own-postgres needs-peers needs-browser needs-certutil needs-deploy build
	gofmt -l bench cmd core internal ui | (! grep .)
	go vet ./...
	go tool staticcheck ./...
	npx tsc -p ui/scripts/jsconfig.json
	npx eslint .
	npx prettier --check --log-level=warn ui/scripts e2e
	go test -p 4 -timeout 40m $(LONG_FIRST) ./...
	node --test --test-concurrency=2 e2e/

# A siege of FAULTS faults, every fuzz target for FUZZ, all tests with the race detector, long cohorts, and the tables of
# docs/tables, made anew from fixed seeds; several hours.
nightly: needs-own-postgres needs-peers needs-deploy ui school tables
	go run ./cmd/siege -faults $(FAULTS) -seed $(SEED)
	scripts/fuzz $(FUZZ)
	go test -race -short -p 2 -timeout 60m ./...
	MAESTRALE_NIGHTLY=1 go test -timeout 90m -parallel 2 -run TestOfflineDays ./internal/web
	MAESTRALE_NIGHTLY=1 go test -timeout 90m ./core/score ./core/readiness ./core/orient ./core/track ./core/plan \
		./internal/demo/...

# Small changes of the rules, and how many of them the quick tests notice; half an hour. EACH and SEED choose them.
mutants: ui
	go run ./cmd/mutants -each $(EACH) -seed $(SEED)

# All that people read in the program, and where it stands.
words:
	@go run ./cmd/words

tables:
	go run ./cmd/tables -out docs/tables

bench: ui school needs-own-postgres
	go test -run xxx -bench . ./...

# What has a target for its speed, in a table; half an hour on an idle machine. ROUNDS says how often each is measured.
# A module that was changed and built again is squeezed quickly; what is measured is squeezed as it ships.
bench-all: needs-own-postgres needs-browser needs-cc
	rm -f ui/dist/*.wasm.br
	$(MAKE) build
	go run ./cmd/benchall -rounds $(ROUNDS)

vitals: needs-postgres needs-browser build ## how soon each screen shows and answers
	node e2e/vitals.mjs

screenshots: needs-own-postgres needs-browser build
	node e2e/screenshots.mjs

clean:
	rm -rf bin ui/dist node_modules internal/demo/packed/school.zst
