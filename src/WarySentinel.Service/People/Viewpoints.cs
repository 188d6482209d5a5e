using System.Globalization;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
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
public sealed class Viewpoints(Store store, TimeProvider time)
{
    private const char DateMark = ';';

    /// <summary>The viewpoint, or a problem that names the nearest.</summary>
    /// <param name="text">Its name.</param>
    /// <param name="policy">The policy that knows roles, groups, plans and gates.</param>
    /// <param name="asMember">Whether a member named alone keeps the staff privilege, as in questions about what they may.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<SeenAs>> FindAsync(string text, Policy policy, bool asMember, CancellationToken stop)
    {
        var view = new Parts();
        foreach (var key in text.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (await AddAsync(view, key, policy, stop) is { } problem)
            {
                return problem;
            }
        }

        return view.SeenAs(text, asMember);
    }

    private async Task<Problem?> AddAsync(Parts view, string key, Policy policy, CancellationToken stop)
    {
        if (key.Contains('@', StringComparison.Ordinal) || Guid.TryParse(key, out _))
        {
            return await MemberAsync(key, stop) is { } found ? view.AddMember(found, TermsBook.Of(policy).VisitorOf(found, time.GetUtcNow()))
                : Problem.Of(ProblemKind.NotFound, "visitor-unknown-member", key);
        }

        if (key.StartsWith("password:", StringComparison.Ordinal))
        {
            return policy.FindGate(key[9..]) is { } gate ? view.AddHolder(gate) : Problem.Of(ProblemKind.NotFound, "gate-unknown", key[9..]);
        }

        return key.StartsWith("role:", StringComparison.Ordinal) && StaffRights.IsStaffRole(policy, key[5..]) ? view.AddStaff(key[5..])
            : Viewpoint.Find(policy, key).Match<Problem?>(found => view.AddFact(key, found), problem => problem);
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

    /// <summary>What a viewpoint is put together from.</summary>
    private sealed class Parts
    {
        private readonly List<string> titles = [];
        private readonly List<string> whos = [];
        private readonly List<Grant> grants = [];
        private readonly List<Unlock> unlocks = [];
        private Visitor? member;
        private bool signedIn;

        public Problem? AddMember(Member found, Visitor visitor)
        {
            member = visitor;
            return Add(
                found.Name, member.IsSignedIn || found.Status != MemberStatus.Active ? found.Name : Words.Of("who.owing", found.Name), member.IsSignedIn, []);
        }

        public Problem? AddHolder(Gate gate)
        {
            unlocks.Add(new Unlock(gate.Key, DateTimeOffset.MaxValue));
            return Add(Words.Of("viewpoint.holder", gate.Title), Words.Of("who.holder", gate.Title), false, []);
        }

        public Problem? AddStaff(string role) => Add(Words.Of("role." + role), Words.Of("who." + role), true, [new Grant(FactKind.Role, role)]);

        public Problem? AddFact(string key, Viewpoint found)
        {
            var who = Words.Of("who." + (key.Contains(':', StringComparison.Ordinal) ? key.Split(':')[0] : key), found.Title);
            return Add(found.Title, who, found.Visitor.IsSignedIn, found.Visitor.Grants);
        }

        public SeenAs SeenAs(string text, bool asMember)
        {
            var visitor = new Visitor
            {
                IsSignedIn = signedIn, Email = member?.Email, Name = member?.Name, NameInAddresses = member?.NameInAddresses,
                Grants = [.. member?.Grants ?? [], .. grants], Unlocks = unlocks,
                IsViewpoint = member is null || !asMember,
            };
            return titles.Count == 0 ? new SeenAs(text, Words.Of("viewpoint.guest"), Words.Of("who.guest"), visitor)
                : new SeenAs(text, string.Join(" + ", titles), string.Join(Words.Of("audience.and"), whos), visitor);
        }

        private Problem? Add(string title, string who, bool isSignedIn, IEnumerable<Grant> more)
        {
            titles.Add(title);
            whos.Add(who);
            signedIn |= isSignedIn;
            grants.AddRange(more);
            return null;
        }
    }
}
