#!/usr/bin/env bash
# Makes the model of the tables anew, for both providers: after every change of a row. A test says when it is forgotten.
set -euo pipefail
cd "$(dirname "$0")/../.."
dotnet tool restore >/dev/null
rm -rf src/WarySentinel.Storage/Migrations/Compiled
for provider in Sqlite Postgres; do
  dotnet ef dbcontext optimize --project src/WarySentinel.Storage --context "${provider}Context" -o "Migrations/Compiled/$provider" -n "WarySentinel.Storage.Migrations.Compiled.$provider" >/dev/null
done
