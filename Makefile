# Spare Crate. A newcomer needs two of these: make demo, make test.
.DEFAULT_GOAL := help
.PHONY: help s3 cluster cluster-test package pages setup tools build demo play test test-go test-rest race lint-go lint-console check proof bench size lint generate languages blocks pairs stale console format clean
BIN := .build/bin/sparecrate
# Binaries hold no path of this machine, and what was compiled in one clone serves another.
export GOFLAGS := -trimpath
# Compilers and linters collect their garbage less often than programs that go on: a quarter less time
# for up to 4 GB of memory.
ROOMY := GOGC=400
CONSOLE := docs/GUIDE.md $(shell find console/src console/public console/index.html console/vite.config.ts console/package-lock.json -type f 2>/dev/null)

help: ## say what can be made
	@sed -n 's/^\([a-z0-9-]*\):.*## \(.*\)/  make \1\t\2/p' $(MAKEFILE_LIST) | expand -t 22

setup: ## install what is missing
	@scripts/setup

tools: ## the same, with the linter and the generator
	@scripts/setup tools

console/dist/index.html: $(CONSOLE)
	cd console && npm run --silent build -- --logLevel warn

console: setup console/dist/index.html

build: console ## build the binary, console included
	$(ROOMY) go build -o $(BIN) ./cmd/sparecrate

demo: build ## set up, start with demo data, print the address and the sign-in
	@$(BIN) demo --data .build/demo

play: build ## run an upload from end to end, with the demo studio and a fake publishing platform
	@scripts/play

test: tools build stale ## set up and run everything
	@$(MAKE) --no-print-directory -j 2 test-go test-rest

# Vet is golangci-lint's; what was compiled before is not run before; nobody debugs these binaries.
QUICK := -vet=off -count=1 -ldflags=-w

# The two halves of it, beside each other: tests wait for pages and databases as often as they
# work. What the race detector watches is run with it only.
test-go:
	go test $(QUICK) -p 3 -parallel 4 -timeout 45m -skip '^Test($(TOGETHER))$$' $(addprefix ./,$(SLOW)) $$(go list ./... | grep -v $(foreach p,$(SLOW) $(addprefix internal/,$(SHARED)),-e '/$(p)$$'))

test-rest: lint-console
	cd console && npm run --silent test -- --reporter=dot
	@$(MAKE) --no-print-directory lint-go
	$(ROOMY) go build $(RACE) ./internal/service $(addprefix ./internal/,$(SHARED))
	go test $(QUICK) $(RACE) -p 1 -parallel 4 -timeout 15m $(addprefix ./internal/,$(SHARED))
	go test $(QUICK) $(RACE) -parallel 4 -timeout 15m -run '^Test($(TOGETHER))$$' ./internal/service

race: tools console/dist/index.html ## run all tests of what is shared with the race detector: before a release
	go test $(RACE) -parallel 4 -timeout 90m $$(go list ./... | grep -v $(foreach p,$(PURE:/...=),-e '$(p:.%=%)\(/\|$$\)'))

# What only computes, in the one goroutine that asks for it (internal/rooms tests that): the
# race detector has nothing to watch there.
PURE := ./font/... ./internal/builder ./internal/css ./internal/classify ./internal/license ./internal/pack/... ./internal/stated ./internal/versions

# Under the race detector a test takes two to ten times as long. So make test watches the
# packages that hold what goroutines share, and the tests of the service in which many do
# things at once, through server and store; make race watches all the others too. What is not ours and only computes
# (packing, hashing, drawing) is built without it.
RACE := -race $(foreach p,compress/... hash/... image/... golang.org/x/image/... github.com/andybalholm/brotli/...,-gcflags=$(p)=-race=false)
SHARED := app bucket fetch mail work
TOGETHER := Storm|ManyAtOnce|ContainersAreMadeAhead|WhatIsWatchedIsToldOfEverywhere|StopFinishesWhatItHolds|ADelivery|TwoPeopleEditTheSame

# The packages whose tests start a database or a browser, those that take longest first;
# DATABASE are others.
DATABASE := internal/store internal/work internal/server
SLOW := internal/service internal/cli internal/browsertest internal/inspect/browse internal/demo internal/mariadb

check: lint ## the quick part of test: format, vet, lint, types, tests without database and browser
	cd console && npm run --silent test -- --reporter=dot
	go test $$(go list ./... | grep -v $(foreach p,$(SLOW) $(DATABASE),-e '/$(p)$$'))

package: console ## build a Debian package of the release, its SBOM and checksums
	@scripts/setup package
	@scripts/package

s3: tools console/dist/index.html ## test files on a real server that speaks S3, which is built for it
	@scripts/setup s3
	go test $(QUICK) -run 'TestEveryKind|TestManyPut|TestDamagedFile|TestSweep|TestAServerGoesAway|TestAddressesOfBuckets|TestFilesOnS3' ./internal/bucket ./internal/service

# A cluster on this machine, each part with a network of its own: as root.
.build/bin/cluster: $(shell find internal/cluster -name '*.go')
	go build -o $@ ./internal/cluster

cluster: build ## start a cluster on this machine with demo data: services, Galera, S3, a balancer
	@scripts/setup cluster
	@$(MAKE) --no-print-directory .build/bin/cluster
	@.build/bin/cluster up

# OLDER=FILE has the services begin with an older program and upgraded under load.
cluster-test: build ## let its parts fail for 20 minutes under load: nothing is lost or doubled
	@scripts/setup cluster
	@$(MAKE) --no-print-directory .build/bin/cluster
	@.build/bin/cluster test $(if $(OLDER),--older $(OLDER)) $(if $(FOR),--for $(FOR)) $(if $(SEED),--seed $(SEED))

pages: setup ## inspect all published pages of the fakes, with planted faults and without
	SPARECRATE_ALL_PAGES=1 go test -count=1 -timeout 20m ./internal/inspect/browse

proof: build ## try the reshaping verbs on a broad set of Debian's fonts, in the browser
	@scripts/proof

bench: setup console/dist/index.html ## measure speed, as ratios
	go test -run '^$$' -bench . -benchtime 2s ./font/... ./internal/...

size: setup console/dist/index.html ## measure pages of a studio of 1,000,000 faces, and an import of 50,000 files: takes long, and 6 GB of memory
	SPARECRATE_AT_SIZE=1 go test -run '^$$' -bench 'AtSize|ManyFiles' -benchtime 1x -timeout 60m ./internal/service

generate: tools ## make code from the contract
	.build/bin/oapi-codegen -config api/generate.yaml api/openapi.yaml
	.build/bin/oapi-codegen -config api/generate-server.yaml api/openapi.yaml
	cd console && npm run --silent schema >/dev/null

languages: setup ## make the table of languages from a CLDR package anew
	node scripts/languages.mjs

blocks: setup ## make the table of Unicode's blocks anew
	node scripts/blocks.mjs

pairs: setup ## count anew which letters follow which, for stand-in fonts
	node scripts/pairs.mjs

stale: tools ## fail if generated code is not what the contract gives
	@scripts/stale

lint: tools console/dist/index.html lint-go lint-console ## gofmt, vet, golangci-lint, ESLint, vue-tsc

lint-go:
	@test -z "$$(gofmt -l api cmd console/*.go font internal)" || { gofmt -l api cmd console/*.go font internal; echo 'these files are not formatted; run gofmt -w'; exit 1; }
	$(ROOMY) .build/bin/golangci-lint run ./... # go vet's checks among others (govet)

lint-console:
	cd console && npm run --silent lint && npm run --silent types

format: setup ## format what is formatted by tools
	gofmt -w api cmd console/*.go font internal
	cd console && npm run --silent format

clean: ## remove what was built, but not the demo's data
	rm -rf $(BIN) console/dist/assets console/dist/index.html
