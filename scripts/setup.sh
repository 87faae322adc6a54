# Set-up steps that ./start and ./test share. Each step is skipped when its result is already there.
# Sourced with the project's folder as the working directory.

say() { printf '%s\n' "$*" >&2; }
fail() { say "nomothet: $*"; exit 1; }

# Many processes begin here; each would compile all of the code again.
unset PYTHONDONTWRITEBYTECODE

SYSTEM_PACKAGES="mariadb-server libmariadb-dev pkg-config gcc libc6-dev python3-dev python3-venv ca-certificates"
BROWSER_PACKAGES="chromium"

# A package counts as present when dpkg says so; a command on the PATH may stand in for a package.
missing_packages() {
  local package
  for package in "$@"; do
    case "$package" in
      python3-venv) python3 -c 'import ensurepip' 2>/dev/null && continue ;;
      python3-dev) python3 -c 'import os, sys, sysconfig
sys.exit(not os.path.exists(os.path.join(sysconfig.get_path("include"), "Python.h")))' 2>/dev/null && continue ;;
    esac
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || printf '%s ' "$package"
  done
}

ensure_packages() {
  local missing prefix=""
  missing=$(missing_packages "$@")
  [ -z "$missing" ] && return 0
  command -v apt-get >/dev/null || fail "these Debian packages are needed: $missing"
  if [ "$(id -u)" -ne 0 ]; then
    if command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
      prefix="sudo"
    else
      fail "these Debian packages are missing, and only root can install them. Ask for:
  apt-get install --no-install-recommends $missing
and run this command again."
    fi
  fi
  say "Installing Debian packages: $missing"
  $prefix apt-get update -qq || fail "the package lists could not be read; check the network and run again."
  # The package's own service is not wanted: this project runs a private server. policy-rc.d (Debian Policy 9.3.3) says
  # so while packages are installed.
  local policy=/usr/sbin/policy-rc.d own_policy="" log status=0
  log=$(mktemp)
  if ! [ -e "$policy" ]; then
    printf '#!/bin/sh\nexit 101\n' | $prefix tee "$policy" >/dev/null
    $prefix chmod +x "$policy"
    own_policy=yes
  fi
  $prefix env DEBIAN_FRONTEND=noninteractive \
    apt-get install -y -qq --no-install-recommends $missing >"$log" 2>&1 || status=$?
  [ -z "$own_policy" ] || $prefix rm -f "$policy"
  if [ "$status" -ne 0 ]; then
    tail -20 "$log" >&2
    fail "installing Debian packages failed; the messages above say why."
  fi
  rm -f "$log"
}

# One environment serves both commands: test.lock holds everything that run.lock holds, in the same versions.
ensure_python() {
  local lock="requirements/$1.lock" wanted
  python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Python 3.11 or newer is needed."
  wanted=$(cat "$lock" pyproject.toml | sha256sum)
  if [ -x .venv/bin/python ]; then
    [ "$(cat ".venv/$1.stamp" 2>/dev/null)" = "$wanted" ] && return 0
  else
    say "Making the virtual environment."
    python3 -m venv .venv || fail "the virtual environment could not be made."
  fi
  say "Installing Python packages from $lock."
  export PIP_DISABLE_PIP_VERSION_CHECK=1
  .venv/bin/pip install -q -r "$lock" && .venv/bin/pip install -q --no-deps -e . ||
    fail "installing Python packages failed; the messages above say why."
  printf '%s\n' "$wanted" >".venv/$1.stamp"
}

# Vite needs Node 20.19 or newer, which Debian 12 does not have; a wheel from PyPI brings it.
ensure_node() {
  if node -e 'const [a, b] = process.versions.node.split(".").map(Number)
process.exit(a > 20 || (a === 20 && b >= 19) ? 0 : 1)' 2>/dev/null && command -v npm >/dev/null; then
    return 0
  fi
  if ! [ -x .venv/bin/node ]; then
    say "Installing Node inside the virtual environment."
    .venv/bin/pip install -q -r requirements/node.lock || fail "Node could not be installed."
  fi
  PATH="$PWD/.venv/bin:$PATH"
  export PATH
}

ensure_web_packages() {
  local wanted
  ensure_node
  wanted=$(sha256sum <web/package-lock.json)
  [ "$(cat web/node_modules/.stamp 2>/dev/null)" = "$wanted" ] && return 0
  say "Installing npm packages from the lock file."
  (cd web && npm ci --no-audit --no-fund --loglevel=error) || fail "npm ci failed; the messages above say why."
  printf '%s\n' "$wanted" >web/node_modules/.stamp
}

web_sources_hash() {
  # With the catalogue of another language, where one is named.
  (cd web && find index.html src public texts package.json package-lock.json vite.config.ts markdown.ts compress.ts tsconfig.json ../docs ${NOMOTHET_TEXTS:+"$NOMOTHET_TEXTS"} -name screenshots -prune -o -type f -print 2>/dev/null |
    LC_ALL=C sort | xargs -d '\n' sha256sum | sha256sum)
}

ensure_web_build() {
  local wanted
  wanted=$(web_sources_hash)
  [ "$(cat web/dist/.stamp 2>/dev/null)" = "$wanted" ] && return 0
  ensure_web_packages
  say "Building the front end."
  (cd web && npm run --silent build >/dev/null) || fail "the front end did not build."
  printf '%s\n' "$wanted" >web/dist/.stamp
}
