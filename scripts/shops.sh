#!/usr/bin/env bash
# Makes testdata/shops anew: for every commit that changed the migrations, the demo of that commit as its program left it,
# as a dump of its database. What a dump holds already is left; a commit whose demo does not load carries on the shop of
# the one before. Needs the whole history and takes some minutes. A commit that changes the migrations is followed by one
# with its shop.
set -euo pipefail
cd "$(dirname "$0")/.."
out=$PWD/testdata/shops
work=$(mktemp -d)
chmod 755 "$work"
trap 'rm -rf "$work"' EXIT
git clone -q . "$work/source"
mkdir -p "$out"

# carry DIR: starts the program's demo on a folder, dumps its database once it answers, and ends it.
carry() {
  "$work/gallipot" demo -dir "$1" -port 0 >"$work/said" 2>"$work/log" &
  local program=$!
  until grep -q "is at" "$work/said"; do
    kill -0 "$program" 2>/dev/null || return 1
    sleep 0.1
  done
  local port
  port=$(sed -n 4p "$1/postgres/data/postmaster.pid")
  PGPASSWORD=$(cat "$1/postgres/password") pg_dump -h 127.0.0.1 -p "$port" -U gallipot -Fc -Z 9 -f "$2" gallipot
  kill -INT "$program"
  wait "$program" || true
}

last=""
for commit in $(git log --reverse --format=%h --abbrev=7 -- internal/store/migrations); do
  (cd "$work/source" && git checkout -qf "$commit")
  [ -d "$work/source/cmd/gallipot" ] || continue # there was no program yet
  number=$(find "$work/source/internal/store/migrations" -name '*.sql' | wc -l)
  dump=$(printf '%s/%02d-%s.dump' "$out" "$number" "$commit")
  [ -e "$dump" ] && continue
  (cd "$work/source" && go build -o "$work/gallipot" ./cmd/gallipot)
  shop="$work/$commit"
  mkdir "$shop"
  if ! carry "$shop" "$dump"; then
    rm -rf "$shop"
    cp -a "$last" "$shop"
    carry "$shop" "$dump"
  fi
  [ -z "$last" ] || rm -rf "$last"
  last=$shop
  echo "$(basename "$dump") $(stat -c %s "$dump")"
done
