# Everything that Prairie Dusk needs, from a machine with Go, Node and npm:
#   make demo   install, build, start with the demo book
#   make test   all checks and tests
#   make build  the binary, bin/prairie-dusk        make lint         checks alone
#   make bench  speed, as ratios                    make screenshots  docs/screenshots

GO       ?= go
BINARY   := bin/prairie-dusk
DATA     ?= $(shell id -u | grep -qx 0 && echo /var/lib/prairie-dusk-demo || echo $$HOME/.local/share/prairie-dusk-demo)
SOURCES  := $(shell find cmd internal -name '*.go' -o -name '*.sql' -o -name '*.ics') go.mod go.sum

.PHONY: demo where test build lint bench screenshots system openapi clean

demo: system build
	$(BINARY) up --demo --data $(DATA)

where: # the data folder of the demo
	@echo $(DATA)

build: $(BINARY)

$(BINARY): $(SOURCES)
	$(GO) build -trimpath -o $@ ./cmd/prairie-dusk

test: system lint
	$(GO) test ./...

lint: docs/openapi.json
	@unformatted="$$(gofmt -l cmd internal test)"; test -z "$$unformatted" || { echo "not gofmt'ed: $$unformatted"; exit 1; }
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@! $(GO) list -deps ./internal/core/... | grep -v '^prairiedusk/internal/core/' | grep '\.' \
		|| { echo "internal/core imports more than the standard library"; exit 1; }
	@$(GO) run ./cmd/prairie-dusk openapi | diff -q - docs/openapi.json >/dev/null \
		|| { echo "docs/openapi.json is out of date; run make openapi"; exit 1; }

# Speed is told as ratios, since machines differ: the core beside bare loops, a load beside a bare COPY.
bench: system
	$(GO) test -run '^$$' -bench . -benchtime 3s ./internal/core/summary ./internal/app

openapi:
	$(GO) run ./cmd/prairie-dusk openapi > docs/openapi.json

screenshots: build
	@scripts/install-packages xvfb:Xvfb xterm:xterm imagemagick:import
	scripts/screenshots

# PostgreSQL's server and Chromium, from Debian's packages, where they are missing.
system:
	@scripts/install-packages

clean:
	rm -rf bin
