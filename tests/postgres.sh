#!/usr/bin/env bash
# Runs a command with DATABASE_URL set to a PostgreSQL server of its own, in a folder that is removed afterwards.
# Debian's package postgresql is needed; the server listens on a socket only, and runs as a plain user where this is root.
set -euo pipefail
bin=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | tail -n 1)
if [ -z "$bin" ]; then
  echo "PostgreSQL is missing: install Debian's package, sudo apt-get install postgresql" >&2
  exit 1
fi
folder=$(mktemp -d)
as=()
if [ "$(id -u)" = 0 ]; then
  chown postgres "$folder"
  as=(runuser -u postgres --)
fi
stop() {
  "${as[@]}" "$bin/pg_ctl" -D "$folder/data" -m immediate stop >/dev/null 2>&1 || true
  rm -rf "$folder"
}
trap stop EXIT
"${as[@]}" "$bin/initdb" -D "$folder/data" -U zester --auth=trust --encoding=UTF8 >/dev/null
"${as[@]}" "$bin/pg_ctl" -D "$folder/data" -w -l "$folder/log" \
  -o "-c listen_addresses='' -c unix_socket_directories=$folder -c fsync=off" start >/dev/null
"${as[@]}" "$bin/createdb" -h "$folder" -U zester zester
export DATABASE_URL="postgres://zester@/zester?host=$folder"
"$@"
