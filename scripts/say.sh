# What the scripts say. Sourced by them; changes to the project's folder.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
say() { printf '\n== %s\n' "$*"; }
stop() { printf '\n!! %s\n' "$*" >&2; exit 1; }
