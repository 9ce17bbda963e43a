#!/usr/bin/env bash
# Runs every target of the Makefile that make test does not, in its shortest form, and says how long each took.
set -euo pipefail
cd "$(dirname "$0")/.."
tmp=$(mktemp -d); pid=
trap '[ -z "$pid" ] || kill "$pid" 2>/dev/null || true; rm -rf "$tmp"' EXIT

try() {
  local begun=$SECONDS
  if ! "$@" >"$tmp/out" 2>&1; then
    tail -n 40 "$tmp/out"
    echo "smoke: failed: $*"
    exit 1
  fi
  echo "smoke: $((SECONDS - begun)) s  $*"
}

# demo starts the demo as make demo does, asks it for its outings, and ends it.
demo() {
  make --no-print-directory demo DEMO="--data $tmp/demo --listen 127.0.0.1:0" >"$tmp/address" & pid=$!
  local url=
  until url=$(grep -o 'http://[0-9.:]*' "$tmp/address"); do
    kill -0 "$pid" || return 1
    sleep 0.2
  done
  curl -sf "$url/api/outings" | grep -q Gannet
  pkill -P "$pid" || kill "$pid"
  wait "$pid" || true
  pid=
}

# clean works on a copy: what is built is still needed.
clean() {
  git worktree prune
  git clone -q . "$tmp/copy"
  mkdir -p "$tmp/copy/bin" && touch "$tmp/copy/bin/reed"
  make --no-print-directory -C "$tmp/copy" clean
  [ ! -e "$tmp/copy/bin" ]
}

try demo
try make bench BENCHES=./core/sweep BENCHTIME=1x CONTACTS=1000 MB=1
try make soak FOR=2s
try make mutants ONLY=core/quantity MOST=1
try make test-long LONG=0.01 LONGS="./core/weigh ./internal/store"
try make antennas ANTENNAS="-only 1 -out $tmp/antennas.md"
try make release TARGETS=linux/amd64
try make screenshots SHOTS="$tmp shelf"
try clean
