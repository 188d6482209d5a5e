#!/usr/bin/env bash
# Ten thousand sham registrations in a minute (COUNT=…, SECONDS_OF=…), from one network and from ten thousand, and what a member notices of it.
# WARY_BENCH_POSTGRES names a server (Host=…;Port=…;Username=…) to measure as well; without it, SQLite alone.
set -euo pipefail
cd "$(dirname "$0")/.."
count=${COUNT:-10000} seconds=${SECONDS_OF:-60}
here=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2>/dev/null || true; rm -rf "$here"' EXIT
dotnet publish src/WarySentinel.Service -c Release -r linux-x64 --self-contained false -o "$here/service" --nologo -v quiet -clp:ErrorsOnly
dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
admin=http://127.0.0.1:7681 site=http://127.0.0.1:7680
api() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' "$@"; }
resident() { awk '/VmRSS/ { printf "%d", $2 / 1024 }' "/proc/$service/status"; }

measure() { # measure PROVIDER CONNECTION
  local provider=$1 code page
  echo "== $provider"
  WARY__SITELISTEN=$site WARY__ADMINLISTEN=$admin WARY__SITEURL=$site WARY__ADMINURL=$admin WARY__DATA=$here/$provider WARY__CONNECTION=$2 \
    WARY__DATABASE=$provider WARY__TRUSTEDPROXIES__0=127.0.0.1 WARY__SMTP=smtp://127.0.0.1:9 WARY__MAILFROM=lamp@site.example \
    dotnet "$here/service/WarySentinel.Service.dll" >"$here/log-$provider" 2>&1 &
  service=$!
  pids+=("$service")
  until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
  until code=$(grep -o 'code=[0-9a-f]*' "$here/log-$provider"); do sleep 0.1; done
  api $admin/api/v1/first-owner -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
  token=$(api $admin/api/v1/tokens -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' \
    | sed 's/.*"token":"\([^"]*\)".*/\1/')
  api -X PUT -H 'If-Match: *' $admin/api/v1/settings -d '{"joining":{"way":"approval","confirm":true}}' >/dev/null
  api $admin/api/v1/members -d '{"email":"holder@x.example","name":"Holder","password":"a-long-enough-one"}' >/dev/null
  page=$(curl -s -c "$here/jar" $site/account/sign-in)
  curl -s -b "$here/jar" -c "$here/jar" -o /dev/null -d name=holder@x.example -d password=a-long-enough-one $site/account/sign-in \
    --data-urlencode "__RequestVerificationToken=$(grep -o 'RequestVerificationToken" value="[^"]*' <<<"$page" | sed 's/.*value="//')"
  local cookie networks
  cookie="wary=$(awk '$6 == "wary" { print $7 }' "$here/jar")"
  for networks in 1 10000; do
    echo "resident before: $(resident) MB"
    dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll joins $site "$count" "$seconds" "$networks" "$cookie"
    echo "resident after: $(resident) MB; accounts: $(api $admin/api/v1/requests/counts | tr -d '\n')"
  done
  kill $service
  wait $service 2>/dev/null || true
}

measure sqlite "Data Source=$here/joining.db"
if [ -n "${WARY_BENCH_POSTGRES:-}" ]; then
  psql -qh "$(sed 's/.*Host=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -p "$(sed 's/.*Port=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -U postgres \
    -c 'DROP DATABASE IF EXISTS bench_joining' -c 'CREATE DATABASE bench_joining'
  measure postgres "$WARY_BENCH_POSTGRES;Database=bench_joining"
fi
