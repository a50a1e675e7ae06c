# Sourced by start, test and bendro: installs whatever is missing, says what it does, does nothing the second time.
root="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
export PIP_DISABLE_PIP_VERSION_CHECK=1
unset PYTHONDONTWRITEBYTECODE  # what was compiled once starts a second sooner

say() { printf '%s\n' "$*" >&2; }
fail() { say "bendro: $*"; exit 1; }
stamp_of() { cat "$@" 2>/dev/null | cksum | tr -d ' '; }

apt_install() { # apt_install "what it is for" package...
  local why="$1"; shift
  if ! command -v apt-get >/dev/null || [ "$(id -u)" != 0 ]; then
    fail "$why is missing and cannot be installed from here. Ask an administrator for the Debian package(s): $*"
  fi
  say "Installing $why ($*) …"
  export DEBIAN_FRONTEND=noninteractive
  apt-get install -y -qq --no-install-recommends "$@" >/dev/null 2>&1 || {
    apt-get update -qq >/dev/null 2>&1 || true
    apt-get install -y -qq --no-install-recommends "$@" >"$root/.data/apt.log" 2>&1 || fail "apt could not install $*; see .data/apt.log"
  }
}

find_python() {
  local p
  for p in python3 python3.13 python3.12 python3.11; do
    command -v "$p" >/dev/null && "$p" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null && { echo "$p"; return; }
  done
  fail "Python 3.11 or newer is needed; found $(python3 --version 2>&1 || echo none)."
}

# Pure Python, of which the registry has no wheel; all others come as wheels, so that no compiler is ever needed.
wheels=(--only-binary :all: --no-binary odfpy)

pip_install() { # pip_install REQUIREMENTS: from the registry, or from a folder that bin/bundle made (BENDRO_OFFLINE)
  local pip=("$root/.venv/bin/python" -m pip install -q)
  if [ -n "${BENDRO_OFFLINE:-}" ]; then
    (cd "$BENDRO_OFFLINE/wheels" && sha256sum --check --quiet SHA256SUMS >&2) || fail "What lies in $BENDRO_OFFLINE/wheels is not what bin/bundle put there. Bring the folder anew."
    grep -oE '^[a-z0-9._-]+==[^ ]+' "$root/$1" >"$root/.data/names.txt"
    "${pip[@]}" --no-index --no-deps --only-binary :all: --find-links "$BENDRO_OFFLINE/wheels" -r "$root/.data/names.txt" 2> >(grep -vE '^ *(WARNING|DEPRECATION)' >&2) \
      || fail "The packages in $BENDRO_OFFLINE/wheels do not fit this machine’s Python ($("$root/.venv/bin/python" --version)). Make the folder anew with bin/bundle, under the same Python and kind of processor."
  else
    "${pip[@]}" --require-hashes "${wheels[@]}" -r "$root/$1" 2> >(grep -vE '^ *(WARNING|DEPRECATION)' >&2) || fail "pip could not install the packages in $1."
  fi
}

installed() { [ -x "$root/.venv/bin/python" ] && [ "$(cat "$root/.venv/$2" 2>/dev/null)" = "$(stamp_of "$root/$1")" ]; }

# What runs; and what tests need besides, which a school never installs.
setup_python() { setup_packages requirements.txt stamp; }
setup_tests() { setup_python; setup_packages requirements-test.txt stamp-test; }

setup_packages() { # setup_packages REQUIREMENTS STAMP
  mkdir -p "$root/.data"
  installed "$1" "$2" && return 0
  (
    flock 9
    installed "$1" "$2" && exit 0
    if [ ! -x "$root/.venv/bin/python" ]; then
      local python; python="$(find_python)"
      say "Setting up the Python environment …"
      "$python" -m venv "$root/.venv" 2>/dev/null || { apt_install "Python's venv module" python3-venv && "$python" -m venv "$root/.venv"; }
    fi
    pip_install "$1"
    stamp_of "$root/$1" >"$root/.venv/$2"
  ) 9>"$root/.data/setup.lock"
}

setup_postgres() {
  compgen -G '/usr/lib/postgresql/*/bin/postgres' >/dev/null && return 0
  command -v postgres >/dev/null && command -v initdb >/dev/null && return 0
  mkdir -p "$root/.data"
  # postgresql-common would start a cluster of its own; Bendro only wants the programs.
  if [ "$(id -u)" = 0 ] && [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    mkdir -p /etc/postgresql-common && echo 'create_main_cluster = false' >/etc/postgresql-common/createcluster.conf
  fi
  apt_install "the PostgreSQL server" postgresql
}

setup_chromium() {
  command -v chromium >/dev/null || command -v chromium-browser >/dev/null || apt_install "the Chromium browser for the tests" chromium
}

setup_pooler() {
  [ -x /usr/sbin/pgbouncer ] || RUNLEVEL=1 apt_install "the pooler that lies before the database in the tests" pgbouncer
}

setup_office() {
  command -v soffice >/dev/null || apt_install "the free office suite that opens the spreadsheets in the tests" libreoffice-calc-nogui
}

node_ok() { command -v node >/dev/null && command -v npm >/dev/null && node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>22||(a==22&&b>=12)||(a==20&&b>=19)?0:1)'; }

setup_node() {
  node_ok && return 0
  say "Node 20.19 or newer was not found; taking it from a Python package …"
  "$root/.venv/bin/python" -m pip install -q --require-hashes -r "$root/requirements-node.txt" 2> >(grep -vE '^ *(WARNING|DEPRECATION)' >&2) || fail "Node is missing and could not be installed."
  export PATH="$root/.venv/bin:$PATH"
  node_ok || fail "Node 20.19 or newer is needed; found $(node --version 2>&1 || echo none)."
}

# By what the built pages are known to be those of this source.
pages_stamp() {
  { find "$root/web" \( -name node_modules -o -name dist -o -name '.*' ! -path "$root/web" \) -prune -o -type f -print0; printf '%s\0' "$root/docs/openapi.json"; } \
    | LC_ALL=C sort -z | xargs -0 cat | cksum | tr -d ' '
}

take_pages() { # take_pages FOLDER: pages that were built elsewhere
  [ -f "$root/web/dist/.stamp" ] && cmp -s "$1/.stamp" "$root/web/dist/.stamp" && return 0
  rm -rf "$root/web/dist" && mkdir -p "$root/web/dist" && cp -R "$1/." "$root/web/dist/"
  touch "$root/web/dist/.brought"
}

setup_web() {
  local want; want="$(pages_stamp)"
  if [ -f "$root/web/dist/.brought" ] && [ "$(cat "$root/web/dist/.stamp" 2>/dev/null)" != "$want" ]; then
    [ -z "${BENDRO_OFFLINE:-}" ] || fail "The pages in $BENDRO_OFFLINE are of another version of Bendro than this folder. Make the bundle anew from this one."
  fi
  [ -f "$root/web/dist/index.html" ] && [ "$(cat "$root/web/dist/.stamp" 2>/dev/null)" = "$want" ] && return 0
  mkdir -p "$root/.data"
  (
    flock 9
    [ -f "$root/web/dist/index.html" ] && [ "$(cat "$root/web/dist/.stamp" 2>/dev/null)" = "$want" ] && exit 0
    setup_node
    cd "$root/web"
    local lock; lock="$(stamp_of package-lock.json)"
    if [ "$(cat node_modules/.stamp 2>/dev/null)" != "$lock" ]; then
      say "Installing the web packages …"
      npm ci --no-audit --no-fund >"$root/.data/npm.log" 2>&1 || fail "npm could not install the web packages; see .data/npm.log"
      echo "$lock" >node_modules/.stamp
    fi
    say "Building the web pages …"
    npm run --silent build >"$root/.data/build.log" 2>&1 || { tail -30 "$root/.data/build.log" >&2; fail "the web pages could not be built; see .data/build.log"; }
    "$root/.venv/bin/python" "$root/packaging/licences.py" dist/licences.txt || fail "the licences of third parties could not be collected."
    echo "$want" >dist/.stamp
  ) 9>"$root/.data/setup.lock"
}
