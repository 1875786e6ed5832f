# Debian packages and node modules, installed when missing.

# ensure_debian PACKAGE... : installs as root, otherwise prints the one line to run.
ensure_debian() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f '${Status}' "$package" 2> /dev/null | grep -q 'ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  if [ "$(id -u)" -ne 0 ]; then
    say 'some Debian packages are missing; run this once, then start again:'
    printf '  sudo apt-get install -y --no-install-recommends %s\n' "${missing[*]}" >&2
    exit 1
  fi
  say "installing ${missing[*]} …"
  mkdir -p "$STATE/log"
  # Debian would set up a cluster of its own that nobody asked for.
  if [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    mkdir -p /etc/postgresql-common
    printf 'create_main_cluster = false\n' > /etc/postgresql-common/createcluster.conf
  fi
  # Nor are its services to be started: what runs here is started by us.
  local policy=
  if [ ! -e /usr/sbin/policy-rc.d ]; then
    policy=yes
    printf '#!/bin/sh\nexit 101\n' > /usr/sbin/policy-rc.d
    chmod +x /usr/sbin/policy-rc.d
  fi
  if ! { apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "${missing[@]}"; } \
    > "$STATE/log/apt.log" 2>&1 8>&-; then
    [ -z "$policy" ] || rm -f /usr/sbin/policy-rc.d
    tail -n 20 "$STATE/log/apt.log" >&2
    die "installing ${missing[*]} failed"
  fi
  [ -z "$policy" ] || rm -f /usr/sbin/policy-rc.d
}

ensure_node_modules() {
  command -v node > /dev/null || die 'Node.js 20 or newer is needed'
  local want have
  want=$(sha256sum "$MAVREK_HOME/package-lock.json" | cut -c1-32)
  have=$(cat "$MAVREK_HOME/node_modules/.mavrek" 2> /dev/null || true)
  [ "$want" = "$have" ] && return
  mkdir -p "$STATE/log"
  # A start, a test run and a command may come at once to a fresh checkout.
  exec 9>> "$MAVREK_HOME/.install.lock"
  flock 9
  have=$(cat "$MAVREK_HOME/node_modules/.mavrek" 2> /dev/null || true)
  if [ "$want" != "$have" ]; then
    say 'installing node modules …'
    if ! (cd "$MAVREK_HOME" && npm ci --no-audit --no-fund) > "$STATE/log/npm.log" 2>&1 8>&-; then
      tail -n 30 "$STATE/log/npm.log" >&2
      die 'npm ci failed'
    fi
    printf '%s\n' "$want" > "$MAVREK_HOME/node_modules/.mavrek"
  fi
  exec 9>&-
}
