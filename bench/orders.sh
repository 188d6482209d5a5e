#!/usr/bin/env bash
# Orders by web hook: from the hook to the open door, and a flood of ten thousand (COUNT=…). "orders.sh kill [KILLS [sqlite|postgres]]" kills the service among
# orders instead, so often as said (500 on each database unless said), and counts what came of them.
# WARY_BENCH_POSTGRES names a server (Host=…;Port=…;Username=…) to measure as well; without it, SQLite alone.
set -euo pipefail
cd "$(dirname "$0")/.."
if [ "${1:-}" = kill ]; then
  dotnet build tests/WarySentinel.Service.Tests -v q --nologo >/dev/null
  # Compiled ahead: what is killed so often should not spend its time on starting.
  program=$(mktemp -d)
  trap 'rm -rf "$program"' EXIT
  dotnet publish src/WarySentinel.Service -c Release -r "linux-$(uname -m | sed 's/x86_64/x64/; s/aarch64/arm64/')" --no-self-contained --nologo -v quiet \
    -clp:ErrorsOnly -o "$program"
  export WARY_TEST_SERVICE=$program/WarySentinel.Service
  export DOTNET_SYSTEM_GLOBALIZATION_INVARIANT=0 WARY_ORDER_TRIALS=${2:-500} WARY_TEST_POSTGRES=${WARY_BENCH_POSTGRES:-${WARY_TEST_POSTGRES:-}}
  tests/WarySentinel.Service.Tests/bin/Debug/net10.0/WarySentinel.Service.Tests -class '*OrderKillTests' -method "*_on_${3:-*}"
  exit
fi

count=${COUNT:-10000}
here=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2>/dev/null || true; rm -rf "$here"' EXIT
dotnet build src/WarySentinel.Service -c Release --nologo -v quiet -clp:ErrorsOnly
dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
admin=http://127.0.0.1:7681 site=http://127.0.0.1:7680 secret=whsec_$(head -c 32 /dev/urandom | base64 -w0)
api() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' -H 'If-Match: *' "$@"; }

measure() { # measure PROVIDER CONNECTION
  local provider=$1 code
  echo "== $provider"
  WARY__SITELISTEN=$site WARY__ADMINLISTEN=$admin WARY__SITEURL=$site WARY__ADMINURL=$admin WARY__DATA=$here/$provider WARY__CONNECTION=$2 \
    WARY__DATABASE=$provider WARY__LOGLEVEL=Warning dotnet src/WarySentinel.Service/bin/Release/net10.0/WarySentinel.Service.dll >"$here/log-$provider" 2>&1 &
  local service=$!
  pids+=("$service")
  until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
  until code=$(grep -o 'code=[0-9a-f]*' "$here/log-$provider"); do sleep 0.1; done
  token=
  api $admin/api/v1/first-owner -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
  token=$(api $admin/api/v1/tokens -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' \
    | sed 's/.*"token":"\([^"]*\)".*/\1/')
  api $admin/api/v1/plans -d '{"key":"patron","title":"Patron","length":"P1Y"}' >/dev/null
  api -X PUT $admin/api/v1/fulfilment/patron -d '{"code":"PATRON","gives":["plan:patron"]}' >/dev/null
  api -X PUT $admin/api/v1/order-sources/bench -d '{"title":"Bench"}' >/dev/null
  api $admin/api/v1/order-sources/bench/secret -d "{\"secret\":\"$secret\"}" >/dev/null
  dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll orders $site $admin "$token" "$secret" "$count" 32
  kill "$service"; wait "$service" 2>/dev/null || true
}

measure sqlite ""
if [ -n "${WARY_BENCH_POSTGRES:-}" ]; then
  name=wary_orders_$$
  sql() { psql -qh "$(sed 's/.*Host=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -p "$(sed 's/.*Port=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -U postgres -c "$1"; }
  sql "CREATE DATABASE $name"
  measure postgres "$WARY_BENCH_POSTGRES;Database=$name"
  sql "DROP DATABASE $name WITH (FORCE)"
fi
