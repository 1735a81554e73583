# Sourced by bin/start and bin/test: Node, Debian packages, npm packages. Prints only what it does.

need_node() {
  if ! command -v node >/dev/null || [ "$(node -p 'process.versions.node.split(".")[0]')" -lt 20 ]; then
    echo "Raw Bits needs Node.js 20 or later, and finds ${1:-$(command -v node >/dev/null && node --version || echo none)}." >&2
    exit 1
  fi
}

# need_debian PACKAGE:FILE ...   installs the packages whose file is missing; without root, says which are missing.
need_debian() {
  local missing=()
  for pair in "$@"; do [ -e "${pair#*:}" ] || missing+=("${pair%%:*}"); done
  [ ${#missing[@]} -eq 0 ] && return 0
  if [ "$(id -u)" -ne 0 ]; then
    echo "Missing Debian packages: ${missing[*]}. Install them as root: apt-get install --no-install-recommends ${missing[*]}" >&2
    exit 1
  fi
  echo "Installing ${missing[*]} ..."
  # Debian would start its own database server on installation; ours is started by us alone.
  local policy=/usr/sbin/policy-rc.d made=
  if [ ! -e $policy ]; then printf '#!/bin/sh\nexit 101\n' >$policy && chmod +x $policy && made=1; fi
  local log; log=$(mktemp)
  if ! { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"; } >"$log" 2>&1; then
    [ -z "$made" ] || rm -f $policy
    tail -5 "$log" >&2
    echo "Installing ${missing[*]} failed (see above)." >&2
    exit 1
  fi
  [ -z "$made" ] || rm -f $policy
  rm -f "$log"
}

# need_npm [all]   installs the npm packages that building and running takes, or all of them, with those of the checks, when
# the lock file is not the one they were installed from. What is there is added to, not thrown away.
need_npm() {
  local stamp=node_modules/.rawbits-lock sum has=
  sum=$(sha256sum package-lock.json | cut -d' ' -f1)
  [ ! -f $stamp ] || has=$(cat $stamp)
  [ "$has" = "$sum all" ] && return 0
  if [ "${1:-}" != all ]; then
    [ "$has" = "$sum" ] && return 0
    watched 'Installing the npm packages to build and run with' npm ci --omit=dev --ignore-scripts
    echo "$sum" >$stamp
  elif [ "$has" = "$sum" ]; then
    watched 'Adding the npm packages of the checks' npm install --no-save --include=dev --ignore-scripts
    echo "$sum all" >$stamp
  else
    watched 'Installing all npm packages' npm ci --ignore-scripts
    echo "$sum all" >$stamp
  fi
}

# watched WORDS COMMAND ...   runs a command that may take a minute, says every ten seconds how long it has taken, and shows
# what it printed where it fails.
watched() {
  local words=$1 log began=$SECONDS told=0 pid status=0; shift
  log=$(mktemp)
  echo "$words ..."
  "$@" --no-audit --no-fund --loglevel=error >"$log" 2>&1 &
  pid=$!
  # What runs in the background does not hear of Ctrl-C by itself.
  trap 'kill $pid 2>/dev/null; exit 130' INT TERM
  while kill -0 $pid 2>/dev/null; do
    sleep 0.2
    if [ $((SECONDS - began - told)) -ge 10 ]; then told=$((SECONDS - began)); echo "  $told s"; fi
  done
  wait $pid || status=$?
  trap - INT TERM
  [ $status -eq 0 ] || { tail -20 "$log" >&2; echo "$words failed (see above)." >&2; }
  rm -f "$log"
  return $status
}

# need_smartcard   compiles the package for real card readers where its library is; by Node's own headers, so nothing is
# downloaded. Nothing else needs compiling, and bin/start does not need this.
need_smartcard() {
  [ -e node_modules/smartcard/build/Release/smartcard_napi.node ] && return 0
  export npm_config_nodedir; npm_config_nodedir=$(node -p 'path.dirname(path.dirname(process.execPath))')
  watched 'Compiling the package for card readers' npm rebuild smartcard
}

# need_build   builds dist/ when a source is newer than the last build.
need_build() {
  local stamp=dist/.built
  if [ -f $stamp ] && [ -z "$(find core/src api/src server/src rig/src web/src web/index.html web/vite.config.ts cli/src desk/src demo/src bin/lib docs/guide.md docs/identify.md package-lock.json -newer $stamp -type f -print -quit)" ]; then return 0; fi
  echo "Building ..."
  mkdir -p dist
  local now; now=$(mktemp -p dist .stamp.XXXXXX)
  # Said here, as a failure inside a condition ends nothing by itself: what was not built is not marked as built.
  node bin/lib/build.mjs || { rm -f "$now"; return 1; }
  mv "$now" $stamp
}
