# Arvel. "make help" lists what there is.

SHELL := /bin/bash
GO ?= go
NPM ?= npm
export CGO_ENABLED ?= 1

# Every system that the program is released for.
SYSTEMS := linux/amd64 linux/arm64 darwin/amd64 darwin/arm64 windows/amd64 windows/arm64
VERSION ?= $(shell sed -n 's/^var Number = "\(.*\)"/\1/p' internal/version/version.go)

# What the release is built with: no C, no paths of this machine, no debugging tables, and none of Gin's MessagePack.
RELEASE := -trimpath -tags nomsgpack -ldflags "-s -w -X arvel/internal/version.Number=$(VERSION)"

# apt-get, by whoever may.
APT = $$([ "$$(id -u)" = 0 ] || echo sudo) sh -c 'apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -q -y --no-install-recommends $(1)'

.DEFAULT_GOAL := help
.PHONY: help build demo dev test check fuzz lint systems stale generate licences windows chromium git real bench figures screenshots release

help: ## this list
	@awk -F ':.*## ' '/^##@ / {printf "\n%s\n", substr($$0, 5)} /^[a-z]+:.*## / {printf "  %-12s %s\n", $$1, $$2}' $(MAKEFILE_LIST)

##@ To use it
demo: build ## install, build and start Arvel on a copy of the demo folder
	bin/arvel demo

build: web/dist/index.html ## the program with the interface in it, at bin/arvel
	$(GO) build -trimpath -o bin/arvel ./cmd/arvel

##@ To work on it
dev: build ## Vite with hot reload in front of the API, on the demo folder; open the address that Arvel prints first
	@trap 'kill 0' EXIT; bin/arvel demo --port 4178 & cd web && $(NPM) run dev

check: build lint systems ## while you work: lint, types, every system, and every test that needs no browser
	$(GO) test -timeout 5m $$($(GO) list ./... | grep -v /test/e2e)

lint: web/node_modules/.installed web/dist/index.html ## vet, staticcheck, gofumpt, Biome, tsc, knip
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@unformatted=$$($(GO) tool gofumpt -l $$(git ls-files -co --exclude-standard '*.go' | grep -v '\.gen\.go$$')); \
		if [ -n "$$unformatted" ]; then echo "not formatted by gofumpt:"; echo "$$unformatted"; exit 1; fi
	cd web && $(NPM) run --silent lint

systems: web/dist/index.html ## compile and vet the program for every system
	@for s in $(SYSTEMS); do CGO_ENABLED=0 GOOS=$${s%/*} GOARCH=$${s#*/} $(GO) vet ./... || { echo "that was $$s"; exit 1; }; done

generate: web/node_modules/.installed ## the types that are made from api/openapi.yaml
	$(GO) generate ./...
	cd web && $(NPM) run --silent generate

licences: web/node_modules/.installed ## the licence texts of what the program contains
	$(GO) run ./internal/licences/collect

screenshots: chromium build ## a picture of each view, from the demo folder, to docs/screenshots
	$(GO) run ./test/screenshots

figures: ## lines of code and of tests, and the tests' share
	@git ls-files -co --exclude-standard '*.go' '*.ts' '*.tsx' '*.css' | grep -vE '\.gen\.|^demo/seed-library|/testdata/' | while read -r f; do \
		n=$$(grep -c '[^[:space:]]' "$$f"); case $$f in *_test.go|test/*) echo "tests $$n";; *) echo "code $$n";; esac; done | \
		awk '{n[$$1]+=$$2} END {printf "code %d lines, tests %d lines, %.0f %% tests\n", n["code"], n["tests"], 100*n["tests"]/(n["code"]+n["tests"])}'

##@ To test it
test: chromium git real build lint systems stale ## everything: lint, unit tests, the browser as judge, end-to-end tests
	$(GO) test -race -timeout 20m $$($(GO) list ./... | grep -v /test/e2e)
	$(GO) test -timeout 20m ./test/e2e

FUZZTIME ?= 30s

fuzz: ## every fuzz target, each for FUZZTIME
	@grep -rl --include='*_test.go' '^func Fuzz' core internal | sort | while read -r f; do \
		sed -n 's/^func \(Fuzz[A-Za-z0-9]*\).*/\1/p' "$$f" | while read -r target; do \
			echo "$$(dirname $$f) $$target"; $(GO) test ./$$(dirname $$f) -run '^$$' -fuzz "^$$target$$" -fuzztime $(FUZZTIME) </dev/null || exit 1; \
		done || exit 1; done

GENERATED := api/api.gen.go web/src/api/schema.gen.ts internal/licences/licences.txt

stale: web/node_modules/.installed ## fail if what is generated is not what is committed
	@mkdir -p .work/generated && for f in $(GENERATED); do cp $$f .work/generated/$${f##*/}; done
	@$(MAKE) --no-print-directory generate licences >/dev/null
	@for f in $(GENERATED); do cmp -s $$f .work/generated/$${f##*/} || { echo "$$f was stale; it is made anew, commit it"; exit 1; }; done

bench: real ## the figures, each beside its yardstick, as benchstat reads them; BENCH=Name for one, BENCH_FOLDER=dir for one more folder
	$(GO) test ./test/bench -run '^$$' -bench '$(or $(BENCH),.)' -benchtime 3x -timeout 60m

# The tests that a Windows program can run here, with the packages that they are of.
ON_WINDOWS := ./core/... ./internal/disk ./internal/journal ./internal/store
WINE := $(CURDIR)/.work/wine
ON_WINE := WINEPREFIX=$(WINE) WINEDEBUG=-all WINEDLLOVERRIDES=bcryptprimitives=n,b

windows: .work/wine/.ready web/dist/index.html ## the tests of the core, the disk, the journal, the store and the commands as a Windows program, by wine
	$(ON_WINE) CGO_ENABLED=0 GOOS=windows GOARCH=amd64 $(GO) test -overlay .work/wine/overlay.json -exec wine -timeout 20m $(ON_WINDOWS)
	CGO_ENABLED=0 GOOS=windows GOARCH=amd64 $(GO) build -overlay .work/wine/overlay.json -o .work/wine/arvel.exe ./cmd/arvel
	$(ON_WINE) ARVEL_PROGRAM="wine $(WINE)/arvel.exe" $(GO) test -count=1 -timeout 20m ./test/commands

##@ To give it away
release: web/dist/index.html ## the program for every system, with checksums, to dist
	@rm -rf dist && mkdir dist
	@for s in $(SYSTEMS); do os=$${s%/*}; arch=$${s#*/}; out=dist/arvel-$(VERSION)-$$os-$$arch; [ $$os = windows ] && out=$$out.exe; \
		CGO_ENABLED=0 GOOS=$$os GOARCH=$$arch $(GO) build $(RELEASE) -o $$out ./cmd/arvel || exit 1; \
		[ $$(stat -c %s $$out) -lt 30000000 ] || { echo "$$out has more than 30 MB"; exit 1; }; done
	@cd dist && sha256sum arvel-* > SHA256SUMS && ls -l

##@ What the others need
chromium: ## Debian's Chromium, which the tests drive
	@command -v chromium >/dev/null || { $(call APT,chromium); }

git: ## Git, by which a test moves files as authors do
	@command -v git >/dev/null || { $(call APT,git); }

REAL := libboost1.81-doc imagemagick-6-doc debian-handbook

UNPACKED := .work/real/.unpacked-$(words $(REAL))

real: $(UNPACKED) ## three real folders of pages from Debian, unpacked to .work/real and never installed

$(UNPACKED):
	@mkdir -p .work/real/packages
	@cd .work/real/packages && { apt-get download -q $(REAL) || { $$([ "$$(id -u)" = 0 ] || echo sudo) apt-get update -q && apt-get download -q $(REAL); }; }
	@for p in $(REAL); do dpkg-deb -x .work/real/packages/$${p}_*.deb .work/real/$$p; done
	@rm -r .work/real/packages && touch $@

# wine lacks one function that Go's programs begin with, so it gets a library of just that. And it refuses one way of deleting
# with another code than Windows does, which Go has to take for the same to go another way.
.work/wine/.ready: test/wine/bcryptprimitives.c
	@command -v wine >/dev/null && command -v x86_64-w64-mingw32-gcc >/dev/null || { $(call APT,wine64 wine gcc-mingw-w64-x86-64); }
	@mkdir -p $(WINE) && $(ON_WINE) wine wineboot -i >/dev/null 2>&1 && WINEPREFIX=$(WINE) wineserver -w
	@x86_64-w64-mingw32-gcc -shared -o $(WINE)/drive_c/windows/system32/bcryptprimitives.dll $< -ladvapi32
	@at=$$($(GO) env GOROOT)/src/internal/syscall/windows/at_windows.go; \
		sed 's/case STATUS_INVALID_INFO_CLASS,/case NTStatus(0xC0000002), STATUS_INVALID_INFO_CLASS,/' $$at > $(WINE)/at_windows.go; \
		echo "{\"Replace\": {\"$$at\": \"$(WINE)/at_windows.go\"}}" > $(WINE)/overlay.json
	@touch $@

web/node_modules/.installed: web/package-lock.json web/package.json
	cd web && $(NPM) ci --ignore-scripts --no-audit --no-fund
	@touch $@

web/dist/index.html: web/node_modules/.installed $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/vite.live.config.ts
	cd web && $(NPM) run --silent bundle
	@touch $@
