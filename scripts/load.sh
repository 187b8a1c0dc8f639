#!/usr/bin/env bash
# Measures the yard with 200 candidates on a running application (see docs/PERFORMANCE.md).
# Adds what is missing to 200 copies of the demo's first candidate, asks once so that every summary is
# kept, then asks 50 times. Usage: scripts/load.sh http://127.0.0.1:8460
set -euo pipefail
base=${1:?address of a running application, such as http://127.0.0.1:8460}
id=$(curl -sf "$base/api/candidates" | node -pe 'JSON.parse(require("fs").readFileSync(0)).at(0).id')
curl -sf "$base/api/candidates/$id/export" -o /tmp/ticksage-load.json
have=$(curl -sf "$base/api/candidates" | node -pe 'JSON.parse(require("fs").readFileSync(0)).length')
for _ in $(seq "$have" 199); do
  curl -sf -o /dev/null -H 'content-type: application/json' --data-binary @/tmp/ticksage-load.json "$base/api/candidates/import"
done
curl -sf -o /dev/null "$base/api/candidates"
for _ in $(seq 50); do
  curl -sf --compressed -o /dev/null -w '%{time_total}\n' "$base/api/candidates"
done | sort -n | awk '{ t[NR] = $1 * 1000 } END { printf "yard of 200: median %.0f ms, 95th %.0f ms\n", t[int((NR+1)/2)], t[int(NR*0.95)] }'
