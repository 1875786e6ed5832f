# A private PostgreSQL cluster on the loopback, with a port and a password of its own.
# pg_use NAME selects the cluster; pg_up starts it and sets DATABASE_URL; pg_down stops it.

pg_use() {
  PG_NAME=$1
  ensure_debian postgresql
  PG_BIN=$(find /usr/lib/postgresql -maxdepth 2 -name bin -type d 2> /dev/null | sort -V | tail -n 1)
  [ -n "$PG_BIN" ] || die 'PostgreSQL is installed but its programs are not under /usr/lib/postgresql'
  mkdir -p "$STATE/log"
  PG_HOME="$STATE/$PG_NAME"
  # PostgreSQL refuses to run as root; as root it runs as its own user, which must be able to reach the folder.
  if [ "$(id -u)" -eq 0 ]; then
    mkdir -p "$PG_HOME"
    if ! runuser -u postgres -- test -x "$PG_HOME"; then
      PG_HOME="/var/lib/mavrek/$(printf '%s' "$STATE/$PG_NAME" | sha256sum | cut -c1-16)"
    fi
  fi
  mkdir -p "$PG_HOME"
  [ "$(id -u)" -ne 0 ] || chown postgres "$PG_HOME"
  PG_DATA="$PG_HOME/data"
}

pg_as() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && exec runuser -u postgres -- "$@"); else "$@"; fi
}

# Whether the server's process lives. A killed one that nobody has reaped yet has a number but no command line, and a number
# that was given to another program since is not ours.
pg_running() { is_running "$(head -n 1 "$PG_DATA/postmaster.pid" 2> /dev/null || true)" postgres; }

pg_init() {
  [ -f "$PG_DATA/PG_VERSION" ] && return
  say 'creating a private PostgreSQL cluster …'
  # Into a temporary folder first: an interrupted start leaves no half-made cluster behind.
  rm -rf "$PG_HOME/new" "$PG_DATA"
  (umask 077 && node -e 'console.log(require("node:crypto").randomBytes(18).toString("hex"))' > "$PG_HOME/password")
  [ "$(id -u)" -ne 0 ] || chown postgres "$PG_HOME/password"
  pg_as "$PG_BIN/initdb" -D "$PG_HOME/new" -U mavrek -A scram-sha-256 --pwfile "$PG_HOME/password" \
    -E UTF8 --locale C.UTF-8 > "$STATE/log/initdb.log" 2>&1 || { cat "$STATE/log/initdb.log" >&2; die 'initdb failed'; }
  mv "$PG_HOME/new" "$PG_DATA"
}

pg_up() {
  pg_init
  local port tries
  if ! pg_running; then
    port=$(cat "$PG_HOME/port" 2> /dev/null || true)
    if [ -z "$port" ] || ! port_free 127.0.0.1 "$port"; then port=$(free_port); fi
    printf '%s\n' "$port" | write_file "$PG_HOME/port"
    # A lock of a process that is gone or waits to be reaped would keep the server from starting.
    rm -f "$PG_DATA/postmaster.pid"
    # After kill -9 the old server's children may need a moment to go.
    for tries in 1 2 3 4 5; do
      pg_as "$PG_BIN/pg_ctl" -D "$PG_DATA" -w -t 60 -l "$PG_HOME/server.log" \
        -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=''" start > /dev/null 2>&1 && break
      [ "$tries" -lt 5 ] || { tail -n 20 "$PG_HOME/server.log" >&2; die 'PostgreSQL did not start'; }
      sleep 1
    done
  fi
  for tries in $(seq 100); do
    port=$(sed -n 4p "$PG_DATA/postmaster.pid" 2> /dev/null || true)
    "$PG_BIN/pg_isready" -q -h 127.0.0.1 -p "${port:-1}" && break
    [ "$tries" -lt 100 ] || die 'PostgreSQL runs but does not answer; see its server.log'
    sleep 0.1
  done
  PG_URL="postgres://mavrek:$(cat "$PG_HOME/password")@127.0.0.1:$port"
}

pg_down() { pg_as "$PG_BIN/pg_ctl" -D "$PG_DATA" -m fast -w stop > /dev/null 2>&1 || true; }

# pg_database NAME: creates a database when missing and points DATABASE_URL at it.
pg_database() {
  if ! "$PG_BIN/psql" -qtA "$PG_URL/postgres" -c "select 1 from pg_database where datname = '$1'" | grep -q 1; then
    "$PG_BIN/psql" -q "$PG_URL/postgres" -c "create database $1"
  fi
  export DATABASE_URL="$PG_URL/$1"
}
