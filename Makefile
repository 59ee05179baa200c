# Everything a person needs is: make demo, make test.
.PHONY: demo build test dev bench types lint chromium screenshots
GO_TOOL = go tool
# The skin is deformed eight numbers at once where the processor can (docs/decisions/0017-wide-skin.md).
export GOEXPERIMENT = simd
# Random tests draw by the commit, so that one state of the program gives one answer; RAPID_SEED=0 draws anew.
export RAPID_SEED ?= $(shell printf '%d' 0x$$(git rev-parse --short=8 HEAD 2>/dev/null || echo 1))
WEB_SOURCES = $(shell find web/src web/index.html web/vite.config.ts -type f 2>/dev/null)

demo: build ## build, then serve with the demo specimens
	bin/myriapod demo

build: web/dist/index.html ## leaves bin/myriapod
	go build -o bin/myriapod ./cmd/myriapod

web/node_modules/.package-lock.json: web/package-lock.json
	cd web && npm ci --no-audit --no-fund

web/dist/index.html: web/node_modules/.package-lock.json $(WEB_SOURCES)
	cd web && npm run --silent build

types: ## the page's types, from Go
	$(GO_TOOL) tygo generate
	go run ./scripts/edits > web/src/wire/edits.gen.ts

lint: web/node_modules/.package-lock.json
	@test -z "$$($(GO_TOOL) gofumpt -l cmd core server shelf store walk web/*.go)" || { $(GO_TOOL) gofumpt -d cmd core server shelf store walk web/*.go; exit 1; }
	go vet ./...
	$(GO_TOOL) staticcheck ./...
	$(MAKE) --no-print-directory types && git diff --exit-code -- web/src/wire
	cd web && npx biome check . && npx tsc --noEmit && npx vitest run

chromium: ## the browser tests need it; Debian's package is used
	@command -v chromium >/dev/null || { apt-get update -qq && apt-get install -y -qq chromium; }

test: build lint chromium ## all that CI checks; its limits of time are there against hanging alone
	go test -timeout 1h $$(go list ./... | grep -v /walk)
	go test -timeout 1h -parallel 2 ./walk
	./scripts/fuzz

dev: web/node_modules/.package-lock.json ## live reload of page and server
	./scripts/dev

bench: build ## figures beside what they are compared to
	./scripts/bench

screenshots: build chromium ## draws docs/screenshots anew, from the demo data
	MYRIAPOD_SHOTS=$(CURDIR)/docs/screenshots go test ./walk -run Screenshots -count=1
