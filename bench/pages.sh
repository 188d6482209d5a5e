#!/usr/bin/env bash
# Rates every visitor page of a running demo (./demo.sh) with Lighthouse: as on a phone with a slow line, as it is rated by default.
# bench/pages.sh console rates the main pages of the console instead: SLOWER says how many times slower than this machine the phone's processor is. By
# default 4 for a machine that Lighthouse rates at 1,750 (a usual desktop), less for a slower one, so that the phone stays the same; SLOWER=desktop for none.
# WARY_URL and WARY_TOKEN as the demo prints them; members' pages are those with somebody made up. Says what is under 95, and ends with 1 then.
set -euo pipefail
cd "$(dirname "$0")/.."
: "${WARY_URL:?as the demo prints it}" "${WARY_TOKEN:?as the demo prints it}"
here=$(mktemp -d)
trap 'rm -rf "$here"' EXIT
site=${SITE:-http://localhost:7400}
lighthouse=(npx --yes lighthouse@12.8.2 --quiet --ignore-status-code --output=json --only-categories=performance,accessibility,best-practices
  --chrome-flags='--headless=new --no-sandbox --disable-gpu --disable-quic')
export CHROME_PATH=${CHROME_PATH:-/usr/bin/chromium}
if [ "${1:-}" = console ]; then
  console=${CONSOLE:-http://localhost:7401}
  curl -sf -c "$here/jar" -o /dev/null -H 'X-Wary-Console: 1' -H 'Content-Type: application/json' -d '{"name":"owner@fernlight.example","password":"keep-the-lamp-lit"}' "$console/api/v1/sign-in"
  printf '{"Cookie":"%s"}' "$(awk 'NF == 7 { printf "%s=%s; ", $6, $7 }' "$here/jar")" >"$here/cookie.json"
  npx --yes lighthouse@12.8.2 --quiet --output=json --only-audits=first-contentful-paint --chrome-flags='--headless=new --no-sandbox --disable-gpu' \
    --output-path="$here/one.json" "$console/" >"$here/log" 2>&1 </dev/null || { tail -1 "$here/log" >&2; exit 1; }
  rated=$(node -p 'Math.round(JSON.parse(require("fs").readFileSync(process.argv[1], "utf8")).environment.benchmarkIndex)' "$here/one.json")
  slower=${SLOWER:-$(awk -v rated="$rated" 'BEGIN { slower = 4 * rated / 1750; print slower < 1 ? 1 : slower }')}
  echo "a machine rated at $rated; a phone whose processor is $slower times slower"
  if [ "$slower" = desktop ]; then lighthouse+=(--preset=desktop); else lighthouse+=("--throttling.cpuSlowdownMultiplier=$slower"); fi
  echo "sign-in $console/" >"$here/list"
  for page in today gates gates/clearance-vault board catalogue members orders sweep history letters pages settings; do echo "$page $console/$page"; done >>"$here/list"
else
curl -sf -H "Authorization: Bearer $WARY_TOKEN" "$WARY_URL/api/v1/visitor-pages" >"$here/pages.json"
node - "$here/pages.json" "$site" >"$here/list" <<'JS'
const [file, site] = process.argv.slice(2);
const pages = JSON.parse(require('fs').readFileSync(file, 'utf8'));
for (const page of pages.items ?? pages) {
  if (page.look) console.log(page.key, page.look);
}
for (const [name, at] of [['unknown', '/account/nothing-here'], ['hosted', '/field-notes'], ['closed', '/shop/clearance-vault']]) console.log(name, site + at);
JS
fi
bad=0
printf '%-18s %11s %13s %14s %9s %8s\n' page performance accessibility best-practices paint-ms KB
while read -r name at <&3; do
  as=()
  [ ! -s "$here/cookie.json" ] || [ "$name" = sign-in ] || as=("--extra-headers=$here/cookie.json")
  "${lighthouse[@]}" "${as[@]}" --output-path="$here/one.json" "$at" >"$here/log" 2>&1 </dev/null || { echo "$name: $(tail -1 "$here/log")"; bad=1; continue; }
  node - "$here/one.json" "$name" <<'JS' || bad=1
const [file, name] = process.argv.slice(2);
const { categories, audits } = JSON.parse(require('fs').readFileSync(file, 'utf8'));
const rates = ['performance', 'accessibility', 'best-practices'].map((c) => Math.round(categories[c].score * 100));
const failing = Object.values(audits).filter((a) => a.score !== null && a.score < 0.9 && ['binary', 'numeric'].includes(a.scoreDisplayMode));
console.log(name.padEnd(18), `${rates[0]}`.padStart(11), `${rates[1]}`.padStart(13), `${rates[2]}`.padStart(14),
  `${Math.round(audits['first-contentful-paint'].numericValue)}`.padStart(9), (audits['total-byte-weight'].numericValue / 1000).toFixed(0).padStart(8));
if (rates.some((r) => r < 95)) {
  console.log('   ', failing.map((a) => a.id).join(', '));
  process.exitCode = 1;
}
JS
done 3<"$here/list"
exit $bad
