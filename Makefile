.DEFAULT_GOAL := help
SHELL := /bin/bash

WEB := web/dist/index.html
SOURCES := internal/core/amount/units.json $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/package-lock.json

.PHONY: help demo demo-reset backup torture serve build gen test ready test-go test-web lint lint-go lint-web bench fuzz screenshots setup setup-test

help: ## this list
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

demo: setup build ## the made-up shop with a database of its own; Ctrl-C ends it
	@./bin/gallipot demo

demo-reset: setup build ## start the demo over: what was entered is thrown away
	@./bin/gallipot demo -reset

backup: build ## a backup of the demo, running or not, in var/backups
	@mkdir -p var/backups
	@./bin/gallipot backup -dir var var/backups/gallipot-$$(date -u +%Y-%m-%dT%H%M%SZ).backup

build: $(WEB) ## the web app and the server in one binary, bin/gallipot
	@go build -o bin/gallipot ./cmd/gallipot

$(WEB): $(SOURCES) | setup
	@cd web && npm run --silent build

gen: setup ## what the Go types say into api/openapi.yaml and the bundle's schema; types on both sides from the contract
	@go run ./scripts/shapes
	@cd api && go tool oapi-codegen -config models.yaml openapi.yaml
	@cd web && npm run --silent gen

# The packages whose tests take longest come first, so that no core idles at the end.
LONGEST := ./e2e ./internal/api ./cmd/gallipot ./internal/store

test: ## everything: core, store, API, web, browser journey
	@$(MAKE) --no-print-directory -j2 lint-go ready
	@$(MAKE) --no-print-directory -j2 test-go test-web

ready: setup-test
	@$(MAKE) --no-print-directory build

# lint-go has vetted it all.
test-go:
	@GOGC=off GOMEMLIMIT=2GiB go test -vet=off -timeout 40m -count=1 $(LONGEST) ./...

test-web: lint-web
	@cd web && npm run --silent test

lint: setup lint-go lint-web ## format and vet

lint-go:
	@test -z "$$(gofmt -l api cmd docs e2e internal scripts web/*.go)" || { echo "gofmt: $$(gofmt -l api cmd docs e2e internal scripts web/*.go)"; exit 1; }
	@go vet ./...

lint-web: setup
	@cd web && npm run --silent lint

bench: setup-test build ## how fast: assess, costs, reader, live panel, captures at the bench, lists at 100 and at 20000 batches with their lots, the book of a million links, label PDF, a keystroke to its panel in the browser
	@go test -timeout 40m -run '^$$' -bench . -benchmem ./internal/core/assess ./internal/core/costing ./internal/core/reader ./internal/core/labelart ./internal/api ./e2e

fuzz: setup-test build ## made-up requests to every operation of the contract; FUZZ=50000 for more, SEED=n for the same again
	@GALLIPOT_FUZZ=$(or $(FUZZ),20000) GALLIPOT_FUZZ_SEED=$(SEED) go test -v -timeout 30m -count=1 -run TestMadeUpRequests ./internal/api

torture: setup-test build ## 200 kills of the program, 50 of PostgreSQL, 20 full disks, 20 freezes, in the middle of writes
	@GALLIPOT_TORTURE=1 go test -v -timeout 60m -count=1 -run 'Torture|FullDisk' ./cmd/gallipot

screenshots: setup-test build ## docs/screenshots from demo data
	@go test -count=1 -run TestScreenshot ./e2e -shots ../docs/screenshots

setup:
	@scripts/setup.sh demo

setup-test:
	@scripts/setup.sh test
