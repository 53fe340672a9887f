# Everything from a fresh machine with Go, Node and gcc. `make demo` is the way in.
SHELL := bash
.SHELLFLAGS := -euo pipefail -c
export CGO_ENABLED := 1
export GOFLAGS := -tags=sqlite_fts5

# Tests of a hundred thousand lines or hundreds of histories, for which the race detector takes minutes.
MANY := VeryMany|HundredThousand|WhatIfOnlyAsks|TestNever

# Where there is a disk in memory, tests keep their data there.
QUICK := $(if $(wildcard /dev/shm/.),TMPDIR=/dev/shm)

UI_SOURCES := $(shell find ui/src ui/public -type f) $(wildcard ui/*.html) ui/package.json ui/vite.config.ts ui/tsconfig.json

.PHONY: sqlite3 build demo dev test test-quick lint test-go test-core test-ui test-e2e test-long bench bench-quick shots types chromium mutants fuzz clean

# What the demo's sixty days come of. Other code may change them too: make clean has them lived anew.
PAST_SOURCES := $(shell find demo internal/sim internal/store/migrations -type f -not -path 'demo/made/*' -not -name '*_test.go')

build: internal/web/dist/index.html demo/made/past.zip ## the binary at bin/easymargin, with the front end and the demo's past inside
	go build -o bin/easymargin ./cmd/easymargin

ui/node_modules/.package-lock.json: ui/package-lock.json
	cd ui && npm ci --no-audit --no-fund
	@touch $@

internal/web/dist/index.html: ui/node_modules/.package-lock.json $(UI_SOURCES)
	cd ui && npm run --silent build
	@touch internal/web/dist/.keep

demo/made/past.zip: $(PAST_SOURCES)
	$(QUICK) go run ./demo/make $@

demo: build ## the made-up shop on http://127.0.0.1:8640
	bin/easymargin demo

dev: ui/node_modules/.package-lock.json ## the demo, with the front end reloading as it is edited, on http://127.0.0.1:5173
	trap 'kill 0' EXIT; go run ./cmd/easymargin demo --data data/dev & (cd ui && npm run dev)

test: ## all of it, two parts at a time; each part's output comes when it is done
	$(MAKE) --no-print-directory -j2 --output-sync=target test-core lint test-e2e test-go test-ui

test-quick: test-core ## what one runs while working: under a minute
	$(QUICK) go test $$(go list ./internal/... | grep -v -e /house -e /store -e /web -e /gateway)
	cd ui && npm run --silent test -- --changed

test-core: ## the rules of the job, by themselves
	go test ./core/...

lint: ## what is wrong can be seen without running it
	go mod tidy -diff
	test -z "$$(gofmt -l cmd core demo e2e internal | tee /dev/stderr)"
	go vet ./...
	go tool staticcheck ./...

test-go: internal/web/dist/index.html demo/made/past.zip
	$(QUICK) go test -timeout 30m ./cmd/... ./demo/... $$(go list ./internal/... | grep -v -e /house -e /work -e /place)
	$(QUICK) go test -timeout 30m -skip '$(MANY)' ./internal/house
	$(QUICK) go test -timeout 30m ./internal/house -parallel 4 -run '$(MANY)' -rapid.checks=20 # some eighty histories; make test-long plays twenty thousand
	$(QUICK) go test -timeout 30m -race ./internal/work/... ./internal/place/...

test-long: build ## all under the race detector, twenty thousand made-up histories and a hundred kills; an hour or two
	$(QUICK) go test -race -skip '$(MANY)' -timeout 1h ./internal/house
	$(QUICK) go test ./internal/house -parallel 4 -run TestNever -rapid.checks=5000 -timeout 5h
	EASYMARGIN_KILLS=100 go test ./e2e -run TestKilledAtAnyMoment -timeout 2h

test-ui: build ui/node_modules/.package-lock.json ## types fresh, the API described without fault, formatting, components
	diff -u docs/openapi.json <(bin/easymargin openapi) || { echo "docs/openapi.json is stale: run make types"; exit 1; }
	fresh=$$(mktemp); cd ui && npx openapi-typescript ../docs/openapi.json -o $$fresh >/dev/null && diff -q $$fresh src/api/schema.d.ts || { echo "the front end's types are stale: run make types"; exit 1; }
	cd ui && npm run --silent lint-api
	cd ui && node scripts/operations.mjs --check && npx biome check --error-on-warnings src && npm run --silent test # types were checked as it was built

test-e2e: build chromium ## the real screens in headless Chromium
	go test -timeout 45m -parallel 3 ./e2e/... # a screen waits as often as it works

types: ## the API's description and the front end's types, made anew
	go run ./cmd/easymargin openapi > docs/openapi.json.new && mv docs/openapi.json.new docs/openapi.json
	cd ui && npm run --silent types

bench: build sqlite3 ## figures, as ratios to a baseline measured in the same run
	go test -run '^$$' -bench . -benchmem ./core/...
	go test -run '^$$' -bench . -benchtime 5x ./internal/house
	go test -run '^$$' -bench . -benchtime 5x ./internal/blank
	go run ./e2e/bench
	go run ./e2e/bench -shop 1000000

bench-quick: build sqlite3 ## a whole shop at a tenth of its size, in under two minutes
	go run ./e2e/bench -shop 100000

shots: build chromium ## docs/screenshots, from the demo
	go run ./e2e/shots

mutants: ## breaks the rules of the job one by one; says which break no test saw
	go tool gremlins unleash --workers 2 --timeout-coefficient 10 --output-statuses lc ./core
	$(QUICK) go tool gremlins unleash --workers 2 --timeout-coefficient 10 --output-statuses lc ./internal/reckon

fuzz: ## a minute of fuzzing for every reader
	go test -fuzz FuzzRead -fuzztime 60s ./core/ident
	go test -fuzz FuzzFile -fuzztime 60s ./internal/feed
	go test -fuzz FuzzPicture -fuzztime 60s ./internal/retouch
	go test -run FuzzShopForms -fuzz FuzzShopForms -fuzztime 60s -fuzzminimizetime 10x ./internal/house

sqlite3: ## the sqlite3 shell, to compare with
	@command -v sqlite3 >/dev/null || { sudo=$$(command -v sudo || true); $$sudo apt-get update -qq && $$sudo apt-get install -y -qq sqlite3; }

chromium: ## Debian's Chromium, where there is none
	@command -v chromium >/dev/null || command -v google-chrome >/dev/null || { \
		sudo=$$(command -v sudo || true); $$sudo apt-get update -qq && $$sudo apt-get install -y -qq chromium; }

clean:
	rm -rf bin ui/dist ui/node_modules internal/web/dist/assets internal/web/dist/index.html demo/made/past.zip
