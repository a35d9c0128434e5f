#!/bin/bash
# restore.sh FILE: a backup put into the empty database in JUTREL_OWNER_URL, then checked link by link.
# It refuses a database that already has something in it.
set -euo pipefail
file=${1:?say which backup: restore.sh FILE}
url=${JUTREL_OWNER_URL:?set JUTREL_OWNER_URL to the empty database as its owner}
url=${url/+psycopg/}
jutrel=${JUTREL_COMMAND:-$(dirname "$0")/../.venv/bin/jutrel}
[ "$(psql --no-psqlrc -tAc "select count(*) from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind = 'r'" "$url")" = 0 ] \
  || { echo "this database is not empty: make a new one, and restore into that" >&2; exit 1; }
pg_restore --no-owner --exit-on-error --single-transaction --dbname="$url" "$file"
"$jutrel" migrate
"$jutrel" site put-back
"$jutrel" verify
