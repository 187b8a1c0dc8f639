#!/usr/bin/env bash
# Runs every check and test: formatting, lints, then Cargo's test runner with the core, the records,
# the routes, the program and the interface in a real browser.
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh" browser
# A whole run keeps nothing for a next one: half the disk.
export CARGO_INCREMENTAL="${CARGO_INCREMENTAL:-0}"
say "Formatting and lints"
cargo fmt --all --check || stop "Run: cargo fmt --all"
(cd web && npx --no-install prettier --log-level warn --check src tests ../e2e) || stop "Run: npm run format, in web/"
(cd web && npx --no-install eslint src) || stop "Mend what ESLint says above."
cargo clippy --quiet --workspace --all-targets -- -D warnings || stop "Mend what Clippy says above."
say "The program that people start, for the journeys in the browser"
cargo build --release --quiet --bin ticksage || stop "The program could not be built: see the messages above."
say "Tests"
exec cargo test --workspace --no-fail-fast "$@"
