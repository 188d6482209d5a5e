using System.Globalization;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Somebody to look as.</summary>
/// <param name="Key">As it was asked for, such as <c>role:dealer,group:schools</c>.</param>
/// <param name="Title">What a page calls it.</param>
/// <param name="Who">How a sentence about them begins.</param>
/// <param name="Visitor">The facts; without staff privilege where somebody looks through them.</param>
public sealed record SeenAs(string Key, string Title, string Who, Visitor Visitor);

/// <summary>
/// Finds viewpoints by their names: <c>guest</c>, <c>signed-in</c>, <c>role:</c>, <c>group:</c>, <c>plan:</c>, <c>password:GATE</c>
/// (who holds a shared password of that gate), a member's e-mail address; several joined by commas.
/// </summary>
public sealed class Viewpoints(Store store)
{
    private const char DateMark = ';';

    /// <summary>The viewpoint, or a problem that names the nearest.</summary>
    /// <param name="text">Its name.</param>
    /// <param name="policy">The policy that knows roles, groups, plans and gates.</param>
    /// <param name="asMember">Whether a member named alone keeps the staff privilege, as in questions about what they may.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<SeenAs>> FindAsync(string text, Policy policy, bool asMember, CancellationToken stop)
    {
        var (titles, whos, grants, unlocks) = (new List<string>(), new List<string>(), new List<Grant>(), new List<Unlock>());
        Visitor? member = null;
        var signedIn = false;
        foreach (var key in text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (key.Contains('@', StringComparison.Ordinal) || Guid.TryParse(key, out _))
            {
                if (await MemberAsync(key, stop) is not { } found)
                {
                    return Problem.Of(ProblemKind.NotFound, "visitor-unknown-member", key);
                }

                member = found.AsVisitor();
                signedIn |= member.IsSignedIn;
                titles.Add(found.Name);
                whos.Add(found.Name);
            }
            else if (key.StartsWith("password:", StringComparison.Ordinal))
            {
                if (policy.FindGate(key[9..]) is not { } gate)
                {
                    return Problem.Of(ProblemKind.NotFound, "gate-unknown", key[9..]);
                }

                unlocks.Add(new Unlock(gate.Key, DateTimeOffset.MaxValue));
                titles.Add(Words.Of("viewpoint.holder", gate.Title));
                whos.Add(Words.Of("who.holder", gate.Title));
            }
            else if (key is "role:owner" or "role:editor")
            {
                grants.Add(new Grant(FactKind.Role, key[5..]));
                titles.Add(Words.Of("role." + key[5..]));
                whos.Add(Words.Of("who." + key[5..]));
                signedIn = true;
            }
            else
            {
                var found = Viewpoint.Find(policy, key);
                if (found.Problem is { } problem)
                {
                    return problem;
                }

                grants.AddRange(found.Value.Visitor.Grants);
                signedIn |= found.Value.Visitor.IsSignedIn;
                titles.Add(found.Value.Title);
                whos.Add(Words.Of("who." + (key.Contains(':', StringComparison.Ordinal) ? key.Split(':')[0] : key), found.Value.Title));
            }
        }

        var visitor = new Visitor
        {
            IsSignedIn = signedIn,
            Email = member?.Email,
            Name = member?.Name,
            Grants = [.. member?.Grants ?? [], .. grants],
            Unlocks = unlocks,
            IsViewpoint = member is null || !asMember,
        };
        return new SeenAs(
            text, titles.Count == 0 ? Words.Of("viewpoint.guest") : string.Join(" + ", titles), whos.Count == 0 ? Words.Of("who.guest")
            : string.Join(Words.Of("audience.and"), whos), visitor);
    }

    /// <summary>The name under which a viewpoint, and the date it is looked at, are kept in a session.</summary>
    public static string Pack(string key, DateTimeOffset? at) =>
        at is null ? key : key + DateMark + at.Value.ToUniversalTime().ToString("O", CultureInfo.InvariantCulture);

    /// <summary>The viewpoint and the date of a session; null when it no longer exists.</summary>
    public async Task<(SeenAs Seen, DateTimeOffset? At)?> UnpackAsync(string packed, Policy policy, CancellationToken stop)
    {
        var mark = packed.IndexOf(DateMark, StringComparison.Ordinal);
        DateTimeOffset? at = null;
        if (mark >= 0)
        {
            if (!DateTimeOffset.TryParse(packed[(mark + 1)..], CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var read))
            {
                return null;
            }

            at = read;
        }

        var found = await FindAsync(mark < 0 ? packed : packed[..mark], policy, false, stop);
        if (found.Problem is not null)
        {
            return null;
        }

        var title = at is null ? found.Value.Title : Words.Of("viewpoint.on", found.Value.Title, new SiteDates(policy.Settings.TimeZone).Say(at.Value, false));
        return (found.Value with { Title = title }, at);
    }

    private async Task<Member?> MemberAsync(string idOrEmail, CancellationToken stop) =>
        Guid.TryParse(idOrEmail, out var id) ? await store.MemberAsync(id, stop)
        : EmailAddress.Normalise(idOrEmail) is { } email ? await store.MemberByNameAsync(email, stop) : null;
}
