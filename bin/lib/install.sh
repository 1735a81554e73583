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

# need_npm   installs the npm packages when the lock file is not the one they were installed from.
need_npm() {
  local stamp=node_modules/.rawbits-lock sum
  sum=$(sha256sum package-lock.json | cut -d' ' -f1)
  [ -f $stamp ] && [ "$(cat $stamp)" = "$sum" ] && return 0
  echo "Installing npm packages ..."
  # The package for real card readers is compiled where its library is; by Node's own headers, so nothing is downloaded.
  npm_config_nodedir=$(node -p 'path.dirname(path.dirname(process.execPath))') npm ci --no-audit --no-fund --loglevel=error
  echo "$sum" >$stamp
}

# need_smartcard   installs the npm packages again where the one for real card readers could not be compiled then.
need_smartcard() {
  [ -e node_modules/smartcard/build/Release/smartcard_napi.node ] && return 0
  rm -f node_modules/.rawbits-lock
  need_npm
}

# need_build   builds dist/ when a source is newer than the last build.
need_build() {
  local stamp=dist/.built
  if [ -f $stamp ] && [ -z "$(find core/src api/src server/src rig/src web/src web/index.html web/vite.config.ts cli/src demo/src bin/lib package-lock.json -newer $stamp -type f -print -quit)" ]; then return 0; fi
  echo "Building ..."
  mkdir -p dist
  local now; now=$(mktemp -p dist .stamp.XXXXXX)
  node bin/lib/build.mjs
  mv "$now" $stamp
}
