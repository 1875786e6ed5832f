#!/usr/bin/env bash
# npm run bench [mutations | saving]: all measurements, or one kind of them, with a private PostgreSQL of their own unless DATABASE_URL names one.
set -euo pipefail
MAVREK_HOME=$(cd "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")/.." && pwd)
export MAVREK_HOME
cd "$MAVREK_HOME"
. scripts/lib/common.sh
mkdir -p "$STATE/log"
ensure_node_modules
bench() {
  node_modules/.bin/esbuild "bench/$1.ts" --bundle --platform=node --main-fields=module,main --external:highs --external:pg \
    --external:pino --external:node-pg-migrate --log-level=warning --outfile="$STATE/bench-$1.cjs"
  node "$STATE/bench-$1.cjs"
}
if [ "${1-}" = mutations ]; then bench mutations; exit; fi
if [ $# -eq 0 ]; then
  bench run
  bench mutations
fi
if [ -z "${DATABASE_URL-}" ]; then
  trap pg_down EXIT
  pg_use pg-bench
  pg_up
  pg_database mavrek_bench
fi
node scripts/build-server.mjs "$STATE"
bench saving-run
