using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.People;

/// <summary>Finds out who calls the API: a bearer token (RFC 6750), or a console session with the header that other sites cannot send.</summary>
public sealed class CallerReader(Store store, Sessions sessions, SessionCache cache, TimeProvider time)
{
    private const int MostTokens = 10_000;
    private readonly Recent<(ApiToken Token, Member? Behind, Seen Seen)> tokens = new(MostTokens);

    /// <summary>The header that the console sends; browsers let no other site send it.</summary>
    public const string ConsoleHeader = "X-Wary-Console";

    /// <summary>What an editor may: everything but tokens.</summary>
    public static readonly IReadOnlyList<string> EditorScopes = ["read", "write", "decide", "view"];

    /// <summary>The caller, or why there is none.</summary>
    public async Task<Outcome<Caller>> ReadAsync(HttpContext http)
    {
        var header = http.Request.Headers.Authorization.ToString();
        if (header.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase))
        {
            var (token, behind) = await KnownAsync(Secrets.DigestOf(header[7..].Trim()), http.RequestAborted);
            if (token is null || token.Until <= time.GetUtcNow())
            {
                return Problem.Of(ProblemKind.Forbidden, "unauthenticated");
            }

            // A token ends with the standing of the member who made it.
            return token.Member is not null && (behind is not { Status: MemberStatus.Active } || !IsStaff(behind))
                ? Problem.Of(ProblemKind.Forbidden, "unauthenticated")
                : new Caller($"{behind?.Email ?? "set-up"} ({token.Label})", token.Scopes, behind is null || IsOwner(behind), token.Member)
                { Token = token.Id, TokenUntil = token.Until };
        }

        if (await sessions.FindAsync(http, SessionPurpose.Console) is { Member: { } memberId } live)
        {
            if (!HttpMethods.IsGet(http.Request.Method) && !HttpMethods.IsHead(http.Request.Method) && !http.Request.Headers.ContainsKey(ConsoleHeader))
            {
                return Problem.Of(ProblemKind.Forbidden, "console-header");
            }

            var now = time.GetUtcNow();
            if (live.Visitor.IsStaff(now))
            {
                var owner = live.Visitor.Has(FactKind.Role, "owner", now);
                return new Caller(live.Visitor.Email!, owner ? ApiToken.AllScopes : EditorScopes, owner, memberId) { Session = live.Stored.Id };
            }
        }

        return Problem.Of(ProblemKind.Forbidden, "unauthenticated");
    }

    /// <summary>Whether a member may use the console.</summary>
    public bool IsStaff(Member member) => member.RolesAt(time.GetUtcNow()).Any(r => r is "owner" or "editor");

    private bool IsOwner(Member member) => member.RolesAt(time.GetUtcNow()).Contains("owner");

    /// <summary>A token and the member behind it: read once, and again when either has changed.</summary>
    private async ValueTask<(ApiToken? Token, Member? Behind)> KnownAsync(string digest, CancellationToken stop)
    {
        if (tokens.TryGet(digest, out var known) && known.Seen.IsCurrent())
        {
            return (known.Token, known.Behind);
        }

        if (await store.TokenAsync(digest, stop) is not { } token)
        {
            return (null, null);
        }

        var seen = cache.Look();
        seen.On(Told.Token, token.Id.ToString("N"));
        Member? behind = null;
        if (token.Member is { } id)
        {
            seen.On(Told.Member, id.ToString("N"));
            behind = await store.MemberAsync(id, stop);
        }

        // It may have gone while the rest was read, before anybody listened for that.
        if (await store.TokenAsync(digest, stop) is null)
        {
            return (null, null);
        }

        tokens.Keep(digest, (token, behind, seen));
        return (token, behind);
    }
}
