#!/usr/bin/env bash
# Ten thousand sham registrations in a minute (COUNT=…, SECONDS_OF=…), from one network and from ten thousand, and what a member notices of it.
# WARY_BENCH_POSTGRES names a server (Host=…;Port=…;Username=…) to measure as well; without it, SQLite alone.
set -euo pipefail
cd "$(dirname "$0")/.."
count=${COUNT:-10000} seconds=${SECONDS_OF:-60}
. bench/service.sh
publish
resident() { awk '/VmRSS/ { printf "%d", $2 / 1024 }' "/proc/$service/status"; }

measure() { # measure PROVIDER CONNECTION
  local provider=$1 page
  echo "== $provider"
  serve "$provider" "WARY__CONNECTION=$2" WARY__DATABASE="$provider" WARY__TRUSTEDPROXIES__0=127.0.0.1 WARY__SMTP=smtp://127.0.0.1:9 \
    WARY__MAILFROM=lamp@site.example
  api -X PUT -H 'If-Match: *' $admin/api/v1/settings -d '{"joining":{"way":"approval","confirm":true}}' >/dev/null
  api $admin/api/v1/members -d '{"email":"holder@x.example","name":"Holder","password":"a-long-enough-one"}' >/dev/null
  page=$(curl -s -c "$here/jar" $site/account/sign-in)
  curl -s -b "$here/jar" -c "$here/jar" -o /dev/null -d name=holder@x.example -d password=a-long-enough-one $site/account/sign-in \
    --data-urlencode "__RequestVerificationToken=$(grep -o 'RequestVerificationToken" value="[^"]*' <<<"$page" | sed 's/.*value="//')"
  local cookie networks
  cookie="wary=$(awk '$6 == "wary" { print $7 }' "$here/jar")"
  for networks in 1 10000; do
    echo "resident before: $(resident) MB"
    "${bench[@]}" joins $site "$count" "$seconds" "$networks" "$cookie"
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
