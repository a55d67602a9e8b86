# Odd Tick. Two commands are all a newcomer needs: make demo, and make test.

BIN := bin/oddtick
SHEDS := practice/sheds/front
GO_SOURCES := $(shell find cmd core engine examples formats internal observe practice server web -name '*.go' -not -path '*/node_modules/*' -not -name '*_test.go') $(wildcard server/store/migrations/*) $(wildcard practice/pages/*) $(wildcard examples/*/*) go.mod
WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/package.json
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)
NPM := npm --no-audit --no-fund --loglevel=error

.PHONY: help notices shape demo test build generate bench detection learn unusual seeds findings headlines pairs load ordinary check-sheets attack kill fuzz race race-quick screenshots lint install check-generated unit e2e

# Starts everything with demo data, and prints the address.
demo: install build
	@exec $(BIN) demo

# What can be made, each with what is written above it here.
help:
	@awk '/^# / {said = said (said == "" ? "" : " ") substr($$0, 3); next} /^[a-z][a-z0-9-]*:/ {if (said != "") {name = $$1; sub(/:.*/, "", name); printf "%-15s %s\n", name, said}} !/^[A-Z]+ \?=/ {said = ""}' Makefile | sort

# The program, in bin, with its front end in it.
build: $(BIN)

# Debian's packages, only those that are missing.
install:
	@command -v mariadbd >/dev/null 2>&1 || [ -x /usr/sbin/mariadbd ] || NEED="mariadb-server"; \
	command -v chromium >/dev/null 2>&1 || NEED="$$NEED chromium"; \
	[ -x "$$(ls -d /usr/lib/postgresql/*/bin/postgres 2>/dev/null | head -1)" ] || NEED="$$NEED postgresql"; \
	command -v chromium-headless-shell >/dev/null 2>&1 || NEED="$$NEED chromium-headless-shell"; \
	if [ -n "$$NEED" ]; then echo "Installing $$NEED …"; \
	  $(SUDO) apt-get -o DPkg::Lock::Timeout=300 -qq update && \
	  $(SUDO) env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 -qq -y install --no-install-recommends $$NEED >/dev/null; fi
	@# as whom a browser runs that root starts
	@[ "$$(id -u)" != 0 ] || id -u oddtick-browser >/dev/null 2>&1 || useradd --system --no-create-home --shell /usr/sbin/nologin oddtick-browser

web/node_modules/.done: web/package-lock.json
	cd web && $(NPM) ci
	ln -sfn ../web/node_modules e2e/node_modules
	ln -sfn ../../../web/node_modules $(SHEDS)/node_modules
	@touch $@

web/dist/index.html: web/node_modules/.done $(WEB_SOURCES)
	rm -rf web/dist/assets
	cd web && $(NPM) run --silent build

# the second practice site's page
practice/sheds/dist/index.html: web/node_modules/.done $(wildcard $(SHEDS)/*.ts $(SHEDS)/*.tsx $(SHEDS)/*.css $(SHEDS)/*.html)
	rm -rf practice/sheds/dist/assets
	cd $(SHEDS) && $(NPM) exec -- vite build --logLevel error

$(BIN): web/dist/index.html practice/sheds/dist/index.html $(GO_SOURCES)
	go build -o $(BIN) ./cmd/oddtick

# The API's document from the Go types, and the front end's types from the document.
generate: web/node_modules/.done
	go run ./cmd/oddtick openapi > api/openapi.yaml
	go run ./cmd/oddtick words > web/src/api/words.gen.ts
	go run ./cmd/oddtick schema form > api/form.schema.json
	go run ./cmd/oddtick schema site > api/site.schema.json
	go run ./cmd/oddtick schema result > api/result.schema.json
	cd web && $(NPM) run --silent generate

# The licences of all that is shipped, into NOTICES.md.
notices: web/node_modules/.done
	go run ./internal/notices > NOTICES.md

# Forms of the sources, and what tools find wrong with them.
lint: web/node_modules/.done
	@test -z "$$(go tool gofumpt -l cmd core engine examples formats internal observe practice server e2e web/*.go)" || { echo "not formatted:"; go tool gofumpt -l cmd core engine examples formats internal observe practice server e2e web/*.go; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	@# not looked for: unhandled errors (G104), which staticcheck and review look after; files and programs named by variables (G204, G304), as
	@# the command line's user names them; and names that sound like secrets (G101)
	go tool -modfile=lint.mod gosec -quiet -exclude=G101,G104,G204,G304 ./cmd/... ./core/... ./engine/... ./formats/... ./internal/... ./observe/... ./server/...
	cd web && $(NPM) run --silent lint

# All tests.
test: install lint build unit e2e
	@echo "all passed"

# The tests of packages and of the front end's parts.
unit: web/node_modules/.done
	cd web && $(NPM) test --silent
	go test -timeout 12m $$(go list ./... | grep -v -e '/engine$$' -e '/observe/browser$$')
	@# what is seen in a browser depends on time, so that these have the machine to themselves
	go test -p 1 -timeout 20m ./observe/browser ./engine
	@$(MAKE) --no-print-directory race-quick
	@$(MAKE) --no-print-directory fuzz FUZZTIME=2000x

# The tests in a real browser.
e2e: build
	cd web && ODDTICK_BIN=$(abspath $(BIN)) npx --no-install playwright test -c ../e2e/playwright.config.ts

# How fast it is.
bench: install build
	go test -run '^$$' -bench . -benchtime 1x ./bench
	cd web && ODDTICK_BENCH=1 ODDTICK_BIN=$(abspath $(BIN)) npx --no-install playwright test -c ../e2e/playwright.config.ts bench

# Plants each fault of the practice site, and counts those that a run finds.
DEPTH ?= standard
detection: install build
	go run ./bench/detection -depth $(DEPTH) -json detection.json

# How much of the practice site's documents is learned from the addresses of its forms.
learn: install build
	go run ./bench/learn -json learn.json

# Plants the faults that show without rules, learns the form of each from its address, and ten times the forms without a fault.
unusual: install build
	go run ./bench/learn -faults all -rounds 10

# Plants forty faults in a seed library written in Python, and runs it without one ten times. It needs Python 3.
seeds:
	go run ./bench/seeds -rounds 10
	go run ./bench/seeds -seed 20261202 -beside 20261201 -rounds 0

# What answers findings to faults: one finding a fault, the smallest inputs, random sets of four faults.
findings: install build
	go run ./bench/findings -json findings.json

# What is said of each planted fault, into docs/headlines.md.
headlines: install build
	go run ./bench/findings -sets 0 -headlines docs/headlines.md

# Whether a fault that is not known ends a run with 1 where another of its form is known.
PAIRS ?= 200
pairs: install build
	go run ./bench/findings -pairs $(PAIRS)

# Many who use one Odd Tick at once: memory, answers, and whether a request is lost.
load: install build
	go run ./bench/load

# Sites of ordinary habits, and answers that come in pieces, late or never, again and again.
ordinary: install
	ODDTICK_STANDARD=10 ODDTICK_THOROUGH=2 ODDTICK_BROWSER=3 ODDTICK_ROUGH=200 go test ./engine -run 'OrdinaryHabits|FaultsOfOrdinary|APageInPieces|AsksToWait|NeverAnswers' -count 1 -timeout 60m -v

# Opens what is written for spreadsheets in one, and looks whether every cell is still there.
check-sheets: web/node_modules/.done
	@command -v soffice >/dev/null 2>&1 || { echo "Installing libreoffice-calc-nogui …"; \
	  $(SUDO) apt-get -o DPkg::Lock::Timeout=300 -qq update && \
	  $(SUDO) env DEBIAN_FRONTEND=noninteractive apt-get -o DPkg::Lock::Timeout=300 -qq -y install --no-install-recommends libreoffice-calc-nogui >/dev/null; }
	ODDTICK_SPREADSHEET=soffice go test ./formats -run ASpreadsheetProgram -count 1 -v

# Whether rooms import as docs/architecture.md says, nothing depends on texts for people, and no function, type or package is too large.
shape:
	go test -count 1 ./internal/rooms

# What was tried against Odd Tick once, and must not work again.
attack: install build
	go test -count 1 -run '^TestAttack' ./...

# Kills the server, its database and its browser at random moments of runs.
KILLS ?= 21
kill: install build
	cd web && ODDTICK_KILLS=$(KILLS) ODDTICK_BIN=$(abspath $(BIN)) npx --no-install playwright test -c ../e2e/playwright.config.ts kill

# Readers of what comes from elsewhere, with inputs nobody thought of; FUZZTIME each (a count, such as 3000x, ends no input half-way as a time may).
FUZZTIME ?= 60s
fuzz:
	go test -run '^$$' -fuzz FuzzPattern -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./core/values
	go test -run '^$$' -fuzz FuzzReadForm -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./core/spec
	go test -run '^$$' -fuzz FuzzApply -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./core/document
	go test -run '^$$' -fuzz FuzzMigrate -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./core/document
	go test -run '^$$' -fuzz FuzzReadPage -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./observe/page
	go test -run '^$$' -fuzz FuzzDescribe -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./observe/page
	go test -run '^$$' -fuzz FuzzReadDDL -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/ddl
	go test -run '^$$' -fuzz FuzzReadSchema -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/jsonschema
	go test -run '^$$' -fuzz FuzzReadList -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/rulelist
	go test -run '^$$' -fuzz FuzzReadText -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/story
	go test -run '^$$' -fuzz FuzzReadRequest -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/recorded
	go test -run '^$$' -fuzz FuzzReadCases -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./formats/caselist
	go test -run '^$$' -fuzz FuzzReadGuesses -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./core/spec

# The race detector over engine, server and observe.
race: install
	go test -race -count 1 -timeout 30m ./engine/... ./server/... ./observe/web ./observe/database ./observe/page

# The race detector over what most goes on at once: what is kept, runs, their order, and events.
race-quick: install
	go test -race ./server/store ./server/runner ./server/lease ./server/compute ./engine/schedule
	go test -race -run 'ARunFromStartToReport|AStoppedRunGoesOn|EventsResume' ./server

# The pictures that README.md shows, anew.
screenshots: install build
	cd web && ODDTICK_BIN=$(abspath $(BIN)) ODDTICK_PICTURES=$(abspath docs/screenshots) npx --no-install playwright test -c ../e2e/playwright.config.ts screenshots
