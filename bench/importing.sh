#!/usr/bin/env bash
# Members from a file: ROWS=1000000 of them, with address, name, a role for a fifth, a group for a seventh and since when, in no order, over HTTP.
# WARY_BENCH_POSTGRES (Host=…;Port=…;Username=…;Database=…) measures an empty database there instead of SQLite; TRY=1 only looks through.
set -euo pipefail
cd "$(dirname "$0")/.."
rows=${ROWS:-1000000}
. bench/service.sh
publish
database=(DOTNET_gcServer=0)
if [ -n "${WARY_BENCH_POSTGRES:-}" ]; then
  database+=(WARY__DATABASE=postgres "WARY__CONNECTION=$WARY_BENCH_POSTGRES" "WARY__SECRET=$(head -c 32 /dev/urandom | base64)")
fi
serve data "${database[@]}"
api $admin/api/v1/roles -d '{"key":"dealer","title":"Dealer"}' >/dev/null
api $admin/api/v1/groups -d '{"key":"choir","title":"Choir"}' >/dev/null
awk -v rows="$rows" 'BEGIN {
  srand(7)
  split("Ada Bo Cleo Dora Edda Fenn Gwen Hal Ines Jory Kaya Lars Mona Nils Orla Pia Rune Sol Tove Uma Viggo Wren Yara Zeno", first)
  split("Alder Birch Cove Dale Elm Fern Glade Heath Isle Juniper Kestrel Larch Moor North Oak Pike Quill Reed Stone Thorn", last)
  print "Email,Name,Role,Group,Joined"
  for (n = 0; n < rows; n++)
    printf "%s.%s.%06x%04d@post%d.example,%s %s %d,%s,%s,2%03d-%02d-%02d\n", tolower(first[a = 1 + int(rand() * 24)]), tolower(last[b = 1 + int(rand() * 20)]),
      int(rand() * 16777216), n % 10000, int(rand() * 400), first[a], last[b], n, n % 5 ? "" : "dealer", n % 7 ? "" : "choir",
      15 + int(rand() * 11), 1 + int(rand() * 12), 1 + int(rand() * 28)
}' >"$here/members.csv"
echo "$rows rows, $(stat -c %s "$here/members.csv" | numfmt --to=si --suffix=B)"
resident() { awk -v kb="$(awk -v of="$1:" '$1 == of { print $2 }' /proc/$service/status)" 'BEGIN { printf "%d MB", kb / 1024 }'; }
cpu() { awk '{ print $14 + $15 }' /proc/$service/stat; }
began() { at=$(date +%s%N) used=$(cpu); }
took() { awk -v ns=$(($(date +%s%N) - at)) -v used=$(($(cpu) - used)) 'BEGIN { printf "%.1f s, of processors %.1f s", ns / 1e9, used / 100 }'; }
send() { curl -sSf -H "Authorization: Bearer $token" -H 'Content-Type: text/csv' -T "$here/members.csv" -X POST "$admin/api/v1/members/import?$1" -o "$here/lines"; }
echo "before: $(resident VmRSS)"
began
send dryRun=true
echo "looked through: $(took); most memory $(resident VmHWM)"
if [ -n "${TRY:-}" ]; then exit; fi
before=$(awk '/^write_bytes/ { print $2 }' /proc/$service/io)
began
send dryRun=false
echo "stored: $(took); most memory $(resident VmHWM); $(($(awk '/^write_bytes/ { print $2 }' /proc/$service/io) / 1048576 - before / 1048576)) MB written"
tail -c 300 "$here/lines" | tr '\n' ' '
echo
if [ -n "${WARY_BENCH_POSTGRES:-}" ]; then
  began
  until grep -o "searched by were built in.*" "$here/log-data"; do sleep 0.2; done
  echo "  and so many more after the last row: $(took)"
fi
began
send dryRun=false
echo "again, nothing new: $(took); most memory $(resident VmHWM)"
