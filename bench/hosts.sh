#!/bin/sh
# Two web hosts, two workers, a primary with a streaming replica and a proxy, each in a network namespace of its own; one of each is
# killed in turn while people work, and a table says what they noticed. Run as root, where ./tally ran once: it takes some three minutes.
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
[ "$(id -u)" = 0 ] || { echo "This lays out networks, so it runs as root."; exit 1; }
for tool in ip nginx runuser; do
    command -v "$tool" > /dev/null || { echo "$tool is needed: apt-get install iproute2 nginx-light util-linux"; exit 1; }
done
[ -x "$here/.venv/bin/python" ] || { echo "Run ./tally serve once: it installs what the hosts run."; exit 1; }
cd "$here"
PYTHONPATH="$here/core:$here/server:$here" exec "$here/.venv/bin/python" -m bench.hosts_trial
