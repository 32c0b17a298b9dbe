# Arvel. "make help" lists what there is.

SHELL := /bin/bash
GO ?= go
NPM ?= npm
export CGO_ENABLED ?= 1

.DEFAULT_GOAL := help
.PHONY: help build demo dev generate check test fuzz lint stale chromium git real bench figures screenshots

help: ## this list
	@grep -hE '^[a-z]+:.*## ' $(MAKEFILE_LIST) | awk -F ':.*## ' '{printf "  %-12s %s\n", $$1, $$2}'

build: web/dist/index.html ## the program with the interface in it, at bin/arvel
	$(GO) build -trimpath -o bin/arvel ./cmd/arvel

demo: build ## install, build and start Arvel on a copy of the demo folder
	bin/arvel demo

dev: build ## Vite with hot reload in front of the API, on the demo folder; open the address that Arvel prints first
	@trap 'kill 0' EXIT; bin/arvel demo --port 4178 & cd web && $(NPM) run dev

generate: web/node_modules/.installed ## the types that are made from api/openapi.yaml
	$(GO) generate ./...
	cd web && $(NPM) run --silent generate

test: chromium git real build lint stale ## everything: lint, unit tests, the browser as judge, end-to-end tests
	$(GO) test -race -timeout 20m $$($(GO) list ./... | grep -v /test/e2e)
	$(GO) test -timeout 20m ./test/e2e

check: lint ## while you work: lint, types, and every test that needs no browser
	$(GO) test -timeout 5m $$($(GO) list ./... | grep -v /test/e2e)

FUZZTIME ?= 30s

fuzz: ## every fuzz target, each for FUZZTIME
	@grep -rl --include='*_test.go' '^func Fuzz' core internal | sort | while read -r f; do \
		sed -n 's/^func \(Fuzz[A-Za-z0-9]*\).*/\1/p' "$$f" | while read -r target; do \
			echo "$$(dirname $$f) $$target"; $(GO) test ./$$(dirname $$f) -run '^$$' -fuzz "^$$target$$" -fuzztime $(FUZZTIME) </dev/null || exit 1; \
		done || exit 1; done

lint: web/node_modules/.installed web/dist/index.html ## vet, staticcheck, gofumpt, Biome, tsc, knip
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@unformatted=$$($(GO) tool gofumpt -l $$(git ls-files -co --exclude-standard '*.go' | grep -v '\.gen\.go$$')); \
		if [ -n "$$unformatted" ]; then echo "not formatted by gofumpt:"; echo "$$unformatted"; exit 1; fi
	cd web && $(NPM) run --silent lint

stale: web/node_modules/.installed ## fail if what is generated is not what is committed
	@mkdir -p .work && cp api/api.gen.go .work/api.gen.go && cp web/src/api/schema.gen.ts .work/schema.gen.ts
	@$(MAKE) --no-print-directory generate >/dev/null
	@for pair in api/api.gen.go:api.gen.go web/src/api/schema.gen.ts:schema.gen.ts; do \
		cmp -s "$${pair%%:*}" ".work/$${pair##*:}" || { echo "$${pair%%:*} was stale; it is made anew, commit it"; exit 1; }; done

chromium: ## Debian's Chromium, which the tests drive
	@command -v chromium >/dev/null || { $$([ "$$(id -u)" = 0 ] || echo sudo) sh -c 'apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends chromium'; }

git: ## Git, by which a test moves files as authors do
	@command -v git >/dev/null || { $$([ "$$(id -u)" = 0 ] || echo sudo) sh -c 'apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends git'; }

REAL := libboost1.81-doc imagemagick-6-doc

real: .work/real/.unpacked ## two real folders of pages from Debian, unpacked to .work/real and never installed

.work/real/.unpacked:
	@mkdir -p .work/real/packages
	@cd .work/real/packages && { apt-get download -q $(REAL) || { $$([ "$$(id -u)" = 0 ] || echo sudo) apt-get update -q && apt-get download -q $(REAL); }; }
	@for p in $(REAL); do dpkg-deb -x .work/real/packages/$${p}_*.deb .work/real/$$p; done
	@rm -r .work/real/packages && touch $@

bench: real ## the figures, each beside its yardstick, as benchstat reads them; BENCH=name for some, BENCH_FOLDER=dir for a folder more
	$(GO) test ./test/bench -run '^$$' -bench '$(or $(BENCH),.)' -benchtime 3x -timeout 60m

figures: ## lines of code and of tests, and the tests' share
	@git ls-files -co --exclude-standard '*.go' '*.ts' '*.tsx' '*.css' | grep -vE '\.gen\.|^demo/seed-library|/testdata/' | while read -r f; do \
		n=$$(grep -c '[^[:space:]]' "$$f"); case $$f in *_test.go|test/*) echo "tests $$n";; *) echo "code $$n";; esac; done | \
		awk '{n[$$1]+=$$2} END {printf "code %d lines, tests %d lines, %.0f %% tests\n", n["code"], n["tests"], 100*n["tests"]/(n["code"]+n["tests"])}'

screenshots: chromium build ## a picture of each view, from the demo folder, to docs/screenshots
	$(GO) run ./test/screenshots

web/node_modules/.installed: web/package-lock.json web/package.json
	cd web && $(NPM) ci --ignore-scripts --no-audit --no-fund
	@touch $@

web/dist/index.html: web/node_modules/.installed $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/vite.live.config.ts
	cd web && $(NPM) run --silent bundle
	@touch $@
