#!/usr/bin/env bash
# Measures the two lanes of change at 100,000 items, 2,000 gates, 10,000 groups and a million members (MEMBERS=…) on SQLite and on PostgreSQL.
# WARY_BENCH_POSTGRES names a server (Host=…;Port=…;Username=…); without it, one is started as the tests do.
set -euo pipefail
cd "$(dirname "$0")/.."
members=${MEMBERS:-1000000} writes=${WRITES:-6000}
keep=${KEEP:-}
here=${keep:-$(mktemp -d)}
mkdir -p "$here"
chmod 755 "$here"
pids=() server=
as_postgres() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
finish() {
  kill "${pids[@]}" 2>/dev/null || true
  [ -n "$server" ] && as_postgres "$pgbin/pg_ctl" -D "$here/pg/data" -m fast stop >/dev/null
  [ -n "$keep" ] || rm -rf "$here"
}
trap finish EXIT
# As it is installed: compiled ahead (docs/how-to/postgresql.md).
dotnet publish src/WarySentinel.Service -c Release -r linux-x64 --self-contained false -o "$here/service" --nologo -v quiet -clp:ErrorsOnly
dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
bench=(dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll)
command -v wrk >/dev/null || { apt-get update -qq && apt-get install -y -qq --no-install-recommends wrk >/dev/null; }
secret=$(head -c 32 /dev/urandom | base64)
postgres=${WARY_BENCH_POSTGRES:-}
if [ -z "$postgres" ] && [ "${1:-}" != sqlite ]; then
  pgbin=$(dirname "$(ls /usr/lib/postgresql/*/bin/initdb | tail -1)")
  mkdir -p "$here/pg"
  [ "$(id -u)" = 0 ] && chown postgres "$here/pg"
  [ -d "$here/pg/data" ] || as_postgres "$pgbin/initdb" -D "$here/pg/data" -U postgres -A trust >/dev/null
  as_postgres "$pgbin/pg_ctl" -D "$here/pg/data" -w -l "$here/pg/log" -o "-p 5545 -k $here/pg -c listen_addresses=127.0.0.1 -c max_connections=300 -c shared_buffers=512MB" start >/dev/null
  server=yes
  postgres="Host=127.0.0.1;Port=5545;Username=postgres"
fi

start() { # start NUMBER CONNECTION PROVIDER : one machine, and how long until it answers
  local n=$1 at
  at=$(date +%s%N)
  WARY__SITELISTEN=http://127.0.0.1:76${n}0 WARY__ADMINLISTEN=http://127.0.0.1:76${n}1 WARY__SITEURL=http://127.0.0.1:7610 WARY__ADMINURL=http://127.0.0.1:76${n}1 \
    WARY__DATA=$here/$3-$n WARY__CONNECTION=$2 WARY__DATABASE=$3 WARY__SECRET=$secret DOTNET_gcServer=0 MALLOC_ARENA_MAX=2 \
    dotnet "$here/service/WarySentinel.Service.dll" >"$here/log-$n" 2>&1 &
  last=$!
  pids+=("$last")
  until curl -sf "http://127.0.0.1:76${n}1/health/ready" >/dev/null; do
    kill -0 "$last" 2>/dev/null || { cat "$here/log-$n" >&2; exit 1; }
    sleep 0.02
  done
  awk -v ns=$(($(date +%s%N) - at)) -v kb="$(awk '/VmRSS/ { print $2 }' "/proc/$last/status")" -v n="$n" \
    'BEGIN { printf "machine %d: first answer after %.2f s, %d MB resident\n", n, ns / 1e9, kb / 1024 }'
}
resident() { awk -v kb="$(awk '/VmRSS/ { print $2 }' "/proc/$last/status")" 'BEGIN { printf "resident after it all: %d MB\n", kb / 1024 }'; }
post() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' -d "$2" "http://127.0.0.1:7611$1"; }

measure() { # measure PROVIDER CONNECTION
  local provider=$1 connection=$2
  echo "== $provider, $members members"
  if [ ! -e "$here/$provider-seeded" ]; then
    "${bench[@]}" seed "$provider" "$connection" "$members"
    touch "$here/$provider-seeded"
  fi
  start 1 "$connection" "$provider"
  local machines=http://127.0.0.1:7611 sites=http://127.0.0.1:7610
  local code
  code=$(grep -o 'code=[0-9a-f]*' "$here/log-1" | cut -d= -f2 || true)
  [ -z "$code" ] || post /api/v1/first-owner "{\"code\":\"$code\",\"email\":\"owner@fernlight.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
  token=$(post /api/v1/tokens '{"label":"bench","scopes":["read","write","decide"],"signIn":{"name":"owner@fernlight.example","password":"keep-the-lamp-lit"}}' | sed 's/.*"token":"\([^"]*\)".*/\1/')
  post /api/v1/members '{"email":"holder@fernlight.example","name":"Holder","password":"a-long-enough-one"}' >/dev/null || true
  post /api/v1/gates '{"key":"held","title":"Held","covers":["product:p2020"],"audience":"group:k77"}' >/dev/null || true
  post /api/v1/gates '{"key":"inside","title":"Inside","covers":["product:p6060"],"audience":"signed-in"}' >/dev/null || true
  post /api/v1/gates '{"key":"vault","title":"Vault","covers":["product:p4040"],"audience":"password"}' >/dev/null || true
  post /api/v1/passwords '{"gate":"vault","label":"Bench","password":"open-the-bench-vault"}' >/dev/null || true
  if [ "$provider" = postgres ]; then
    start 2 "$connection" "$provider"
    machines=$machines,http://127.0.0.1:7621 sites=$sites,http://127.0.0.1:7620
  fi
  "${bench[@]}" people search "$machines" "$sites" "$token"
  "${bench[@]}" people write "$machines" "$sites" "$token" "$members" "$writes"
  local page form cookie
  page=$(curl -s -c "$here/jar" http://127.0.0.1:7610/account/sign-in)
  form=$(grep -o 'name="__RequestVerificationToken" value="[^"]*"' <<<"$page" | sed 's/.*value="//; s/"$//')
  curl -s -b "$here/jar" -c "$here/jar" -o /dev/null --data-urlencode "__RequestVerificationToken=$form" -d name=holder@fernlight.example -d password=a-long-enough-one http://127.0.0.1:7610/account/sign-in
  cookie="wary=$(awk '$6 == "wary" { print $7 }' "$here/jar")"
  if [ "$provider" = postgres ]; then
    "${bench[@]}" people holds "$machines" "$sites" "$token" holder@fernlight.example "$cookie" /p/2020 group:k77
    "${bench[@]}" people ends "$machines" "$sites" "$token" holder@fernlight.example a-long-enough-one /p/6060 vault /p/4040 open-the-bench-vault
  fi
  ratio "check, signed in, against a bare 204" "$cookie"
  local number
  for number in 0 1 2 3 4 5 6 7 8 9; do
    curl -sf -X PUT -o /dev/null -H "Authorization: Bearer $token" -H 'Content-Type: application/json' \
      -d '{"title":"Terms '$number'","text":"Be kind.","audience":"group:k78"}' "http://127.0.0.1:7611/api/v1/terms/bench-$number"
  done
  ratio "the same with ten terms" "$cookie"
  # Where it has nothing to do it waits: whoever loads a machine takes as little of it as can be.
  DOTNET_ThreadPool_UnfairSemaphoreSpinLimit=0 "${bench[@]}" people pace http://127.0.0.1:7611 "$sites" "$token" "$members" 500 48 &
  local pacing=$!
  sleep 1
  ratio "the same while 500 grants a second are written" "$cookie"
  wait $pacing
  resident
  kill "${pids[@]}" 2>/dev/null || true
  wait 2>/dev/null || true
  pids=()
}
load() { wrk -t1 -c16 -d2s "$@" | awk '/Requests\/sec/ { print $2 }'; }
cpu() { awk '{ print $14 + $15 }' "/proc/${pids[0]}/stat"; }
ratio() {
  "${bench[@]}" bare-204 http://127.0.0.1:7630 >/dev/null 2>&1 &
  local bare=$! ratios=() a b
  until curl -sf http://127.0.0.1:7630/ >/dev/null; do sleep 0.05; done
  # An answer of 204, as the bare one is; the first seconds are the compiler's.
  [ "$(curl -s -o /dev/null -w '%{http_code}' -H "Cookie: $2" -H "X-Original-URI: /p/6060" http://127.0.0.1:7610/sentinel/check)" = 204 ]
  load -H "Cookie: $2" -H "X-Original-URI: /p/6060" http://127.0.0.1:7610/sentinel/check >/dev/null
  load http://127.0.0.1:7630/ >/dev/null
  # What the machine itself takes of the processors for a check: while the bare one answers, it has only what else it does to do.
  local used answered=0 spent=0
  for _ in 1 2 3 4 5; do
    used=$(cpu)
    a=$(load -H "Cookie: $2" -H "X-Original-URI: /p/6060" http://127.0.0.1:7610/sentinel/check)
    spent=$((spent + $(cpu) - used)) used=$(cpu)
    b=$(load -H "Cookie: $2" http://127.0.0.1:7630/)
    spent=$((spent - $(cpu) + used)) answered=$(awk -v n="$answered" -v a="$a" 'BEGIN { print n + 2 * a }')
    ratios+=("$(awk -v a="$a" -v b="$b" 'BEGIN { printf "%.2f", a / b }')")
  done
  kill $bare
  printf '%s: ratio %s (min/med/max of 5 pairs), %s µs of a processor for each\n' "$1" \
    "$(printf '%s\n' "${ratios[@]}" | sort -n | awk '{ v[NR] = $1 } END { print v[1] " / " v[3] " / " v[5] }')" \
    "$(awk -v spent="$spent" -v n="$answered" 'BEGIN { printf "%.1f", spent * 10000 / n }')"
}

case ${1:-both} in
  sqlite | both) measure sqlite "Data Source=$here/large.db" ;;
esac
case ${1:-both} in
  postgres | both)
    if [ ! -e "$here/postgres-seeded" ]; then
      psql -qh "$(sed 's/.*Host=\([^;]*\).*/\1/' <<<"$postgres")" -p "$(sed 's/.*Port=\([^;]*\).*/\1/' <<<"$postgres")" -U postgres -c 'CREATE DATABASE wary_large'
    fi
    measure postgres "$postgres;Database=wary_large;Maximum Pool Size=60"
    ;;
esac
