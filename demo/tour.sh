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
awaits() { # awaits COMMAND… : asks again until it holds, for two minutes at most: on a busy machine what comes late is not missing
  local end=$((SECONDS + 120))
  until "$@"; do ((SECONDS < end)) || return 0; sleep 0.2; done
}
is() { [ "$(status "$SITE$2")" = "$1" ]; } # is STATUS PATH
told() { letter=$(curl -s "$MAILBOX/messages.json"); grep -qF -- "$1" <<<"$letter"; } # told WORDS : $letter holds every letter so far
token_in() { grep -o 'name="__RequestVerificationToken" value="[^"]*"' <<<"$1" | head -1 | sed 's/.*value="//; s/"$//'; }
post() { # post PATH FIELD=VALUE… : fills the form that PAGE holds
  local path=$1; shift
  local args=(--data-urlencode "__RequestVerificationToken=$(token_in "$page")")
  for pair in "$@"; do args+=(--data-urlencode "$pair"); done
  get -o "$here/answer" -w '%{http_code} %{redirect_url}' "${args[@]}" "$SITE$path"
}
join() { # join FORM SECONDS FIELD=VALUE… : fills the form, with the work that a browser does; the answer stands in the file "answer"
  local form=$1 seconds=$2 seal; shift 2
  page=$(get "$SITE/account/register/$form"); seal=$(grep -o 'name="seal" value="[^"]*"' <<<"$page" | head -1 | sed 's/.*value="//; s/"$//')
  sleep "$seconds"
  post "/account/register/$form" "seal=$seal" "work=$(node "$root/demo/work.mjs" "$seal" "$(grep -o 'data-bits="[0-9]*"' <<<"$page" | tr -dc 0-9)")" "$@" >/dev/null
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
for path in /shop/dealer-stock /SHOP/Dealer-Stock /shop//dealer-stock /shop/./dealer-stock /shop/%64ealer-stock /x/../shop/dealer-stock /x/%2e%2e/shop/dealer-stock /shop/dealer-stock/ /shop/dealer-stock/index.html /shop/dealer-stock/INDEX.php; do
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
  same "a return_to of $elsewhere stays on this site" "303 $SITE/shop/dealer-stock" "$(fresh; page=$(get "$SITE/account/sign-in"); post /account/sign-in name=nell password=orchard-quiet-91 "return_to=$elsewhere")"
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

step "A whole site for members only, with holes where they are needed"
wary gate add --key whole-site --title "Private shop" --covers site --audience signed-in >/dev/null
wary gate add --key holes --title "Call-back, feed and probe" --covers "path:/visit,path:/sitemap.xml,path:/feed.xml" --exemption >/dev/null
fresh
same "the start page asks to sign in" 401 "$(status "$SITE/")"
same "an address that no item has, too" 401 "$(status "$SITE/search?q=fern")"
same "the exempted page is open" 200 "$(status "$SITE/visit")"
same "the feed is open" 200 "$(status "$SITE/feed.xml")"
same "the sign-in page is always reachable" 200 "$(status "$SITE/account/sign-in")"
wary gate remove whole-site >/dev/null; wary gate remove holes >/dev/null
same "open again" 200 "$(status "$SITE/")"

step "A date opens and closes by itself"
wary gate add --key early --title "Early access" --covers category:finders --audience "plan:patron" --until "$(date -u -d '+5 seconds' +%FT%TZ)" >/dev/null
same "before its end it is closed" 401 "$(status "$SITE/shop/finders")"
awaits is 200 /shop/finders
same "after its end it is open" 200 "$(status "$SITE/shop/finders")"
wary may guest open category:finders --at 2020-01-01 >/dev/null; same "and was closed then" 1 $?
wary gate set early --until none --from 2030-01-01 >/dev/null
same "a gate with a start in the future closes nothing yet" 200 "$(status "$SITE/shop/finders")"
wary may guest open category:finders --at 2031-01-01 >/dev/null; same "but will" 1 $?
wary gate remove early >/dev/null

step "What others meet: hidden by default, a message with a link, a redirect, nothing at all"
fresh
wary gate add --key t --title T --covers category:finders --audience plan:patron --answer message --message "For patrons." --link /visit --link-words "How to become one" >/dev/null
same "a message is status 403" 403 "$(status "$SITE/shop/finders")"
holds "with its link" "How to become one" "$(get "$SITE/shop/finders")"
holds "machines get a problem" '"code":"closed"' "$(get -H 'Accept: application/json' "$SITE/shop/finders")"
holds "the shelf is listed, by the usual of this site" "/shop/finders" "$(get "$SITE/shop")"
printf '{"presence":"hidden"}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null
lacks "hidden, once the site says so" 'href="/shop/finders"' "$(get "$SITE/shop")"
printf '{"presence":"listed"}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null
wary gate set t --answer redirect --redirect-to /visit >/dev/null
same "a redirect is 303" "303 $SITE/visit" "$(get -o /dev/null -w '%{http_code} %{redirect_url}' "$SITE/shop/finders")"
wary gate set t --answer not-found >/dev/null
same "nothing at all is 404" 404 "$(status "$SITE/shop/finders")"
wary gate remove t >/dev/null

step "Prices for some: what a page shows is what the cart charges"
fresh
price_in() { sed -n 's/.*data-wary-price="product:'"$2"'">\([^<]*\)<.*/\1/p' <<<"$1" | head -1 | sed 's/&#x20AC;/€/'; }
same "a guest sees everybody's price" "€119.00" "$(price_in "$(get "$SITE/product/fern-25")" fern-25)"
same "what a guest may not buy does not go into the cart" "401 401 403" "$(status -d product=worm-gear "$SITE/cart/add") $(status -H 'Content-Type: application/json' -d '{"lines":[{"product":"worm-gear"}]}' "$SITE/cart/add") $(status -d product=007 "$SITE/cart/add")"
sign_in nell orchard-quiet-91
same "a dealer sees hers on the same page" "€95.00" "$(price_in "$(get "$SITE/product/fern-25")" fern-25)"
same "and fills her cart with trade stock" 302 "$(status -d product=worm-gear "$SITE/cart/add")"
status -d product=fern-25 "$SITE/cart/add" >/dev/null
holds "where the shop charges just that" "Together: € 305.00" "$(get "$SITE/cart")"
holds "a patron's coupon is not hers" "is for others" "$(get "$SITE/cart?code=DARKSKY")"
same "ten of them cost less each" "880.00" "$(wary price quote nell@orchard-optics.example product:fern-25=10 --json | sed -n 's/.*"total": "\(880[^"]*\)".*/\1/p' | head -1)"
holds "the decision protocol says the same price" '"amount":"95.00"' "$(curl -s -H "Authorization: Bearer $WARY_TOKEN" -H 'Content-Type: application/json' -d '{"subject":{"type":"member","id":"nell@orchard-optics.example"},"action":{"name":"buy"},"resource":{"type":"product","id":"fern-25"}}' "$WARY_URL/access/v1/evaluation")"
wary coupon use DARKSKY FO-9001 --who mira@lowlight.example >/dev/null
same "a coupon is used once by one person, and said again it stays used once" "0 4" "$(wary coupon use DARKSKY FO-9001 --who mira@lowlight.example >/dev/null; echo $?) $(wary coupon use DARKSKY FO-9002 --who mira@lowlight.example >/dev/null 2>&1; echo $?)"
wary coupon return dark-sky FO-9001 >/dev/null
fresh
same "and the guest sees everybody's price again" "€119.00" "$(price_in "$(get "$SITE/product/fern-25")" fern-25)"

step "Prices for the trade; parts for those inside and outside; our forms in the shop's own pages"
fresh
mount=$(curl -s "$SHOP/shop/mounts" | grep -o '/product/[a-z0-9-]*' | head -1)
holds "a guest is told of trade prices" "see trade prices" "$(get "$SITE$mount")"
lacks "and not told them" "Trade price <b" "$(get "$SITE$mount")"
home=$(get "$SITE/")
holds "those outside read their part" "Join us under the dome" "$home"
lacks "and not the other" "For you tonight" "$home"
holds "the sign-in form stands in the page" 'class="wary-form wary-sign-in"' "$home"
holds "and works from there" "303" "$(get -o /dev/null -w '%{http_code} %{redirect_url}' -H "Origin: $SITE" -H 'Sec-Fetch-Site: same-origin' -d 'name=nell&password=orchard-quiet-91&return_to=/' "$SITE/account/sign-in")"
holds "a dealer reads the trade price" "Trade price <b" "$(get "$SITE$mount")"
holds "those inside read theirs" "For you tonight" "$(get "$SITE/")"
same "another site's form is refused" 400 "$(fresh; status -H 'Origin: https://evil.example' -H 'Sec-Fetch-Site: cross-site' -d 'name=nell&password=orchard-quiet-91' "$SITE/account/sign-in")"
parts='{"parts":[{"in":"/parts/tonight.html","else":"/parts/join.html"}],"links":["/shop","/shop/dealer-stock","/shop/clearance-vault"],"forms":["sign-in"],"page":"/"}'
fresh
given=$(get -H 'Content-Type: application/json' -d "$parts" "$SITE/sentinel/parts")
holds "without the gateway, a script asks once: the part for outsiders" '"which":"else"' "$given"
lacks "the guarded part does not travel" "The dome opens" "$given"
holds "menu decisions come along" '"links":["open","hidden","listed"]' "$given"
sign_in pia lantern-lane-12
holds "a member gets the other part" "The dome opens" "$(get -H 'Content-Type: application/json' -d "$parts" "$SITE/sentinel/parts")"

step "One page for all passwords, made strong, told once, counted, rotated"
fresh
made=$(wary password add clearance-vault --label "Astronomy club" --most-uses 2 --asked "not role:dealer" --json)
secret=$(sed -n 's/.*"password": "\(.*\)",*/\1/p' <<<"$made"); id=$(sed -n 's/.*"id": "\(.*\)",*/\1/p' <<<"$made" | head -1)
holds "the words to send hold the address" "$SITE/account/unlock" "$made"
lacks "it is not told again" "$secret" "$(wary password list --json)"
page=$(get "$SITE/account/unlock")
same "typed on the page for all, it lands where it opens" "303 $SITE/shop/clearance-vault" "$(post /account/unlock "password=$secret")"
holds "one use, one network" "1 of 2 " "$(wary password list | grep 'Astronomy club')"
fresh; page=$(get "$SITE/account/unlock"); post /account/unlock "password=$secret" >/dev/null
fresh; page=$(get "$SITE/account/unlock")
same "after its last use it opens nothing, and the guesses from before still count" 429 "$(post /account/unlock "password=$secret" | cut -d' ' -f1)"
lacks "closed" "200" "$(status "$SITE/shop/clearance-vault")"
sleep 2.2
wary gate add --key second --title "Old stock" --covers category:comfort --audience password >/dev/null
wary password add second --label Both --password old-dome-downhill >/dev/null
page=$(get "$SITE/account/unlock")
same "one that belongs to two gates offers the list" "303 $SITE/account/opened" "$(post /account/unlock password=old-dome-downhill)"
holds "with both" "/shop/comfort" "$(get "$SITE/account/opened")"
wary gate remove second >/dev/null
old=$(wary password list --json | tr -d '\n' | grep -o '"id": "[^"]*",[^}]*"label": "Dome movers"[^}]*"inForce": true' | head -1 | cut -d'"' -f4)
wary password rotate "$old" --overlap PT8S --tell club@heather.example >/dev/null
fresh; page=$(get "$SITE/account/unlock")
holds "the old one works in the overlap" "303" "$(post /account/unlock password=old-dome-downhill)"
mv "$jar" "$here/old-jar"
awaits told club@heather.example
fresh_secret=$(sed 's/.*from now on:[\\rn]*\\n\([a-z0-9-]*\)\\.*/\1/' <<<"$letter")
fresh; page=$(get "$SITE/account/unlock")
holds "the new one came by mail and opens" "303" "$(post /account/unlock "password=$fresh_secret")"
mv "$here/old-jar" "$jar"
awaits is 401 /shop/clearance-vault
same "then what it opened is closed" 401 "$(status "$SITE/shop/clearance-vault")"
wary password add clearance-vault --label "Dome movers" --password old-dome-downhill >/dev/null
wary gate set clearance-vault --unlock-for session >/dev/null
fresh; page=$(get "$SITE/account/unlock"); post /account/unlock password=old-dome-downhill >/dev/null
same "opened until the browser is closed: the cookie has no end" "0" "$(awk '$6=="wary-here"{print $5}' "$jar")"
wary gate set clearance-vault --unlock-for P14D >/dev/null

step "Crawlers are welcome when their address checks out"
printf '{"crawlers":[{"name":"moonbot","hosts":[],"ranges":["192.0.2.0/24"]}]}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null
wary gate add --key for-search --title "For search" --covers category:finders --audience "signed-in or crawler" >/dev/null
fresh
same "a pretender is an outsider" 401 "$(status -A 'moonbot/2.0' "$SITE/shop/finders")"
printf '{"crawlers":[{"name":"moonbot","hosts":[],"ranges":["127.0.0.0/8","::1/128"]}]}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null
same "a verified one sees the page" 200 "$(status -A 'moonbot/2.0' "$SITE/shop/finders")"
same "anybody else from there does not" 401 "$(status "$SITE/shop/finders")"
wary gate remove for-search >/dev/null; printf '{"crawlers":[]}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null

step "The catalogue comes in by itself"
seen=$(wary item import sitemap --dry-run); holds "the sitemap knows nothing new" " 0 to add, 0 to change" "$seen"
seen=$(wary item import feed --as feed --dry-run 2>&1 || true)
seen=$(wary item import "$SHOP/feed.xml" --as feed --dry-run); holds "nor does the feed" " 0 to add" "$seen"
wary item add product:left-over --title "Left over" --parents category:finders --addresses /product/left-over >/dev/null
seen=$(wary item import "$SHOP/feed.xml" --as feed --dry-run); holds "what vanished is reported, not deleted" "product:left-over" "$seen"
seen=$(wary item import walk --pause 0 --most-pages 40 --dry-run); printf '%s\n' "$seen" | tail -3 | sed 's/^/    /'
holds "a walk stops at its bound" "--resume goes on" "$seen"
seen=$(wary item import walk --pause 0 --resume --dry-run); holds "goes on, and comes to its end" "vanished" "$seen"
lacks "with nothing left to resume" "--resume" "$seen"
gzip -c <(curl -s "$SHOP/sitemap.xml") >"$here/map.xml.gz"
holds "a packed sitemap from a file" " 0 to add" "$(wary item import "$here/map.xml.gz" --dry-run)"
wary item remove product:left-over >/dev/null; same "an item goes that opens nothing by it" 3 "$(wary item show product:left-over >/dev/null 2>&1; echo $?)"
seen=$(wary item remove product:case-fern-40); same "one that opens something does not go without a yes" 1 $?
holds "and it is said what, and to whom" "/product/case-fern-40 hidden → open" "$seen"

step "Seen through more eyes, at another date"
holds "a member by name" "Mira Lowlight finds" "$(wary view --as mira@lowlight.example | tail -1)"
holds "a holder of a password" "A holder of a password of Clearance vault finds" "$(wary view --as password:clearance-vault | tail -1)"
fresh
url=$(wary view --as password:clearance-vault --at 2027-05-01 --live); status "$url" >/dev/null
holds "the live site, marked with the date" "on 1 May 2027" "$(get "$SITE/shop/clearance-vault")"

step "A change is on record, and can be taken back"
wary gate set dealer-stock --presence listed >/dev/null
holds "who changed what, as a difference" "presence: hidden → listed" "$(wary history dealer-stock | head -3)"
wary gate undo dealer-stock >/dev/null
lacks "taken back" "presence: listed" "$(wary export)"
wary gate remove sky-atlas >/dev/null; wary gate undo sky-atlas >/dev/null
holds "a removed gate, too" "Autumn sky atlas" "$(wary gate show sky-atlas)"

step "The site as text"
wary export --to "$here/site.yaml" >/dev/null
seen=$(wary apply "$here/site.yaml"); same "what was written changes nothing" 0 $?
holds "and says so" "Nothing to change" "$seen"
sed -i 's/audience: role:guide or role:keeper$/audience: role:guide/' "$here/site.yaml"
seen=$(wary apply "$here/site.yaml" --dry-run); same "a difference is shown first" 1 $?
printf '%s\n' "$seen" | sed 's/^/    /'
wary apply "$here/site.yaml" --yes >/dev/null; same "and stored whole" 0 $?
sed 's/^gates:/gatez:/' "$here/site.yaml" >"$here/bad.yaml"
holds "an unknown key has its line, column and the nearest" "column 1: “gatez” is not known here. Did you mean “gates”?" "$(said wary apply "$here/bad.yaml" --yes)"
sed 's/audience: role:guide$/audience: role:gide/' "$here/site.yaml" >"$here/bad.yaml"
holds "a fault inside an expression, too" "There is no role “gide”" "$(said wary apply "$here/bad.yaml" --yes)"
printf 'redirects: []\n' >"$here/prune.yaml"; wary apply "$here/prune.yaml" --prune --yes >/dev/null
same "--prune removes what a section does not name" "[]" "$(wary redirect list --json)"
sed -i 's/audience: role:guide$/audience: role:guide or role:keeper/' "$here/site.yaml"; wary apply "$here/site.yaml" --yes >/dev/null
holds "and applying the file brings it back" "dealers-home" "$(wary redirect list)"
fresh; page=$(get "$SITE/account/sign-in")
same "a dealer lands where her redirect says" "303 $SITE/shop/dealer-stock" "$(post /account/sign-in name=nell password=orchard-quiet-91)"

step "The standard decision protocol"
pdp() { curl -s -H "Authorization: Bearer $WARY_TOKEN" -H 'Content-Type: application/json' -H 'X-Request-ID: tour-1' "$@"; }
holds "its metadata" "access_evaluation_endpoint" "$(curl -s "$SITE/.well-known/authzen-configuration")"
asked='{"subject":{"type":"member","id":"pia@lanternlane.example"},"action":{"name":"open"},"resource":{"type":"product","id":"case-fern-40"}}'
answer=$(pdp -d "$asked" "$SITE/access/v1/evaluation"); printf '    %s\n' "$answer"
holds "a refusal, with its reason" '"decision":false' "$answer"
holds "and its answer" '"answer":"message"' "$answer"
holds "the request's id comes back" "X-Request-ID: tour-1" "$(pdp -D - -o /dev/null -d "$asked" "$ADMIN/access/v1/evaluation")"
same "without a token" 401 "$(curl -s -o /dev/null -w '%{http_code}' -H 'Content-Type: application/json' -d "$asked" "$SITE/access/v1/evaluation")"
holds "many at once, ending at the first no" '{"evaluations":[{"decision":true},{"decision":false' "$(pdp -d '{"subject":{"type":"guest","id":"x"},"action":{"name":"open"},"evaluations":[{"resource":{"type":"path","id":"/shop"}},{"resource":{"type":"path","id":"/shop/dealer-stock"}},{"resource":{"type":"path","id":"/"}}],"options":{"evaluations_semantic":"deny_on_first_deny"}}' "$SITE/access/v1/evaluations")"
holds "what a dealer may open" '"id":"case-fern-40"' "$(pdp -d '{"subject":{"type":"role","id":"dealer"},"action":{"name":"open"},"resource":{"type":"product"},"page":{"limit":200}}' "$SITE/access/v1/search/resource")"
holds "who may open it" "nell@orchard-optics.example" "$(pdp -d '{"subject":{"type":"member"},"action":{"name":"open"},"resource":{"type":"product","id":"case-fern-40"}}' "$SITE/access/v1/search/subject")"
holds "what a guest may do with a mount" '{"name":"buy"}' "$(pdp -d "{\"subject\":{\"type\":\"guest\",\"id\":\"x\"},\"resource\":{\"type\":\"product\",\"id\":\"${mount##*/}\"}}" "$SITE/access/v1/search/action")"

step "The sweep finds the leak that the demo carries"
report=$(wary sweep --as role:dealer,signed-in); same "exit code of a leak" 1 $?
printf '%s\n' "$report" | sed 's/^/    /'
holds "the shop's quick search names dealer stock to everybody" "/products.json" "$report"
holds "and how to mend it" "with a gate of its own" "$report"
holds "a view for printers still says what a closed page says" "what /members/coordinates says" "$report"
wary gate add --key quick-search --title "Quick search" --covers path:/products.json --covers path:/search-index.js --covers 'path:/print/**' --audience role:dealer --presence hidden >/dev/null
report=$(wary sweep --as role:dealer,signed-in); same "mended, the exit code is 0" 0 $?
report=$(wary sweep --as role:dealer --origin "$SHOP"); same "asked around us, the bare shop is found out" 1 $?
holds "with how to mend it" "bind it to 127.0.0.1" "$report"
report=$(wary sweep --as role:dealer --cache "$CACHE"); same "a heedless cache is found out" 1 $?
holds "with how to mend it" "Cache-Control: private" "$report"
wary gate remove quick-search >/dev/null
printf '{"sweep":{"everyHours":1,"as":["signed-in"],"alertTo":"owner@fernlight.example"}}' >"$here/settings.json"; wary settings --set "$here/settings.json" >/dev/null
awaits told "sweep found leaks"
holds "by itself it runs too, and tells of leaks by mail" "/products.json" "$letter"

step "Boxes on pages and data for programs: said once what one entry is"
fresh
wary item add page:lookbook --title "Lookbook" --addresses /lookbook >/dev/null
for rule in $(wary entry list --json | grep -o '"key": "[^"]*' | cut -d'"' -f4); do wary entry remove "$rule" >/dev/null; done
holds "the sweep sees what is left of cards without their link" "tells of what is hidden" "$(wary sweep --as role:dealer)"
wary entry find /lookbook | sed 's/^/    /'
holds "what goes and stays is shown first" "goes   Case of 6 Fern 40 mm" "$(wary entry try lookbook --at /lookbook --entry .piece --price .price --on /lookbook)"
wary entry set lookbook --at /lookbook --entry .piece --price .price | sed 's/^/    /'
wary entry set shelf --at /lookbook --entry '$[*]' --behind window.__SHELF__ >/dev/null
wary entry set products --at /api/products --entry '$.products[*]' --about 'product:{sku}' --price @.price >/dev/null
wary entry set search --at /search-index.js --entry '$.paths[*]' --behind ShopSearch.load --blank --beside '$.titles' --points '$.words.*[*]' >/dev/null
page=$(get "$SITE/lookbook")
lacks "a card about dealer stock is gone whole" "Case of 6" "$page"
holds "a mount is there" "Stork equatorial mount" "$page"
lacks "and its trade price is not" "1,290" "$page"
lacks "nor does the page's script know of it" "case-fern" "$page"
holds "the shop itself writes all of it" "case-fern-40" "$(curl -s "$SHOP/api/products")"
lacks "its data have no dealer stock" "case-fern" "$(get "$SITE/api/products")"
holds "and every other product" '"sku":"fern-40","name":"Fern 40 mm wide field","price":148' "$(get "$SITE/api/products")"
lacks "a search index points at nothing hidden" "case-fern" "$(get "$SITE/search-index.js")"
holds "and keeps its places" '"/product/flask-night",""' "$(get "$SITE/search-index.js")"
sign_in nell orchard-quiet-91
holds "a dealer has the cards" "Case of 6 Fern 40 mm" "$(get "$SITE/lookbook")"
holds "and the data" "case-fern-40" "$(get "$SITE/api/products")"
tag=$(get -D - -o /dev/null "$SITE/shop" | tr -d '\r' | sed -n 's/^ETag: //Ip')
same "a page that differs has a tag of its own, and is not sent twice" 304 "$(status -H "If-None-Match: $tag" "$SITE/shop")"
fresh
same "which tells another visitor nothing" 200 "$(status -H "If-None-Match: $tag" "$SITE/shop")"
wary gate add --key all --title "Whole site" --covers site --audience signed-in >/dev/null
same "the whole site is closed, its style sheet too" 401 "$(status "$SITE/shop.css")"
wary gate add --exemption --key styles --title "Styles" --covers 'path:/**/*.css' >/dev/null
same "one exemption frees all of its style sheets" 200 "$(status "$SITE/shop.css")"
same "and nothing else" 401 "$(status "$SITE/visit")"
wary gate remove styles >/dev/null; wary gate remove all >/dev/null

step "Through another's eyes"
fresh
url=$(wary view --as role:dealer --live)
same "the viewpoint opens" 303 "$(status "$url")"
holds "the page is plainly marked" "You see the site as: Dealers" "$(get "$SITE/shop")"
holds "and shows what dealers see" "/shop/dealer-stock" "$(get "$SITE/shop")"
fresh
same "the link works once" 403 "$(status "$url")"
holds "and is on record" "view.enter" "$(wary history role:dealer | head -6)"

step "A member is kept out with words, let back in, and another is erased"
fresh; sign_in nell@orchard-optics.example orchard-quiet-91
same "she is in" 200 "$(status "$SITE/product/case-fern-40")"
wary member suspend nell@orchard-optics.example --words "Two invoices are open. Please call us." >/dev/null
same "suspended, her browser is out at once" 401 "$(status "$SITE/product/case-fern-40")"
fresh; page=$(get "$SITE/account/sign-in"); post /account/sign-in name=nell password=orchard-quiet-91 >/dev/null
holds "with her password she reads why" "Two invoices are open. Please call us." "$(cat "$here/answer")"
page=$(get "$SITE/account/sign-in"); post /account/sign-in name=nell password=guessed-wrong-1 >/dev/null
lacks "without it nobody does" "invoices" "$(cat "$here/answer")"
wary member show nell@orchard-optics.example | sed 's/^/    /'
same "suspended, the command line says no" 1 "$(wary may nell@orchard-optics.example open category:dealer-stock >/dev/null; echo $?)"
holds "and so does the decision protocol" '"decision":false' "$(pdp -d '{"subject":{"type":"member","id":"nell@orchard-optics.example"},"action":{"name":"open"},"resource":{"type":"category","id":"dealer-stock"}}' "$SITE/access/v1/evaluation")"
wary member reinstate nell@orchard-optics.example >/dev/null
wary member add gone@fernlight.example --name "Gone Soon" --password - >/dev/null <<<"plum-stones-at-noon"
wary member note gone@fernlight.example "Moved to the coast." >/dev/null
holds "all that is known of a member comes as a file" "Moved to the coast." "$(wary member export gone@fernlight.example)"
wary gate add --key for-gone --title "For one" --covers path:/only/** --audience member:gone@fernlight.example >/dev/null
holds "who is named by a gate is not erased" "gate for-gone" "$(wary member erase gone@fernlight.example --yes 2>&1)"
wary gate remove for-gone >/dev/null
wary member erase gone@fernlight.example --yes | sed 's/^/    /'
lacks "erased, nothing in the trail says who it was" "gone@fernlight" "$(wary history | head -60)"
printf 'visitor,act,item\nnell@orchard-optics.example,open,category:dealer-stock\nguest,open,/shop/dealer-stock\n"role:dealer,group:institutions",open,category:observatory-grade\n' >"$here/questions.csv"
answers=$(wary may --from "$here/questions.csv"); same "many questions of a file, any no" 1 $?
printf '%s\n' "$answers" | sed 's/^/    /'
same "each answered beside it" "yes no yes" "$(printf '%s\n' "$answers" | tail -n +2 | sed 's/"[^"]*"/x/g' | cut -d, -f6 | xargs)"

step "Members come in from a file, looked through first"
printf 'Mail;Vorname;Nachname;Rolle;Beitritt\nlou@brook.example;Lou;Brook;guide;2026-02-03\nnobody;No;One;guide;2026-02-03\nvera@mill.example;V\xe9ra;Mill;gide;2026-02-03\nivo@ridge.example;Ivo;Ridge;;2026-03-01\n' >"$here/club.csv"
review=$(wary member import "$here/club.csv" --map Rolle=roles --map Beitritt=joined --dry-run)
printf '%s\n' "$review" | sed 's/^/    /'
holds "what would come is told row by row" "2 new, 0 changed, 0 unchanged, 2 refused. Nothing is stored." "$review"
holds "with line and reason" "line 4, roles: There is no role “gide”. Did you mean “guide”?" "$review"
wary member import "$here/club.csv" --map Rolle=roles --map Beitritt=joined --yes >/dev/null
holds "begun again, nobody comes twice" "0 new, 0 changed, 2 unchanged" "$(wary member import "$here/club.csv" --map Rolle=roles --map Beitritt=joined --yes)"
printf 'moss:%s\n' "$(openssl passwd -apr1 -stdin <<<"from-the-old-site")" >"$here/htpasswd"
wary member import "$here/htpasswd" --domain hill.example --yes >/dev/null
fresh; page=$(get "$SITE/account/sign-in")
same "an old password file lets its people in" 303 "$(post /account/sign-in name=moss@hill.example password=from-the-old-site | cut -d' ' -f1)"
holds "and their hash is renewed by that" "password.renew" "$(wary history moss@hill.example)"

step "A role is copied, renamed and retired, and whoever holds it goes along"
wary role copy dealer branch --title Branches | sed 's/^/    /'
holds "what admits the one admits the other" "role:dealer or role:branch" "$(wary gate show dealer-stock)"
wary grant give moss@hill.example role:branch >/dev/null
same "so the copy opens it" 0 "$(wary may moss@hill.example open category:dealer-stock >/dev/null; echo $?)"
wary role rename branch outlet >/dev/null
same "under another key as well" 0 "$(wary may moss@hill.example open category:dealer-stock >/dev/null; echo $?)"
wary role show outlet | sed 's/^/    /'
wary role retire outlet --to dealer --yes >/dev/null
holds "retired, those who held it are dealers" "role:dealer" "$(wary member show moss@hill.example)"

step "An organisation invites its own people"
wary organisation show orchard-optics | sed 's/^/    /'
fresh; sign_in nell@orchard-optics.example orchard-quiet-91; page=$(get "$SITE/account/organisation/orchard-optics")
holds "its manager has a page of it" "You manage it" "$page"
same "she invites a colleague" "303 $SITE/account/organisation/orchard-optics" "$(post /account/organisation/orchard-optics act=invite email=till@orchard-optics.example)"
awaits told till@orchard-optics
letter=$(tr '}' '\n' <<<"$letter" | grep till@orchard-optics)
link=$(grep -o '/account/join?link=[A-Za-z0-9_-]*' <<<"$letter" | tail -1)
fresh; page=$(get "$SITE$link"); page=$(get "$SITE$link")
holds "the link asks for a password of their own" "Set password and join" "$page"
same "set, they are in, and land where dealers do" "303 $SITE/shop/dealer-stock" "$(post /account/join "link=${link#*=}" "name=Till Orchard" password=the-till-is-closed)"
same "and hold what the organisation is given" 200 "$(status "$SITE/product/case-fern-40")"
holds "the link works no second time" "It was used already" "$(curl -s "$SITE$link")"
wary organisation leave orchard-optics till@orchard-optics.example >/dev/null
same "who leaves it is out at once" 403 "$(status "$SITE/product/case-fern-40")"
holds "what comes through it is taken there and nowhere else" "through the organisation" "$(wary grant end finn@brook.example group:schools --source organisation:heather-school 2>&1)"

step "Invited, forgotten, signed out elsewhere, and under a new address"
letter_to() { # letter_to ADDRESS WHAT : the last letter to somebody that says it
  local found
  reached() { found=$(curl -s "$MAILBOX/messages.json" | sed 's/{"number"/\n&/g' | grep -F "\"$1\"" | grep -F -- "$2" | tail -1); [ -n "$found" ]; }
  awaits reached "$1" "$2"
  sed 's/\\u0026/\&/g' <<<"$found"
}
link_in() { grep -o "$1?link=[A-Za-z0-9_-]*" <<<"$2" | head -1; }
wary member invite "Tern Moor <tern@moor.example>" --role guide --words "Bring a red light." | sed 's/^/    /'
letter=$(letter_to tern@moor.example "/account/password/set"); link=$(link_in /account/password/set "$letter")
holds "the letter has the words of whoever invites" "Bring a red light." "$letter"
fresh; page=$(get "$SITE$link"); page=$(get "$SITE$link")
holds "its link asks for a password of their own" "Choose a password of your own" "$page"
post /account/password/set "link=${link#*=}" "name=Tern Moor" password=tern-moor-2026 >/dev/null
holds "their own name is the first that is tried" "belongs to you" "$(cat "$here/answer")"
same "a few words will do, and they land where guides do" "303 $SITE/members/handbook" "$(post /account/password/set "link=${link#*=}" "name=Tern Moor" password=heather-under-the-snow)"
holds "the owner's own words welcome them" "red light only" "$(letter_to tern@moor.example "Welcome to the hill")"
jar=$here/jar2; fresh; page=$(get "$SITE/account/password/forgotten")
post /account/password/forgotten name=tern@moor.example >/dev/null; there=$(cat "$here/answer")
page=$(get "$SITE/account/password/forgotten"); post /account/password/forgotten name=nobody@moor.example >/dev/null
same "who asks for a new password reads the same, whether there is anybody" "$there" "$(cat "$here/answer")"
link=$(link_in /account/password/set "$(letter_to tern@moor.example "Set a new password")")
page=$(get "$SITE$link"); same "set on another device" "303 $SITE/members/handbook" "$(post /account/password/set "link=${link#*=}" password=curlew-over-the-bog)"
jar=$here/jar; holds "the first device is signed out" "You are not signed in" "$(get "$SITE/account/")"
holds "and a letter tells of it" "was changed" "$(letter_to tern@moor.example "It was not me")"
holds "the link works no second time" "It was used already" "$(curl -s "$SITE$link")"
jar=$here/jar2; page=$(get "$SITE/account/address"); post /account/address email=tern.new@moor.example >/dev/null
link=$(link_in /account/address/confirm "$(letter_to tern.new@moor.example "/account/address/confirm")")
page=$(get "$SITE$link"); same "the new address counts once it is proved" 200 "$(post /account/address/confirm "link=${link#*=}" | cut -d' ' -f1)"
holds "both addresses are told" "tern.new@moor.example" "$(letter_to tern@moor.example "was changed from")"
jar=$here/jar; wary member links tern.new@moor.example | sed 's/^/    /'
holds "a template that names what a letter does not know is refused with its place" "Line 1, column 4" "$(mkdir -p "$here/words"; echo x >"$here/words/welcome.de.subject.liquid"; echo '{{ membr.name }}' >"$here/words/welcome.de.html.liquid"; wary letter template push "$here/words" 2>&1)"
holds "no letter goes where nobody is" "sedge@marlow.example" "$(wary letter unreachable)"
wary letter test | sed 's/^/    /'

step "Somebody asks to join, and is let in from a letter"
jar=$here/jar3; fresh
holds "the sign-in page leads there" "/account/register" "$(get "$SITE/account/sign-in")"
join friends 0 "name=Wren Meadow" email=wren@meadow.example password=short f.house-rules=yes
holds "a password too short is told so, and nothing typed is lost" 'value="wren@meadow.example"' "$(cat "$here/answer")"
join friends 0 "name=Wren Meadow" email=wren@meadow.example password=a-meadow-full-of-larks f.interests=planets
holds "what is needed is asked for" "This needs your consent" "$(cat "$here/answer")"
join friends 4.2 "name=Wren Meadow" email=wren@meadow.example password=a-meadow-full-of-larks f.interests=planets f.house-rules=yes; there=$(cat "$here/answer")
join friends 4.2 "name=Nell" email=nell@orchard-optics.example password=a-meadow-full-of-larks f.house-rules=yes
same "the answer is the same where somebody has the address" "$there" "$(cat "$here/answer")"
for n in 1 2 3 4; do join friends 0 "name=Bot" email=bot$n@meadow.example password=a-meadow-full-of-larks f.house-rules=yes website=https://spam.example; done
same "bots read what everybody reads" "$there" "$(cat "$here/answer")"
wary request list --state held | sed 's/^/    /'
holds "and are held back with the reasons" "filled in a field that people do not see" "$(wary request list --state held)"
lacks "no letter went to them" "bot1@meadow.example" "$(wary letter list)"
holds "one word removes the wave" "4 are gone" "$(wary request sham bot1@meadow.example bot2@meadow.example bot3@meadow.example bot4@meadow.example)"
link=$(link_in /account/confirm "$(letter_to wren@meadow.example "/account/confirm")")
page=$(get "$SITE$link"); post /account/confirm "link=${link#*=}" >/dev/null
holds "proved, the request waits for somebody to say yes" "wren@meadow.example" "$(wary request list)"
page=$(get "$SITE/account/sign-in"); post /account/sign-in name=wren@meadow.example password=a-meadow-full-of-larks >/dev/null
holds "until then they are not in, and read why" "waits for an answer" "$(cat "$here/answer")"
link=$(link_in /account/request "$(letter_to owner@fernlight.example "wren@meadow.example asks")")
page=$(get "$SITE$link"); holds "the letter to staff leads to the request" "Wren Meadow asks to join" "$page"
same "one click lets them in" 200 "$(post /account/request "link=${link#*=}" decision=yes "words=The gate is open on Fridays." | cut -d' ' -f1)"
holds "a letter tells them, with the words" "open on Fridays" "$(letter_to wren@meadow.example "You may come in")"
page=$(get "$SITE/account/sign-in"); post /account/sign-in name=wren@meadow.example password=a-meadow-full-of-larks >/dev/null
holds "and they are in" "Wren Meadow" "$(get "$SITE/account/")"
holds "decided once, decided for good" "was decided already" "$(wary request decline wren@meadow.example 2>&1)"
holds "they say in which language they are written to" "Letters to you" "$(get "$SITE/account/letters")"
jar=$here/jar

step "A trade form that asks by its answers, asked back, approved from the letter"
jar=$here/jar4; fresh
holds "without resale no VAT number is asked for" "Asks: company, country, phone, resale, about" "$(wary form try trade company=Reed country=PT resale=no)"
holds "with resale it is, and it has to be one" "Check the number; it begins with the country" "$(join trade 0 "name=Reed Marsh" email=reed@marsh-mounts.example password=bitterns-in-the-reeds f.company=Reed f.country=PT f.resale=yes f.vat=PT501964842; cat "$here/answer")"
join trade 0 "name=Reed Marsh" email=reed@marsh-mounts.example password=bitterns-in-the-reeds f.company=Reed f.country=PT f.resale=yes f.vat=PT501964843 seen.trade-terms=1
holds "the terms of the trade have to be agreed to" "Please agree to" "$(cat "$here/answer")"
holds "what it gives stands there as a sentence" "role:dealer, as soon as they are in" "$(wary form show trade)"
join trade 4.2 "name=Reed Marsh" email=reed@marsh-mounts.example password=bitterns-in-the-reeds seen.trade-terms=1 agree.trade-terms=yes f.company="Marsh Mounts" f.country=PT f.resale=yes f.vat=PT501964843
link=$(link_in /account/confirm "$(letter_to reed@marsh-mounts.example "/account/confirm")")
page=$(get "$SITE$link"); post /account/confirm "link=${link#*=}" >/dev/null
wary request show reed@marsh-mounts.example | sed 's/^/    /'
wary request ask reed@marsh-mounts.example --words "How many shops do you have?" >/dev/null
link=$(link_in /account/application "$(letter_to reed@marsh-mounts.example "How many shops")")
page=$(get "$SITE$link"); holds "the letter leads to the question, and their own answers" 'value="Marsh Mounts"' "$page"
same "they answer" 200 "$(post /account/application "link=${link#*=}" f.company="Marsh Mounts" f.country=PT f.resale=yes f.vat=PT501964843 f.branches=3 | cut -d' ' -f1)"
letter=$(letter_to owner@fernlight.example "How many shops do you have?: 3"); holds "staff read the answer in the letter" "VAT number: PT501964843" "$letter"
link=$(link_in /account/request "$letter"); page=$(get "$SITE$link"); post /account/request "link=${link#*=}" decision=yes >/dev/null
page=$(get "$SITE/account/sign-in"); same "they sign in and land as a dealer" "303 $SITE/shop/dealer-stock" "$(post /account/sign-in name=reed@marsh-mounts.example password=bitterns-in-the-reeds)"
page=$(get "$SITE/account/profile"); holds "their profile shows what they read" "Marsh Mounts" "$page"
same "and takes what they may change" 200 "$(post /account/profile "name=Reed Marsh" "f.phone=+351 21 031 2000" f.company=Mine | cut -d' ' -f1)"
holds "and nothing else" "Company: Marsh Mounts" "$(wary request show reed@marsh-mounts.example)"
holds "the role came by the form" "form:trade" "$(wary grant list reed@marsh-mounts.example)"
join class 4.2 "name=Ivo" email=ivo@elsewhere.example password=the-plough-turns-slowly f.class=4b f.class-code=plough-26
link=$(link_in /account/confirm "$(letter_to ivo@elsewhere.example "/account/confirm")"); page=$(get "$SITE$link"); post /account/confirm "link=${link#*=}" >/dev/null
holds "a code that was handed out lets in without staff, for as long as the form says" "form:class" "$(wary grant list ivo@elsewhere.example)"
jar=$here/jar

step "A wave of bots of five kinds is held, and one word removes it"
bot() ( # bot KIND N : one of them, in a place of its own
  here=$(mktemp -d); jar=$here/jar; n=$2
  case $1 in
    filler) join friends 4.2 "name=Fay Filler" email=filler$n@wave-a.example password=nine-bells-and-a-whistle f.house-rules=yes website=https://spam.example ;;
    hasty) join friends 0 "name=Hal Hqzxtrw" email=hasty$n@wave-b.example password=nine-bells-and-a-whistle f.house-rules=yes ;;
    minutes) join friends 4.2 "name=Mo Minute" email=m$n@0-aa.com password=nine-bells-and-a-whistle f.house-rules=yes ;;
    driven) join friends 4.2 "name=xqvkzrwt" email=driven$n@wave-c.example password=nine-bells-and-a-whistle f.house-rules=yes ;;
    plain) page=$(get "$SITE/account/register/friends"); seal=$(grep -o 'name="seal" value="[^"]*"' <<<"$page" | head -1 | sed 's/.*value="//; s/"$//')
      post /account/register/friends "seal=$seal" work=0 "name=Pat Plain" email=plain$n@wave-d.example password=nine-bells-and-a-whistle f.house-rules=yes >/dev/null ;;
  esac
  rm -r "$here"
)
for n in 1 2 3 4 5 6; do for sort in filler hasty minutes plain; do bot $sort $n & bots+=($!); done; wait "${bots[@]}"; bots=(); done
for n in 1 2 3 4 5 6; do bot driven $n & bots+=($!); done; wait "${bots[@]}"
held=$(wary request list --state held --json | node -e 'console.log(JSON.parse(require("fs").readFileSync(0)).filter((r) => /@wave-|@0-aa/.test(r.email)).length)')
same "of thirty, so many are held" 30 "$held"
lacks "and none of them got a letter" "@wave-" "$(wary letter list)"
holds "one of them shows the wave, and all go at once" "are gone" "$(wary request sham plain1@wave-d.example --wave)"
lacks "none is left" "@wave-" "$(wary request list --state held)"

step "New terms are agreed to before anybody goes on; members show themselves to each other"
jar=$here/jar4
holds "who agreed to what, when and where is on record" "trade" "$(wary member terms reed@marsh-mounts.example)"
printf '# Terms for the trade\n\nTrade prices stay between us.\n\n## Returns\n\nSixty days, *unopened*.\n' >"$here/terms.md"
wary terms publish trade-terms "$here/terms.md" --for "role:dealer or group:institutions" --note "Returns within sixty days." | sed 's/^/    /'
same "a new version closes what an open session had open" 401 "$(status -H "X-Original-URI: /shop/dealer-stock" "$SITE/sentinel/check")"
holds "the owner reads why" "has yet to agree" "$(wary why reed@marsh-mounts.example open category:dealer-stock)"
page=$(get -L "$SITE/shop/dealer-stock"); holds "the page asks, and says what is new" "Returns within sixty days." "$page"
post /account/agree seen.trade-terms=2 answer=agree >/dev/null; holds "nobody goes on without a yes" "say that you do not agree" "$(cat "$here/answer")"
same "they agree and are where they wanted to go" "303 $SITE/shop/dealer-stock" "$(post /account/agree return_to=/shop/dealer-stock seen.trade-terms=2 agree.trade-terms=yes answer=agree)"
same "and everything is open again" 204 "$(status -H "X-Original-URI: /shop/dealer-stock" "$SITE/sentinel/check")"
holds "the older version stays readable" "counted from" "$(get "$SITE/account/terms/trade-terms/1")"
wary terms show trade-terms | sed 's/^/    /'
wary terms set trade-terms --for group:institutions >/dev/null
wary directory set --for signed-in --title "Who looks up with us" --field company --field interests >/dev/null
page=$(get "$SITE/account/profile"); post /account/profile "name=Reed Marsh" f.interests=planets f.interests=meteors listed=yes show=interests >/dev/null
page=$(get "$SITE/account/directory?q=meteors"); holds "the directory finds by what somebody shows" "Reed Marsh" "$page"
lacks "and shows nothing else of them" "Marsh Mounts" "$page"
jar=$here/jar5; fresh
holds "a stranger is asked to sign in" "Sign in" "$(get "$SITE/account/directory")"
holds "members are found by their answers" "reed@marsh-mounts.example" "$(wary member list --answer interests=meteors)"
jar=$here/jar

step "Another program keeps its people in step"
printf '{"key":"n-17","email":"pia@lanternlane.example","groups":["schools"]}\n{"key":"n-18","email":"new@lanternlane.example","name":"New Lantern","plans":["night-pass"]}\n' >"$here/people.jsonl"
wary sync newsletter "$here/people.jsonl" | sed 's/^/    /'
holds "said again, nothing changes" "0 added, 0 changed, 2 the same" "$(wary sync newsletter "$here/people.jsonl")"
holds "what it says no more ends" "0 added, 1 changed" "$(wary sync newsletter - <<<'{"key":"n-17","groups":[]}')"
holds "each knows its own names" "n-17 in newsletter" "$(wary member show pia@lanternlane.example)"

step "A group by rule is always current"
holds "a patron is a friend of the dome" "mira@lowlight.example" "$(wary member list --holds group:friends --most 50)"
lacks "a plain member is none" "pia@lanternlane.example" "$(wary member list --holds group:friends)"
wary grant give pia@lanternlane.example role:guide --until "$(date -u -d '+2 days' +%F)" >/dev/null
holds "a guide is one, from then on" "pia@lanternlane.example" "$(wary member list --holds group:friends)"
wary group add inner --title Inner --rule "group:friends and role:keeper" >/dev/null
holds "rules in a ring are refused with the ring" "group:friends → group:inner → group:friends" "$(wary group set friends --rule "plan:patron or group:inner" 2>&1)"
wary group remove inner >/dev/null

step "One thing for many, shown first"
would=$(wary member bulk give --fact group:schools --holds role:guide --dry-run)
printf '%s\n' "$would" | sed 's/^/    /'
holds "nothing is stored by looking" "would change" "$would"
wary member bulk give --fact group:schools --holds role:guide --source import:guides --yes >/dev/null
holds "done again, all are so already" "0 of" "$(wary member bulk give --fact group:schools --holds role:guide --source import:guides --yes)"
holds "the last owner stays, and is told why" "owner@fernlight.example" "$(wary member bulk suspend --member owner@fernlight.example --yes)"

step "Who lands where, and why"
wary redirect try nell@orchard-optics.example --on sign-in | sed 's/^/    /'
holds "a dealer lands on dealer stock" "/shop/dealer-stock" "$(wary redirect try nell@orchard-optics.example)"
holds "the page that somebody wanted wins" "It is the page that they wanted." "$(wary redirect try nell@orchard-optics.example --wanted /visit)"
holds "a page closed to them is never a landing" "(closed)" "$(wary redirect try pia@lanternlane.example --wanted /shop/dealer-stock)"
holds "a dead page is refused" "The site has no page /no-such-page" "$(wary redirect set lost --on sign-in --to /no-such-page 2>&1)"
holds "and so is another site" "an address on this site" "$(wary redirect set lost --on sign-in --to https://evil.example/ 2>&1)"
fresh; sign_in nell orchard-quiet-91
holds "her account says what she has" "Dealers" "$(get "$SITE/account/")"
holds "the site's own page has her menu" 'class="wary-menu"' "$(get "$SITE/visit")"

step "Support helps members, and changes nothing else"
token=$(printf 'plum-stones-at-dusk\n' | wary token add bell --scope read,people --sign-in ash@fernlight.example --json | sed -n 's/.*"token": "\(.*\)".*/\1/p')
holds "notes something" "" "$(WARY_TOKEN=$token wary member note pia@lanternlane.example "Called about the course.")"
holds "changes no gate" "write" "$(WARY_TOKEN=$token wary gate remove tonight 2>&1)"
holds "and makes nobody staff" "Only an owner" "$(WARY_TOKEN=$token wary grant give pia@lanternlane.example role:editor 2>&1)"

step "What a member holds, since when and until when"
revision=$(wary status --json | sed 's/.*"revision":\([0-9]*\).*/\1/')
given=$(wary grant give pia@lanternlane.example plan:patron --until 2030-05-03 --source order:4711)
printf '    %s\n' "$given"
holds "an order gives a plan" "Gave plan:patron" "$given"
holds "told again, it changes nothing" "Nothing changed" "$(wary grant give pia@lanternlane.example plan:patron --until 2030-05-03 --source order:4711)"
wary grant end pia@lanternlane.example plan:patron --source order:4711 >/dev/null
holds "taken back, that order gives it no second time" "Nothing changed" "$(wary grant give pia@lanternlane.example plan:patron --until 2030-05-03 --source order:4711)"
wary grant list pia@lanternlane.example | sed 's/^/    /'
same "and the policy was not touched" "$revision" "$(wary status --json | sed 's/.*"revision":\([0-9]*\).*/\1/')"

step "The same pages in other languages, in words of one's own, at an address of one's own"
fresh
in_language() { get -H "Accept-Language: $1" "$SITE$2"; }
for said in 'de Anmelden' 'fr Se connecter' 'es Entrar' 'it Accedi' 'nl Inloggen' 'pl Zaloguj się' 'ja サインイン' 'ar تسجيل الدخول'; do
  holds "sign-in in ${said%% *}" ">${said#* }</button>" "$(in_language "${said%% *}" /account/sign-in)"
done
holds "Arabic reads from right to left" '<html lang="ar" dir="rtl">' "$(in_language ar /account/sign-in)"
holds "the owner's German stands at the closed vault" "Den Hügel hinunter" "$(in_language de-CH /shop/clearance-vault)"
same "what German lacks of the gates is nothing" "" "$(wary text list de --missing --json | grep -o '"gate:[^"]*"' || true)"
get -o /dev/null "$SITE/account/language?to=pl"
holds "what a visitor chose stays, whatever the browser asks for" 'lang="pl"' "$(in_language de /account/sign-in)"
fresh
if wary text set fr sign-in.title 'Bonsoir {0}' 2>"$here/said"; then no "a place for a value that there is not"; else holds "it is refused in words" "stands for nothing" "$(cat "$here/said")"; fi
wary text set fr sign-in.title "Bonsoir" >/dev/null
holds "it is said" "<h1>Bonsoir</h1>" "$(in_language fr /account/sign-in)"
wary text reset fr --all >/dev/null
if wary visitor-page set sign-in --address /visit 2>"$here/said"; then no "a page in the place of the site's"; else holds "the site has something there; what is free is named" "Free is /sign-in" "$(cat "$here/said")"; fi
wary visitor-page set sign-in --address /lamp >/dev/null
same "the usual address leads to it" "303 $SITE/lamp" "$(get -o /dev/null -w '%{http_code} %{redirect_url}' "$SITE/account/sign-in")"
page=$(get "$SITE/lamp")
same "she signs in there" "303 $SITE/shop/dealer-stock" "$(post /lamp name=nell@orchard-optics.example password=orchard-quiet-91 return_to=/shop/dealer-stock)"
wary visitor-page reset sign-in >/dev/null
same "and the address is the site's again" 404 "$(status "$SITE/lamp")"
fresh

step "A site set up in one step, and tried"
printf 'closed: [/downloads, /downloads/**]\nwho: signed-in\njoining: approval\nlands: /members\n' >"$here/answers.yaml"
wary setup --answers "$here/answers.yaml" --yes >"$here/said"; same "it is made, tried, and good" 0 $?
sed 's/^/    /' "$here/said"
fresh
same "a guest is turned away" 401 "$(status "$SITE/downloads")"
holds "said again, it changes nothing" "Nothing had to be changed" "$(wary setup --answers "$here/answers.yaml" --yes)"
printf 'notices: owner@fernlight.example\n' >"$here/answers.yaml"
wary setup --answers "$here/answers.yaml" --yes --letter >"$here/said"
holds "a letter is sent to see whether it arrives" "nobody has followed its link yet" "$(cat "$here/said")"
holds "somebody follows its link" "It arrived" "$(get "$SITE$(link_in /account/letters/arrived "$(letter_to owner@fernlight.example "see whether letters of")")")"
holds "and set-up knows" "has arrived" "$(wary setup --check)"
wary gate remove members >/dev/null
fresh

step "A show: heard on its page, and by a feed of one's own for as long as one may listen"
fresh
same "a guest is asked to sign in" 401 "$(status "$SITE/account/listen/hours-of-dark")"
same "and hears the first episode, which is free" 200 "$(status "$SITE/account/listen/hours-of-dark/hours-01.mp3")"
same "but not the newest" 401 "$(status "$SITE/account/listen/hours-of-dark/hours-08.mp3")"
sign_in bram@quarry.example bram-under-the-stars-11
holds "a patron finds the show on the account page" "/account/listen/hours-of-dark" "$(get "$SITE/account/")"
holds "and hears it there" "/account/listen/hours-of-dark/hours-08.mp3" "$(get "$SITE/account/listen/hours-of-dark")"
feed=$(wary audio feed hours-of-dark bram@quarry.example | head -1)
heard=$(curl -s "$feed")
same "the feed of his own has all eight" 8 "$(grep -c '<enclosure' <<<"$heard")"
newest=$(grep -o 'http[^"]*hours-08.mp3' <<<"$heard")
same "a player gets the part that it asks for" 206 "$(curl -s -o /dev/null -w '%{http_code}' -r 100-199 "$newest")"
wary member suspend bram@quarry.example >/dev/null
same "suspended, it is silent at once" 403 "$(curl -s -o /dev/null -w '%{http_code}' "$newest")"
holds "and the feed says where to look" "/account/listen/hours-of-dark" "$(curl -s "$feed")"
same "all that is left is free for all" 1 "$(curl -s "$feed" | grep -c '<enclosure')"
wary member reinstate bram@quarry.example >/dev/null
same "back, it goes on" 200 "$(curl -s -o /dev/null -w '%{http_code}' "$newest")"
wary audio change-feed hours-of-dark bram@quarry.example >/dev/null
same "with another address, the one before is over" 410 "$(curl -s -o /dev/null -w '%{http_code}' "$feed")"

step "Pages that are written here: for some, for others, at a time, as files"
fresh
holds "a guest reads the page that is open" "The first clear night" "$(get "$SITE/field-notes/first-clear-night")"
night=$(in_language de /field-notes/first-clear-night)
holds "in German as well, with its title" "<h1>Die erste klare Nacht</h1>" "$night"
holds "and with what it says" "Wega" "$night"
same "and nothing of the English" "" "$(grep -o 'warm flask' <<<"$night" || true)"
same "the others ask to sign in" 401 "$(status "$SITE/field-notes/winter-targets")"
sign_in mira@lowlight.example hours-of-dark-fan
mira=$(get "$SITE/field-notes/winter-targets")
holds "a patron reads it" "Guided nights are on Fridays" "$mira"
holds "with her own facts in it" "Mira" "$mira"
same "and nothing of what guides are told" "" "$(grep -o '3-1-4' <<<"$mira" || true)"
same "she gets its picture" 200 "$(status "$SITE/sentinel/pages/winter-targets/orion.svg")"
same "the rota has a gate of its own" 403 "$(status "$SITE/field-notes/rota")"
same "she finds nothing by a word that is for guides" "" "$(get "$SITE/account/search?q=ladder" | grep -o '/field-notes/[a-z-]*' || true)"
fresh
sign_in rowan@fernlight.example red-light-only-3
holds "a guide is told" "3-1-4" "$(get "$SITE/field-notes/winter-targets")"
holds "and finds it" "/field-notes/winter-targets" "$(get "$SITE/account/search?q=ladder")"
same "without a cookie the picture is closed" 401 "$(curl -s -o /dev/null -w '%{http_code}' "$SITE/sentinel/pages/winter-targets/orion.svg")"
mkdir -p "$here/pages" && wary page pull "$here/pages" >/dev/null
sed -i 's/| 18 December | Finn | Noor/| 18 December | Noor | Finn/' "$here/pages/field-notes/rota.md"
same "a change in the folder is seen" 1 "$(wary page push "$here/pages" --dry-run >/dev/null; echo $?)"
wary page push "$here/pages" --yes >/dev/null
holds "and is on the site" "<td>18 December</td>\n<td>Noor</td>" "$(get "$SITE/field-notes/rota" | sed -z 's/\n/\\n/g')"
holds "both versions can be compared" "+ | 18 December | Noor" "$(wary page diff rota --from 1 --to 2)"
printf 'Stand here:\n\n- ::: for role:guide\n' >"$here/odd.md"
wary page write rota "$here/odd.md" >/dev/null
if wary page publish rota 2>"$here/said"; then no "a mark inside a list"; else holds "a mark where it would be missed is refused with its place" "Line 3, column 3" "$(cat "$here/said")"; fi
holds "what is served stays" "18 December" "$(get "$SITE/field-notes/rota")"
wary page restore rota 1 >/dev/null; wary page publish rota >/dev/null
same "what was comes back" "" "$(wary page diff rota --from 1 --to 3 | grep '^[+-]' || true)"
fresh

step "From a payment to an open door, with no hand in between"
order_of() { # order_of EMAIL STANDING HANDLING : waits until an order of that address stands so, and gives it
  local found
  ordered() { found=$(wary order list --find "$1" --json | tr -d '\n '); grep -q "\"standing\":\"$2\",\"handling\":\"$3\"" <<<"$found"; }
  awaits ordered "$@"
  printf '%s' "$found"
}
holds_plan() { wary member show "$1" --json | tr -d '\n ' | grep -o '"fact":"plan:[a-z-]*"[^}]*"inForce":[a-z]*' | sed 's/.*"inForce"://' | tail -1; }
paid_by() { # paid_by EMAIL CODE [FIELD=VALUE…] : goes to pay as a guest, and comes back; what the browser brings back stands in $token
  local email=$1 code=$2 checkout; shift 2
  fresh
  checkout=$(get -o /dev/null -w '%{redirect_url}' "$SITE/account/pay?code=$code")
  token=$(grep -o 'token=[0-9a-f]*' <<<"$checkout" | head -1 | cut -d= -f2)
  local args=(); for pair in "$@"; do args+=(--data-urlencode "$pair"); done
  curl -s -o /dev/null -X POST "$PAYMENTS/checkout" -d outcome=pay --data-urlencode "code=$code" --data-urlencode "token=$token" --data-urlencode "email=$email" "${args[@]}"
}
act() { curl -s -o /dev/null -X POST "$PAYMENTS/orders/$(curl -s "$PAYMENTS/orders.json" | grep -o "\"id\":\"[^\"]*\",\"code\":\"[^\"]*\",\"email\":\"$1\"" | head -1 | cut -d'"' -f4)/$2"; }
curl -s -o /dev/null -X POST "$PAYMENTS/mischief" -d repeats=3 -d delay=300
printf '  The payment processor repeats each call three times, late and mixed up.\n'
fresh
same "the calendar of patrons is closed to a guest" 401 "$(status "$SITE/members/calendar")"
paid_by juno@payday.example PATRON "name=Juno Payday"
order_of juno@payday.example paid done >/dev/null
page=$(get "$SITE/account/thanks?order=$token")
holds "the thank-you page says where the letter went, masked" "j•••@payday.example" "$page"
lacks "and holds no secret" "juno@" "$page"
letter=$(letter_to juno@payday.example "Your order")
holds "the letter says what was bought" "Patron" "$letter"
link=$(link_in "/account/password/set" "$letter")
page=$(get "$SITE$link")
post /account/password/set "link=${link##*=}" "name=Juno Payday" "password=payday-under-stars-7" >/dev/null
same "she sets a password by its link, and the calendar is open" 200 "$(status "$SITE/members/calendar")"
same "three calls made one grant" 1 "$(wary member show juno@payday.example --json | grep -c '"fact": "plan:patron"')"
act juno@payday.example renewal-failed
order_of juno@payday.example past-due done >/dev/null
holds "a failed renewal is told" "failed" "$(letter_to juno@payday.example "failed")"
act juno@payday.example renew
order_of juno@payday.example paid done >/dev/null
same "tried again and paid, a second year follows the first" 2 "$(wary member show juno@payday.example --json | grep -c '"fact": "plan:patron"')"
act juno@payday.example refund
order_of juno@payday.example refunded done >/dev/null
same "refunded, the door is closed" false "$(holds_plan juno@payday.example)"
holds "and the buyer is told" "is over" "$(letter_to juno@payday.example "is over")"
curl -s -o /dev/null -X POST "$PAYMENTS/mischief" -d repeats=1 -d delay=0 -d holds=yes
paid_by late@payday.example NIGHT-PASS
holds "while the call is on its way the thank-you page looks again by itself" "looks again by itself" "$(get "$SITE/account/thanks?order=$token")"
act late@payday.example refund
curl -s -o /dev/null -X POST "$PAYMENTS/release"
order_of late@payday.example refunded done >/dev/null
same "whichever of payment and refund comes first, nothing is left open" "" "$(holds_plan late@payday.example | grep true)"
paid_by giver@payday.example PATRON giftEmail=given@payday.example "giftWords=For clear nights."
order_of given@payday.example paid done >/dev/null
holds "a present reaches whom it is for, with its words" "For clear nights." "$(letter_to given@payday.example "present")"
paid_by almanac@payday.example ALMANAC
order_of almanac@payday.example paid waiting >/dev/null
holds "an unknown code waits, and its buyer is told so" "by hand" "$(letter_to almanac@payday.example "looked at")"
wary fulfilment set almanac --code ALMANAC --gives plan:night-pass >/dev/null
order_of almanac@payday.example paid done >/dev/null
same "a rule comes, and the order is caught up" true "$(holds_plan almanac@payday.example)"
paid_by lab@payday.example FRAMES "name=Payday Lab"
order_of lab@payday.example paid done >/dev/null
letter=$(letter_to lab@payday.example "A pass for Calibration frames")
name=$(grep -o 'frames-[a-z0-9]\{5\}' <<<"$letter" | head -1) password=$(sed 's/\\[nrt]/ /g' <<<"$letter" | grep -oE '[a-z]{3,8}(-[a-z]{3,8}){6}' | head -1)
same "a pass was bought, and needs no account" "" "$(wary member list --search lab@payday.example --json 2>/dev/null | grep -o lab@payday.example | head -1)"
same "without it a download tool is asked for name and password" "Basic" "$(curl -s -o /dev/null -D - "$SITE/files/calibration-frames.zip" | tr -d '\r' | sed -n 's/^[Ww][Ww][Ww]-[Aa]uthenticate: \([A-Za-z]*\).*/\1/p')"
same "with them it gets the file" 200 "$(curl -s -o /dev/null -w '%{http_code}' -u "$name:$password" "$SITE/files/calibration-frames.zip")"
fresh
page=$(get "$SITE/account/sign-in")
same "and on the page of everybody they sign in" 303 "$(post /account/sign-in "name=$name" "password=$password" return_to=/files/calibration-frames.zip | cut -d' ' -f1)"
same "with a browser, too, the file is open" 200 "$(status "$SITE/files/calibration-frames.zip")"
act lab@payday.example refund
order_of lab@payday.example refunded done >/dev/null
same "the money goes back, and both are closed" "401 401" "$(curl -s -o /dev/null -w '%{http_code}' -u "$name:$password" "$SITE/files/calibration-frames.zip") $(status "$SITE/files/calibration-frames.zip")"
wary pass list --kind frames | sed 's/^/    /'
paid_by sol@payday.example SHEETS "name=Sol Payday"
order_of sol@payday.example paid done >/dev/null
folder=$(letter_to sol@payday.example "Your order" | grep -o "$SITE/account/files/[0-9a-f]\{32\}/" | head -1)
same "a folder was bought: no account, the letter has its address" "200 " "$(curl -s -o /dev/null -w '%{http_code}' "$folder") $(wary member list --search sol@payday.example --json 2>/dev/null | grep -o sol@payday.example | head -1)"
same "a file of it comes in parts, as a download goes on that broke off" "206 10" "$(curl -s -o /dev/null -w '%{http_code} %{size_download}' -r 5-14 "${folder}meteor-log-sheet.csv")"
wary folder change-address log-sheets >/dev/null
same "the folder gets another address, and the old one leads nowhere" "404 200" "$(curl -s -o /dev/null -w '%{http_code}' "$folder") $(curl -s -o /dev/null -w '%{http_code}' "$(wary folder address log-sheets --json | sed -n 's/.*"address": "\([^"]*\)".*/\1/p')")"
same "the atlas's folder asks its gate, whoever has the address" 401 "$(curl -s -o /dev/null -w '%{http_code}' "$(wary folder address sky-atlas --json | sed -n 's/.*"address": "\([^"]*\)".*/\1/p')stars.csv")"
paid_by week@payday.example FIELD-WEEK "name=Wim Payday"
order_of week@payday.example paid done >/dev/null
letter=$(letter_to week@payday.example "Your order")
holds "a week that begins by hand is bought, and its letter says so" "begins when you say so" "$letter"
link=$(link_in "/account/password/set" "$letter")
page=$(get "$SITE$link")
post /account/password/set "link=${link##*=}" "name=Wim Payday" "password=week-under-stars-7" >/dev/null
same "it opens nothing yet" 403 "$(status "$SITE/members/coordinates")"
page=$(get "$SITE/account/")
holds "the account page says what is not begun" "not begun yet" "$page"
week=$(grep -o 'name="order" value="[^"]*"' <<<"$page" | head -1 | cut -d'"' -f4)
post /account/begin "order=$week" >/dev/null
same "begun, the coordinates are open" 200 "$(status "$SITE/members/coordinates")"
act week@payday.example pause
order_of week@payday.example paused done >/dev/null
same "it rests, and they are closed" 403 "$(status "$SITE/members/coordinates")"
act week@payday.example resume
order_of week@payday.example paid done >/dev/null
same "it goes on, with all that was left" 200 "$(status "$SITE/members/coordinates")"
wary order tell "$(curl -s "$PAYMENTS/orders.json" | grep -o '"id":"[^"]*","code":"FIELD-WEEK"' | head -1 | cut -d'"' -f4)" changed --code PATRON >/dev/null
holds "it becomes another plan, for what is left of the week" "plan:patron" "$(wary member show week@payday.example --json | tr -d '\n ' | grep -o '"fact":"plan:patron"[^}]*"inForce":true')"
paid_by head@hill-school.example SCHOOL "name=Hill School" quantity=3
order_of head@hill-school.example paid done >/dev/null
holds "seats for a school are an organisation that its buyer manages" "for 3 people" "$(letter_to head@hill-school.example "Your order")"
wary organisation list | grep -i "hill school" | sed 's/^/    /'
wary password add clearance-vault --label "Who buys the word" --password "lantern-at-the-bend" --for-orders >/dev/null
paid_by vic@payday.example VAULT
order_of vic@payday.example paid done >/dev/null
holds "the vault's shared password is told to who buys it" "lantern-at-the-bend" "$(letter_to vic@payday.example "Your order")"
wrong=$(curl -s -o /dev/null -w '%{http_code}' -X POST "$SITE/sentinel/hooks/payments" -H 'webhook-id: x' -H "webhook-timestamp: $(date +%s)" -H 'webhook-signature: v1,AAAA' -d '{}')
same "a call that is not signed right is refused" 403 "$wrong"
holds "and stands in the trail" "hook.refused" "$(wary history --action hook.refused 2>/dev/null || wary history)"
wary fulfilment try --code PATRON --email juno@payday.example | sed 's/^/    /'
fresh

step "What is stored and cannot be read closes what it covered"
kill "$service_pid"; wait "$service_pid" 2>/dev/null
sqlite3 -cmd '.timeout 5000' "$here/data/sentinel.db" "UPDATE gates SET Audience='role:dealer or or' WHERE Key='members-pages'"
start_service
told=$(wary status); same "it starts, and says so by its exit code" 1 $?
printf '%s\n' "$told" | sed 's/^/    /'
fresh
same "what the gate covered is closed" 403 "$(status "$SITE/members/calendar")"
same "everything else is as it was" 200 "$(status "$SITE/shop")"
wary gate set members-pages --audience signed-in --answer auto >/dev/null
same "said again, it is mended" 0 "$(wary status >/dev/null; echo $?)"
same "and asks to sign in" 401 "$(status "$SITE/members/calendar")"

step "The shop falls silent"
kill "$shop_pid"; wait "$shop_pid" 2>/dev/null
fresh
body=$(get -w '%{http_code}' "$SITE/shop")
holds "a page says so, with status 502" "502" "$(printf '%s' "$body" | tail -c 3)"
lacks "and no stack trace" "   at " "$body"
start_shop
awaits curl -sf -o /dev/null "$SHOP/"
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
