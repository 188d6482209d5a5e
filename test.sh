#!/usr/bin/env bash
# Installs what the tests need, builds everything, runs every test. The last line alone: N passed, N failed, N skipped.
set -uo pipefail
cd "$(dirname "$0")"
root=$PWD
export DOTNET_SYSTEM_GLOBALIZATION_INVARIANT=0
# Hundreds of processes live for seconds: what they measure of themselves to run faster later, they never do.
export DOTNET_TieredPGO=0
results=$(mktemp -d)
chmod 755 "$results"
server= touring= building= commanding=
finish() {
  [ -n "$touring" ] && kill "$touring" 2>/dev/null
  [ -n "$building" ] && kill "$building" 2>/dev/null
  [ -n "$commanding" ] && kill "$commanding" 2>/dev/null
  [ -n "$server" ] && as_postgres "$pgbin/pg_ctl" -D "$results/pg/data" -m immediate stop >/dev/null 2>&1
  rm -rf "$results"
}
trap finish EXIT
as_postgres() { if [ "$(id -u)" = 0 ]; then runuser -u postgres -- "$@"; else "$@"; fi; }
say() { printf '\n== %s (after %d s)\n' "$1" "$SECONDS"; }
stop() {
  printf 'test: %s\n' "$1" >&2
  printf '%s passed, %s failed, %s skipped\n' "${passed:-0}" "$((${failed:-0} + 1))" "${skipped:-0}"
  exit 1
}
amiss() { printf '  %s\n' "$1" >>"$results/failures"; failed=$((failed + 1)); }
passed=0 failed=0 skipped=0

say "What the tests need"
command -v dotnet >/dev/null || stop "the .NET SDK 10 is missing"
command -v npm >/dev/null || stop "Node 20 or newer with npm is missing"
need=()
[ -x /usr/bin/chromium ] || need+=(chromium)
[ -x /usr/sbin/nginx ] || need+=(nginx)
[ -x /usr/lib/dovecot/submission-login ] && [ -x /usr/lib/dovecot/imap-login ] || need+=(dovecot-imapd dovecot-submissiond)
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || need+=(postgresql)
command -v curl >/dev/null || need+=(curl)
command -v openssl >/dev/null || need+=(openssl)
command -v sqlite3 >/dev/null || need+=(sqlite3)
[ -d /usr/share/zoneinfo ] || need+=(tzdata)
/sbin/ldconfig -p | grep -q 'libicuuc\.so\.[0-9]' || need+=('^libicu[0-9]+$')
if [ ${#need[@]} -gt 0 ]; then
  printf 'installing %s\n' "${need[*]}"
  sudo=
  [ "$(id -u)" = 0 ] || sudo=sudo
  { $sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "${need[@]}"; } >"$results/apt.log" 2>&1 \
    || { tail -5 "$results/apt.log" >&2; stop "Debian's packages could not be installed: ${need[*]}"; }
fi
# The same browser without its windows takes a third less time; where Debian has none, the other will do.
[ -x /usr/bin/chromium-headless-shell ] || [ ${#need[@]} = 0 ] || $sudo apt-get install -y -qq --no-install-recommends chromium-headless-shell >"$results/apt.log" 2>&1 || true
pgbin=$(dirname "$(ls /usr/lib/postgresql/*/bin/initdb | tail -1)")

say "The console: packages, format and lint, types, tests, build"
# Meanwhile the solution is built, which alone keeps one processor busy; by one compiler that stays warm, whatever is usual here: it saves a fifth.
dotnet build WarySentinel.slnx --nologo -v quiet -clp:ErrorsOnly -m -p:UseSharedCompilation=true >"$results/build.log" 2>&1 &
building=$!
(cd console && npm ci --no-audit --no-fund --loglevel=error) || stop "npm could not bring in the console's packages"
(cd console && npx biome check --error-on-warnings .) || amiss "the console's format or lint (see above)"
(cd console && npm run --silent build) || stop "the console could not be built"
(cd console && npm run --silent build:storefront >/dev/null) || stop "the shop that is guarded in a browser's test could not be built"
(cd console && npx vitest run --reporter=default --reporter=json --outputFile="$results/console.json") || true
failures() { # failures FILE : names each test that failed in a report of Vitest or CTRF, and what it said
  node -e '
    const r = JSON.parse(require("fs").readFileSync(process.argv[1], "utf8"));
    const bad = r.results
      ? r.results.tests.filter((t) => t.status === "failed" || t.status === "other").map((t) => [t.name, t.message, t.trace])
      : r.testResults.flatMap((f) => f.assertionResults.filter((t) => t.status === "failed").map((t) => [t.fullName, t.failureMessages[0]]));
    for (const [name, ...words] of bad)
      console.log(`  ${name}\n${words.filter(Boolean).join("\n").split("\n").slice(0, 24).map((l) => `    ${l.slice(0, 300)}`).join("\n")}`);' "$1"
}
count() { # count FILE passed|failed|skipped : from a JSON report of Vitest or CTRF
  node -e '
    const r = JSON.parse(require("fs").readFileSync(process.argv[1], "utf8"));
    const s = r.results ? r.results.summary : { passed: r.numPassedTests, failed: r.numFailedTests + (r.success || r.numFailedTests ? 0 : 1), skipped: r.numPendingTests };
    console.log((s[process.argv[2]] ?? 0) + (process.argv[2] === "failed" ? (s.other ?? 0) : 0));' "$1" "$2"
}
add() { # add NAME FILE
  if [ -s "$2" ]; then
    failures "$2" >>"$results/failures"
    passed=$((passed + $(count "$2" passed))) failed=$((failed + $(count "$2" failed))) skipped=$((skipped + $(count "$2" skipped)))
  else
    amiss "$1 left no report"
  fi
}
add console "$results/console.json"

say "The solution: build, with warnings as errors, and format"
wait "$building" || { cat "$results/build.log"; stop "the solution does not build"; }
building=
dotnet build-server shutdown --vbcscompiler >/dev/null 2>&1 || true
tests/ahead.sh
# Style and analyzers are the build's own, as errors. The format is looked at beside the first tests.
dotnet format whitespace . --folder --verify-no-changes --include src/ tests/ bench/ --exclude src/WarySentinel.Storage/Migrations/ >"$results/format.log" 2>&1 &
formatting=$!

say "PostgreSQL"
mkdir "$results/pg"
[ "$(id -u)" = 0 ] && chown postgres "$results/pg"
port=$((21000 + RANDOM % 9000))
as_postgres "$pgbin/initdb" -D "$results/pg/data" -U postgres -A trust >"$results/initdb.log" 2>&1 || { tail -3 "$results/initdb.log" >&2; stop "PostgreSQL could not be set up"; }
as_postgres "$pgbin/pg_ctl" -D "$results/pg/data" -w -l "$results/pg/log" -o "-p $port -k $results/pg -c listen_addresses=127.0.0.1 -c fsync=off -c max_connections=200" start >/dev/null \
  || { tail -3 "$results/pg/log" >&2; stop "PostgreSQL did not start"; }
server=yes
export WARY_TEST_POSTGRES="Host=127.0.0.1;Port=$port;Username=postgres"

# The tour goes beside the tests of the core and the store: it waits most of the time, and they wait for nobody. Its ports are its own: a demo may be running.
DEMO_BUILT=Debug DEMO_PORT=$((31000 + RANDOM % 1000)) ./demo.sh --tour >"$results/tour.log" 2>&1 &
touring=$!

run() { # run PROJECT
  # Those that wait for processes and databases leave a processor free.
  local threads=default
  case $1 in Storage.Tests | Cli.Tests) threads=1.5x ;; Service.Tests | EndToEnd) threads=2x ;; esac
  timeout 1500 "tests/WarySentinel.$1/bin/Debug/net10.0/WarySentinel.$1" -noColor -maxThreads $threads -result-ctrf "$results/$1.json" >"$results/$1.log" 2>&1 || true
}
tell() { # tell PROJECT : what came of it
  say "$1"
  grep -A9 'TEST EXECUTION SUMMARY' "$results/$1.log" || tail -40 "$results/$1.log"
  add "$1" "$results/$1.json"
}
for project in Core.Tests Contract.Tests Storage.Tests; do run $project; tell $project; done
# The tests of the service leave a quarter of two processors idle, those of the command line a third.
run Cli.Tests &
commanding=$!
run Service.Tests
tell Service.Tests
wait "$commanding"
commanding=
tell Cli.Tests
for project in StandIns.Tests EndToEnd; do run $project; tell $project; done

wait "$formatting" || { amiss "the format of the C# code"; head -20 "$results/format.log" >>"$results/failures"; }

say "The package, and a newcomer's first hour with it"
# What was built is packed as it is; ./package.sh makes the one that is handed out.
if PACKAGE_BUILT=Debug ./package.sh >"$results/package.log" 2>&1 && package/first-hour.sh "$(ls -t out/*.deb | head -1)" >>"$results/package.log" 2>&1; then
  passed=$((passed + 1))
else
  amiss "the package, or the first hour with it"
  { grep -A6 -E 'WRONG|^package:' "$results/package.log" || tail -20 "$results/package.log"; } >>"$results/failures"
fi

say "The tour"
if wait "$touring"; then
  passed=$((passed + 1))
else
  amiss "the tour"
  { grep -A4 -E 'FAIL|^demo:' "$results/tour.log" || tail -20 "$results/tour.log"; } >>"$results/failures"
fi
touring=

[ -s "$results/failures" ] && { say "What failed"; cat "$results/failures"; }
printf '\n%s passed, %s failed, %s skipped\n' "$passed" "$failed" "$skipped"
[ "$failed" = 0 ]
