#!/usr/bin/env bash
# npm run bench [mutations | sizes | saving | page | import | together | many]: all measurements, or one kind of them, with a private PostgreSQL of their own unless DATABASE_URL names one.
set -euo pipefail
MAVREK_HOME=$(cd "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")/.." && pwd)
export MAVREK_HOME
cd "$MAVREK_HOME"
. scripts/lib/common.sh
mkdir -p "$STATE/log"
ensure_node_modules
bench() {
  node_modules/.bin/esbuild "bench/$1.ts" --bundle --platform=node --main-fields=module,main --external:highs --external:pg \
    --external:pino --external:node-pg-migrate --external:@playwright/test --log-level=warning --outfile="$STATE/bench-$1.cjs"
  node "$STATE/bench-$1.cjs" "${2-}"
}
if [ "${1-}" = mutations ]; then bench mutations; exit; fi
if [ "${1-}" = sizes ]; then
  ensure_debian gcc-arm-none-eabi gcc-riscv64-unknown-elf
  bench sizes
  exit
fi
if [ $# -eq 0 ]; then
  bench run
  bench mutations
  ensure_debian gcc-arm-none-eabi gcc-riscv64-unknown-elf
  bench sizes
fi
server=
own=
leave() {
  [ -z "$server" ] || kill "$server" 2> /dev/null || true
  [ -z "$own" ] || pg_down
}
trap leave EXIT
if [ -z "${DATABASE_URL-}" ]; then
  own=yes
  pg_use pg-bench
  pg_up
  pg_database mavrek_bench
fi
if [ "${1-}" != page ] && [ "${1-}" != import ] && [ "${1-}" != together ] && [ "${1-}" != many ]; then
  node scripts/build-server.mjs "$STATE"
  bench saving-run
fi
if [ "${1-}" = saving ]; then exit; fi
# Ten million edits take minutes to make: only when they are asked for.
if [ "${1-}" = many ]; then
  node scripts/build-server.mjs "$STATE"
  MAVREK_HOME=$PWD bench many-plans
  exit
fi

# From a key to the painted page, in Chromium against the built application.
ensure_debian chromium
ensure_build
run_ts src/server/prepare.ts
serve_for_bench() {
  PORT=$(free_port)
  export PORT
  HOST=127.0.0.1 LOG_LEVEL=error node "$MAVREK_BUILD/server.cjs" &
  server=$!
  for _ in $(seq 100); do
    ! curl -fs "http://127.0.0.1:$PORT/api/health" > /dev/null || break
    sleep 0.2
  done
  export MAVREK_ORIGIN="http://127.0.0.1:$PORT"
}
if [ $# -eq 0 ] || [ "$1" = together ]; then
  serve_for_bench
  bench together
  kill "$server"
  export MAVREK_AUTH=on
  serve_for_bench
  bench together
  unset MAVREK_AUTH
  kill "$server"
  [ "${1-}" != together ] || exit 0
fi
serve_for_bench
bench page "${1-}"
