using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.People;

/// <summary>Finds out who calls the API: a bearer token (RFC 6750), or a console session with the header that other sites cannot send.</summary>
public sealed class CallerReader(Store store, Sessions sessions, SessionCache cache, PolicyHolder policies, TimeProvider time)
{
    private const int MostTokens = 10_000;
    private readonly Recent<(ApiToken Token, Member? Behind, Seen Seen)> tokens = new(MostTokens);

    /// <summary>The header that the console sends; browsers let no other site send it.</summary>
    public const string ConsoleHeader = "X-Wary-Console";

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

            // A token ends with the staff right of the member who made it, and never may more than that.
            var right = token.Member is null ? StaffRight.Owner : behind is null ? StaffRight.None : RightOf(behind);
            return right == StaffRight.None
                ? Problem.Of(ProblemKind.Forbidden, "unauthenticated")
                : new Caller($"{behind?.Email ?? "set-up"} ({token.Label})", StaffRights.Within(right, token.Scopes), right == StaffRight.Owner, token.Member)
                { Right = StaffRights.NameOf(right)!, Token = token.Id, TokenUntil = token.Until };
        }

        if (await sessions.FindAsync(http, SessionPurpose.Console) is { Member: { } memberId } live)
        {
            if (!HttpMethods.IsGet(http.Request.Method) && !HttpMethods.IsHead(http.Request.Method) && !http.Request.Headers.ContainsKey(ConsoleHeader))
            {
                return Problem.Of(ProblemKind.Forbidden, "console-header");
            }

            var right = live.Visitor.IsSignedIn ? StaffRights.Of(policies.Current, live.Visitor.Grants, time.GetUtcNow()) : StaffRight.None;
            if (right != StaffRight.None)
            {
                return new Caller(live.Visitor.Email!, StaffRights.ScopesOf(right), right == StaffRight.Owner, memberId)
                { Right = StaffRights.NameOf(right)!, Session = live.Stored.Id };
            }
        }

        return Problem.Of(ProblemKind.Forbidden, "unauthenticated");
    }

    /// <summary>Whether an account is staff's, which only owners touch.</summary>
    public bool IsStaff(Member member) => StaffRights.IsStaff(policies.Current, member, time.GetUtcNow());

    /// <summary>What a member may in the console and by the API.</summary>
    public StaffRight RightOf(Member member) => StaffRights.Of(policies.Current, member, time.GetUtcNow());

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
