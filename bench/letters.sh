#!/usr/bin/env bash
# Ten thousand letters (LETTERS=…) to a local mail server, and how long one that somebody waits for takes meanwhile.
# WARY_BENCH_POSTGRES names a server (Host=…;Port=…;Username=…) to measure as well; without it, SQLite alone. “letters.sh postgres” measures that alone.
set -euo pipefail
cd "$(dirname "$0")/.."
letters=${LETTERS:-10000}
here=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2>/dev/null || true; rm -rf "$here"' EXIT
dotnet publish src/WarySentinel.Service -c Release -o "$here/service" --nologo -v quiet -clp:ErrorsOnly
dotnet publish src/WarySentinel.StandIns -c Release -o "$here/stand-ins" --nologo -v quiet -clp:ErrorsOnly
admin=http://127.0.0.1:7661 mail=http://127.0.0.1:7672
api() { curl -sf -H "Authorization: Bearer ${token:-}" "$@"; }
count() { api "$admin/api/v1/letters/outbox" | sed 's/.*"waiting":\([0-9]*\).*/\1/'; }

measure() { # measure PROVIDER CONNECTION
  local provider=$1 connection=$2 code started
  WARY__SITELISTEN=http://127.0.0.1:7660 WARY__ADMINLISTEN=$admin WARY__SITEURL=http://127.0.0.1:7660 WARY__ADMINURL=$admin WARY__DATA=$here/$provider \
    WARY__CONNECTION=$connection WARY__DATABASE=$provider WARY__SMTP=smtp://127.0.0.1:7673 WARY__MAILFROM=lamp@site.example WARY__PROOFSBURST=10000 \
    dotnet "$here/service/WarySentinel.Service.dll" >"$here/log-$provider" 2>&1 &
  local service=$!
  dotnet "$here/stand-ins/WarySentinel.StandIns.dll" --shop http://127.0.0.1:7674 --smtp 7673 --mailbox $mail >/dev/null 2>&1 &
  local box=$!
  pids+=($service $box)
  until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
  until code=$(grep -o 'code=[0-9a-f]*' "$here/log-$provider"); do sleep 0.1; done
  curl -sf -H 'Content-Type: application/json' $admin/api/v1/first-owner \
    -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
  token=$(curl -sf -H 'Content-Type: application/json' $admin/api/v1/tokens \
    -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' | sed 's/.*"token":"\([^"]*\)".*/\1/')
  { echo email,name; seq -f 'm%.0f@x.example,Some One' 1 "$letters"; } | api -o /dev/null -H 'Content-Type: text/csv' --data-binary @- "$admin/api/v1/members/import?dryRun=false"
  # Those who will wait have a password, so that there is something to forget.
  for n in $(seq 20); do
    api -o /dev/null -H 'Content-Type: application/json' $admin/api/v1/members -d "{\"email\":\"w$n@wait.example\",\"name\":\"Waits\",\"password\":\"keep-the-lamp-lit-$n\"}"
  done
  started=$(date +%s%N)
  api -o /dev/null -N -H 'Content-Type: application/json' $admin/api/v1/members/bulk -d '{"do":"tell","filter":{"search":"x.example"},"subject":"Open dome","text":"Dear {name},\n\nthe dome is open on Friday."}' &
  local writing=$!
  sleep 3
  for n in $(seq 20); do
    local page asked
    page=$(curl -s -c "$here/jar" http://127.0.0.1:7660/account/password/forgotten)
    asked=$(date +%s%N)
    curl -s -o /dev/null -b "$here/jar" http://127.0.0.1:7660/account/password/forgotten --data-urlencode "name=w$n@wait.example" \
      --data-urlencode "__RequestVerificationToken=$(grep -o 'RequestVerificationToken" value="[^"]*' <<<"$page" | sed 's/.*value="//')" &
    until curl -s "$mail/count?to=w$n@wait.example" | grep -q '^1'; do sleep 0.02; done
    echo $((($(date +%s%N) - asked) / 1000000))
    sleep 0.3
  done | sort -n >"$here/waits"
  wait $writing
  while [ "$(count)" != 0 ]; do sleep 0.2; done
  awk -v p="$provider" -v n="$letters" -v ns=$(($(date +%s%N) - started)) 'BEGIN { printf "%s: %d letters written and sent in %.1f s\n", p, n, ns / 1e9 }'
  awk '{ all[NR] = $1 } END { printf "  one that somebody waits for meanwhile: %d ms in the middle, %d ms at most, from the question to the mailbox\n", all[int((NR + 1) / 2)], all[NR] }' "$here/waits"
  kill $service $box
  wait $service $box 2>/dev/null || true
}

[ "${1:-}" = postgres ] || measure sqlite "Data Source=$here/letters.db"
if [ -n "${WARY_BENCH_POSTGRES:-}" ]; then
  psql -qh "$(sed 's/.*Host=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -p "$(sed 's/.*Port=\([^;]*\).*/\1/' <<<"$WARY_BENCH_POSTGRES")" -U postgres \
    -c "CREATE DATABASE wary_letters_$$"
  measure postgres "$WARY_BENCH_POSTGRES;Database=wary_letters_$$"
fi
