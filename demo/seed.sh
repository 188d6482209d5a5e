#!/usr/bin/env bash
# Fills a new service with the demo site. Called by demo.sh; WARY_URL is set, `wary` is on the PATH.
#   seed.sh CODE TOKENFILE [SHOPTOKENFILE]    the tokens go into those files, which their owner alone reads, and nowhere else
set -euo pipefail
umask 077
here=$(cd "$(dirname "$0")" && pwd)
code=$1 tokenfile=$2
owner=owner@fernlight.example
password=keep-the-lamp-lit

printf '%s\n' "$password" | wary first-owner "$owner" --name "Juniper Fern" --code "$code" >/dev/null
token=$(printf '%s\n' "$password" | wary token add demo --scope read,write,decide,view,tokens --sign-in "$owner" --json | sed -n 's/.*"token": "\(.*\)".*/\1/p')
export WARY_TOKEN=$token
wary settings --set "$here/settings.json" >/dev/null
wary item import "$here/catalogue.csv"
for role in dealer:Dealers guide:Guides keeper:Keepers; do wary role add "${role%%:*}" --title "${role##*:}" >/dev/null; done
for group in schools:Schools institutions:Institutions; do wary group add "${group%%:*}" --title "${group##*:}" >/dev/null; done
wary plan add night-pass --title "Night pass" --length P30D >/dev/null
wary plan add patron --title Patron --length P1Y --grace P7D >/dev/null
wary plan add field-week --title "Field week" --length P7D --starts by-hand >/dev/null

# They joined over the last year, counted from today; their passwords come along as SHA-crypt hashes, as from an older site.
members=$(mktemp)
{
  read -r _
  echo "E-Mail;Name;User name;Password hash;Roles;Groups;Plans;Member since;Expires"
  number=0
  while IFS=, read -r email name user secret roles groups plans; do
    number=$((number + 1))
    joined=$(date -u -d "-$((number * number * 47 % 350 + 2)) days" +%F) until=
    case $plans in
      night-pass) joined=$(date -u -d "-$((number % 20 + 3)) days" +%F) until=$(date -u -d "+$((number % 9 + 1)) days" +%F) ;;
      patron) until=$(date -u -d "+$((number * 29 % 300 + 5)) days" +%F) ;;
    esac
    echo "$email;$name;$user;$(openssl passwd -6 -stdin <<<"$secret");$roles;$groups;$plans;$joined;$until"
  done
} <"$here/members.csv" >"$members"
wary member import "$members" --source older-site --yes | head -2
rm "$members"

wary gate add --key dealer-stock --title "Dealer stock" --covers category:dealer-stock --audience "role:dealer or role:keeper" --presence hidden >/dev/null
wary gate add --key clearance-vault --title "Clearance vault" --covers category:clearance-vault --audience "password or role:keeper" \
  --message "The last pieces of the season, for the people who helped us carry the old dome down the hill." >/dev/null
wary gate add --key observatory-grade --title "Observatory-grade" --covers category:observatory-grade --audience "group:institutions or role:keeper" --answer message \
  --link "mailto:instruments@fernlight.example" --link-words "Ask to be approved" \
  --message "These instruments go to institutions we know. Write to instruments@fernlight.example to be approved." >/dev/null
wary gate add --key members-pages --title "Members’ pages" --covers section:members --audience "signed-in" >/dev/null
wary gate add --key coordinates --title "Dark-site coordinates" --covers page:coordinates --audience "role:guide or role:keeper or plan:patron or plan:field-week" --presence hidden >/dev/null
wary gate add --key handbook --title "Guides’ handbook" --covers page:handbook --audience "role:guide or role:keeper" --presence hidden >/dev/null
wary gate add --key sky-atlas --title "Autumn sky atlas" --covers download:sky-atlas --audience "plan:patron or plan:night-pass or bought:download:sky-atlas or role:keeper" >/dev/null
wary pass-kind add frames --title "Calibration frames" >/dev/null
wary gate add --key calibration-frames --title "Calibration frames" --covers download:calibration-frames --audience "pass:frames or plan:patron or role:keeper" \
  --basic tools --link "mailto:desk@fernlight.example" --link-words "Ask the desk for a pass" >/dev/null
wary pass add frames --for "Heather School" --name heather-school --until "$(date -u -d '+200 days' +%F)" >/dev/null
wary pass add frames --for "Quarry College, pixel lab" --most-uses 40 --most-networks 3 >/dev/null
wary pass add frames --for "Summer course" --name summer-course --until "$(date -u -d '+30 days' +%F)" >/dev/null
wary pass withdraw summer-course >/dev/null
wary gate add --key hours-of-dark --title "Hours of Dark" --covers show:hours-of-dark --audience "plan:patron or plan:night-pass or role:keeper" >/dev/null
wary gate add --key first-episode --title "First episode free" --covers episode:hours-01 --exemption >/dev/null
wary gate add --key trade-prices --title "Trade prices of mounts" --covers category:mounts --acts price --audience "role:dealer or role:keeper" >/dev/null
wary gate add --key tonight --title "Tonight, for members" --covers path:/parts/tonight.html --audience signed-in --presence hidden --answer not-found >/dev/null
wary gate add --key autumn-preview --title "Autumn preview" --covers category:gift-cards --audience "plan:patron or role:keeper" --until 2020-09-30 --presence hidden >/dev/null
wary gate set clearance-vault --prompt-heading "Down the hill" --prompt-label "The word you were given" --prompt-button "Open the vault" \
  --link "mailto:vault@fernlight.example" --link-words "Ask for the word" \
  --rotate-every P90D --rotate-overlap P3D --rotate-tell movers@fernlight.example >/dev/null
wary password add clearance-vault --label "Dome movers" --password "old-dome-downhill" --for-orders >/dev/null
wary entry set lookbook --at /lookbook --entry .piece --price .price >/dev/null
wary entry set shelf --at /lookbook --entry '$[*]' --behind window.__SHELF__ >/dev/null
wary entry set product-data --at /api/products --entry '$.products[*]' --about 'product:{sku}' --price @.price >/dev/null
wary redirect set dealers-home --on sign-in --audience role:dealer --to /shop/dealer-stock --position 10 >/dev/null
wary redirect set members-home --on sign-in --audience signed-in --to /members --position 50 >/dev/null
wary redirect set welcome --on first-sign-in --audience "signed-in and not role:dealer" --to /visit --position 5 >/dev/null
wary role set dealer --home /shop/dealer-stock --link "/shop/dealer-stock=Dealer stock" --link "/shop/mounts=Trade prices" >/dev/null
wary role set guide --home /members/handbook --link "/members/handbook=Guides’ handbook" --link "/members/calendar=Observing calendar" >/dev/null
wary group add friends --title "Friends of the dome" --rule "plan:patron or role:guide" >/dev/null
wary member add ash@fernlight.example --name "Ash Wicket" --password - --role support >/dev/null <<<"plum-stones-at-dusk"
wary organisation add orchard-optics --title "Orchard Optics" --seats 4 --give role:dealer >/dev/null
wary organisation join orchard-optics nell@orchard-optics.example --manager >/dev/null
wary organisation invite orchard-optics counter@orchard-optics.example >/dev/null
wary organisation add heather-school --title "Heather School" --seats 8 --give group:schools --until "$(date -u -d '+200 days' +%F)" >/dev/null
wary organisation join heather-school class4@heather-school.example --manager >/dev/null
wary organisation join heather-school finn@brook.example >/dev/null
wary organisation join heather-school noor@field.example >/dev/null
wary organisation invite heather-school office@heather-school.example --manager >/dev/null
wary organisation add northmoor-college --title "Northmoor College" --seats 3 --give group:institutions --until "$(date -u -d '+20 days' +%F)" >/dev/null
wary organisation join northmoor-college dean@northmoor-college.example --manager >/dev/null
wary organisation invite northmoor-college lab@northmoor-college.example >/dev/null
wary section set field-notes --title "Field notes" --address /field-notes \
  --about "What we see from the hill, written down the morning after." >/dev/null
wary gate add --key field-notes --title "Field notes" --covers section:field-notes \
  --audience "plan:patron or plan:night-pass or role:guide or role:keeper" >/dev/null
pages=$(mktemp -d)
cp -r "$here/pages/." "$pages" && wary page push "$pages" --yes >/dev/null && rm -r "$pages"
wary letter template push "$here/letters" >/dev/null
# What follows goes by letters: where there is no mailbox to read them from, as in a benchmark, the site is whole without.
[ -n "${MAILBOX:-}" ] || { printf '%s\n' "$token" >"$tokenfile"; exit 0; }
wary member invite "Tarn Hollis <tarn@hollis.example>" "Bryn Alder <bryn@alder.example>" "Sedge Marlow <sedge@marlow.example>" --group schools \
  --until "$(date -u -d '+180 days' +%F)" --words "See you at the open dome on Friday." >/dev/null
wary member link mira@lowlight.example >/dev/null
for _ in $(seq 240); do
  lost=$(wary letter list --json --state sent | tr -d ' \n' | sed 's/{"id"/\n&/g' | grep '"to":"sedge@marlow.example"' | sed 's/.*"id":"\([^"]*\)".*/\1/' | head -1)
  [ -n "$lost" ] && break
  sleep 0.5
done
printf '%s\n' 'Content-Type: multipart/report; report-type=delivery-status; boundary="b"' '' '--b' 'Content-Type: message/delivery-status' '' \
  'Reporting-MTA: dns; mx.marlow.example' '' 'Final-Recipient: rfc822; sedge@marlow.example' 'Action: failed' 'Status: 5.1.1' \
  'Diagnostic-Code: smtp; 550 5.1.1 There is nobody of that name' '' '--b' 'Content-Type: text/rfc822-headers' '' \
  "Message-ID: <${lost//-/}@localhost>" '' '--b--' >"$tokenfile.bounce"
wary letter bounce "$tokenfile.bounce" >/dev/null
rm -f "$tokenfile.bounce"
# People ask to join, as people do: on the page, with the link of the letter. Nobody is faster than a few seconds, but for bots.
wary apply "$here/forms.yaml" --yes >/dev/null
jar=$(mktemp)
value_of() { grep -o "name=\"$1\" value=\"[^\"]*\"" <<<"$2" | head -1 | sed 's/.*value="//; s/"$//'; }
join() { # join FORM SECONDS FIELD=VALUE… : gives the page that answers
  local form=$1 seconds=$2 page seal args=()
  shift 2
  for pair in "$@"; do args+=(--data-urlencode "$pair"); done
  page=$(curl -sf -b "$jar" -c "$jar" "$SITE/account/register/$form")
  seal=$(value_of seal "$page")
  sleep "$seconds"
  curl -sf -b "$jar" "$SITE/account/register/$form" --data-urlencode "__RequestVerificationToken=$(value_of __RequestVerificationToken "$page")" \
    --data-urlencode "seal=$seal" --data-urlencode "work=$(node "$here/work.mjs" "$seal" "$(grep -o 'data-bits="[0-9]*"' <<<"$page" | tr -dc 0-9)")" "${args[@]}"
}
proves() { # proves ADDRESS : follows the link of the letter
  local link page
  for _ in $(seq 240); do
    link=$(curl -s "$MAILBOX/messages.json" | sed 's/{"id"/\n&/g' | grep -F "$1" | grep -o '/account/confirm?link=[A-Za-z0-9_-]*' | tail -1 || true)
    [ -n "$link" ] && break
    sleep 0.5
  done
  page=$(curl -sf -b "$jar" -c "$jar" "$SITE$link")
  curl -sf -o /dev/null -b "$jar" "$SITE/account/confirm" --data-urlencode "__RequestVerificationToken=$(value_of __RequestVerificationToken "$page")" -d "link=${link#*=}"
}
join friends 4.2 "name=Linnet Fell" email=linnet@fell.example password=larks-above-the-quarry f.interests=meteors f.interests=sun f.house-rules=yes >/dev/null
proves linnet@fell.example
join trade 4.2 "name=Orla Vane" email=orla@vane-optics.example password=brass-rings-and-felt seen.trade-terms=1 agree.trade-terms=yes f.company="Vane Optics" f.country=PT "f.phone=+351 21 031 2000" \
  f.resale=yes "f.vat=PT 501 964 843" f.branches=2 "f.about=We repair old brass refractors, and would like to sell your mounts in both our shops." >/dev/null
proves orla@vane-optics.example
for bot in "Qxzrtkvbnm:win1@lucky-prizes.example" "See www.lucky-prizes.example:win2@lucky-prizes.example" "Hdfgkjwrt:win3@lucky-prizes.example"; do
  join friends 0.2 "name=${bot%%:*}" "email=${bot##*:}" password=free-prizes-for-all f.house-rules=yes website=https://lucky-prizes.example >/dev/null
done
# What members told before comes in by a file; who wants to be found shows themselves, as only they can.
wary member import "$here/answers.csv" --yes >/dev/null
wary directory set --for signed-in --title "Who looks up with us" --lead "Members who like to be found, and write back." \
  --field interests --field country --field company >/dev/null
shows() { # shows EMAIL PASSWORD FIELD… : signs in and stands in the directory with these fields
  local email=$1 password=$2 page args=()
  shift 2
  rm -f "$jar"
  page=$(curl -sf -b "$jar" -c "$jar" "$SITE/account/sign-in")
  curl -s -o /dev/null -b "$jar" -c "$jar" "$SITE/account/sign-in" --data-urlencode "__RequestVerificationToken=$(value_of __RequestVerificationToken "$page")" \
    -d "name=$email" --data-urlencode "password=$password"
  page=$(curl -sf -b "$jar" -c "$jar" "$SITE/account/profile")
  while IFS= read -r pair; do args+=(--data-urlencode "$pair"); done < <(grep -o 'name="f.interests" value="[^"]*" checked' <<<"$page" | sed 's/.*value="\([^"]*\)".*/f.interests=\1/')
  for field in "$@"; do args+=(-d "show=$field"); done
  curl -sf -o /dev/null -b "$jar" "$SITE/account/profile" --data-urlencode "__RequestVerificationToken=$(value_of __RequestVerificationToken "$page")" \
    --data-urlencode "name=$(value_of name "$page")" "${args[@]}" -d listed=yes
}
shows ada@thicket.example ada-under-the-stars-10 interests country
shows edda@larkin.example edda-under-the-stars-14 interests country company
shows levi@stone.example levi-under-the-stars-21 interests company
shows runa@birch.example runa-under-the-stars-27 interests country
shows ulla@heath.example ulla-under-the-stars-30 interests country company
shows yara@dune.example yara-under-the-stars-33 interests country
rm -f "$jar"
wary member suspend oskar@eveningpost.example --words "Two invoices are open. Please call us, and we let you back in." >/dev/null
wary member note oskar@eveningpost.example "Called on Monday; pays by the end of the month." >/dev/null
wary member note nell@orchard-optics.example "Prefers letters to calls." >/dev/null

# What things cost for whom: what a page shows is what the cart charges. The cart takes nothing that its buyer may not buy.
wary price set usual --title "Everybody’s prices" --currency EUR >/dev/null
wary price import usual demo/prices/usual.csv >/dev/null
wary price set trade --title "Trade prices" --for role:dealer --currency EUR --rounding 0.50 >/dev/null
wary price import trade demo/prices/trade.csv >/dev/null
wary price set schools --title "Books for schools" --for group:schools --currency EUR --line category:books=15% --rounding 0.10 >/dev/null
wary coupon set dark-sky --code DARKSKY --title "Ten in the hundred for patrons" --for plan:patron --off 10% >/dev/null
wary cart set shop --at /cart/add --fields product >/dev/null
wary token add "The shop’s cart" --scope decide --json | sed -n 's/.*"token": "\(.*\)".*/\1/p' >"${3:-/dev/null}"

# What the shop sells that opens something here, who tells of orders, and a few orders from before.
wary fulfilment set patron --code PATRON --gives plan:patron --lands-on /members >/dev/null
wary fulfilment set night-pass --code NIGHT-PASS --gives plan:night-pass --quantity lengths >/dev/null
wary fulfilment set frames --code FRAMES --gives pass:frames --length P1Y >/dev/null
wary fulfilment set field-week --code FIELD-WEEK --gives plan:field-week --lands-on /members/coordinates >/dev/null
wary fulfilment set school --code SCHOOL --gives group:schools --gives plan:night-pass --length P1Y --quantity seats >/dev/null
wary fulfilment set vault --code VAULT --way shared-password --gate clearance-vault >/dev/null
wary fulfilment set sky-atlas --code ATLAS --gives bought:download:sky-atlas >/dev/null
# Folders to download from: one that the atlas's gate guards, and one that is sold by nothing but its address.
wary folder set sky-atlas --item download:sky-atlas --every P1M >/dev/null
wary folder set log-sheets --item download:meteor-log --title "Meteor log sheets" --opens address --every P2W --overlap P3D >/dev/null
for folder in sky-atlas log-sheets; do
  (cd "demo/folders/$folder" && find . -type f | sort) | while read -r file; do wary folder put "$folder" "demo/folders/$folder/$file" --as "${file#./}" >/dev/null; done
done
# The show of a month: an episode each, the newest some days ago, and three who listen with a player of their own.
wary audio set hours-of-dark --by "Fernlight’s night staff" --picture demo/shows/hours-of-dark/cover.jpg \
  --notes "A show a month, recorded under the dome with the lamps off. Bring a blanket." >/dev/null
episode() { # episode NUMBER SECONDS NOTES
  wary audio episode hours-of-dark "hours-0$1" --file "demo/shows/hours-of-dark/hours-0$1.mp3" --length "0:$2" --notes "$3" \
    --at "$(date -u -d "-$((8 - $1)) months -9 days" +%F)" >/dev/null
}
episode 1 07 "What a radio telescope hears when nobody talks."
episode 2 08 "Up before dawn for a faint smudge, and worth it."
episode 3 09 "Three cloudy weeks, and what we did with them."
episode 4 10 "A deck chair, a pencil and four hours in August."
episode 5 11 "Marta ground her first mirror at the kitchen table."
episode 6 12 "Why the moon looks larger behind the chimney."
episode 7 13 "You wrote, we read it aloud, and some of it back."
episode 8 14 "Sixteen hours of night in one recording."
while read -r listener player; do
  curl -sf -o /dev/null -A "$player" "$(wary audio feed hours-of-dark "$listener" | head -1)"
done <<'LISTENERS'
mira@lowlight.example Pocket Listener/4.2 (phone)
bram@quarry.example Tuner/11.0
rowan@fernlight.example Kitchen Radio/2.1
LISTENERS
wary fulfilment set log-sheets --code SHEETS --gives bought:download:meteor-log --way link >/dev/null
if [ -n "${PAYMENTS:-}" ]; then
  wary order-source set payments --title "Hilltop Payments" --opens-door \
    --checkout "$PAYMENTS/checkout?code={code}&token={token}&return={return}" >/dev/null
  wary order-source secret payments --secret "$HOOK_SECRET" >/dev/null
fi
ago() { date -u -d "-$1" +%FT%TZ; }
# The orders of the year before, as a shop's file has them: whoever bought long ago is written nothing about it.
orders=$(mktemp)
{
  echo "Order,Date,Email,SKU,Quantity,Total,Currency,Status"
  number=1500
  while read -r who days more; do
    number=$((number + 1))
    echo "FO-$number,$(ago "$days days"),$who,NIGHT-PASS,1,9.00,EUR,paid"
    case $more in
      renewed) echo "FO-$number,$(ago "$((days - 30)) days"),$who,NIGHT-PASS,1,9.00,EUR,renewed" ;;
      twice) echo "FO-$number,$(ago "$((days - 30)) days"),$who,NIGHT-PASS,1,9.00,EUR,renewed"; echo "FO-$number,$(ago "$((days - 60)) days"),$who,NIGHT-PASS,1,9.00,EUR,renewed" ;;
      back) echo "FO-$number,$(ago "$((days - 2)) days"),$who,NIGHT-PASS,1,9.00,EUR,refunded" ;;
    esac
  done <<'BOUGHT'
edda@larkin.example 330 twice
ines@vale.example 318
kaja@storm.example 300 renewed
mina@frost.example 296 back
noor@field.example 270
otto@reed.example 262 twice
pell@hollow.example 241 renewed
runa@birch.example 214
sami@glen.example 205 back
tove@crane.example 188 twice
ulla@heath.example 161
wren@fells.example 150 renewed
zeno@cliff.example 133 twice
alba@rook.example 121
edda@larkin.example 104 renewed
ines@vale.example 97
kaja@storm.example 92 twice
noor@field.example 66
BOUGHT
} >"$orders"
wary order import "$orders" --yes >/dev/null
rm -f "$orders"
wary order add --order FO-1901 --at "$(ago '40 days')" --email lark@wren.example --name "Lark Wren" --code NIGHT-PASS=2 --amount 18.00 --currency EUR >/dev/null
wary order add --order FO-1904 --at "$(ago '12 days')" --email isa@ford.example --name "Isa Ford" --code PATRON --amount 49.00 --currency EUR >/dev/null
wary order tell FO-1904 refunded --at "$(ago '9 days')" >/dev/null
wary order add --order FO-1902 --at "$(ago '6 days')" --email tove@hazel.example --name "Tove Hazel" --code ATLAS --amount 19.00 --currency EUR >/dev/null
wary order add --order FO-1903 --at "$(ago '2 days')" --email bram@stile.example --name "Bram Stile" --code ALMANAC --code ATLAS --amount 31.00 --currency EUR >/dev/null
wary order add --order FO-1905 --at "$(ago '1 day')" --email otto@reed.example --name "Otto Reed" --code PATRON --amount 49.00 --currency EUR \
  --gift wynn@thatch.example --gift-on "$(date -u -d '+27 days' +%F)" --gift-words "For clear nights." >/dev/null
printf '%s\n' "$token" >"$tokenfile"
