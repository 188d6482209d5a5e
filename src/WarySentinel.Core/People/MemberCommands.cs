using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>A member as people write it.</summary>
public sealed record MemberDraft
{
    /// <summary>The e-mail address.</summary>
    public string? Email { get; init; }

    /// <summary>The name to be greeted by.</summary>
    public string? Name { get; init; }

    /// <summary>A second name to sign in with.</summary>
    public string? UserName { get; init; }

    /// <summary>The password; without one the member is <c>invited</c>.</summary>
    public Secret? Password { get; init; }

    /// <summary>The language that they are written to in (RFC 5646 tag).</summary>
    public string? Language { get; init; }

    /// <summary>Keys of roles.</summary>
    public IReadOnlyList<string>? Roles { get; init; }

    /// <summary>Keys of groups.</summary>
    public IReadOnlyList<string>? Groups { get; init; }

    /// <summary>Keys of plans.</summary>
    public IReadOnlyList<string>? Plans { get; init; }
}

/// <summary>Adds members and changes what they are.</summary>
public static class MemberCommands
{
    /// <summary>Longest name, in characters.</summary>
    public const int LongestName = 120;

    private const int MostOffered = 5000;

    /// <summary>Checks a draft before its password is hashed.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">What is written of them.</param>
    /// <param name="id">Their own name, if they are new.</param>
    /// <param name="now">The time.</param>
    /// <param name="rules">What a password has to be; only a draft without one does without.</param>
    public static Outcome<Member> Read(Policy policy, MemberDraft draft, Guid id, DateTimeOffset now, PasswordRules? rules = null)
    {
        var faults = new Faults();
        var email = EmailAddress.Normalise(draft.Email);
        faults.Unless(email is not null, "email", "email-form", draft.Email);
        var name = draft.Name?.Trim() ?? "";
        faults.Unless(name.Length is > 0 and <= LongestName && PlainText.IsClean(name), "name", "name-length", LongestName);
        var userName = string.IsNullOrWhiteSpace(draft.UserName) ? null : draft.UserName.Trim().ToLowerInvariant();
        faults.Unless(userName is null || CatalogueKey.IsValid(userName), "userName", "key-form", userName);
        var password = draft.Password?.Reveal();
        if (password is not null && (rules ?? throw new ArgumentNullException(nameof(rules)))
            .FaultOf(password, email, name, userName, policy.Settings.SiteName) is { } weak)
        {
            faults.Take("password", weak);
        }

        faults.Unless(draft.Language is null || Spelling.IsLanguage(draft.Language), "language", "language", draft.Language);
        var grants = new List<Grant>();
        ReadOnlySpan<(FactKind Kind, IReadOnlyList<string>? Keys)> said =
            [(FactKind.Role, draft.Roles), (FactKind.Group, draft.Groups), (FactKind.Plan, draft.Plans)];
        foreach (var (kind, keys) in said)
        {
            if (keys is { Count: > 0 })
            {
                grants.AddRange(Grants(policy, kind, keys, [], faults, now));
            }
        }

        return faults.Any ? faults.ToProblem()
            : new Member(id, email!, name, userName, null, password is null ? MemberStatus.Invited : MemberStatus.Active, grants, now)
            { Language = draft.Language };
    }

    /// <summary>Stores a new member. One whose address or user name somebody has already is refused where it is stored.</summary>
    public static Edit<Member> Add(Member fresh) =>
        new(new Edit("member.add", fresh.Email, [new MemberAdded(fresh)], null, Describe(fresh)), fresh);

    /// <summary>Keeps the same password under another hash.</summary>
    public static Edit<Member> RenewHash(Member member, Secret hash)
    {
        var after = member with { PasswordHash = hash, Version = member.Version + 1 };
        return new(new Edit("password.renew", member.Email, [new MemberSet(after, member.Version)]), after);
    }

    /// <summary>Stores the first owner, unless there is an owner already by then.</summary>
    public static Edit<Member> AddFirstOwner(Member fresh) =>
        new(new Edit("member.add", fresh.Email, [new NoOwnerYet(), new MemberAdded(fresh)], null, Describe(fresh)), fresh);

    /// <summary>
    /// Gives a member exactly these roles: others end now, whatever gave them, and those that are missing are given by hand; grants of other kinds
    /// stay. The last active owner stays owner.
    /// </summary>
    public static Outcome<Edit<Member>> SetRoles(Policy policy, Member? member, IReadOnlyList<string> roles, int? version, DateTimeOffset now)
    {
        if (member is null || (version is not null && version != member.Version))
        {
            return member is null ? Problem.Of(ProblemKind.NotFound, "member-unknown") : Problem.Of(ProblemKind.Stale, "stale", member.Email);
        }

        var faults = new Faults();
        var kept = member.Grants.Where(g => g.Kind == FactKind.Role && g.IsInForce(now)).ToList();
        var wanted = Grants(policy, FactKind.Role, roles, kept, faults, now).ToList();
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var changes = new List<Change>();
        var over = member.Grants.Where(g => g.Kind == FactKind.Role && !g.IsOver(now) && !roles.Contains(g.Key)).ToList();
        if (over.Find(g => g.Source.IsOrganisation) is { } through)
        {
            return GrantCommands.OfOrganisation(member, through);
        }

        var after = over.Aggregate(member, (m, g) => GrantCommands.Ending(m, g, now, changes));
        var missing = wanted.Where(g => kept.TrueForAll(k => k.Key != g.Key));
        after = missing.Aggregate(after, (m, g) => GrantCommands.Giving(m, g with { From = now }, changes));
        if (changes.Count == 0)
        {
            return new Edit<Member>(new Edit("member.roles", member.Email, []), member);
        }

        after = after with { Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit(
            "member.roles", member.Email, [new MemberTouched(member.Id, member.Version), .. changes, .. GrantCommands.Guard(member, after, now)],
            Describe(member, now), Describe(after, now)), after);
    }

    private static IEnumerable<Grant> Grants(
        Policy policy, FactKind kind, IReadOnlyList<string> keys, IReadOnlyList<Grant> kept, Faults faults, DateTimeOffset now)
    {
        var name = FactNames.NameOf(kind);
        foreach (var key in keys.Distinct())
        {
            if (policy.FindDefinition(kind, key) is null && !(kind == FactKind.Role && StaffRights.Names.Contains(key)))
            {
                var near = Nearest.To(key, policy.Definitions.Where(s => s.Kind == kind).Select(s => s.Key).Take(MostOffered)
                    .Concat(kind == FactKind.Role ? StaffRights.Names : []));
                faults.Bad(name + "s", near is null ? "standing-unknown" : "standing-unknown-near", name, key, near);
                continue;
            }

            yield return kept.FirstOrDefault(g => g.Kind == kind && g.Key == key)
                ?? PlanRun.Lasting(policy, [], new Grant(kind, key) { Id = Guid.CreateVersion7() }, now);
        }
    }

    private static string Describe(Member member, DateTimeOffset? now = null) =>
        string.Join(", ", member.Grants.Where(g => now is null || !g.IsOver(now.Value)).Select(g => g.Fact).Distinct().Prepend(member.Name));
}
