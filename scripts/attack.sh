#!/usr/bin/env bash
# Attacks a Tick Sage of its own, in a folder of its own: generated requests, kills, a frozen database, a full disk,
# and many readers and writers at once. Prints what was run and counted (kept in docs/RELIABILITY.md). Not part of
# the tests: it takes about ten minutes, and fetches a generator of requests (schemathesis, from PyPI) into target/.
# As root it tries a full disk too. Usage: scripts/attack.sh [requests|faults|load]...
set -euo pipefail
cd "$(dirname "$0")/.."
[ -x target/release/ticksage ] || { echo "Build the program first: cargo build --release --bin ticksage" >&2; exit 1; }
parts=("${@:-requests faults load}")
# shellcheck disable=SC2128,SC2206
parts=(${parts[*]})
for part in "${parts[@]}"; do
  if [ "$part" = requests ] && [ ! -x target/attack/bin/schemathesis ]; then
    python3 -m venv target/attack
    target/attack/bin/pip install --quiet 'schemathesis>=4,<5'
  fi
  python3 scripts/attack.py "$part"
done
