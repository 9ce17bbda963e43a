#!/usr/bin/env bash
# Prints the share of test lines in all hand-written lines; generated files do not count.
set -euo pipefail
cd "$(dirname "$0")/.."
lines() { git ls-files -z -- "$@" | grep -zvE '\.gen\.(go|ts)$|\.d\.ts$' | xargs -0 -r cat | wc -l; }
tests=$(lines '*_test.go' 'e2e/*.ts' 'e2e/**/*.ts' '*.test.ts' '*.test.tsx')
all=$(lines '*.go' '*.ts' '*.tsx' '*.sql' '*.css')
echo "Test lines: $tests of $all hand-written, $((100 * tests / all)) %"
