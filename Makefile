# Two commands: make demo, make test. The others serve them.
SHELL := /bin/bash
GO ?= go
VERSION ?= $(shell git describe --always --dirty 2>/dev/null || echo dev)
LDFLAGS := -s -w -X main.version=$(VERSION)
WEB_SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null)

.PHONY: demo test test-long check soak mutants build web generate drift lint go-test journeys bench antennas release count chromium screenshots clean

demo: build
	./bin/reed demo

build: bin/reed

bin/reed: internal/server/webdist/index.html $(shell find cmd core internal -name '*.go' -o -name '*.sql') go.mod
	CGO_ENABLED=0 $(GO) build -trimpath -ldflags '$(LDFLAGS)' -o bin/reed ./cmd/reed

web: internal/server/webdist/index.html

web/node_modules/.package-lock.json: web/package-lock.json
	cd web && npm install --no-save --no-audit --no-fund

e2e/node_modules/.package-lock.json: e2e/package-lock.json
	cd e2e && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm install --no-save --no-audit --no-fund

internal/server/webdist/index.html: web/node_modules/.package-lock.json $(WEB_SOURCES)
	cd web && npx vite build --logLevel warn
	touch $@

generate: web/node_modules/.package-lock.json
	$(GO) tool oapi-codegen -config api/oapi-codegen.yaml api/openapi.yaml
	cd web && npm run --silent types

# What is generated from the contract has to be what is committed.
drift: web/node_modules/.package-lock.json
	@old=$$(cat internal/server/api.gen.go web/src/api/schema.gen.ts | sha256sum); $(MAKE) --no-print-directory generate >/dev/null; \
	new=$$(cat internal/server/api.gen.go web/src/api/schema.gen.ts | sha256sum); \
	if [ "$$old" != "$$new" ]; then echo "api/openapi.yaml has changed: run make generate and commit what it writes"; exit 1; fi; echo "generated files are up to date"

lint: web/node_modules/.package-lock.json e2e/node_modules/.package-lock.json
	@files=$$(gofmt -l cmd core internal); if [ -n "$$files" ]; then echo "gofmt: $$files"; exit 1; fi
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	web/node_modules/.bin/biome check --error-on-warnings
	cd web && npx tsc --noEmit
	node scripts/longest.mjs
	cd e2e && npx tsc --noEmit

# The rooms of numbers take a dozen times as long under the race detector: it watches only their tests of
# what runs together.
NUMERIC = core/moment|core/twin|core/trim|core/diagnose|internal/demo|internal/standin|reed/core$$

go-test:
	node scripts/gotest.mjs -race -skip 'Demo|Forecast' $$(go list ./... | grep -vE '$(NUMERIC)') -- -race -run Together $$(go list ./... | grep -E '$(NUMERIC)') -- \
	  $$(go list ./... | grep -E '$(NUMERIC)') -- -run 'Demo|Forecast' ./internal/server ./cmd/reed

chromium:
	@test -x /usr/bin/chromium || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium; } || { echo "Chromium is missing: apt-get install chromium"; exit 1; }

journeys: build chromium e2e/node_modules/.package-lock.json
	cd e2e && npx playwright test

test: drift lint build go-test journeys count
	@node scripts/summary.mjs

# Which small faults the tests miss: a fixed list of a hundred, tried on the packages that they are in.
mutants:
	$(GO) run ./scripts/mutants

bench: build chromium e2e/node_modules/.package-lock.json
	$(GO) test -run xxx -bench . -benchtime 2s ./core/... ./internal/...
	scripts/bench.sh
	$(GO) run ./scripts/logbench

# The tables of docs/portable-antennas.md from the solver.
antennas:
	$(GO) run ./scripts/antennas

release: web
	@for t in linux/amd64 linux/arm64 linux/arm/7 darwin/amd64 darwin/arm64 windows/amd64; do \
	  IFS=/ read os arch arm <<< "$$t"; out=dist/reed-$$os-$$arch$${arm:+v$$arm}; [ $$os = windows ] && out=$$out.exe; \
	  echo $$out; CGO_ENABLED=0 GOOS=$$os GOARCH=$$arch GOARM=$$arm $(GO) build -trimpath -ldflags '$(LDFLAGS)' -o $$out ./cmd/reed || exit 1; done

# A running program under everything at once, with kills and a full disk; make soak FOR=1h for an hour.
FOR ?= 5m
soak: build
	$(GO) run ./scripts/soak -for $(FOR)

# What a push should have passed: lint, types, the fast tests.
check: lint
	$(GO) test -short -skip 'Demo|Forecast' $$(go list ./... | grep -vE '$(NUMERIC)|cmd/reed')

# The simulations of Weigh at length: does its interval hold the truth as often as it says?
test-long:
	REED_LONG=1 $(GO) test -count 1 -timeout 60m -run Long -v ./core/weigh

count:
	@scripts/count.sh

screenshots: build chromium e2e/node_modules/.package-lock.json
	cd e2e && node screenshots.mjs

clean:
	rm -rf bin dist demo-data web/node_modules e2e/node_modules internal/server/webdist/assets internal/server/webdist/*.*
