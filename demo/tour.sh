# The whole story once, without hands. Sourced by demo.sh: SITE, ADMIN, SHOP, WARY_URL and WARY_TOKEN are set, `wary` is on the PATH.
failures=0
jar=$here/jar
step() { printf '\n\033[1m%s\033[0m\n' "$1"; }
ok() { printf '  ok   %s\n' "$1"; }
no() { printf '  FAIL %s\n' "$1"; failures=1; }
same() { if [ "$2" = "$3" ]; then ok "$1: $3"; else no "$1: wanted $2, got $3"; fi; }
holds() { if grep -qF -- "$2" <<<"$3"; then ok "$1"; else no "$1: “$2” is not there"; printf '%s\n' "$3" | head -5 | cut -c1-300; fi; }
lacks() { if grep -qiF -- "$2" <<<"$3"; then no "$1: “$2” is there"; else ok "$1"; fi; }
get() { curl -s --path-as-is -b "$jar" -c "$jar" "$@"; }
status() { get -o /dev/null -w '%{http_code}' "$@"; }
fresh() { rm -f "$jar"; }
token_in() { grep -o 'name="__RequestVerificationToken" value="[^"]*"' <<<"$1" | head -1 | sed 's/.*value="//; s/"$//'; }
post() { # post PATH FIELD=VALUE… : fills the form that PAGE holds
  local path=$1; shift
  local args=(--data-urlencode "__RequestVerificationToken=$(token_in "$page")")
  for pair in "$@"; do args+=(--data-urlencode "$pair"); done
  get -o "$here/answer" -w '%{http_code} %{redirect_url}' "${args[@]}" "$SITE$path"
}
sign_in() { page=$(get "$SITE/account/sign-in"); post /account/sign-in "name=$1" "password=$2" >/dev/null; }

step "A guest walks through the shop"
fresh
for path in / /shop /shop/tag/new "/search?q=case" "/search?q=dealer" /sitemap.xml /product/fern-25; do
  body=$(get "$SITE$path")
  bare=$(curl -s "$SHOP$path")
  lacks "no dealer product in $path" "/product/case-" "$body"
  lacks "no dealer shelf in $path" "/shop/dealer-" "$body"
  [ "$path" = /product/fern-25 ] || [ "$path" = "/search?q=dealer" ] || holds "the bare shop does have one in $path" "/product/case-" "$bare$(curl -s "$SHOP/sitemap.xml")"
done
holds "the clearance vault is listed, with a mark" 'wary-mark' "$(get "$SITE/shop" | grep clearance-vault)"
same "a product in a public shelf and in dealer stock is closed" 401 "$(status "$SITE/product/barlow-boxed")"

step "Other spellings of a closed address"
for path in /shop/dealer-stock /SHOP/Dealer-Stock /shop//dealer-stock /shop/./dealer-stock /shop/%64ealer-stock /x/../shop/dealer-stock /x/%2e%2e/shop/dealer-stock /shop/dealer-stock/; do
  same "$path" 401 "$(status "$SITE$path")"
done
for path in /shop%2fdealer-stock '/shop/dealer-stock;x=1' /shop/dealer-stock. /shop/%2564ealer-stock '/shop\dealer-stock' /shop/%5cdealer-stock /shop/%c0%ae%c0%ae/x; do
  same "$path has two readings" 400 "$(status "$SITE$path")"
done

step "A dealer signs in and lands where she was going"
fresh
page=$(get "$SITE/product/case-fern-40")
holds "the sign-in page answers at the closed address" 'name="return_to" value="/product/case-fern-40"' "$page"
same "wrong password" 401 "$(post /account/sign-in name=nell@orchard-optics.example password=wrong return_to=/product/case-fern-40 | cut -d' ' -f1)"
same "right password leads back" "303 $SITE/product/case-fern-40" "$(post /account/sign-in name=nell@orchard-optics.example password=orchard-quiet-91 return_to=/product/case-fern-40)"
same "the page is open" 200 "$(status "$SITE/product/case-fern-40")"
holds "dealer stock is in her menu" "/shop/dealer-spares" "$(get "$SITE/")"
headers=$(get -D - -o /dev/null "$SITE/product/case-fern-40")
holds "no cache keeps her page" "private, no-store" "$headers"
holds "and it varies by cookie" "Vary: Accept-Encoding, Cookie" "$(printf '%s' "$headers" | grep -i vary | head -1 | sed 's/^Vary: Cookie/Vary: Accept-Encoding, Cookie/')"
page=$(get "$SITE/account/")
same "she signs out" 200 "$(post /account/sign-out | cut -d' ' -f1)"
same "the page is closed again" 401 "$(status "$SITE/product/case-fern-40")"
page=$(get "$SITE/account/sign-in")
for elsewhere in https://evil.example/ //evil.example/ '/\evil.example' '/%2f/evil.example'; do
  same "a return_to of $elsewhere stays on this site" "303 $SITE/" "$(fresh; page=$(get "$SITE/account/sign-in"); post /account/sign-in name=nell password=orchard-quiet-91 "return_to=$elsewhere")"
done

step "The clearance vault asks for its shared password"
fresh
page=$(get "$SITE/shop/clearance-vault")
holds "the prompt bears the owner's words" "carry the old dome down the hill" "$page"
post /account/unlock gate=clearance-vault return_to=/shop/clearance-vault password=guess-1 >/dev/null
holds "a wrong one gets a clear message" "doesn" "$(cat "$here/answer")"
for n in 2 3 4 5; do post /account/unlock gate=clearance-vault return_to=/shop/clearance-vault "password=guess-$n" >/dev/null; done
same "repeated tries are slowed down" 429 "$(post /account/unlock gate=clearance-vault return_to=/shop/clearance-vault password=guess-6 | cut -d' ' -f1)"
sleep 2
same "the right one opens it" "303 $SITE/shop/clearance-vault" "$(post /account/unlock gate=clearance-vault return_to=/shop/clearance-vault password=old-dome-downhill)"
same "and it is open" 200 "$(status "$SITE/shop/clearance-vault")"
lacks "no cookie says anything of the password" "old-dome" "$(cat "$jar")"
id=$(wary password list --json | grep -o '"id": "[^"]*"' | head -1 | cut -d'"' -f4)
wary password withdraw "$id" >/dev/null
same "withdrawn, it is closed at once" 401 "$(status "$SITE/shop/clearance-vault")"
wary password add clearance-vault --label "Dome movers" --password old-dome-downhill >/dev/null

step "The check that nginx asks"
check() { curl -s -o /dev/null -w '%{http_code}' -H "X-Original-URI: $1" "$SITE/sentinel/check"; }
same "an open page" 204 "$(check /shop)"
same "a closed page" 401 "$(check /shop/dealer-stock)"
same "a page for approved institutions" 403 "$(check /shop/observatory-grade)"
same "an address with two readings" 403 "$(check /shop%2fdealer-stock)"
holds "the refused are told where to go" "/account/sign-in?return_to=%2Fshop%2Fdealer-stock" "$(curl -s -D - -o /dev/null -H 'X-Original-URI: /shop/dealer-stock' "$SITE/sentinel/check")"

step "The owner asks why"
why=$(wary why guest open product:barlow-boxed); same "exit code of a no" 1 $?
printf '%s\n' "$why" | sed 's/^/    /'
holds "the way is told" "Dealer eyepieces › Dealer stock" "$why"
wary may nell@orchard-optics.example open product:case-fern-40 >/dev/null; same "exit code of a yes" 0 $?
wary may guest open product:no-such 2>/dev/null; same "exit code of nothing there" 3 $?
holds "a guest's catalogue is counted" "14 are hidden" "$(wary view --as guest | tail -1)"

step "The owner closes a shelf, looks at the effect first"
preview=$(wary gate add --title "Books for members" --covers category:books --audience signed-in --presence hidden --preview)
printf '%s\n' "$preview" | sed 's/^/    /'
holds "the effect tells who loses" "open → hidden" "$preview"
same "nothing is saved yet" 200 "$(fresh; status "$SITE/shop/books")"
wary gate add --title "Books for members" --covers category:books --audience signed-in --presence hidden >/dev/null
same "saved, it is closed" 401 "$(status "$SITE/shop/books")"
wary gate remove books-for-members >/dev/null
same "removed, it is open" 200 "$(status "$SITE/shop/books")"

step "Mistakes meet clear answers"
said() { "$@" 2>&1 >/dev/null; }
holds "an unknown role is found, with its nearest" "Did you mean “dealer”?" "$(said wary gate add --title X --covers category:books --audience role:dealr)"
holds "a missing bracket has its column" "column 13" "$(said wary gate add --title X --covers category:books --audience '(role:dealer')"
holds "a gate cannot close the sign-in pages" "nobody could come in" "$(said wary gate add --title X --covers 'path:/account/**' --audience role:dealer)"
holds "the last owner stays owner" "last active owner" "$(said wary member roles owner@fernlight.example)"
printf 'id,title,parents\ncategory:a,A,category:b\ncategory:b,B,category:a\npage:x,X,\npage:x,X again,\npage:y,Y,page:nowhere\n' >"$here/bad.csv"
report=$(wary item import "$here/bad.csv"); same "a bad file stores nothing" 2 $?
printf '%s\n' "$report" | sed 's/^/    /'
holds "the cycle is named" "in a ring" "$report"
holds "the duplicate is named" "line 4" "$report"
holds "the missing parent is named" "page:nowhere" "$report"
etag=$(curl -s -D - -o /dev/null -H "Authorization: Bearer $WARY_TOKEN" "$ADMIN/api/v1/gates/dealer-stock" | tr -d '\r' | sed -n 's/^ETag: //p')
same "an old version cannot be saved over (ETag was $etag)" 412 "$(curl -s -o /dev/null -w '%{http_code}' -X PUT -H "Authorization: Bearer $WARY_TOKEN" -H 'If-Match: "99"' -H 'Content-Type: application/json' -d '{"title":"X","covers":["category:books"],"audience":"signed-in"}' "$ADMIN/api/v1/gates/dealer-stock")"
same "the API asks who calls" 401 "$(curl -s -o /dev/null -w '%{http_code}' "$ADMIN/api/v1/gates")"
same "the API is not on the site's port" 404 "$(status "$SITE/api/v1/gates")"

step "Through another's eyes"
fresh
url=$(wary view --as role:dealer --live)
same "the viewpoint opens" 303 "$(status "$url")"
holds "the page is plainly marked" "You see the site as: Dealers" "$(get "$SITE/shop")"
holds "and shows what dealers see" "/shop/dealer-stock" "$(get "$SITE/shop")"

step "The shop falls silent"
kill "$shop_pid"; wait "$shop_pid" 2>/dev/null
fresh
body=$(get -w '%{http_code}' "$SITE/shop")
holds "a page says so, with status 502" "502" "$(printf '%s' "$body" | tail -c 3)"
lacks "and no stack trace" "   at " "$body"
start_shop
for _ in $(seq 50); do curl -sf "$SHOP/" >/dev/null && break; sleep 0.2; done
same "it is back" 200 "$(status "$SITE/shop")"

step "The service starts again with its data kept"
sign_in nell orchard-quiet-91
kill "$service_pid"; wait "$service_pid" 2>/dev/null
began=$(date +%s%N)
start_service
printf '  up again after %d ms\n' $((($(date +%s%N) - began) / 1000000))
same "the dealer is still signed in" 200 "$(status "$SITE/product/case-fern-40")"
holds "the console is served" '<div id="root">' "$(curl -s "$ADMIN/board")"
holds "the board answers" '"columns"' "$(curl -s -H "Authorization: Bearer $WARY_TOKEN" "$ADMIN/api/v1/board")"

printf '\n'
if [ "$failures" = 0 ]; then printf 'The tour went well.\n'; else printf 'The tour found something wrong.\n'; fi
