# ./mavrek test [--all] [FILE...]: lint, types, unit and server tests, the browser. Ends with "N passed, N failed", the true total.
# --all also runs the tests of many minutes (*.long.test.ts: faults of the cluster, kills of the launcher, recipes of the docs, restoring to
# a moment), random tests do ten times as much, and what a quick run takes a share of (targets, parts, hostile bodies) is run as a whole.

PASSED=0
FAILED=0

test_all() {
  if [ "${1-}" = --all ]; then
    shift
    export MAVREK_ALL=1 MAVREK_FUZZ="${MAVREK_FUZZ-3}"
  fi
  claim test 'the tests of this checkout are being run already'
  trap 'test_end' EXIT
  ensure_debian git curl postgresql chromium gcc g++ libc6-dev rustc device-tree-compiler libxml2-utils python3-unicorn \
    gcc-arm-none-eabi libnewlib-arm-none-eabi gcc-riscv64-unknown-elf gcc-avr avr-libc \
    patroni etcd-server haproxy pgbouncer
  ensure_node_modules
  FAILURES=$STATE/failures.txt
  : >"$FAILURES"
  pg_use pg-test
  pg_up
  reset_database mavrek_unit
  reset_database mavrek_e2e
  reset_database mavrek_e2e_people

  check 'lint and formatting' npx --no-install biome check --error-on-warnings .
  check 'types' npx --no-install tsc --noEmit
  ensure_build
  pg_database mavrek_unit
  run_ts src/server/prepare.ts || die 'the test database could not be prepared'
  suite 'units, formats, compilers and server' unit node_modules/.bin/jest --maxWorkers="${MAVREK_WORKERS:-$(($(nproc) + 1))}" --json --outputFile "$STATE/unit.json" "$@"
  if [ $# -eq 0 ]; then
    pg_database mavrek_e2e_people
    MAVREK_E2E_PEOPLE_DATABASE=$DATABASE_URL
    run_ts src/server/prepare.ts || die 'the test database could not be prepared'
    pg_database mavrek_e2e
    run_ts src/server/prepare.ts || die 'the test database could not be prepared'
    MAVREK_E2E_PEOPLE_PORT=$(free_port)
    MAVREK_E2E_PROVIDER_PORT=$(free_port)
    export MAVREK_E2E_PEOPLE_PORT MAVREK_E2E_PROVIDER_PORT MAVREK_E2E_PEOPLE_DATABASE
    suite 'the interface in Chromium' e2e node_modules/.bin/playwright test
  fi
  # A long report is read from its end.
  if [ "$FAILED" -gt 0 ]; then
    say 'failed:'
    sed 's/^/  /' "$FAILURES"
  fi
  printf '%s passed, %s failed\n' "$PASSED" "$FAILED"
  [ "$FAILED" -eq 0 ]
}

test_end() {
  [ -z "${PG_DATA-}" ] || pg_down
  unclaim test
}

reset_database() {
  "$PG_BIN/psql" -q "$PG_URL/postgres" -c "drop database if exists $1 with (force)" -c "create database $1"
}

# A check that passes or fails as one.
check() {
  local title=$1
  shift
  say "$title …"
  if (cd "$MAVREK_HOME" && "$@" 8>&-); then
    PASSED=$((PASSED + 1))
  else
    FAILED=$((FAILED + 1))
    printf '%s\n' "$title" >>"$FAILURES"
  fi
}

# A test runner that writes its counts as JSON: suite TITLE NAME COMMAND...
suite() {
  local title=$1 name=$2 counts status=0
  shift 2
  say "$title …"
  rm -f "$STATE/$name.json"
  (cd "$MAVREK_HOME" && "$@" 8>&-) || status=$?
  [ "$status" -eq 0 ] || say "$title: ended with $status"
  counts=$(node "$MAVREK_HOME/scripts/count-tests.mjs" "$STATE/$name.json" "$status" "$FAILURES")
  PASSED=$((PASSED + ${counts% *}))
  FAILED=$((FAILED + ${counts#* }))
}
