# Shared by the launcher's parts. MAVREK_HOME is set; MAVREK_STATE may name another folder for the cluster, logs and pids.
STATE=${MAVREK_STATE:-$MAVREK_HOME/.mavrek}
. "$MAVREK_HOME/scripts/lib/packages.sh"
. "$MAVREK_HOME/scripts/lib/postgres.sh"

say() { printf 'mavrek: %s\n' "$*" >&2; }
die() { say "$*"; exit 1; }

# Writes a file whole or not at all: write_file PATH < content
write_file() { cat > "$1.$$" && mv "$1.$$" "$1"; }

# A digest over the named files and folders of the checkout.
digest_of() {
  (cd "$MAVREK_HOME" && { find "$@" -type f -print0 2> /dev/null || true; } | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-32)
}

# Runs a TypeScript file of the checkout where the user stands, so that relative paths mean what they say.
run_ts() {
  local file=$1
  shift
  node "$MAVREK_HOME/node_modules/tsx/dist/cli.mjs" --tsconfig "$MAVREK_HOME/tsconfig.json" "$MAVREK_HOME/$file" "$@"
}

# Builds the application when anything that goes into it has changed, into a folder named after its sources: a server that
# runs keeps its own build. Sets MAVREK_BUILD for `next start`.
ensure_build() {
  local want
  want=$(digest_of src docs/schema public package-lock.json next.config.ts tsconfig.json postcss.config.mjs)
  MAVREK_BUILD=.next-${want:0:12}
  if [ ! -f "$MAVREK_HOME/$MAVREK_BUILD/BUILD_ID" ]; then
    mkdir -p "$STATE/log"
    exec 9> "$MAVREK_HOME/.build.lock"
    flock 9
    say 'building the application …'
    if ! (cd "$MAVREK_HOME" && env -u MAVREK_BUILD npx --no-install next build) > "$STATE/log/build.log" 2>&1; then
      cat "$STATE/log/build.log" >&2
      die 'the build failed'
    fi
    rm -rf "${MAVREK_HOME:?}/$MAVREK_BUILD"
    mv "$MAVREK_HOME/.next" "$MAVREK_HOME/$MAVREK_BUILD"
    exec 9>&-
    # The build before this one may still be served.
    (cd "$MAVREK_HOME" && find . -maxdepth 1 -name '.next-*' -printf '%T@ %f\n' | sort -rn | tail -n +3 | cut -d' ' -f2 | xargs -r rm -rf)
  fi
  export MAVREK_BUILD
}

# Bundles the command line tool into one file when its sources have changed; a bundle starts three times as fast.
ensure_cli() {
  local want have
  want=$(digest_of src/core src/cli src/files docs/schema package-lock.json)
  have=$(cat "$STATE/cli-built" 2> /dev/null || true)
  [ "$want" = "$have" ] && [ -f "$STATE/cli.cjs" ] && return
  mkdir -p "$STATE"
  "$MAVREK_HOME/node_modules/.bin/esbuild" "$MAVREK_HOME/src/cli/main.ts" --bundle --platform=node --main-fields=module,main --target=node20 \
    --tsconfig="$MAVREK_HOME/tsconfig.json" --log-level=warning --outfile="$STATE/cli.$$.cjs" || die 'the command line tool could not be built'
  mv "$STATE/cli.$$.cjs" "$STATE/cli.cjs"
  printf '%s\n' "$want" | write_file "$STATE/cli-built"
}

# True when nothing listens on HOST PORT.
port_free() {
  node -e '
    const [host, port] = process.argv.slice(1);
    const server = require("node:net").createServer();
    server.once("error", () => process.exit(1));
    server.listen({ host, port: Number(port), exclusive: true }, () => server.close());
  ' "$1" "$2"
}

# Prints a port that nobody uses on the loopback.
free_port() {
  node -e 'const s = require("node:net").createServer(); s.listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close(); })'
}

# True when PID is alive and its command line holds WORD: is_running PID WORD
is_running() {
  [ -n "$1" ] && kill -0 "$1" 2> /dev/null && tr '\0' ' ' < "/proc/$1/cmdline" 2> /dev/null | grep -q -- "$2"
}
