#!/usr/bin/env bash
# What the time and the words of an answer tell of whether somebody has an account, page by page (COUNT=300 addresses of each sort; PAGE=forgotten for
# those alone whose address has that in it).
# Passwords are hashed as they always are; letters go nowhere.
set -euo pipefail
cd "$(dirname "$0")/.."
count=${COUNT:-300}
. bench/service.sh
publish
serve data WARY__TRUSTEDPROXIES__0=127.0.0.1 WARY__SMTP=smtp://127.0.0.1:9 WARY__MAILFROM=lamp@site.example
api -X PUT -H 'If-Match: *' $admin/api/v1/settings -d '{"joining":{"way":"open","confirm":true},"letters":{"signIn":true}}' >/dev/null
export token admin
# One in a page that tells, and whoever asks for a new address.
seq 0 $((count * 7 - 1)) | xargs -P 4 -I N bash -c 'printf -v n %05d N; curl -sf -o /dev/null -H "Authorization: Bearer $token" -H "Content-Type: application/json" \
  -d "{\"email\":\"there$n@telling.example\",\"name\":\"Ada Quill\",\"password\":\"a-lantern-in-the-$n-orchard\"}" $admin/api/v1/members'
"${bench[@]}" tells $site "$count" 0 "${PAGE:-}"
