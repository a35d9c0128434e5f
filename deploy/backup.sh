#!/bin/bash
# backup.sh FOLDER [KEEP_DAYS]: a backup of the database in JUTREL_OWNER_URL, read back before it counts.
# It writes FOLDER/jutrel-TIME.dump, touches FOLDER/newest, and takes away dumps older than KEEP_DAYS (30).
set -euo pipefail
umask 077
folder=${1:?say where backups are kept: backup.sh FOLDER}
keep=${2:-30}
url=${JUTREL_OWNER_URL:?set JUTREL_OWNER_URL to the database as its owner}
url=${url/+psycopg/}
jutrel=${JUTREL_COMMAND:-$(dirname "$0")/../.venv/bin/jutrel}
mkdir -p "$folder"
began=$(date -u +%Y-%m-%dT%H:%M:%SZ)
file="$folder/jutrel-$(date -u +%Y%m%dT%H%M%SZ).dump"
trap 'rm -f "$file.part" "$file.list"' EXIT
pg_dump --format=custom --no-owner --file="$file.part" "$url"
# A dump that cannot be read is none: its list names the log, and its data can be written out again.
pg_restore --list "$file.part" > "$file.list"
grep -q "TABLE DATA public entry" "$file.list" || { echo "the dump has no log in it" >&2; exit 1; }
pg_restore --file=/dev/null "$file.part"
mv "$file.part" "$file"
touch "$folder/newest"
# Tablets may now let go of what this dump holds; they keep the rest.
"$jutrel" site backed-up "$began"
find "$folder" -name 'jutrel-*.dump' -mtime "+$keep" -delete
echo "$file"
