# The commands of the README are demo, start and test. Each does all of its own
# set-up on a Debian machine with Go, Node and make.

SHELL := /bin/bash
.DELETE_ON_ERROR:

ui_sources := $(shell find ui/src ui/public ui/index.html ui/vite.config.ts ui/tsconfig.json ui/package.json -type f)
go_sources := $(shell find api app cmd core demo exchange standin store ui -name '*.go' -not -name '*_test.go' -not -path '*/node_modules/*') $(shell find demo -type f) $(wildcard store/migrations/*.sql)

.PHONY: demo start test fuzz year load cluster durability durability-cluster dev lint gen bench bench-season bench-repair pictures check-generated clean setup-demo setup-test

demo: setup-demo bin/vereda
	@exec bin/vereda demo

start: setup-demo bin/vereda
	@exec bin/vereda start

# What several do at once is looked at by the race detector too: all of it but the planner, which runs by itself and
# would take ten minutes so, and tests in which nothing happens at once (testkit.NothingAtOnce).
raced := ./app/... ./store ./core ./core/academy ./core/assign ./core/calendar ./core/curriculum ./core/ledger ./core/library ./core/mat ./core/safety ./core/season ./core/season/model ./core/season/rules ./core/validation

# The journeys of the interface keep one processor busy, drawing; what needs no browser goes beside them.
test: setup-test lint check-generated bin/vereda
	@mkdir -p .data
	@bin/vereda with-database bash -c 'go test -timeout 40m -count=1 -json ./e2e > .data/journeys.json & journeys=$$!; \
	go test -timeout 40m -count=1 -json $$(go list ./... | grep -v /e2e$$) > .data/test.json; a=$$?; \
	go test -timeout 40m -race -count=1 -json $(raced) >> .data/test.json; b=$$?; \
	(cd ui && npx vitest run --reporter=dot) > .data/pieces.txt 2>&1; d=$$?; \
	wait $$journeys; c=$$?; cat .data/journeys.json >> .data/test.json; cat .data/pieces.txt; exit $$((a + b + c + d))'; code=$$?; \
	go run ./cmd/testsummary < .data/test.json; exit $$code

# Vite in front, the program behind it, both starting again when their files change.
dev: setup-demo ui/node_modules/.ready ui/dist/index.html
	@scripts/dev

lint: ui/node_modules/.ready
	@bad=$$(gofmt -l $$(git ls-files '*.go')); if [ -n "$$bad" ]; then echo "not formatted (gofmt -w): $$bad"; exit 1; fi
	@go vet ./...
	@cd ui && npx biome check --error-on-warnings . && npx tsc --noEmit

# The OpenAPI document and the interface's types are made from the operations,
# the schemas of the formats from the types they are read into.
gen: ui/node_modules/.ready
	@go run ./cmd/vereda openapi > ui/openapi.yaml
	@cd ui && npm run -s gen
	@go run ./cmd/vereda schemas exchange/schema

check-generated: ui/node_modules/.ready
	@scripts/check-generated

bench-season: ## a dozen kinds of season: coverage, bound, best known, plain annealing in the same time
	go test -run "^$$" -bench BenchmarkKinds -benchtime 1x ./core/season/search

bench-repair: ## the same kinds, mended: classes that change, how near the best, time
	go test -run "^$$" -bench BenchmarkRepair -benchtime 1x ./core/season/repair

bench:
	go test -run '^$$' -bench . -benchmem ./core/...

# What the program does under load: one server, two replicas, a cluster of three nodes. Takes some minutes.
load: setup-demo bin/vereda
	@mkdir -p .data
	@go run ./cmd/load -setup one,two

cluster: bin/vereda
	@scripts/setup mariadb-server galera-4 rsync lsof
	@mkdir -p .data
	@go run ./cmd/load -setup cluster

# Kills the program or its database N times under load, and looks whether anything was lost: make durability N=100
N ?= 100
durability: setup-demo bin/vereda
	@mkdir -p .data
	@go run ./cmd/load -setup one -kill $(N)

durability-cluster: bin/vereda
	@scripts/setup mariadb-server galera-4 rsync lsof
	@mkdir -p .data
	@go run ./cmd/load -setup cluster -kill $(N)

# Every operation as every role, N bodies and addresses each that are a little wrong: nothing may break, or take two seconds.
fuzz: N := 20
fuzz: setup-demo bin/vereda
	@VEREDA_FUZZ=$(N) bin/vereda with-database go test -timeout 60m -count=1 -run TestNothingThatIsSentBreaksAnOperation -v ./api

# An academy is lived in for WEEKS weeks through its API, with a plain book kept beside it.
year: WEEKS := 48
year: setup-demo bin/vereda
	@VEREDA_YEAR=$(WEEKS) bin/vereda with-database go test -timeout 60m -count=1 -run TestAYearIsWhatWasWrittenDown -v ./api

# The pictures of the documents, taken anew from the journeys.
pictures: setup-test bin/vereda
	@mkdir -p docs/screenshots
	VEREDA_PICTURES=$(CURDIR)/docs/screenshots bin/vereda with-database go test -timeout 40m -count=1 ./e2e

bin/vereda: $(go_sources) go.mod go.sum ui/dist/index.html
	@mkdir -p bin
	@go build -o $@ ./cmd/vereda

ui/dist/index.html: $(ui_sources) ui/src/api/schema.d.ts | ui/node_modules/.ready
	@cd ui && npm run -s build
	@touch $@

ui/node_modules/.ready: ui/package.json ui/package-lock.json
	@scripts/npm-install
	@touch $@

setup-demo:
	@scripts/setup mariadb-server

setup-test:
	@scripts/setup mariadb-server chromium

clean:
	rm -rf bin ui/node_modules
