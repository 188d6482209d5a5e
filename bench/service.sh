# Sourced by what measures one service: $here (gone at the end), $admin and $site, publish, serve and api.
here=$(mktemp -d)
service=
trap 'kill $service 2>/dev/null || true; rm -rf "$here"' EXIT
admin=http://127.0.0.1:7691 site=http://127.0.0.1:7690
bench=(dotnet bench/WarySentinel.Bench/bin/Release/net10.0/WarySentinel.Bench.dll)

publish() { # as it is installed: compiled ahead
  dotnet publish src/WarySentinel.Service -c Release -r linux-x64 --self-contained false -o "$here/service" --nologo -v quiet -clp:ErrorsOnly
  dotnet build bench/WarySentinel.Bench -c Release --nologo -v quiet -clp:ErrorsOnly
}

api() { curl -sf -H "Authorization: Bearer ${token:-}" -H 'Content-Type: application/json' "$@"; }

serve() { # serve NAME [VARIABLE=VALUE…]: starts it on data of that name, with an owner; leaves $service and $token
  local name=$1 code
  shift
  # With the C library's arenas bounded, as the unit of the package has them.
  env MALLOC_ARENA_MAX=2 WARY__SITELISTEN=$site WARY__ADMINLISTEN=$admin WARY__SITEURL=$site WARY__ADMINURL=$admin WARY__DATA="$here/$name" "$@" \
    dotnet "$here/service/WarySentinel.Service.dll" >"$here/log-$name" 2>&1 &
  service=$!
  until curl -sf $admin/health/ready >/dev/null; do kill -0 $service; sleep 0.1; done
  until code=$(grep -o 'code=[0-9a-f]*' "$here/log-$name"); do sleep 0.1; done
  api $admin/api/v1/first-owner -d "{\"code\":\"${code#code=}\",\"email\":\"owner@x.example\",\"name\":\"Owner\",\"password\":\"keep-the-lamp-lit\"}" >/dev/null
  token=$(api $admin/api/v1/tokens -d '{"label":"bench","scopes":["read","write"],"signIn":{"name":"owner@x.example","password":"keep-the-lamp-lit"}}' \
    | sed 's/.*"token":"\([^"]*\)".*/\1/')
}
