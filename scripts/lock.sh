#!/usr/bin/env bash
# Writes the lock files from pyproject.toml, test.lock first, so that all agree on versions; then the inventory of parts.
set -euo pipefail
cd "$(dirname "$(readlink -f "$0")")/.."
.venv/bin/pip install -q pip-tools
compile() {
  local lock="requirements/$1.lock"
  shift
  .venv/bin/pip-compile -q --strip-extras --no-header --no-annotate --generate-hashes --no-emit-index-url --no-emit-find-links \
    --no-emit-trusted-host -o "$lock" "$@" pyproject.toml
}
compile test --extra bench --extra server --extra store --extra test
compile run --extra bench --extra server -c requirements/test.lock
compile bench --extra bench -c requirements/test.lock
compile store --extra bench --extra server --extra store -c requirements/test.lock

.venv/bin/python scripts/inventory.py
