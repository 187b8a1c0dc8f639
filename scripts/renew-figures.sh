#!/usr/bin/env bash
# Writes the committed figures of the demo anew (crates/core/tests/fixtures/figures.json).
# Look at the difference with git before committing it, and say in the commit why it is right.
set -euo pipefail
cd "$(dirname "$0")/.."
TICKSAGE_RENEW_FIGURES=1 cargo test --quiet -p ticksage-core --test all figures::
git --no-pager diff --stat -- crates/core/tests/fixtures/figures.json
