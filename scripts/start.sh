# ./mavrek start: everything from a fresh machine to a served application, until Ctrl-C.

start_all() {
  [ $# -eq 0 ] || die "start takes no arguments (PORT, HOST, MAVREK_HOSTS, MAVREK_AUTH and DATABASE_URL come from the environment)"
  HOST=${HOST:-127.0.0.1}
  PORT=${PORT:-4600}
  { [[ $PORT =~ ^[0-9]{1,5}$ ]] && ((10#$PORT >= 1 && 10#$PORT <= 65535)); } ||
    die "PORT is '$PORT'; it must be a number from 1 to 65535"
  PORT=$((10#$PORT))
  local private=no
  [ -n "${DATABASE_URL-}" ] || private=yes

  claim start "this checkout is being served already"
  trap 'stop_all' EXIT
  trap 'exit 130' INT
  trap 'exit 143' TERM HUP
  end_orphan
  ensure_node_modules
  refuse_taken_port
  if [ $private = yes ]; then
    pg_use pg
    pg_up
    pg_database mavrek
  fi
  ensure_build
  run_ts src/server/prepare.ts || die 'the database could not be prepared'
  serve
  say "open ${MAVREK_URL:-http://$(shown_host):$PORT}  (Ctrl-C stops)"
  if [ "${MAVREK_AUTH-}" = on ] && ! run_ts src/server/people/invite.ts --anybody; then
    say 'nobody has an account yet; in another terminal: ./mavrek invite YOUR@ADDRESS'
  fi
  watch_over $private
}

shown_host() { case "$HOST" in 0.0.0.0 | ::) echo localhost ;; *:*) echo "[$HOST]" ;; *) echo "$HOST" ;; esac; }

refuse_taken_port() {
  local status=0
  port_free "$HOST" "$PORT" || status=$?
  case $status in
    0) ;;
    2) die "HOST is '$HOST', which is no address of this machine" ;;
    3) die "port $PORT needs rights that this user does not have; choose one above 1023, e.g.: PORT=4600 ./mavrek start" ;;
    *) taken_port ;;
  esac
}

taken_port() {
  die "port $PORT on $HOST is taken by another program; choose another one, e.g.: PORT=$((PORT < 65535 ? PORT + 1 : 4600)) ./mavrek start"
}

# A launcher that was killed cannot stop its server; the next start does.
end_orphan() {
  local pid
  pid=$(cat "$STATE/server.pid" 2> /dev/null || true)
  if is_running "$pid" server.cjs; then
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
  MAVREK_INSTANCE=$(new_token)
  export MAVREK_INSTANCE HOST PORT
  (cd "$MAVREK_HOME" && exec node "$MAVREK_BUILD/server.cjs") >> "$STATE/log/server.log" 2>&1 8>&- &
  SERVER=$!
  printf '%s\n' "$SERVER" | write_file "$STATE/server.pid"
  local tries status
  for tries in $(seq 300); do
    if ! kill -0 "$SERVER" 2> /dev/null; then
      status=0
      wait "$SERVER" || status=$?
      [ "$status" -ne 98 ] || taken_port
      tail -n 20 "$STATE/log/server.log" >&2
      die 'the server did not start'
    fi
    if server_answers; then return 0; fi
    sleep 0.1
  done
  die 'the server did not answer within 30 seconds; see .mavrek/log/server.log'
}

# Whether it is this launcher's own server that answers, and it can do its work.
server_answers() {
  local host=$HOST
  case "$host" in 0.0.0.0) host=127.0.0.1 ;; ::) host=::1 ;; esac
  node -e '
    const [host, port, instance] = process.argv.slice(1);
    const no = () => process.exit(1);
    const asked = require("node:http").get({ host, port, path: "/api/health", timeout: 5000 }, (answer) => {
      let text = "";
      answer.on("data", (piece) => { text += piece; });
      answer.on("end", () => {
        try { process.exit(answer.statusCode === 200 && JSON.parse(text).instance === instance ? 0 : 1); } catch { no(); }
      });
    });
    asked.on("error", no);
    asked.on("timeout", no);
  ' "$host" "$PORT" "$MAVREK_INSTANCE" 2> /dev/null
}

# Brings back what dies: edits are acknowledged after the commit only, so nothing is lost meanwhile.
watch_over() {
  local url=${DATABASE_URL-}
  while true; do
    sleep 1 8>&- &
    wait $! || true
    if [ "$1" = yes ] && ! pg_running; then
      say 'PostgreSQL ended; starting it again'
      if pg_start; then
        export DATABASE_URL="$PG_URL/mavrek"
        say 'PostgreSQL runs again'
        # On another port, where its own was taken meanwhile: the server must be told.
        if [ "$DATABASE_URL" != "$url" ]; then
          url=$DATABASE_URL
          kill "$SERVER" 2> /dev/null || true
          wait_gone "$SERVER"
        fi
      else
        say 'PostgreSQL did not start; trying again (see its server.log)'
        continue
      fi
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
    remove_own "$STATE/server.pid" "$SERVER"
  fi
  [ -z "${PG_DATA-}" ] || pg_down
  unclaim start
  [ -z "${SERVER-}" ] || say 'stopped'
}
