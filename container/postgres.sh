#!/bin/sh
# Makes the database where there is none yet, and runs it for the network of the compose file.
set -e
: "${POSTGRES_PASSWORD:?Say a password: POSTGRES_PASSWORD=… docker compose up}"
if [ ! -s "$PGDATA/PG_VERSION" ]; then
  secret="$(mktemp)"
  printf '%s' "$POSTGRES_PASSWORD" >"$secret"
  initdb --username=zonula --pwfile="$secret" --auth=scram-sha-256 --encoding=UTF8 --locale=C.UTF-8
  rm "$secret"
  echo 'host all all all scram-sha-256' >>"$PGDATA/pg_hba.conf"
  pg_ctl -w -o "-c listen_addresses=127.0.0.1" start
  PGPASSWORD="$POSTGRES_PASSWORD" createdb --host=127.0.0.1 --username=zonula zonula
  pg_ctl -w stop
fi
exec postgres -c listen_addresses='*' -c max_connections=60 -c autovacuum_naptime=15s
