#!/usr/bin/env bash
# Runs make test beside busy loops, as many as there are cores unless a number is given: what passes only on a quiet machine
# waits for a clock somewhere.
set -euo pipefail
cd "$(dirname "$0")/.."
loops=${1:-$(nproc)}
busy=()
stop() { [ ${#busy[@]} -eq 0 ] || kill "${busy[@]}" 2>/dev/null || true; }
trap stop EXIT
for _ in $(seq "$loops"); do
  while :; do :; done &
  busy+=($!)
done
time make test
