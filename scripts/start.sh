#!/usr/bin/env bash
# Builds what is missing, starts a private database, loads the demo and serves Tick Sage.
# Ctrl-C stops what was started, and only that. Arguments go to `ticksage serve` (see --help).
source "$(dirname "${BASH_SOURCE[0]}")/setup.sh"
say "Building the program (some minutes the first time)"
cargo build --release --quiet --bin ticksage || stop "The program could not be built: see the messages above."
say "Starting"
exec "${CARGO_TARGET_DIR:-target}/release/ticksage" serve --demo demo "$@"
