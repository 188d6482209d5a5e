#!/usr/bin/env bash
# Kills the service among orders, so often as said (500 on each database unless said), and counts what came of them.
#   bench/orders.sh [KILLS]      WARY_TEST_POSTGRES names a PostgreSQL; without one only SQLite is tried
set -euo pipefail
cd "$(dirname "$0")/.."
dotnet build tests/WarySentinel.Service.Tests -v q --nologo >/dev/null
export DOTNET_SYSTEM_GLOBALIZATION_INVARIANT=0 WARY_ORDER_TRIALS=${1:-500}
exec tests/WarySentinel.Service.Tests/bin/Debug/net10.0/WarySentinel.Service.Tests -class '*OrderKillTests'
