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
  [ $private = no ] || pg_use pg
  ensure_build
  prepare $private
  SERVED=no
  watch_over $private
}

# The database is made ready, as often as it takes: its own server may be killed meanwhile, and so may what prepares it. Only what would
# fail again is a reason to give up.
prepare() {
  local status
  while true; do
    if [ "$1" = yes ]; then
      pg_up
      pg_database mavrek || { sleep 1; continue; }
    fi
    status=0
    run_ts src/server/prepare.ts || status=$?
    case $status in
      0) return ;;
      "$LOST_DATABASE" | 129 | 13[0-9] | 14[0-3]) [ "$1" = yes ] || die 'the database cannot be reached' ;;
      *) die 'the database could not be prepared' ;;
    esac
    say 'preparing the database was interrupted; trying again'
    sleep 1
  done
}

# How programs of Mavrek end where trying again may help, or where it cannot.
LOST_DATABASE=75
PORT_TAKEN=98
WRONG_SETTINGS=78

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

# Starts the server; whether it comes up is seen by watch_over.
serve() {
  MAVREK_INSTANCE=$(new_token)
  export MAVREK_INSTANCE HOST PORT
  (cd "$MAVREK_HOME" && exec node "$MAVREK_BUILD/server.cjs") >> "$STATE/log/server.log" 2>&1 8>&- &
  SERVER=$!
  ANSWERED=no
  printf '%s\n' "$SERVER" | write_file "$STATE/server.pid"
}

# Whether it is this launcher's own server that answers, and it can do its work. Asked by the shell itself: a program a time would be
# a load of its own on a machine that is busy.
server_answers() {
  local host=$HOST line
  case "$host" in 0.0.0.0) host=127.0.0.1 ;; ::) host=::1 ;; esac
  (
    exec 3<> "/dev/tcp/$host/$PORT" || exit 1
    printf 'GET /api/health HTTP/1.1\r\nHost: %s\r\nConnection: close\r\n\r\n' "127.0.0.1:$PORT" >&3
    IFS= read -r -t 5 line <&3 || exit 1
    [[ $line == 'HTTP/1.1 200 '* ]] || exit 1
    while IFS= read -r -t 5 line <&3 || [ -n "$line" ]; do
      [[ $line != *"\"instance\":\"$MAVREK_INSTANCE\""* ]] || exit 0
      [ -n "$line" ] || exit 1
    done
    exit 1
  ) 2> /dev/null 8>&-
}

# Keeps PostgreSQL and the server running until Ctrl-C, whichever of them ends, when and how: one loop for the first start and for every
# later one. Edits are acknowledged after the commit only, so nothing is lost meanwhile. It gives up only on what would never change.
watch_over() {
  local url=${DATABASE_URL-} pause=0
  serve
  while true; do
    if [ "$1" = yes ] && ! pg_running; then
      say 'PostgreSQL ended; starting it again'
      if ! pg_start; then
        say 'PostgreSQL did not start; trying again (see its server.log)'
        nap 1
        continue
      fi
      say 'PostgreSQL runs again'
      export DATABASE_URL="$PG_URL/mavrek"
      # On another port, where its own was taken meanwhile: the server must be told.
      if [ "$DATABASE_URL" != "$url" ]; then
        url=$DATABASE_URL
        kill "$SERVER" 2> /dev/null || true
        wait_gone "$SERVER"
      fi
    fi
    if ! kill -0 "$SERVER" 2> /dev/null; then
      server_ended
      # One that was killed comes back at once; one that ends by itself would only do so again.
      if [ $ENDED -ge 128 ]; then pause=0; else pause=$((pause < 5 ? pause + 1 : 5)); fi
      nap $pause
      serve
    elif [ $ANSWERED = no ] && server_answers; then
      ANSWERED=yes
      pause=0
      [ $SERVED = yes ] && say 'the server answers again' || say_open
      SERVED=yes
    fi
    nap 0.3
  done
}

# A pause that Ctrl-C ends.
nap() {
  sleep "$1" 8>&- &
  wait $! || true
}

# What is said of a server that is no longer there; the launcher ends where another try would end the same.
server_ended() {
  ENDED=0
  wait "$SERVER" || ENDED=$?
  case $ENDED in
    "$PORT_TAKEN")
      [ $SERVED = yes ] || taken_port
      say "port $PORT is taken by another program; trying again"
      ;;
    "$WRONG_SETTINGS")
      tail -n 1 "$STATE/log/server.log" >&2
      die 'the server did not start'
      ;;
    *)
      [ $ENDED -ge 128 ] || tail -n 5 "$STATE/log/server.log" >&2
      say 'the server ended; starting it again'
      ;;
  esac
}

say_open() {
  say "open ${MAVREK_URL:-http://$(shown_host):$PORT}  (Ctrl-C stops)"
  if [ "${MAVREK_AUTH-}" = on ] && ! run_ts src/server/people/invite.ts --anybody; then
    say 'nobody has an account yet; in another terminal: ./mavrek invite YOUR@ADDRESS'
  fi
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
