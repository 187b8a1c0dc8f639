#!/usr/bin/env bash
# Installs what is missing and builds the web. Run by start.sh and test.sh; safe to run again.
source "$(dirname "${BASH_SOURCE[0]}")/say.sh"

command -v cargo >/dev/null || stop "Rust is missing: install it (rustup, stable 1.90 or later) and run this again."
command -v node >/dev/null || stop "Node.js is missing: install version 20 or later and run this again."

need=()
ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || command -v postgres >/dev/null || need+=(postgresql)
if [ "${1:-}" = browser ]; then
  [ -x "${CHROMIUM:-/usr/bin/chromium}" ] || need+=(chromium)
  command -v pdftotext >/dev/null && command -v pdftoppm >/dev/null || need+=(poppler-utils)
fi
if [ ${#need[@]} -gt 0 ]; then
  [ "$(id -u)" = 0 ] || stop "These Debian packages are missing: ${need[*]}. Install them as root (apt-get install ${need[*]}) and run this again."
  say "Installing ${need[*]} from Debian's packages"
  apt-get update -qq || stop "Debian's package lists could not be read: check the network and run this again."
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${need[@]}" >/dev/null \
    || stop "Debian's packages could not be installed: see the messages above."
fi

if [ ! -f web/node_modules/.package-lock.json ] || [ web/package-lock.json -nt web/node_modules/.package-lock.json ]; then
  say "Fetching the web's packages by its lock file"
  (cd web && npm ci --no-audit --no-fund --loglevel=error) \
    || stop "The web's packages could not be fetched: check the network and run this again."
  touch web/node_modules/.package-lock.json
fi

stamp=web/dist/.built
if [ ! -f "$stamp" ] || [ -n "$(find web/src web/public web/index.html web/vite.config.ts web/package.json docs/openapi.json -newer "$stamp" -print -quit)" ]; then
  say "Building the web"
  (cd web && npm run --silent build) || stop "The web could not be built: see the messages above."
  touch "$stamp"
fi
