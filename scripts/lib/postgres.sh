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

# Runs a program of PostgreSQL's in the cluster's folder, under names without a path: its programs put paths into shell commands,
# where quotes, dollars and backticks of a folder's name would mean something.
pg_as() {
  if [ "$(id -u)" -eq 0 ]; then
    (cd "$PG_HOME" && exec runuser -u postgres -- "$@" 8>&-)
  else
    (cd "$PG_HOME" && exec "$@" 8>&-)
  fi
}

# Whether the cluster's own server lives: its process works in the data folder. A killed one that nobody has reaped yet has a
# number but no folder, and a number that was given to another program since is not ours.
pg_running() {
  local pid folder
  pid=$(head -n 1 "$PG_DATA/postmaster.pid" 2> /dev/null || true)
  [[ $pid =~ ^[0-9]+$ ]] && kill -0 "$pid" 2> /dev/null || return 1
  folder=$(readlink "/proc/$pid/cwd" 2> /dev/null || true)
  if [ -n "$folder" ]; then [ "$folder" -ef "$PG_DATA" ]; else is_running "$pid" postgres; fi
}

pg_init() {
  [ -f "$PG_DATA/PG_VERSION" ] && return
  say 'creating a private PostgreSQL cluster …'
  # Into a temporary folder first: an interrupted start leaves no half-made cluster behind.
  rm -rf "$PG_HOME/new" "$PG_DATA"
  (umask 077 && node -e 'console.log(require("node:crypto").randomBytes(18).toString("hex"))' > "$PG_HOME/password")
  [ "$(id -u)" -ne 0 ] || chown postgres "$PG_HOME/password"
  pg_as "$PG_BIN/initdb" -D new -U mavrek -A scram-sha-256 --pwfile password -E UTF8 --locale C.UTF-8 \
    > "$STATE/log/initdb.log" 2>&1 || { cat "$STATE/log/initdb.log" >&2; die 'initdb failed'; }
  mv "$PG_HOME/new" "$PG_DATA"
}

pg_up() {
  local tries
  pg_init
  # It may be killed while it comes up.
  for tries in 1 2 3; do
    ! pg_start || return 0
    sleep 1
  done
  tail -n 20 "$PG_HOME/server.log" >&2
  die 'PostgreSQL did not start'
}

# Starts the cluster's server unless it runs, waits until it answers, and sets PG_URL. False when it does not come up.
pg_start() {
  local port tries
  # Another one's server may be on its way up or down; its own lock tells, and is only removed when nobody lives behind it.
  for tries in 1 2 3 4 5 6; do
    ! pg_running || break
    [ "$tries" -lt 6 ] || return 1
    port=$(cat "$PG_HOME/port" 2> /dev/null || true)
    if ! [[ $port =~ ^[0-9]+$ ]]; then port=$(free_port); fi
    # After kill -9 the old server's children may hold its port for a moment.
    [ "$tries" -gt 3 ] || port_free 127.0.0.1 "$port" || sleep 0.5
    port_free 127.0.0.1 "$port" || port=$(free_port)
    printf '%s\n' "$port" | write_file "$PG_HOME/port"
    pg_running || rm -f "$PG_DATA/postmaster.pid"
    pg_as "$PG_BIN/pg_ctl" -D data -w -t 60 -l server.log \
      -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=''" start > /dev/null 2>&1 && break
    sleep 0.5
  done
  # As long as it lives it is on its way: after a crash it may have much to read, on a machine that has much to do.
  while pg_running; do
    port=$(sed -n 4p "$PG_DATA/postmaster.pid" 2> /dev/null || true)
    if "$PG_BIN/pg_isready" -q -h 127.0.0.1 -p "${port:-1}"; then
      PG_URL="postgres://mavrek:$(cat "$PG_HOME/password")@127.0.0.1:$port"
      return 0
    fi
    sleep 0.1
  done
  return 1
}

pg_down() { pg_as "$PG_BIN/pg_ctl" -D data -m fast -w stop > /dev/null 2>&1 || true; }

# pg_database NAME: creates a database when missing and points DATABASE_URL at it.
pg_database() {
  local there
  there=$("$PG_BIN/psql" -qtA "$PG_URL/postgres" -c "select count(*) from pg_database where datname = '$1'") || return 1
  [ "$there" = 1 ] || "$PG_BIN/psql" -q "$PG_URL/postgres" -c "create database $1" || return 1
  export DATABASE_URL="$PG_URL/$1"
}
