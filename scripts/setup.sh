#!/usr/bin/env bash
# Installs what is missing: PostgreSQL for the demo, with "test" also Chromium for the browser
# journey, poppler and zbar to open what was printed.
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-demo}

need() { command -v "$1" >/dev/null 2>&1 || { echo "Gallipot needs $2; install it and run this again." >&2; exit 1; }; }
need go "Go 1.26 or newer"
need node "Node.js 20 or newer"
need npm "npm, which comes with Node.js"
[ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || { echo "Gallipot needs Node.js 20 or newer; this is $(node --version)." >&2; exit 1; }

missing=()
ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || missing+=(postgresql)
if [ "$what" = test ]; then
  command -v chromium-headless-shell >/dev/null 2>&1 || missing+=(chromium-headless-shell)
  command -v pdftotext >/dev/null 2>&1 || missing+=(poppler-utils)
  command -v zbarimg >/dev/null 2>&1 || missing+=(zbar-tools)
fi
if [ ${#missing[@]} -gt 0 ]; then
  if [ "$(id -u)" -ne 0 ]; then
    echo "These Debian packages are missing: ${missing[*]}" >&2
    echo "Ask an administrator to run:  apt-get install --no-install-recommends ${missing[*]}" >&2
    exit 1
  fi
  # Debian would start a cluster of its own otherwise.
  mkdir -p /etc/postgresql-common
  [ -e /etc/postgresql-common/createcluster.conf ] || echo "create_main_cluster = false" > /etc/postgresql-common/createcluster.conf
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq
  apt-get install -y -qq --no-install-recommends "${missing[@]}"
fi

# npm packages, again only when the lock file changed.
stamp=web/node_modules/.gallipot-lock
if ! cmp -s web/package-lock.json "$stamp"; then
  (cd web && npm ci --no-audit --no-fund --loglevel=error)
  cp web/package-lock.json "$stamp"
fi
