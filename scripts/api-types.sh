#!/usr/bin/env bash
# Generates web/src/api/types.ts from the OpenAPI document; with --check, says whether it is current.
set -euo pipefail
cd "$(dirname "$(readlink -f "$0")")/.."
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
.venv/bin/python scripts/manage.py spectacular --validate --fail-on-warn --file "$folder/schema.yaml"
(cd web && npx --no-install openapi-typescript "$folder/schema.yaml" -o "$folder/types.ts" >/dev/null)
if [ "${1:-}" = "--check" ]; then
  cmp -s "$folder/types.ts" web/src/api/types.ts || {
    echo "web/src/api/types.ts is not what the OpenAPI document says; run scripts/api-types.sh" >&2
    exit 1
  }
else
  cp "$folder/types.ts" web/src/api/types.ts
fi
