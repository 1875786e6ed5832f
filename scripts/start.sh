# ./mavrek start: everything from a fresh machine to a served application, until Ctrl-C.

start_all() {
  [ $# -eq 0 ] || die "start takes no arguments (PORT, HOST and DATABASE_URL come from the environment)"
  HOST=${HOST:-127.0.0.1}
  PORT=${PORT:-4600}
  printf '%s' "$PORT" | grep -Eq '^[0-9]{1,5}$' || die "PORT is '$PORT'; it must be a number"
  mkdir -p "$STATE/log"
  local private=no
  [ -n "${DATABASE_URL-}" ] || private=yes

  refuse_second_start
  end_orphan
  ensure_node_modules
  port_free "$HOST" "$PORT" ||
    die "port $PORT on $HOST is taken by another program; choose another one, e.g.: PORT=$((PORT + 1)) ./mavrek start"
  printf '%s\n' "$$" | write_file "$STATE/launcher.pid"

  trap 'stop_all' EXIT
  trap 'exit 130' INT
  trap 'exit 143' TERM HUP
  if [ $private = yes ]; then
    pg_use pg
    pg_up
    pg_database mavrek
  fi
  ensure_build
  run_ts src/server/prepare.ts || die 'the database could not be prepared'
  serve
  say "open http://$(shown_host):$PORT  (Ctrl-C stops)"
  watch_over $private
}

shown_host() { case "$HOST" in 0.0.0.0 | ::) echo localhost ;; *:*) echo "[$HOST]" ;; *) echo "$HOST" ;; esac; }

# A second start of the same checkout would fight with the first over its database.
refuse_second_start() {
  local pid
  pid=$(cat "$STATE/launcher.pid" 2> /dev/null || true)
  if [ "$pid" != "$$" ] && is_running "$pid" 'mavrek start'; then
    die "this checkout is being served already (process $pid); stop it with Ctrl-C there first"
  fi
}

# A launcher that was killed cannot stop its server; the next start does.
end_orphan() {
  local pid
  pid=$(cat "$STATE/server.pid" 2> /dev/null || true)
  if is_running "$pid" next; then
    say 'stopping a server that was left behind'
    kill "$pid" 2> /dev/null || true
    wait_gone "$pid"
  fi
  rm -f "$STATE/server.pid"
}

wait_gone() {
  local tries
  for tries in $(seq 50); do
    kill -0 "$1" 2> /dev/null || return 0
    sleep 0.1
  done
  kill -9 "$1" 2> /dev/null || true
}

serve() {
  (cd "$MAVREK_HOME" && exec node node_modules/next/dist/bin/next start -H "$HOST" -p "$PORT") \
    >> "$STATE/log/server.log" 2>&1 &
  SERVER=$!
  printf '%s\n' "$SERVER" | write_file "$STATE/server.pid"
  local tries
  for tries in $(seq 300); do
    kill -0 "$SERVER" 2> /dev/null || { tail -n 20 "$STATE/log/server.log" >&2; die 'the server did not start'; }
    if server_answers; then return 0; fi
    sleep 0.1
  done
  die 'the server did not answer within 30 seconds; see .mavrek/log/server.log'
}

server_answers() {
  local host=$HOST
  case "$host" in 0.0.0.0) host=127.0.0.1 ;; ::) host=::1 ;; esac
  node -e '
    const [host, port] = process.argv.slice(1);
    require("node:http").get({ host, port, path: "/api/health" }, (r) => process.exit(r.statusCode === 200 ? 0 : 1)).on("error", () => process.exit(1));
  ' "$host" "$PORT" 2> /dev/null
}

# Brings back what dies: edits are acknowledged after the commit only, so nothing is lost meanwhile.
watch_over() {
  while true; do
    sleep 1 &
    wait $! || true
    if [ "$1" = yes ] && ! pg_running; then
      say 'PostgreSQL ended; starting it again'
      pg_up
    fi
    if ! kill -0 "$SERVER" 2> /dev/null; then
      say 'the server ended; starting it again'
      serve
    fi
  done
}

stop_all() {
  trap - EXIT INT TERM HUP
  if [ -n "${SERVER-}" ]; then
    kill "$SERVER" 2> /dev/null || true
    wait_gone "$SERVER"
  fi
  rm -f "$STATE/server.pid" "$STATE/launcher.pid"
  [ -z "${PG_DATA-}" ] || pg_down
  say 'stopped'
}
