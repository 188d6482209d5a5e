#!/usr/bin/env bash
# Makes what is handed out, in out/: a self-contained folder for this kind of machine (service, console, command line), packed; a Debian package of it; and
# the command line as a .NET tool.   ./package.sh [VERSION]
set -euo pipefail
cd "$(dirname "$0")"
fail() { printf 'package: %s\n' "$1" >&2; exit 1; }
case $(uname -m) in
  x86_64) kind=linux-x64 deb=amd64 ;;
  aarch64) kind=linux-arm64 deb=arm64 ;;
  *) fail "there is no build for $(uname -m)" ;;
esac
command -v dotnet >/dev/null || fail "the .NET SDK 10 is missing"
version=${1:-$(sed -n 's/^## \([0-9][0-9.]*\).*/\1/p' CHANGELOG.md | head -1)}
[[ $version =~ ^[0-9]+\.[0-9]+\.[0-9]+([-+~.][0-9A-Za-z.]+)?$ ]] || fail "“$version” is no version such as 0.4.0"
out=$PWD/out
folder=$out/wary-sentinel-$version-$kind
rm -rf "$folder" && mkdir -p "$folder"

if [ ! -s console/dist/index.html ]; then
  command -v npm >/dev/null || fail "npm is missing; it comes with Node"
  (cd console && npm ci --no-audit --no-fund --loglevel=error && npm run --silent build)
fi

packing=(-Zxz -z6)
[ -z "${PACKAGE_BUILT:-}" ] || packing=(-Znone)
# Both stand on one runtime. The service comes last: what the two share is its, compiled ahead.
publish() { dotnet publish "src/$1" --nologo -v quiet -clp:ErrorsOnly -c Release -r $kind --self-contained -p:Version="$version" -p:DebugType=none -p:GenerateDocumentationFile=false -o "$folder/lib"; }
if [ -n "${PACKAGE_BUILT:-}" ]; then
  # What a build has made already, without a runtime: for trying the package, not for handing it out.
  mkdir "$folder/lib"
  for project in Cli Service; do cp -r "src/WarySentinel.$project/bin/$PACKAGE_BUILT/net10.0/." "$folder/lib/"; done
  version=$(sed -n 's/.*<Version>\(.*\)<.*/\1/p' Directory.Build.props)
else
  publish WarySentinel.Cli
  publish WarySentinel.Service
fi
rm -f "$folder"/lib/*.pdb "$folder"/lib/*.xml "$folder"/lib/web.config
rm -rf "$folder/lib/wwwroot" && cp -r console/dist "$folder/lib/wwwroot"
mkdir "$folder/bin"
ln -s ../lib/wary "$folder/bin/wary"
ln -s ../lib/WarySentinel.Service "$folder/bin/wary-sentinel"
cp LICENSE CHANGELOG.md package/README "$folder/"
cp package/sentinel.json package/wary-sentinel.service "$folder/"
"$folder/bin/wary" man >"$folder/wary.1"
mkdir "$folder/completion"
for shell in bash zsh fish; do "$folder/bin/wary" completion $shell >"$folder/completion/wary.$shell"; done
[ -n "${PACKAGE_BUILT:-}" ] || tar -C "$out" --owner=0 --group=0 --sort=name -czf "$folder.tar.gz" "$(basename "$folder")"

if command -v dpkg-deb >/dev/null; then
  root=$out/deb
  rm -rf "$root" && mkdir -p "$root/DEBIAN" "$root/usr/lib" "$root/usr/bin" "$root/etc/wary-sentinel" "$root/lib/systemd/system" \
    "$root/usr/share/doc/wary-sentinel" "$root/usr/share/man/man1" "$root/usr/share/bash-completion/completions" \
    "$root/usr/share/zsh/vendor-completions" "$root/usr/share/fish/vendor_completions.d"
  cp -r "$folder/lib" "$root/usr/lib/wary-sentinel"
  ln -s ../lib/wary-sentinel/wary "$root/usr/bin/wary"
  ln -s ../lib/wary-sentinel/WarySentinel.Service "$root/usr/bin/wary-sentinel"
  cp package/sentinel.json "$root/etc/wary-sentinel/"
  cp package/wary-sentinel.service "$root/lib/systemd/system/"
  cp LICENSE "$root/usr/share/doc/wary-sentinel/copyright"
  gzip -9nc CHANGELOG.md >"$root/usr/share/doc/wary-sentinel/changelog.gz"
  gzip -9nc "$folder/wary.1" >"$root/usr/share/man/man1/wary.1.gz"
  cp "$folder/completion/wary.bash" "$root/usr/share/bash-completion/completions/wary"
  cp "$folder/completion/wary.zsh" "$root/usr/share/zsh/vendor-completions/_wary"
  cp "$folder/completion/wary.fish" "$root/usr/share/fish/vendor_completions.d/wary.fish"
  cp package/debian/{conffiles,postinst,prerm,postrm} "$root/DEBIAN/"
  chmod 755 "$root"/DEBIAN/{postinst,prerm,postrm}
  sed -e "s/@VERSION@/$version/; s/@ARCHITECTURE@/$deb/; s/@SIZE@/$(du -sk --exclude=DEBIAN "$root" | cut -f1)/" package/debian/control >"$root/DEBIAN/control"
  dpkg-deb --root-owner-group "${packing[@]}" --build "$root" "$out/wary-sentinel_${version}_$deb.deb" >/dev/null
  rm -rf "$root"
fi

# Packed without a runtime: whoever has the SDK has that.
[ -n "${PACKAGE_BUILT:-}" ] || dotnet pack src/WarySentinel.Cli --nologo -v quiet -clp:ErrorsOnly -c Release -p:Version="$version" -p:PackAsTool=true -o "$out"
(cd "$out" && for file in "$(basename "$folder").tar.gz" "wary-sentinel_${version}_$deb.deb" "wary.$version.nupkg"; do [ ! -f "$file" ] || printf '%s  %s\n' "$(du -h "$file" | cut -f1)" "out/$file"; done)
