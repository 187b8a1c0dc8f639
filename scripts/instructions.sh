#!/usr/bin/env bash
# Counts the instructions of judging demo candidates, reading and printing included: the same from run to run, whatever
# else the machine does (see docs/PERFORMANCE.md). Needs valgrind. Usage: scripts/instructions.sh
set -euo pipefail
cd "$(dirname "$0")/.."
program=${CARGO_TARGET_DIR:-target}/release/ticksage
[ -x "$program" ] || { echo "Build the program first: cargo build --release --bin ticksage" >&2; exit 1; }
for candidate in demo/candidates/*.json; do
  counted=$(valgrind --tool=callgrind --callgrind-out-file=/dev/null "$program" assess \
    --family demo/families/*.json --candidate "$candidate" 2>&1 >/dev/null | awk '/Collected/ { print $4 }')
  printf '%-40s %8.1f million\n' "$(basename "$candidate")" "$(awk "BEGIN { print $counted / 1e6 }")"
done
