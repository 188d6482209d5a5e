#!/usr/bin/env bash
# A download of a gigabyte out of a folder of ours against the same file served by nginx, in pairs (PAIRS=…, SIZE=… in megabytes), and the service's memory by it.
set -euo pipefail
cd "$(dirname "$0")/.."
pairs=${PAIRS:-7} size=${SIZE:-1024}
here=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2>/dev/null || true; rm -rf "$here"' EXIT
dotnet build src/WarySentinel.Service -c Release --nologo -v quiet -clp:ErrorsOnly
admin=http://127.0.0.1:7681 site=http://127.0.0.1:7680 web=7682
api() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' -H 'If-Match: *' "$@"; }

WARY__SITELISTEN=$site WARY__ADMINLISTEN=$admin WARY__SITEURL=$site WARY__ADMINURL=$admin WARY__DATA=$here/data WARY__LOGLEVEL=Warning \
  dotnet src/WarySentinel.Service/bin/Release/net10.0/WarySentinel.Service.dll >"$here/log" 2>&1 &
service=$!
pids+=("$service")
until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
until code=$(grep -o 'code=[0-9a-f]*' "$here/log"); do sleep 0.1; done
api $admin/api/v1/first-owner -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
token=$(api $admin/api/v1/tokens -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' \
  | sed 's/.*"token":"\([^"]*\)".*/\1/')
api $admin/api/v1/items -d '{"id":"download:big","title":"Big"}' >/dev/null
api -X PUT $admin/api/v1/areas/big -d '{"item":"download:big","opens":"address"}' >/dev/null
ours=$(api $admin/api/v1/areas/big/address | sed 's/.*"address":"\([^"]*\)".*/\1/')big.bin
mkdir -p "$here/data/files/big" "$here/web" && head -c "${size}M" /dev/urandom >"$here/data/files/big/big.bin" && ln "$here/data/files/big/big.bin" "$here/web/big.bin"
chmod 755 "$here" "$here/web" && chmod 644 "$here/web/big.bin"

cat >"$here/nginx.conf" <<CONF
worker_processes 2; pid $here/nginx.pid; error_log $here/nginx.log; daemon off;
events { worker_connections 64; }
http { access_log off; sendfile on; tcp_nopush on; server { listen 127.0.0.1:$web; root $here/web; } }
CONF
nginx -c "$here/nginx.conf" -p "$here" &
pids+=("$!")
until curl -sf -o /dev/null -r 0-0 http://127.0.0.1:$web/big.bin; do sleep 0.1; done

speed() { curl -sf -o /dev/null -w '%{speed_download}' "$1"; }
memory() { awk '/VmRSS/ { printf "%d", $2 / 1024 }' /proc/$service/status; }
cmp -n 100000000 <(curl -sf "$ours") "$here/web/big.bin" && echo "The bytes are the same."
before=$(memory)
for _ in $(seq "$pairs"); do
  awk -v a="$(speed "$ours")" -v b="$(speed http://127.0.0.1:$web/big.bin)" 'BEGIN { printf "%.3f %.0f %.0f\n", a / b, a / 1e6, b / 1e6 }'
done | sort -n | awk -v pairs="$pairs" '{ ratio[NR] = $1; a[NR] = $2; b[NR] = $3 }
  END { m = int((NR + 1) / 2); printf "ours / nginx: %.2f / %.2f / %.2f (least, middle, most of %d pairs); in the middle one %d and %d MB a second\n", ratio[1], ratio[m], ratio[NR], NR, a[m], b[m] }'
echo "memory of the service: $before MB before, $(memory) MB after"
