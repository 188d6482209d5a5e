#!/usr/bin/env bash
# A newcomer's first hour with nothing but the package, in a folder of its own: unpacked, an owner made, a real site guarded, swept, backed up, upgraded from
# the package before, restored.   package/first-hour.sh NEW.deb [OLD.deb [SITE-FOLDER]]     Exit code 0 where all of it holds.
set -uo pipefail
new=$(realpath "${1:?which package?}")
old=$(realpath "${2:-$1}")
from=${3:-}
here=$(mktemp -d)
chmod 755 "$here"
pids=()
wrong=0
stop_all() { kill "${pids[@]}" 2>/dev/null; wait 2>/dev/null; rm -rf "$here"; }
trap stop_all EXIT
say() { printf '\n== %s\n' "$1"; }
ok() { printf '  ok    %s\n' "$1"; }
bad() { printf '  WRONG %s\n' "$1"; wrong=$((wrong + 1)); }
same() { if [ "$2" = "$3" ]; then ok "$1: $3"; else bad "$1: wanted $2, got $3"; fi; } # same WHAT WANTED GOT
holds() { case $3 in *"$2"*) ok "$1" ;; *) bad "$1: “$2” is not there"; printf '%s\n' "$3" | head -5 | sed 's/^/        /' ;; esac; } # holds WHAT PART TEXT
free() { for _ in $(seq 50); do local p=$((20000 + RANDOM % 12000)); (exec 3<>"/dev/tcp/127.0.0.1/$p") 2>/dev/null || { echo "$p"; return; }; done; }
site=$(free) admin=$(free) origin=$(free)
# Where the package brings no runtime of its own, as one does that is only tried.
runtime=$(dirname "$(realpath "$(command -v dotnet 2>/dev/null || echo /usr/bin/dotnet)")")
clean() { env -i DOTNET_ROOT="$runtime" PATH="$here/root/usr/bin:/usr/bin:/bin" HOME="$here/home" LANG=C.UTF-8 "$@"; } # nothing of whoever runs this
wary() { clean wary --url "http://127.0.0.1:$admin" "$@"; }
status() { curl -s -o /dev/null -w '%{http_code}' "$@"; }

unpack() { # unpack PACKAGE : puts it where the packages' manager would, and keeps settings that are there
  local kept=
  [ -f "$here/root/etc/wary-sentinel/sentinel.json" ] && kept=$(cat "$here/root/etc/wary-sentinel/sentinel.json")
  rm -rf "$here/root/usr" "$here/root/lib"
  dpkg-deb --extract "$1" "$here/root"
  [ -z "$kept" ] || printf '%s\n' "$kept" >"$here/root/etc/wary-sentinel/sentinel.json"
}
service() { # service : starts it as the unit does, with the unit's own words
  local unit=$here/root/lib/systemd/system/wary-sentinel.service
  local run=$here/root$(sed -n 's/^ExecStart=//p' "$unit") folder=$here/root$(sed -n 's/^WorkingDirectory=//p' "$unit")
  local data=$here/root$(sed -n 's/^Environment=WARY__DATA=//p' "$unit")
  : >"$here/log"
  mkdir -p "$data"
  (cd "$folder" && exec env -i DOTNET_ROOT="$runtime" PATH=/usr/bin:/bin HOME="$data" WARY__DATA="$data" "$run" >"$here/log" 2>&1) &
  running=$!
  pids+=("$running")
  for _ in $(seq 1200); do
    [ "$(status "http://127.0.0.1:$admin/health/ready")" = 200 ] && return
    kill -0 "$running" 2>/dev/null || break
    sleep 0.1
  done
  bad "the service does not start"
  tail -5 "$here/log"
}
stop_service() { kill "$running"; wait "$running" 2>/dev/null; }

say "The package before is put in place"
mkdir -p "$here/root" "$here/home"
unpack "$old"
[ -x "$here/root/usr/bin/wary" ] && ok "wary is among the programs"
holds "it says what it is" "Usage" "$(clean wary)"
holds "its manual page is there" "wary" "$(gunzip -c "$here/root/usr/share/man/man1/wary.1.gz" | head -3)"
bash -n "$here/root/usr/share/bash-completion/completions/wary" && ok "shells complete it"
dpkg-deb --ctrl-tarfile "$new" | tar -xO ./postinst ./prerm ./postrm | sh -n && ok "the package's own scripts are shell"
command -v systemd-analyze >/dev/null && { systemd-analyze verify "$here/root/lib/systemd/system/wary-sentinel.service" 2>&1 | grep -v 'is not executable\|Failed to\|man wary' | grep . && bad "the unit" || ok "the unit is one"; }

say "A site, as it is"
mkdir -p "$here/site/members" "$here/site/files"
if [ -n "$from" ]; then cp -rL "$from/." "$here/site/"; fi
[ -f "$here/site/index.html" ] || printf '<title>Hill</title><h1>Hill</h1><a href="/members/map.html">Map</a> <a href="/about.html">About</a>' >"$here/site/index.html"
printf '<title>About — Hill</title><h1>About¶</h1><p>Who we are, and where the dome stands.</p>' >"$here/site/about.html"
printf '<title>Map — Hill</title><h1>Map of the dark sites</h1><p>The lower meadow is darkest between ten and two, when the mill is shut.</p>' >"$here/site/members/map.html"
printf '<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>https://www.hill.example/members/map.html</loc></url><url><loc>https://www.hill.example/about.html</loc></url></urlset>' >"$here/site/sitemap.xml"
cat >"$here/nginx.conf" <<N
worker_processes 1; daemon off; pid $here/nginx.pid; error_log $here/nginx.error; events {}
http { include /etc/nginx/mime.types; access_log $here/access.log; client_body_temp_path $here/n1; proxy_temp_path $here/n2; fastcgi_temp_path $here/n3; uwsgi_temp_path $here/n4; scgi_temp_path $here/n5;
server { listen 127.0.0.1:$origin; root $here/site; } }
N
[ "$(id -u)" = 0 ] && sed -i '1s/^/user root; /' "$here/nginx.conf"
nginx -p "$here" -c "$here/nginx.conf" 2>/dev/null &
pids+=($!)
for _ in $(seq 600); do [ "$(status "http://127.0.0.1:$origin/")" = 200 ] && break; sleep 0.1; done
same "nginx serves it" 200 "$(status "http://127.0.0.1:$origin/members/map.html")"

say "The service, with its settings in their place"
printf '{ "Wary": { "Origin": "http://127.0.0.1:%s", "SiteUrl": "http://127.0.0.1:%s", "SiteListen": "http://127.0.0.1:%s", "AdminUrl": "http://127.0.0.1:%s", "AdminListen": "http://127.0.0.1:%s" } }\n' \
  "$origin" "$site" "$site" "$admin" "$admin" >"$here/root/etc/wary-sentinel/sentinel.json"
service
holds "the log says where an owner is made" "first-owner?code=" "$(cat "$here/log")"
said=$(cd "$here/root/etc/wary-sentinel" && env -i DOTNET_ROOT="$runtime" PATH=/usr/bin:/bin WARY__DATA="$here/second" "$here/root/usr/bin/wary-sentinel" 2>&1)
same "a second one on the same ports ends with 2" 2 $?
same "and says so in one line" "1 yes" "$(grep -vc ' INF ' <<<"$said") $(grep -q "$site.*SiteListen\|$admin.*SiteListen" <<<"$said" && echo yes || echo "$said")"

say "An owner, and a token of one's own"
code=$(sed -n 's/.*first-owner?code=\([0-9a-f]*\).*/\1/p' "$here/log" | head -1)
holds "the first owner is made without a browser" "first owner" "$(printf 'keep-the-lamp-lit-1\n' | wary first-owner ines@hill.example --name "Ines Hill" --code "$code" 2>&1)"
holds "a token is made and kept" "Kept the token" "$(printf 'keep-the-lamp-lit-1\n' | wary token add laptop --scope read write people decide view tokens --sign-in ines@hill.example --keep 2>&1)"
holds "it is asked how it is" "up since" "$(wary status)"
same "the console is served" 200 "$(status "http://127.0.0.1:$admin/")"

say "The site is guarded"
holds "a sitemap of another name is asked about" "www.hill.example" "$(wary item import sitemap --yes 2>&1)"
wary item import sitemap --same-as www.hill.example --yes >/dev/null 2>&1
wary item import walk --pages --pause 0 --most-pages 300 --yes >/dev/null 2>&1
holds "its pages came in, with their headings as titles" "Map of the dark sites" "$(wary item list --search map --json)"
wary gate add --key members --title "Members’ pages" --covers "path:/members/**" --audience "signed-in" >/dev/null || bad "a gate is made"
same "a guest is sent to sign in" 401 "$(status "http://127.0.0.1:$site/members/map.html")"
same "what is open stays open" 200 "$(status "http://127.0.0.1:$site/about.html")"
printf 'long-enough-for-mira\n' | wary member add mira@hill.example --name Mira --password - >/dev/null 2>&1 || bad "a member is added"
jar=$here/jar
page=$(curl -s -c "$jar" -b "$jar" "http://127.0.0.1:$site/account/sign-in")
field=$(grep -o 'name="__[^"]*" value="[^"]*"' <<<"$page" | head -1)
[ -n "$field" ] || field=$(grep -o 'type="hidden" name="[^"]*" value="[^"]\{40,\}"' <<<"$page" | head -1 | sed 's/type="hidden" //')
token_name=$(sed 's/name="\([^"]*\)".*/\1/' <<<"$field") token_value=$(sed 's/.*value="\([^"]*\)"/\1/' <<<"$field")
curl -s -o /dev/null -c "$jar" -b "$jar" "http://127.0.0.1:$site/account/sign-in" --data-urlencode "$token_name=$token_value" -d name=mira@hill.example -d password=long-enough-for-mira -d return_to=/
same "a member is in" 200 "$(status -b "$jar" "http://127.0.0.1:$site/members/map.html")"
wary sweep >"$here/sweep"
same "the sweep finds nothing open" 0 $?
tail -2 "$here/sweep" | sed 's/^/        /'
cp "$here/site/members/map.html" "$here/site/map.html.bak"
printf '<a href="/map.html.bak">old map</a>' >>"$here/site/about.html"
wary sweep >"$here/sweep"
same "a copy that somebody left is found" 1 $?
rm "$here/site/map.html.bak"
for _ in 1 2 3; do curl -s -o /dev/null -A "Mozilla/5.0" "http://127.0.0.1:$origin/files/plan.html"; done
printf '<h1>Plan</h1>' >"$here/site/files/plan.html"
for _ in 1 2 3; do curl -s -o /dev/null -A "Mozilla/5.0" "http://127.0.0.1:$origin/files/plan.html"; done
holds "the log of nginx tells what people ask for and the catalogue lacks" "/files/plan.html" "$(wary item import "$here/access.log" --dry-run 2>&1)"

say "Backed up, upgraded, restored"
wary backup "$here/night.tar.gz" >/dev/null || bad "a backup is taken"
same "only its owner reads it" 600 "$(stat -c %a "$here/night.tar.gz")"
stop_service
unpack "$new"
same "its settings are as they were" 1 "$(grep -c ":$origin" "$here/root/etc/wary-sentinel/sentinel.json")"
service
holds "it says the new version" "version $(dpkg-deb --field "$new" Version)" "$(wary status)"
same "the gate is there" 401 "$(status "http://127.0.0.1:$site/members/map.html")"
same "who was signed in still is" 200 "$(status -b "$jar" "http://127.0.0.1:$site/members/map.html")"
wary gate remove members >/dev/null 2>&1
same "something is undone that should not have been" 200 "$(status "http://127.0.0.1:$site/members/map.html")"
stop_service
mv "$here/root/var/lib/wary-sentinel" "$here/lost"
wary restore "$here/night.tar.gz" --data "$here/root/var/lib/wary-sentinel" >/dev/null || bad "the backup is put back"
service
same "restored, it is closed again" 401 "$(status "http://127.0.0.1:$site/members/map.html")"
same "and open to its members" 200 "$(status -b "$jar" "http://127.0.0.1:$site/members/map.html")"
stop_service

[ "$wrong" = 0 ] && printf '\nThe first hour holds.\n' || printf '\n%s things of the first hour do not hold.\n' "$wrong"
[ "$wrong" = 0 ]
