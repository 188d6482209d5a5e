#!/usr/bin/env bash
# What the time and the words of an answer tell of whether somebody has an account, page by page (COUNT=300 addresses of each sort; PAGE=forgotten for
# those alone whose address has that in it).
# Passwords are hashed as they always are; letters go nowhere.
set -euo pipefail
cd "$(dirname "$0")/.."
count=${COUNT:-300}
here=$(mktemp -d)
service=
trap 'kill $service 2>/dev/null || true; rm -rf "$here"' EXIT
dotnet publish src/WarySentinel.Service -c Release -r linux-x64 --self-contained false -o "$here/service" --nologo -v quiet -clp:ErrorsOnly
dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
admin=http://127.0.0.1:7691 site=http://127.0.0.1:7690
api() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' "$@"; }
WARY__SITELISTEN=$site WARY__ADMINLISTEN=$admin WARY__SITEURL=$site WARY__ADMINURL=$admin WARY__DATA=$here/data WARY__TRUSTEDPROXIES__0=127.0.0.1 \
  WARY__SMTP=smtp://127.0.0.1:9 WARY__MAILFROM=lamp@site.example dotnet "$here/service/WarySentinel.Service.dll" >"$here/log" 2>&1 &
service=$!
until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
until code=$(grep -o 'code=[0-9a-f]*' "$here/log"); do sleep 0.1; done
api $admin/api/v1/first-owner -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
token=$(api $admin/api/v1/tokens -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' \
  | sed 's/.*"token":"\([^"]*\)".*/\1/')
api -X PUT -H 'If-Match: *' $admin/api/v1/settings -d '{"joining":{"way":"open","confirm":true},"letters":{"signIn":true}}' >/dev/null
export token admin
# One in a page that tells, and whoever asks for a new address.
seq 0 $((count * 7 - 1)) | xargs -P 4 -I N bash -c 'printf -v n %05d N; curl -sf -o /dev/null -H "Authorization: Bearer $token" -H "Content-Type: application/json" \
  -d "{\"email\":\"there$n@telling.example\",\"name\":\"Ada Quill\",\"password\":\"a-lantern-in-the-$n-orchard\"}" $admin/api/v1/members'
dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll tells $site "$count" 0 "${PAGE:-}"
