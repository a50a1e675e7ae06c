#!/usr/bin/env bash
# Tries the README's commands in a plain Debian with nothing but Python: packaging/plain.sh FOLDER [COMMAND …]. As root; makes the Debian with
# debootstrap in FOLDER (once), clones Bendro into it, runs the command (by default bin/start until it answers) and takes its mounts away again.
set -euo pipefail
root="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
plain="${1:?Name the folder}"; shift
command -v debootstrap >/dev/null || apt-get install -y -qq debootstrap >/dev/null
[ -x "$plain/bin/bash" ] || debootstrap --variant=minbase --include=python3,ca-certificates bookworm "$plain" >"$plain.log" 2>&1
cp /etc/resolv.conf /etc/hosts "$plain/etc/" 2>/dev/null || true
mkdir -p "$plain/etc/ssl/certs" && cp /etc/ssl/certs/ca-certificates.crt "$plain/etc/ssl/certs/"
[ ! -e /etc/pip.conf ] || cp /etc/pip.conf "$plain/etc/"
[ ! -e "$HOME/.npmrc" ] || cp "$HOME/.npmrc" "$plain/root/"
rm -rf "$plain/opt/bendro" && git clone -q "$root" "$plain/opt/bendro"
for one in proc sys dev dev/pts dev/shm; do mkdir -p "$plain/$one"; mount --bind "/$one" "$plain/$one"; done
let_go() { for one in dev/shm dev/pts dev sys proc; do umount -l "$plain/$one" || true; done; }
trap let_go EXIT
within() { chroot "$plain" /usr/bin/env -i HOME=/root PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin LANG=C.UTF-8 ${NODE_EXTRA_CA_CERTS:+NODE_EXTRA_CA_CERTS=/etc/ssl/certs/ca-certificates.crt} bash -c "cd /opt/bendro && $1"; }
if [ "$#" -gt 0 ]; then
  within "$*"
  exit
fi
within "bin/start --port 8731" >"$plain.start.log" 2>&1 &
started=$!
for _ in $(seq 900); do
  python3 -c "import urllib.request; print(urllib.request.urlopen('http://127.0.0.1:8731/readyz', timeout=5).read().decode().strip())" 2>/dev/null && break
  kill -0 "$started" 2>/dev/null || { cat "$plain.start.log"; exit 1; }
  sleep 1
done
cat "$plain.start.log"
within "bin/bendro read '14 ft 10 in' --as length"
within "command -v gcc node npm || echo 'no compiler and no Node of its own'"
kill -TERM $(pgrep -f "[b]endro.server --port 8731") || true
wait "$started" || true
