#!/usr/bin/env bash
# Runs every check and test: formatting, lints, then Cargo's test runner with the core, the records,
# the routes, the program and the interface in a real browser.
source "$(dirname "${BASH_SOURCE[0]}")/say.sh"
command -v cargo >/dev/null || stop "Rust is missing: install it (rustup, stable 1.90 or later) and run this again."
# A whole run keeps nothing for a next one: half the disk.
export CARGO_INCREMENTAL="${CARGO_INCREMENTAL:-0}"

# What is missing is fetched, and the web built and looked through, while Clippy reads the Rust: one core each.
web=$(mktemp)
trap 'rm -f "$web"' EXIT
(
  source scripts/setup.sh browser
  say "Formatting and lints of the web"
  cd web
  npx --no-install prettier --log-level warn --check src tests ../e2e || stop "Run: npm run format, in web/"
  npx --no-install eslint src || stop "Mend what ESLint says above."
) >"$web" 2>&1 &
web_checked=$!
say "Formatting and lints"
rust=0
cargo fmt --all --check || { rust=1; echo "!! Run: cargo fmt --all" >&2; }
cargo clippy --quiet --workspace --all-targets -- -D warnings || { rust=1; echo "!! Mend what Clippy says above." >&2; }
wait "$web_checked" && cat "$web" || { cat "$web" >&2; exit 1; }
[ "$rust" = 0 ] || stop "The Rust is not clean: see above."
say "The program that people start, for the journeys in the browser"
cargo build --release --quiet --bin ticksage || stop "The program could not be built: see the messages above."
say "Tests"
rm -f "$web"
exec cargo test --workspace --no-fail-fast "$@"
