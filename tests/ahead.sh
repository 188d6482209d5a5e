#!/usr/bin/env bash
# Compiles what was built ahead of time, in place: the tests start hundreds of processes, and each would translate the same code again.
# What cannot be compiled stays as it is. Run by test.sh, after the build.
set -uo pipefail
cd "$(dirname "$0")/.."
version=$(sed -n 's/.*crossgen2\.linux-x64" Version="\[\(.*\)\]".*/\1/p' tests/WarySentinel.Testing/WarySentinel.Testing.csproj)
compiler=${NUGET_PACKAGES:-$HOME/.nuget/packages}/microsoft.netcore.app.crossgen2.linux-x64/$version/tools/crossgen2
[ "$(uname -m)" = x86_64 ] && [ -f "$compiler" ] || { echo "not compiled ahead: there is no compiler for $(uname -m)"; exit 0; }
made=$(mktemp -d)
trap 'rm -rf "$made"' EXIT
install -m 755 "$compiler" "$made/crossgen2"
cp "$(dirname "$compiler")"/*.so "$made"

framework() { dotnet --list-runtimes | awk -v name="$1" '$1 == name && $2 ~ /^10\./ { path = substr($3, 2, length($3) - 2) "/" $2 } END { print path }'; }
core=$(framework Microsoft.NETCore.App) web=$(framework Microsoft.AspNetCore.App)
mkdir "$made/in" "$made/out"
for bin in {src/WarySentinel.{StandIns,Cli,Service},tests/WarySentinel.Core.Tests}/bin/Debug/net10.0; do cp -n "$bin"/*.dll "$made/in"; done
# The tests themselves run once; of others, which are large, hardly anything is run. They are referred to all the same.
apart='\.Tests\.dll$|/(BouncyCastle|PuppeteerSharp|WebDriverBiDi|SharpCompress|UglyToad|ZstdSharp|System\.CodeDom|ReactiveExtensions|DiffEngine|xunit\.v3\.runner|Microsoft\.(ApplicationInsights|Testing))\.'

# In one go: what they all refer to is read once.
for file in $(printf '%s\n' "$made"/in/*.dll | grep -vE "$apart"); do ln "$file" "$made/out/"; done
"$made/crossgen2" "$made"/out/*.dll --single-file-compilation --out-near-input -r "$made/in/*.dll" -r "$core/*.dll" -r "$web/*.dll" \
  --targetos linux --targetarch x64 -O >/dev/null 2>&1 || echo "not all could be compiled ahead"

count=0
for file in "$made"/out/*.ni.dll; do
  [ -f "$file" ] || continue
  count=$((count + 1))
  name=$(basename "$file" .ni.dll).dll
  for bin in {src,tests}/*/bin/Debug/net10.0; do
    if cmp -s "$made/in/$name" "$bin/$name"; then cp "$file" "$bin/$name"; fi
  done
done
echo "$count files compiled ahead"
