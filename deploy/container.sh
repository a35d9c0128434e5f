#!/bin/bash
# container.sh OUT.tar: an image of the server for docker or podman, made of Debian's packages and this folder alone; no
# other image is fetched. As root (or with user namespaces); needs Debian's mmdebstrap, and scripts/setup.sh done.
#
#   deploy/container.sh jutrel.tar && podman load < jutrel.tar
#   podman run --env-file jutrel.env --publish 127.0.0.1:8000:8000 jutrel          # serves
#   podman run --env-file owner.env jutrel migrate                                 # any other command
#
# PostgreSQL is not in it: the address in JUTREL_DATABASE_URL is one that the container reaches.
set -euo pipefail
out=$(realpath -m "${1:?say where the image goes: container.sh OUT.tar}")
cd "$(dirname "$0")/.."
command -v mmdebstrap >/dev/null || { echo "Cannot go on: please install mmdebstrap." >&2; exit 1; }
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
scripts/wheel.sh "$work/wheels" >/dev/null
# What it needs from others is fetched here, by its hash, and installed there with no network.
.venv/bin/python -m pip download -q --disable-pip-version-check --require-hashes -r requirements/app.txt -d "$work/wheels"
cat > "$work/install" <<'INSTALL'
set -eu
chroot "$1" useradd --system --no-create-home --home-dir /nonexistent --shell /usr/sbin/nologin jutrel_serve
chroot "$1" python3 -m venv /opt/jutrel
chroot "$1" /opt/jutrel/bin/pip install -q --no-index --find-links /wheels --disable-pip-version-check --no-deps \
  $(cd "$1/wheels" && for f in *.whl *.tar.gz; do [ -e "$f" ] && echo "/wheels/$f"; done)
rm -rf "$1/wheels" "$1/root/.cache" "$1/var/cache/apt" "$1/var/lib/apt/lists" "$1/usr/share/doc" "$1/usr/share/man"
INSTALL
mmdebstrap --quiet --variant=minbase --include=python3,python3-venv \
  --customize-hook="copy-in $work/wheels /" --customize-hook="sh $work/install \"\$1\"" \
  "$(. /etc/os-release && echo "$VERSION_CODENAME")" "$work/layer.tar" $(ls /etc/apt/sources.list.d/*.sources 2>/dev/null || echo /etc/apt/sources.list)
.venv/bin/python scripts/image.py "$work/layer.tar" "$out"
echo "$out"
