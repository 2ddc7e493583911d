# Everything that Prairie Dusk needs, from a machine with Go, Node and npm:
#   make demo   install, build, start with the demo book
#   make test   all checks and tests
#   make build  the binary, bin/prairie-dusk        make lint         checks alone
#   make bench  speed, as ratios                    make screenshots  docs/screenshots

GO       ?= go
BINARY   := bin/prairie-dusk
DATA     ?= $(shell id -u | grep -qx 0 && echo /var/lib/prairie-dusk-demo || echo $$HOME/.local/share/prairie-dusk-demo)
SOURCES  := $(shell find cmd internal -name '*.go' -o -name '*.sql' -o -name '*.ics') console/console.go go.mod go.sum
PAGES    := $(shell find console/src console/public -type f ! -name schema.ts) console/index.html $(wildcard console/*.ts console/*.json)
MODULES  := console/node_modules/.package-lock.json
SITE     := console/dist/site/index.html

.PHONY: demo where test build lint bench screenshots system openapi clean

demo: system build
	$(BINARY) up --demo --data $(DATA)

where: # the data folder of the demo
	@echo $(DATA)

build: $(BINARY)

$(BINARY): $(SOURCES) $(SITE)
	$(GO) build -o $@ ./cmd/prairie-dusk

# The console: npm's packages as the lock file has them, types from the OpenAPI document, one bundle.
$(MODULES): console/package-lock.json
	cd console && npm ci --no-audit --no-fund --loglevel=error
	touch $@

$(SITE): $(MODULES) $(PAGES) docs/openapi.json
	cd console && npm run --silent types >/dev/null && npm run --silent build
	touch $@

test: system lint
	cd console && npm run --silent test
	$(GO) test -timeout 40m -parallel 3 ./...
	@$(ONCE) >/dev/null || $(ONCE)
	@$(FUZZ) "^FuzzTable$$" -fuzztime 20000x ./internal/intake
	@$(FUZZ) "^FuzzHolidays$$" -fuzztime 10000x ./internal/intake
	@$(FUZZ) "^FuzzCalendar$$" -fuzztime 50000x ./internal/calendarfile
	@$(FUZZ) "^FuzzCondition$$" -fuzztime 10000x ./internal/filter

# Every benchmark once; packages without any are not built.
ONCE = $(GO) test -short -run "^$$" -bench . -benchtime 1x $$(grep -rl '^func Benchmark' --include='*_test.go' internal | xargs -n1 dirname | sort -u | sed 's|^|./|')

# A number of runs, not of seconds: a run that is under way when the time is up counts as failed.
FUZZ = $(GO) test -run "^$$" -fuzzminimizetime 100x -fuzz

lint: $(SITE)
	@unformatted="$$(gofmt -l cmd internal test)"; test -z "$$unformatted" || { echo "not gofmt'ed: $$unformatted"; exit 1; }
	@! git ls-files '*.go' | xargs awk 'length > 140 && !/["`'"'"']/ {print FILENAME ":" FNR ": longer than 140 columns"}' | grep .
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@unreached=$$($(GO) tool deadcode -test ./...); test -z "$$unreached" || { echo "$$unreached"; exit 1; }
	@! $(GO) list -deps $$($(GO) list ./internal/core/... | grep -v test$$) | grep -v '^prairiedusk/internal/core/' | grep '\.' \
		| grep -v '^gonum.org/v1/gonum/' || { echo "internal/core imports more than the standard library and gonum's numerics"; exit 1; }
	@$(GO) run ./cmd/prairie-dusk openapi | diff -q - docs/openapi.json >/dev/null \
		|| { echo "docs/openapi.json is out of date; run make openapi"; exit 1; }
	cd console && npm run --silent lint

# Speed is told as ratios, since machines differ: the core beside bare loops, a load beside a bare COPY.
bench: system $(SITE)
	$(GO) test -run '^$$' -bench . -benchtime 3s ./internal/core/duration ./internal/core/backlog ./internal/core/statuses ./internal/core/crosstab ./internal/app
	$(GO) test -run "^$$" -bench . ./internal/core/calendar ./internal/core/list ./internal/core/forecast
	$(GO) test -run "^$$" -bench . -benchtime 1x ./internal/present ./test

openapi:
	$(GO) run ./cmd/prairie-dusk openapi > docs/openapi.json

screenshots: build
	@scripts/install-packages xvfb:Xvfb xterm:xterm imagemagick:import
	scripts/screenshots

# PostgreSQL's server and Chromium, from Debian's packages, where they are missing.
system:
	@scripts/install-packages

clean:
	rm -rf bin console/dist/site console/node_modules
