#!/usr/bin/env bash
# The benchmarks that need the built program: start, logging, import against the sqlite3 shell, script size, first headings.
# The one argument is how many contacts to import at most; below 20000 the browser is started once, not seven times.
set -euo pipefail
cd "$(dirname "$0")/.."
tmp=$(mktemp -d); pid=
trap '[ -z "$pid" ] || kill "$pid"; rm -rf "$tmp"' EXIT
contacts=$((${1:-20000} < 20000 ? ${1:-20000} : 20000)); runs=$((contacts < 20000 ? 1 : 7))
now() { date +%s%N; }
bin/reed demo --data "$tmp/demo" --listen 127.0.0.1:7399 >"$tmp/out" & pid=$!
until curl -sf http://127.0.0.1:7399/api/health >/dev/null; do sleep 0.05; done
kill "$pid"; wait "$pid" || true
begun=$(now); bin/reed demo --data "$tmp/demo" --listen 127.0.0.1:7399 >"$tmp/out" & pid=$!
until curl -sf http://127.0.0.1:7399/api/outings >/dev/null; do sleep 0.005; done
echo "start to first response with the demo data: $((($(now) - begun) / 1000000)) ms"
node scripts/bench-log.mjs http://127.0.0.1:7399
node scripts/bench-import.mjs make "$contacts" >"$tmp/log.adi"
bin/reed version >/dev/null
ours=$( { bin/reed import "$tmp/log.adi" --data "$tmp/fresh" >/dev/null; begun=$(now); bin/reed import "$tmp/log.adi" --data "$tmp/import" >"$tmp/imported"; echo $((($(now) - begun) / 1000000)); } )
echo "$contacts contacts imported from ADIF: $ours ms"
if command -v sqlite3 >/dev/null; then
  sqlite3 "$tmp/import/reed.db" ".mode insert contact" "SELECT * FROM contact" >"$tmp/rows.sql"
  # The table and its indexes: its triggers write to tables that the shell does not fill.
  sqlite3 "$tmp/import/reed.db" "SELECT sql || ';' FROM sqlite_schema WHERE tbl_name = 'contact' AND type IN ('table', 'index') AND sql <> ''" \
    >"$tmp/schema.sql"
  begun=$(now); { echo "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;"; cat "$tmp/schema.sql"; echo "BEGIN;"; cat "$tmp/rows.sql"; echo "COMMIT;"; } | sqlite3 "$tmp/shell.db" >/dev/null
  shell=$((($(now) - begun) / 1000000))
  echo "the same $(sqlite3 "$tmp/shell.db" 'SELECT count(*) FROM contact') rows by the sqlite3 shell: $shell ms; ratio $(awk "BEGIN { printf \"%.1f\", $ours / $shell }")"
else
  echo "no sqlite3 shell on this machine: no comparison with it"
fi
node scripts/bench-size.mjs http://127.0.0.1:7399
(cd e2e && node heading.mjs http://127.0.0.1:7399 "$runs")
