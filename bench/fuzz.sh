#!/usr/bin/env bash
# The long form of the fuzzer: 100,000 mutated requests over every surface (the suite sends 5,000), and 1,000,000 decisions held against the rules.
#   bench/fuzz.sh [REQUESTS] [DECISIONS]
set -euo pipefail
cd "$(dirname "$0")/.."
dotnet build WarySentinel.slnx --nologo -v quiet -clp:ErrorsOnly -m
WARY_FUZZ=${1:-100000} WARY_DIFFERENTIAL=${2:-1000000} tests/WarySentinel.EndToEnd/bin/Debug/net10.0/WarySentinel.EndToEnd \
  -class WarySentinel.EndToEnd.FuzzTests -class WarySentinel.EndToEnd.DifferentialTests
