#!/usr/bin/env bash
# Brings a bare machine to where the project runs. Every step is skipped when it is already done.
#   scripts/setup.sh app    what `make demo` needs
#   scripts/setup.sh dev    what tests and checks need besides
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-app}

say() { printf '\033[1m%s\033[0m\n' "$*"; }
stop() { printf 'Cannot go on: %s\n' "$*" >&2; exit 1; }

# Two set-ups of one folder at once would spoil each other's: the second waits for the first.
mkdir -p .jutrel 2>/dev/null && : 2>/dev/null > .jutrel/setup.lock || stop "nothing can be written in $PWD: make it writable for $(id -un), or clone the project elsewhere"
if command -v flock >/dev/null; then
  exec 9> .jutrel/setup.lock
  flock -n 9 || { say "Another set-up is at work in this folder: waiting for it"; flock -w 900 9 || stop "another set-up has been at work here for a quarter of an hour; try again when it is done"; }
fi

missing=()
command -v python3 >/dev/null || missing+=(python3)
python3 -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3-venv)
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || command -v initdb >/dev/null || missing+=(postgresql)
if [ "$what" = dev ]; then [ -x /usr/bin/chromium ] || missing+=(chromium); fi
if [ ${#missing[@]} -gt 0 ]; then
  say "Installing system packages: ${missing[*]} (a minute or two)"
  command -v apt-get >/dev/null || stop "please install ${missing[*]} with your system's package manager"
  if [ "$(id -u)" = 0 ]; then as=(env DEBIAN_FRONTEND=noninteractive)
  elif command -v sudo >/dev/null; then as=(sudo env DEBIAN_FRONTEND=noninteractive)
  else stop "packages are missing and you are not root: ask for  apt-get install ${missing[*]}"; fi
  # Somebody else may be installing something just now: that is waited for, and is not the network's fault.
  waited=0
  until told=$("${as[@]}" apt-get update -qq 2>&1); do
    grep -qi "lock" <<<"$told" || stop "the package list could not be read; check the network"
    [ $waited = 0 ] && say "Another installation is at work: waiting for it"
    [ $waited -lt 300 ] || stop "another installation has been at work for five minutes; try again when it is done"
    sleep 5; waited=$((waited + 5))
  done
  "${as[@]}" apt-get -o DPkg::Lock::Timeout=300 install -y -qq --no-install-recommends "${missing[@]}" >/tmp/jutrel-apt.log 2>&1 || stop "apt-get could not install ${missing[*]}; see /tmp/jutrel-apt.log"
fi
python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || stop "Python 3.11 or newer is needed; this is $(python3 --version)"

stamp() { cat "$@" | sha256sum | cut -c1-16; }
.venv/bin/python -c '' 2>/dev/null || { say "Making the Python environment"; rm -rf .venv; python3 -m venv .venv; }
want=$(stamp requirements/dev.txt pyproject.toml)
[ "$what" = dev ] || want=$(stamp requirements/app.txt pyproject.toml)
have=$(cat .venv/made-for 2>/dev/null || true)
case " $have " in
  *" $what:$want "*) ;;
  *)
    say "Installing Python packages (one to three minutes the first time)"
    rm -f .venv/made-for
    .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r "requirements/$what.txt" 2>.venv/pip.log \
      || { grep -i error .venv/pip.log | tail -n 3 >&2; stop "Python packages could not be installed; see .venv/pip.log"; }
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e . 2>>.venv/pip.log \
      || { tail -n 3 .venv/pip.log >&2; stop "the project itself could not be installed; see .venv/pip.log"; }
    app=$(stamp requirements/app.txt pyproject.toml)
    if [ "$what" = dev ]; then echo "app:$app dev:$want" > .venv/made-for; else echo "app:$app" > .venv/made-for; fi ;;
esac

node_ok() { command -v "$1" >/dev/null && "$1" -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||(a===20&&b>=19)?0:1)'; }
if ! { node_ok node && command -v npm >/dev/null; }; then
  if ! node_ok .venv/bin/node; then
    say "Installing Node (the system has none, or one older than 20.19)"
    .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements/node.txt || stop "Node could not be installed"
  fi
  PATH="$PWD/.venv/bin:$PATH"; export PATH
fi
want=$(stamp web/package-lock.json)
if [ "$(cat web/node_modules/made-for 2>/dev/null || true)" != "$want" ]; then
  say "Installing web packages (about a minute)"
  (cd web && npm ci --no-audit --no-fund --loglevel=error) || stop "web packages could not be installed"
  echo "$want" > web/node_modules/made-for
fi
mkdir -p src/jutrel/exchange/fonts
for font in DejaVuSans.ttf DejaVuSans-Bold.ttf; do
  cmp -s "web/node_modules/dejavu-fonts-ttf/ttf/$font" "src/jutrel/exchange/fonts/$font" \
    || cp "web/node_modules/dejavu-fonts-ttf/ttf/$font" src/jutrel/exchange/fonts/
done
want=$(find web/src web/public web/index.html web/vite.config.ts web/package-lock.json src/jutrel -type f \
  \( -name '*.py' -o -name 'interface.json' -o -not -path 'src/*' \) -not -path '*/api/schema.d.ts' -not -path '*/api/openapi.json' -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-16)
if [ "$(cat web/dist/made-for 2>/dev/null || true)" != "$want" ]; then
  say "Building the front end"
  .venv/bin/jutrel openapi > web/src/api/openapi.json
  (cd web && npm run -s types >/dev/null && npm run -s build >build.log 2>&1) || { tail -n 20 web/build.log >&2; stop "the front end could not be built"; }
  rm -f web/build.log
  echo "$want" > web/dist/made-for
fi
