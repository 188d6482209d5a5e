#!/usr/bin/env bash
# Measures what docs/performance.md tells: pairs in alternation on one machine, so that the ratios mean something.
set -euo pipefail
cd "$(dirname "$0")/.."
command -v wrk >/dev/null || { apt-get update -qq && apt-get install -y -qq --no-install-recommends wrk >/dev/null; }
./demo.sh --build
dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
bench=(dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll)
echo "== Inside one process"
if [ "${1:-}" != http ] && [ "${1:-}" != hosted ] && [ "${1:-}" != basic ]; then "${bench[@]}" decisions; "${bench[@]}" filter; fi

here=$(mktemp -d)
pids=()
trap 'kill "${pids[@]}" 2>/dev/null; rm -rf "$here"' EXIT
export PATH=$PWD/src/WarySentinel.Cli/bin/Release/net10.0:$PATH WARY_URL=http://127.0.0.1:7501
"${bench[@]}" origin http://127.0.0.1:7510 & pids+=($!)
"${bench[@]}" bare-204 http://127.0.0.1:7511 & pids+=($!)
"${bench[@]}" bare-proxy http://127.0.0.1:7512 http://127.0.0.1:7510 & pids+=($!)
"${bench[@]}" whole-proxy http://127.0.0.1:7513 http://127.0.0.1:7510 & pids+=($!)
WARY__SITELISTEN=http://127.0.0.1:7500 WARY__ADMINLISTEN=$WARY_URL WARY__SITEURL=http://127.0.0.1:7500 WARY__ADMINURL=$WARY_URL WARY__ORIGIN=http://127.0.0.1:7510 WARY__DATA=$here/data \
  dotnet src/WarySentinel.Service/bin/Release/net10.0/WarySentinel.Service.dll >"$here/log" 2>&1 & pids+=($!)
until curl -sf $WARY_URL/health/ready >/dev/null; do sleep 0.2; done
sleep 1
demo/seed.sh "$(grep -o 'code=[0-9a-f]*' "$here/log" | cut -d= -f2)" "$here/token" >"$here/seed" || { tail -1 "$here/seed" >&2; echo "bench: the demo data could not be brought in" >&2; exit 1; }
page=$(curl -s -c "$here/jar" http://127.0.0.1:7500/account/sign-in)
token=$(grep -o 'name="__RequestVerificationToken" value="[^"]*"' <<<"$page" | sed 's/.*value="//; s/"$//')
curl -s -b "$here/jar" -c "$here/jar" -o /dev/null --data-urlencode "__RequestVerificationToken=$token" -d name=nell -d password=orchard-quiet-91 http://127.0.0.1:7500/account/sign-in
cookie="Cookie: wary=$(awk '$6 == "wary" { print $7 }' "$here/jar")"

load() {
  if [ "$1" = talk ]; then "${bench[@]}" talk "$2" 32 "$seconds"; else wrk -t1 -c32 -d"$seconds"s "$@"; fi | awk '/Requests\/sec/ { print $2 }'
}
pair() { # pair NAME -- OURS… -- THEIRS…
  local name=$1 ours=() theirs=() side=0
  shift
  for word in "$@"; do
    if [ "$word" = -- ]; then side=$((side + 1)); elif [ $side = 1 ]; then ours+=("$word"); else theirs+=("$word"); fi
  done
  seconds=1
  load "${ours[@]}" >/dev/null
  load "${theirs[@]}" >/dev/null
  seconds=3
  local ratios=() a b
  for _ in 1 2 3 4 5; do
    a=$(load "${ours[@]}")
    b=$(load "${theirs[@]}")
    ratios+=("$(awk -v a="$a" -v b="$b" 'BEGIN { printf "%.2f", a / b }')")
  done
  printf '%s: ratio %s (min/med/max of 5 pairs), last pair %s to %s requests/s\n' "$name" "$(printf '%s\n' "${ratios[@]}" | sort -n | awk '{ v[NR] = $1 } END { print v[1] " / " v[3] " / " v[5] }')" "$a" "$b"
}
for address in 7500/i/1.png 7512/i/1.png 7500/page 7512/page; do
  [ "$(curl -s -o /dev/null -w '%{http_code}' "http://127.0.0.1:$address")" = 200 ] || { echo "bench: $address does not answer 200" >&2; exit 1; }
done
echo "== Over HTTP, 32 connections, load generator on the same two processors"
if [ "${1:-}" != hosted ]; then
pair "check, guest, open page, against a bare 204" -- -H "X-Original-URI: /shop/filters" http://127.0.0.1:7500/sentinel/check -- http://127.0.0.1:7511/
pair "check, signed in, guarded page, against a bare 204" -- -H "$cookie" -H "X-Original-URI: /product/case-fern-40" http://127.0.0.1:7500/sentinel/check -- -H "$cookie" http://127.0.0.1:7511/
fi
# A pass with each request, against somebody signed in.
made=$(WARY_TOKEN=$(cat "$here/token") wary pass add frames --for Bench --json)
field() { sed -n "s/.*\"$1\": \"\([^\"]*\)\".*/\1/p" <<<"$made" | head -1; }
basic="Authorization: Basic $(printf '%s:%s' "$(field name)" "$(field password)" | base64 -w0)"
[ "$(curl -s -o /dev/null -w '%{http_code}' -H "$basic" -H "X-Original-URI: /files/calibration-frames.zip" http://127.0.0.1:7500/sentinel/check)" = 204 ] \
  || { echo "bench: the pass opens nothing" >&2; exit 1; }
if [ "${1:-}" != hosted ]; then
pair "check, a pass with each request, against the check of somebody signed in" -- -H "$basic" -H "X-Original-URI: /files/calibration-frames.zip" http://127.0.0.1:7500/sentinel/check -- -H "$cookie" -H "X-Original-URI: /product/case-fern-40" http://127.0.0.1:7500/sentinel/check
fi
if [ "${1:-}" = basic ]; then exit; fi
# A page that is written here, against the very same bytes as an answer that never changes.
patron=$(mktemp -p "$here")
page=$(curl -s -c "$patron" http://127.0.0.1:7500/account/sign-in)
token=$(grep -o 'name="__RequestVerificationToken" value="[^"]*"' <<<"$page" | sed 's/.*value="//; s/"$//')
curl -s -b "$patron" -c "$patron" -o /dev/null --data-urlencode "__RequestVerificationToken=$token" -d name=rowan@fernlight.example -d password=red-light-only-3 http://127.0.0.1:7500/account/sign-in
guide="Cookie: wary=$(awk '$6 == "wary" { print $7 }' "$patron")"
number=7515
for hosted in rota listening; do
  curl -s -D "$here/$hosted.heads" -H "$guide" "http://127.0.0.1:7500/field-notes/$hosted" | cat >"$here/$hosted.html"
  tr -d '\r' <"$here/$hosted.heads" >"$here/$hosted.lines"
  "${bench[@]}" bare-page "http://127.0.0.1:$number" "$here/$hosted.html" "$here/$hosted.lines" & pids+=($!)
  until curl -sf -o /dev/null "http://127.0.0.1:$number/"; do sleep 0.2; done
  pair "hosted page $hosted, $(wc -c <"$here/$hosted.html") bytes, signed in, against the same bytes on a bare server" -- -H "$guide" "http://127.0.0.1:7500/field-notes/$hosted" -- -H "$guide" "http://127.0.0.1:$number/"
  number=$((number + 1))
done
if [ "${1:-}" = hosted ]; then exit; fi
# nginx serving one file, open and behind the check.
mkdir -p "$here/www" "$here/nginx"
head -c 10240 /dev/zero >"$here/www/file.bin"
cat >"$here/nginx.conf" <<CONF
worker_processes 2; daemon off; pid $here/nginx.pid; error_log $here/nginx.log;
events { worker_connections 1024; }
http {
  access_log off;
  client_body_temp_path $here/nginx/a; proxy_temp_path $here/nginx/b; fastcgi_temp_path $here/nginx/c; uwsgi_temp_path $here/nginx/d; scgi_temp_path $here/nginx/e;
  upstream wary { server 127.0.0.1:7500; keepalive 64; }
  server {
    listen 127.0.0.1:7520; root $here/www;
    location = /_wary_check { internal; proxy_pass http://wary/sentinel/check; proxy_http_version 1.1; proxy_set_header Connection ""; proxy_pass_request_body off; proxy_set_header Content-Length ""; proxy_set_header X-Original-URI \$request_uri; }
    location / { auth_request /_wary_check; }
  }
  server { listen 127.0.0.1:7521; root $here/www; }
}
CONF
chmod -R a+rX "$here"
if command -v nginx >/dev/null || [ -x /usr/sbin/nginx ]; then
  PATH=$PATH:/usr/sbin nginx -c "$here/nginx.conf" & pids+=($!)
  sleep 1
  pair "nginx with the check in front of a file, guest, against the same nginx open" -- http://127.0.0.1:7520/file.bin -- http://127.0.0.1:7521/file.bin
  pair "nginx with the check in front of a file, signed in, against the same nginx open" -- -H "$cookie" http://127.0.0.1:7520/file.bin -- -H "$cookie" http://127.0.0.1:7521/file.bin
else
  echo "nginx is not installed; its pairs are left out"
fi
pair "gateway, 10 KB picture, against the bare proxy" -- http://127.0.0.1:7500/i/1.png -- http://127.0.0.1:7512/i/1.png
pair "gateway, signed in, 10 KB picture, against the bare proxy" -- -H "$cookie" http://127.0.0.1:7500/i/1.png -- -H "$cookie" http://127.0.0.1:7512/i/1.png
pair "gateway, 10 KB picture, against the proxy as its package sets it up" -- http://127.0.0.1:7500/i/1.png -- http://127.0.0.1:7513/i/1.png
pair "gateway, signed in, 10 KB picture, against the proxy as its package sets it up" -- -H "$cookie" http://127.0.0.1:7500/i/1.png -- -H "$cookie" http://127.0.0.1:7513/i/1.png
pair "gateway, 100 KB page filtered, against the bare proxy" -- http://127.0.0.1:7500/page -- http://127.0.0.1:7512/page
pair "gateway, 100 KB page filtered and remembered, against the bare proxy" -- http://127.0.0.1:7500/tagged -- http://127.0.0.1:7512/tagged
pair "gateway, signed in, 100 KB page filtered and remembered, against the bare proxy" -- -H "$cookie" http://127.0.0.1:7500/tagged -- -H "$cookie" http://127.0.0.1:7512/tagged
pair "gateway, 100 KB page with nothing hidden, against the bare proxy" -- http://127.0.0.1:7500/plain -- http://127.0.0.1:7512/plain
pair "gateway, a WebSocket that says everything back, against the bare proxy" -- talk ws://127.0.0.1:7500/talk -- talk ws://127.0.0.1:7512/talk
