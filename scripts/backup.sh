# ./mavrek backup FILE and ./mavrek restore FILE: everything in the database as one file, and back.

# Starts the private PostgreSQL unless it runs; DATABASE_URL names another one. Sets STARTED when it has to be stopped again.
with_database() {
  ensure_node_modules
  STARTED=no
  pg_use pg
  export PG_BIN
  [ -z "${DATABASE_URL-}" ] || return 0
  pg_running || STARTED=yes
  pg_up
}

# The same with Mavrek's own database in it.
with_mavrek_database() {
  local private=no
  [ -n "${DATABASE_URL-}" ] || private=yes
  with_database
  [ $private = no ] || pg_database mavrek
}

done_with_database() { [ "${STARTED-no}" = no ] || pg_down; }

backup_all() {
  [ $# -eq 1 ] || die 'which file shall it be? ./mavrek backup FILE'
  [ ! -e "$1" ] || die "$1 is there already; a backup overwrites nothing"
  [ -d "$(dirname "$1")" ] || die "there is no folder $(dirname "$1")"
  trap done_with_database EXIT
  with_mavrek_database
  run_ts src/server/backup/backup.ts "$1"
}

# Into a new database first; only when all of it has come back and every plan replays does it take the place of the old one, which
# stays beside it under another name.
restore_all() {
  [ $# -eq 1 ] || die 'from which file? ./mavrek restore FILE'
  [ -f "$1" ] || die "there is no file $1"
  trap done_with_database EXIT
  if [ -n "${DATABASE_URL-}" ]; then
    with_database
    run_ts src/server/backup/restore.ts "$1"
    return
  fi
  claim start 'this checkout is being served; stop it before restoring'
  with_database
  local fresh old
  fresh="mavrek_new_$$"
  old="mavrek_before_$(date -u +%Y%m%d_%H%M%S)"
  "$PG_BIN/psql" -q "$PG_URL/postgres" -c "create database $fresh"
  if ! DATABASE_URL="$PG_URL/$fresh" run_ts src/server/backup/restore.ts "$1"; then
    "$PG_BIN/psql" -q "$PG_URL/postgres" -c "drop database $fresh with (force)"
    return 1
  fi
  if "$PG_BIN/psql" -qtA "$PG_URL/postgres" -c "select 1 from pg_database where datname = 'mavrek'" | grep -q 1; then
    "$PG_BIN/psql" -q "$PG_URL/postgres" -c "alter database mavrek rename to $old"
    say "what was there before is kept as the database $old"
  fi
  "$PG_BIN/psql" -q "$PG_URL/postgres" -c "alter database $fresh rename to mavrek"
}
