# make demo    builds, fills a demo database, serves it and prints the address
# make test    installs what it needs and runs every test and check
# make long    the same kind of tests over more: minutes, not seconds
# make build   leaves bin/freshanvil

PORT  ?= 8080
DB    ?= bin/demo.db
SPEED ?= 1

export CGO_ENABLED = 1
TOOL = go tool -modfile=tools/go.mod

.PHONY: sights bench build demo test long generate lint pages fixture screenshots chromium fuzz fuzz-contract

build: pages
	go build -o bin/freshanvil ./cmd/freshanvil

demo: build
	bin/freshanvil demo --port $(PORT) --db $(DB) --speed $(SPEED)

pages: web/node_modules/.installed
	npm --prefix web run build

# A page of the tests: parts of the pages that have no screen of their own.
fixture: web/node_modules/.installed
	npm --prefix web run fixture

web/node_modules/.installed: web/package-lock.json
	npm --prefix web ci
	touch $@

# The pages are built first: Go embeds them.
test: build fixture chromium lint
	go test -count=1 ./core/... ./internal/... ./cmd/...
	go test -count=1 -run TestRandomMachines -v ./core/run
	CHROMIUM=$$(scripts/chromium) go test -count=1 -parallel 4 -timeout 25m ./e2e

# What takes longer: 2,000 random machines, left at every instant of every play.
long: build chromium
	go test -count=1 -v -run 'TestRandomMachines|TestCleared' -timeout 60m ./core/run -long
	go test -count=1 -v -run TestWhatIsDoneTogether -timeout 60m ./core/sitting -long
	CHROMIUM=$$(scripts/chromium) go test -count=1 -v -run 'TestKilled|TestPressesUnderKills|TestAxe' -timeout 40m ./e2e -long
	go test -count=1 -v -run TestSteadyLoad -timeout 40m ./internal/api -load 30m
	go test -count=1 -v -run TestDamagedLogs ./internal/store -long

lint: pages
	npm --prefix web run check
	npm --prefix web run formatted
	test -z "$$(gofmt -l cmd core internal e2e web/embed.go)" || { gofmt -l cmd core internal e2e web/embed.go; exit 1; }
	go vet ./...
	scripts/width
	scripts/complexity
	scripts/dead
	$(TOOL) staticcheck ./...
	scripts/generated

# After a change of internal/api/openapi.yaml.
generate: web/node_modules/.installed
	$(TOOL) oapi-codegen -config internal/api/oapi-codegen.yaml internal/api/openapi.yaml
	npm --prefix web run types

# After a change of a drawing in web/src/ui/sights, or of a verdict: the drawings as data, for what prints.
sights: web/node_modules/.installed
	go run ./internal/report/pairs | (cd web && node sights.js) > bin/sights.json
	mv bin/sights.json internal/report/sights.json

chromium:
	scripts/chromium

# Draws docs/screenshots anew from demo data.
screenshots: build chromium
	SHOTS=$(CURDIR)/docs/screenshots CHROMIUM=$$(scripts/chromium) go test -count=1 -run TestScreenshots ./e2e

# Holds every operation against the contract, with requests that nobody would send: schemathesis, from the Python registry.
fuzz-contract: build
	scripts/fuzz-contract

fuzz:
	go test -fuzz FuzzParseHardness -fuzztime 30s ./core/units
	go test -fuzz FuzzReadUse -fuzztime 30s ./core/use
	go test -fuzz FuzzSample -fuzztime 30s ./core/water
	go test -fuzz FuzzReadReport -fuzztime 30s ./core/water
	go test -fuzz FuzzParseReading -fuzztime 30s ./core/units
	go test -fuzz FuzzFold -fuzztime 30s ./core/run
	go test -fuzz FuzzReadGrid -fuzztime 30s ./internal/exchange
	go test -fuzz 'FuzzRead$$' -fuzztime 30s ./internal/exchange

# Figures: ratios beside named baselines. Nothing here passes or fails by time.
bench: build
	go test -run '^$$' -bench . -benchtime 2s ./core/care ./core/water ./core/treat \
		./core/descale ./core/plant ./core/run ./core/sitting \
		./internal/api
	go test -run '^$$' -bench . -benchtime 9x -timeout 20m ./internal/app
	go test -run '^$$' -bench . -benchtime 5x ./e2e
