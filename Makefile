# Two commands: make demo, make test. The others serve them.
SHELL := /bin/bash
GO ?= go
VERSION ?= $(shell git describe --always --dirty 2>/dev/null || echo dev)
LDFLAGS := -s -w -X main.version=$(VERSION)
# The program, the linters and the tests without the race detector share these settings, so that each package compiles once.
export CGO_ENABLED := 0
export GOFLAGS := -trimpath
WEB_SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null)

.PHONY: demo test test-long check soak mutants build web generate drift lint lint-go lint-web go-test go-full go-race journeys bench \
  antennas release count chromium screenshots smoke clean

# DEMO gives further flags: make demo DEMO="--data /tmp/isles --listen 127.0.0.1:7400"
DEMO ?=
demo: build
	./bin/reed demo $(DEMO)

build: bin/reed

bin/reed: internal/server/webdist/index.html $(shell find cmd core internal -name '*.go' -o -name '*.sql') go.mod
	$(GO) build -ldflags '$(LDFLAGS)' -o bin/reed ./cmd/reed

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

lint: lint-go lint-web

lint-go:
	@files=$$(gofmt -l cmd core internal scripts); if [ -n "$$files" ]; then echo "gofmt: $$files"; exit 1; fi
	$(GO) vet ./...
	$(GO) tool staticcheck ./...

lint-web: web/node_modules/.package-lock.json e2e/node_modules/.package-lock.json
	web/node_modules/.bin/biome check --error-on-warnings
	cd web && npx tsc --noEmit
	node scripts/longest.mjs
	cd e2e && npx tsc --noEmit

# Go tests run twice. The full run has every test and no race detector. The race run has what shares memory, with -short: the
# detector makes arithmetic ten times as slow, and finds nothing in arithmetic that one goroutine does alone. Of the packages
# that only compute, it runs the tests named for what runs together.
# SQLite's own code, made from C, is not instrumented: that takes two thirds of the time of all that stores something.
# A package that takes longer than TIMEOUT has hung: a slow and busy machine needs a tenth of it.
TIMEOUT ?= 20m
RACE = ./cmd/... ./internal/server ./internal/store ./internal/access ./internal/device ./core/numeric ./core/scout ./core/weigh
RACE_TOGETHER = ./core/moment/... ./core/twin ./core/trim ./core/diagnose
# In CI every test runs; elsewhere go test may answer from its cache what nothing has changed of.
COUNT = $(if $(CI),-count=1)
GOTESTSUM = $(GO) tool gotestsum --format pkgname-and-test-fails --format-icons text --hide-summary skipped

go-test:
	@failed=0; for part in go-full go-race; do $(MAKE) --no-print-directory $$part || failed=1; done; exit $$failed

# One thread for each package, as many packages at once as cores: two threads of one package that share a core's cache take
# twice as long as one.
go-full:
	@mkdir -p bin
	GOMAXPROCS=1 $(GOTESTSUM) --jsonfile bin/go-full.json -- -p $$(nproc) $(COUNT) -timeout $(TIMEOUT) ./...

go-race: export CGO_ENABLED := 1
go-race: export GOFLAGS :=
go-race:
	@mkdir -p bin
	$(GOTESTSUM) --jsonfile bin/go-race.json -- $(COUNT) -race -short -gcflags=modernc.org/sqlite/lib=-race=false -timeout $(TIMEOUT) $(RACE)
	$(GOTESTSUM) --jsonfile bin/go-together.json -- $(COUNT) -race -run Together -gcflags=modernc.org/sqlite/lib=-race=false -timeout $(TIMEOUT) $(RACE_TOGETHER)

chromium:
	@test -x /usr/bin/chromium -a -x /usr/bin/certutil || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium libnss3-tools; } || { echo "Chromium or certutil is missing: apt-get install chromium libnss3-tools"; exit 1; }

journeys: build chromium e2e/node_modules/.package-lock.json
	cd e2e && npx playwright test

# Everything, to its end: a failure in one part does not keep the others from running. The summary names what failed.
test:
	@rm -f bin/go-*.json bin/journeys.json
	@$(MAKE) --no-print-directory -j2 -O drift lint-go lint-web build chromium
	@failed=0; $(MAKE) --no-print-directory -j2 -k -O go-test smoke || failed="$$failed go-test-or-smoke"; \
	for part in journeys count; do \
	  $(MAKE) --no-print-directory $$part || failed="$$failed $$part"; done; \
	$(GO) run ./scripts/summary bin/go-full.json bin/go-race.json bin/go-together.json bin/journeys.json || failed="$$failed summary"; \
	[ "$$failed" = 0 ] || { echo "failed parts:$${failed#0}"; exit 1; }

# Which small faults the tests miss: a fixed list of a hundred, tried on the packages that they are in.
# make mutants ONLY=core/numeric MOST=2 tries two of one folder.
ONLY ?=
MOST ?= 0
mutants:
	$(GO) run ./scripts/mutants -only '$(ONLY)' -most $(MOST)

# BENCHES, BENCHTIME, CONTACTS and MB shorten it: make bench BENCHES=./core/moment BENCHTIME=1x CONTACTS=1000 MB=1
BENCHES ?= ./core/... ./internal/...
BENCHTIME ?= 2s
CONTACTS ?= 100000
MB ?= 30
bench: build chromium e2e/node_modules/.package-lock.json
	$(GO) test -run xxx -bench . -benchtime $(BENCHTIME) -timeout 60m $(BENCHES)
	scripts/bench.sh $(CONTACTS)
	$(GO) run ./scripts/logbench -most $(CONTACTS)
	$(GO) run ./scripts/filebench -mb $(MB)

# The tables of docs/portable-antennas.md from the solver. ANTENNAS gives flags: make antennas ANTENNAS="-only 2 -out /tmp/two.md"
ANTENNAS ?=
antennas:
	$(GO) run ./scripts/antennas $(ANTENNAS)

TARGETS ?= linux/amd64 linux/arm64 linux/arm/7 darwin/amd64 darwin/arm64 windows/amd64
release: web
	@for t in $(TARGETS); do \
	  IFS=/ read os arch arm <<< "$$t"; out=dist/reed-$$os-$$arch$${arm:+v$$arm}; [ $$os = windows ] && out=$$out.exe; \
	  echo $$out; GOOS=$$os GOARCH=$$arch GOARM=$$arm $(GO) build -ldflags '$(LDFLAGS)' -o $$out ./cmd/reed || exit 1; done

# A running program under everything at once, with kills and a full disk; make soak FOR=1h for an hour.
FOR ?= 5m
soak: build
	$(GO) run ./scripts/soak -for $(FOR)

# What a push should have passed: lint, types, the fast tests.
check: lint
	$(GO) test -short -timeout $(TIMEOUT) ./...

# The simulations at length: does the interval of Weigh contain the truth as often as it says, does a cause stay fair in more
# worlds, does no field break a computation? LONG=0.01 runs a hundredth of them, LONGS=./core/weigh those of one package.
LONG ?= 1
LONGS ?= ./core/... ./internal/...
test-long:
	REED_LONG=$(LONG) $(GO) test -count 1 -timeout 120m -run '^TestLong' -v $(LONGS)

# Every other target in its shortest form, so that none breaks unnoticed.
smoke: build
	scripts/smoke.sh

count:
	@scripts/count.sh

# SHOTS names a folder and the pictures to take: make screenshots SHOTS="/tmp shelf weigh"
SHOTS ?=
screenshots: build chromium e2e/node_modules/.package-lock.json
	cd e2e && node screenshots.mjs $(SHOTS)

clean:
	rm -rf bin dist demo-data web/node_modules e2e/node_modules internal/server/webdist/assets internal/server/webdist/*.*
