#!/usr/bin/env bash
# The benchmarks that need the built program: start, logging, import against the sqlite3 shell, script size, first headings.
set -euo pipefail
cd "$(dirname "$0")/.."
tmp=$(mktemp -d); pid=
trap '[ -z "$pid" ] || kill "$pid"; rm -rf "$tmp"' EXIT
now() { date +%s%N; }
bin/reed demo --data "$tmp/demo" --listen 127.0.0.1:7399 >"$tmp/out" & pid=$!
until curl -sf http://127.0.0.1:7399/api/health >/dev/null; do sleep 0.05; done
kill "$pid"; wait "$pid" || true
begun=$(now); bin/reed demo --data "$tmp/demo" --listen 127.0.0.1:7399 >"$tmp/out" & pid=$!
until curl -sf http://127.0.0.1:7399/api/outings >/dev/null; do sleep 0.005; done
echo "start to first response with the demo data: $((($(now) - begun) / 1000000)) ms"
node scripts/bench-log.mjs http://127.0.0.1:7399
node scripts/bench-import.mjs make 20000 >"$tmp/log.adi"
ours=$( { bin/reed import "$tmp/log.adi" --data "$tmp/fresh" >/dev/null; begun=$(now); bin/reed import "$tmp/log.adi" --data "$tmp/import" >"$tmp/imported"; echo $((($(now) - begun) / 1000000)); } )
bin/reed version >/dev/null
sqlite3 "$tmp/import/reed.db" ".mode insert contact" "SELECT * FROM contact" >"$tmp/rows.sql"
sqlite3 "$tmp/import/reed.db" ".schema contact" >"$tmp/schema.sql"
begun=$(now); { echo "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;"; cat "$tmp/schema.sql"; echo "BEGIN;"; cat "$tmp/rows.sql"; echo "COMMIT;"; } | sqlite3 "$tmp/shell.db" >/dev/null
shell=$((($(now) - begun) / 1000000))
echo "20000 contacts imported from ADIF: $ours ms; the same $(sqlite3 "$tmp/shell.db" 'SELECT count(*) FROM contact') rows by the sqlite3 shell: $shell ms; ratio $(awk "BEGIN { printf \"%.1f\", $ours / $shell }")"
node scripts/bench-size.mjs http://127.0.0.1:7399
(cd e2e && node heading.mjs http://127.0.0.1:7399)
