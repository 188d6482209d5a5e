#!/usr/bin/env bash
# The long form of what the suite tries a few times: every real page, a million decisions, 100,000 mutated requests, hundreds of kills.
# Takes hours.
#   bench/trials.sh [PROJECT [WHICH …]]    e.g.  bench/trials.sh Service.Tests -class '*KillTests'
# WARY_TEST_POSTGRES names a PostgreSQL, e.g. Host=127.0.0.1;Port=5432;Username=postgres
set -euo pipefail
cd "$(dirname "$0")/.."
dotnet build WarySentinel.slnx --nologo -v quiet -clp:ErrorsOnly -m
tests/ahead.sh
projects=(Core.Tests Storage.Tests Service.Tests EndToEnd)
[ $# = 0 ] || { projects=("$1"); shift; }
export WARY_TRIALS=long DOTNET_SYSTEM_GLOBALIZATION_INVARIANT=0
for project in "${projects[@]}"; do
  "tests/WarySentinel.$project/bin/Debug/net10.0/WarySentinel.$project" -noColor "$@"
done
