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
  node "$MAVREK_HOME/node_modules/tsx/dist/cli.mjs" --tsconfig "$MAVREK_HOME/tsconfig.json" "$MAVREK_HOME/$file" "$@" 8>&-
}

# One at a time in a checkout: claim NAME MESSAGE. The claim is a lock on a file, which the kernel gives back when this process
# ends, however it ends; children are started with 8>&- so that they do not hold it. Who comes second is told within a second.
claim() {
  mkdir -p "$STATE/log"
  exec 8>> "$STATE/$1.lock"
  if ! flock -n 8; then
    local pid tries
    for tries in 1 2 3 4 5; do
      pid=$(cat "$STATE/$1.lock" 2> /dev/null || true)
      [ -z "$pid" ] || break
      sleep 0.1
    done
    exec 8>&-
    die "$2${pid:+ (process $pid)}; stop it with Ctrl-C there first"
  fi
  : > "$STATE/$1.lock"
  printf '%s' "$$" >&8
}

unclaim() {
  : > "$STATE/$1.lock"
  exec 8>&-
}

# Removes a pid file only while it names PID: remove_own FILE PID
remove_own() { [ "$(cat "$1" 2> /dev/null || true)" != "$2" ] || rm -f "$1"; }

new_token() { node -e 'console.log(require("node:crypto").randomBytes(16).toString("hex"))'; }

# Builds the application when anything that goes into it has changed, into a folder named after its sources: a server that
# runs keeps its own build. Sets MAVREK_BUILD for the server.
ensure_build() {
  local want
  # Fonts and character maps that the reader of PDF documents asks for; documents need not carry the usual ones.
  if [ ! -d "$MAVREK_HOME/public/pdf/cmaps" ]; then
    mkdir -p "$MAVREK_HOME/public/pdf"
    cp -r "$MAVREK_HOME/node_modules/pdfjs-dist/standard_fonts" "$MAVREK_HOME/node_modules/pdfjs-dist/cmaps" "$MAVREK_HOME/public/pdf/"
  fi
  want=$(digest_of src docs/schema public scripts/build-server.mjs package-lock.json next.config.ts tsconfig.json postcss.config.mjs)
  MAVREK_BUILD=.next-${want:0:12}
  export MAVREK_BUILD
  [ ! -f "$MAVREK_HOME/$MAVREK_BUILD/server.cjs" ] || return 0
  mkdir -p "$STATE/log"
  exec 9>> "$MAVREK_HOME/.build.lock"
  flock 9
  # Somebody else may have made it while this one waited; a build that is there may be in use.
  if [ ! -f "$MAVREK_HOME/$MAVREK_BUILD/server.cjs" ]; then
    say 'building the application …'
    if ! (cd "$MAVREK_HOME" && env -u MAVREK_BUILD npx --no-install next build) > "$STATE/log/build.log" 2>&1 8>&-; then
      cat "$STATE/log/build.log" >&2
      die 'the build failed'
    fi
    rm -rf "${MAVREK_HOME:?}/$MAVREK_BUILD"
    # The server's own bundle last: a folder that has it is whole.
    node "$MAVREK_HOME/scripts/build-server.mjs" "$MAVREK_HOME/.next/own" 8>&- || die 'the server could not be bundled'
    mv "$MAVREK_HOME/.next/own/worker.cjs" "$MAVREK_HOME/.next/worker.cjs"
    mv "$MAVREK_HOME/.next" "$MAVREK_HOME/$MAVREK_BUILD"
    mv "$MAVREK_HOME/$MAVREK_BUILD/own/server.cjs" "$MAVREK_HOME/$MAVREK_BUILD/server.cjs"
    # The build before this one may still be served.
    (cd "$MAVREK_HOME" && find . -maxdepth 1 -name '.next-*' -printf '%T@ %f\n' | sort -rn | tail -n +3 | cut -d' ' -f2 | xargs -r rm -rf)
  fi
  exec 9>&-
}

# Bundles the command line tool into one file when its sources have changed; a bundle starts three times as fast.
ensure_cli() {
  local want have
  want=$(digest_of src/core src/cli src/files docs/schema package-lock.json)
  have=$(cat "$STATE/cli-built" 2> /dev/null || true)
  [ "$want" = "$have" ] && [ -f "$STATE/cli.cjs" ] && return
  mkdir -p "$STATE"
  "$MAVREK_HOME/node_modules/.bin/esbuild" "$MAVREK_HOME/src/cli/main.ts" --bundle --minify-whitespace --minify-syntax --platform=node --main-fields=module,main --target=node20 \
    --tsconfig="$MAVREK_HOME/tsconfig.json" --log-level=warning --outfile="$STATE/cli.$$.cjs" 8>&- || die 'the command line tool could not be built'
  mv "$STATE/cli.$$.cjs" "$STATE/cli.cjs"
  printf '%s\n' "$want" | write_file "$STATE/cli-built"
}

# True when nothing listens on HOST PORT. Status 1: taken; 2: no address of this machine; 3: not allowed.
port_free() {
  node -e '
    const [host, port] = process.argv.slice(1);
    const server = require("node:net").createServer();
    const codes = { EADDRINUSE: 1, EADDRNOTAVAIL: 2, ENOTFOUND: 2, EAI_AGAIN: 2, EINVAL: 2, EACCES: 3 };
    server.once("error", (error) => process.exit(codes[error.code] ?? 1));
    server.listen({ host, port: Number(port), exclusive: true }, () => server.close());
  ' "$1" "$2"
}

# Prints a port that nobody uses on the loopback.
free_port() {
  node -e 'const s = require("node:net").createServer(); s.listen(0, "127.0.0.1", () => { console.log(s.address().port); s.close(); })'
}

# True when PID is alive, no zombie, and its command line holds WORD: is_running PID WORD
is_running() {
  [[ $1 =~ ^[0-9]+$ ]] && kill -0 "$1" 2> /dev/null && tr '\0' ' ' < "/proc/$1/cmdline" 2> /dev/null | grep -qF -- "$2"
}
