#!/usr/bin/env bash
# Builds and starts the demo: a stand-in shop, Wary Sentinel in front of it, made-up data.
#   ./demo.sh           start (keeps its data)     ./demo.sh --fresh   start over
#   ./demo.sh --tour    run the whole story once without hands; exit 0 or 1
set -uo pipefail
cd "$(dirname "$0")"
root=$PWD
# Some machines tell .NET to do without ICU; names are searched and sorted by it.
export DOTNET_SYSTEM_GLOBALIZATION_INVARIANT=0
mode=${1:-start}
fail() { printf 'demo: %s\n' "$1" >&2; exit 1; }
case $mode in start | --fresh | --tour | --build) ;; *) fail "unknown option $mode; try --fresh or --tour" ;; esac

command -v dotnet >/dev/null || fail "the .NET SDK 10 is missing; install it and try again"
command -v node >/dev/null || fail "Node 20 or newer is missing; install it and try again"
command -v npm >/dev/null || fail "npm is missing; it comes with Node"
need=()
command -v curl >/dev/null || need+=(curl)
command -v openssl >/dev/null || need+=(openssl)
[ -d /usr/share/zoneinfo ] || need+=(tzdata)
# Debian's package of ICU carries its version in its name.
/sbin/ldconfig -p | grep -q 'libicuuc\.so\.[0-9]' || need+=('^libicu[0-9]+$')
[ "$mode" != --tour ] || command -v sqlite3 >/dev/null || need+=(sqlite3)
if [ ${#need[@]} -gt 0 ]; then
  sudo=
  [ "$(id -u)" = 0 ] || sudo=sudo
  { $sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "${need[@]}"; } >/dev/null 2>&1 \
    || fail "could not be installed from Debian: ${need[*]}"
fi

run=$root/.run
mkdir -p "$run"
stamp=$run/built
sources() { find src console/src console/index.html console/package-lock.json Directory.Build.props Directory.Packages.props -newer "$stamp" -type f -not -path '*/obj/*' -not -path '*/bin/*' -print -quit 2>/dev/null; }
# The tests have built everything already, their way.
kind=${DEMO_BUILT:-Release}
if [ "$kind" != Release ]; then
  :
elif [ ! -f "$stamp" ] || [ ! -d console/dist ] || [ -n "$(sources)" ]; then
  printf 'Building (the first time takes a minute or two) …\n'
  touch "$run/building"
  for project in Service StandIns Cli; do
    dotnet build "src/WarySentinel.$project" -c Release --nologo -v quiet -clp:ErrorsOnly >"$run/build.log" 2>&1 \
      || fail "the build of $project failed: $(grep -m1 -o 'error .*' "$run/build.log" | cut -c1-200); the whole of it is in .run/build.log"
  done
  { [ -d console/node_modules ] && [ console/node_modules -nt console/package-lock.json ]; } || (cd console && npm ci --no-audit --no-fund >"$run/npm.log" 2>&1) \
    || fail "npm could not bring in the console's packages: $(grep -m1 'npm error' "$run/npm.log" | cut -c1-160); the whole of it is in .run/npm.log"
  (cd console && npm run --silent build >"$run/console.log" 2>&1) || fail "the console could not be built: $(grep -m1 -i error "$run/console.log" | cut -c1-160); the whole of it is in .run/console.log"
  touch console/node_modules
  mv "$run/building" "$stamp"
fi
[ "$mode" = --build ] && exit 0

base=${DEMO_PORT:-7400}
site=$base admin=$((base + 1)) shop=$((base + 10)) payments=$((base + 11)) mailbox=$((base + 12)) cache=$((base + 14)) smtp=$((base + 25))
for port in $site $admin $shop $payments $mailbox $cache $smtp; do
  (exec 3<>"/dev/tcp/127.0.0.1/$port") 2>/dev/null && fail "port $port is in use; stop what listens there, or set DEMO_PORT to another base"
done

here=$run/demo
[ "$mode" = --tour ] && here=$run/tour
case $mode in --fresh | --tour) rm -rf "$here" ;; esac
mkdir -p "$here"
export PATH="$root/src/WarySentinel.Cli/bin/$kind/net10.0:$PATH" WARY_URL=http://127.0.0.1:$admin
unset WARY_TOKEN
pids=()
stop() { trap - EXIT INT TERM; kill "${pids[@]}" 2>/dev/null; wait 2>/dev/null; }
trap 'stop; exit 130' INT TERM
trap stop EXIT

# What the payment processor signs its calls with; the service is told it with the demo data.
[ -s "$here/hook-secret" ] || printf 'whsec_%s' "$(head -c 32 /dev/urandom | base64 -w0)" >"$here/hook-secret"
hook_secret=$(cat "$here/hook-secret")
start_shop() {
  dotnet src/WarySentinel.StandIns/bin/$kind/net10.0/WarySentinel.StandIns.dll --data demo --shop "http://127.0.0.1:$shop" \
    --smtp $smtp --mailbox "http://127.0.0.1:$mailbox" --payments "http://127.0.0.1:$payments" --hook "http://localhost:$site/sentinel/hooks/payments" --hook-secret "$hook_secret" --cache "http://127.0.0.1:$cache" --site "http://127.0.0.1:$site" --quotes "http://127.0.0.1:$admin" --quotes-token "$here/shop-token" >>"$here/stand-ins.log" 2>&1 &
  shop_pid=$!
  pids+=("$shop_pid")
}
start_service() {
  : >>"$here/service.log"
  WARY__SITELISTEN=http://127.0.0.1:$site WARY__ADMINLISTEN=http://127.0.0.1:$admin WARY__SITEURL=http://localhost:$site WARY__ADMINURL=http://localhost:$admin \
    WARY__ORIGIN=http://127.0.0.1:$shop WARY__DATA=$here/data WARY__CONSOLE=$root/console/dist WARY__ORIGINTIMEOUTSECONDS=5 \
    WARY__SMTP=smtp://127.0.0.1:$smtp WARY__MAILFROM=lamp@fernlight.example WARY__ROUNDMILLISECONDS=500 WARY__FETCHHOSTS__0=localhost:$cache WARY__FETCHHOSTS__1=127.0.0.1:$shop \
    dotnet src/WarySentinel.Service/bin/$kind/net10.0/WarySentinel.Service.dll >>"$here/service.log" 2>&1 &
  service_pid=$!
  pids+=("$service_pid")
  for _ in $(seq 600); do
    curl -sf "http://127.0.0.1:$admin/health/ready" >/dev/null && curl -sf "http://127.0.0.1:$shop/" >/dev/null && return
    kill -0 "$service_pid" 2>/dev/null || fail "the service stopped: $(tail -1 "$here/service.log")"
    sleep 0.2
  done
  fail "the service did not come up within two minutes; see $here/service.log"
}
start_shop
start_service
if curl -s "http://127.0.0.1:$admin/api/v1/set-up" | grep -q '"needsOwner":true'; then
  code=
  for _ in $(seq 300); do
    code=$(grep -o 'code=[0-9a-f]*' "$here/service.log" | tail -1 | cut -d= -f2)
    [ -n "$code" ] && break
    sleep 0.1
  done
  printf 'Bringing in the demo site …\n'
  SITE=http://localhost:$site MAILBOX=http://127.0.0.1:$mailbox PAYMENTS=http://localhost:$payments HOOK_SECRET=$hook_secret demo/seed.sh "$code" "$here/token" "$here/shop-token" >"$here/seed.log" 2>&1 || fail "the demo data could not be brought in: $(tail -1 "$here/seed.log"); the whole of it is in $here/seed.log"
fi
export WARY_TOKEN
WARY_TOKEN=$(cat "$here/token")

if [ "$mode" = --tour ]; then
  SITE=http://localhost:$site ADMIN=http://localhost:$admin SHOP=http://127.0.0.1:$shop MAILBOX=http://127.0.0.1:$mailbox PAYMENTS=http://localhost:$payments CACHE=http://localhost:$cache
  . demo/tour.sh
  exit "$failures"
fi

cat <<TEXT

  Fernlight Observatory is guarded.

  The site, as visitors see it    http://localhost:$site
  The console                     http://localhost:$admin
  The shop behind it, bare        http://localhost:$shop
  Where buyers pay                http://localhost:$payments
  Mail that went out              http://localhost:$mailbox
  The site through a bad cache    http://localhost:$cache

  Owner     owner@fernlight.example          keep-the-lamp-lit     (console and site)
  Support   ash@fernlight.example            plum-stones-at-dusk       (console: helps members, changes no gate)
  Dealer    nell@orchard-optics.example      orchard-quiet-91
  Keeper    keeper@fernlight.example         lantern-on-the-hill
  Guide     rowan@fernlight.example          red-light-only-3
  Patron    mira@lowlight.example            hours-of-dark-fan
  Member    pia@lanternlane.example          lantern-lane-12
  Shared password of the clearance vault     old-dome-downhill

  Try   http://localhost:$site/shop/dealer-stock      closed to guests, open to Nell
        http://localhost:$site/shop/clearance-vault   asks for the shared password
        http://localhost:$site/account/unlock         one page for every shared password
        http://localhost:$admin/board                 who can see what, and why
        http://localhost:$admin/sweep                 what leaks (the demo carries leaks on purpose)

  On the command line
        export WARY_URL=$WARY_URL WARY_TOKEN=$WARY_TOKEN
        export PATH=$root/src/WarySentinel.Cli/bin/$kind/net10.0:\$PATH
        wary why guest open product:barlow-boxed

  Ctrl-C ends everything; the data stay. ./demo.sh --fresh starts over.

TEXT
wait "$service_pid"
fail "the service ended: $(tail -1 "$here/service.log")"
