using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>The name by which another program, such as one for mailings, knows a member.</summary>
/// <param name="Source">The program.</param>
/// <param name="Key">Its name for them.</param>
/// <param name="Member">The member.</param>
/// <param name="At">Since when.</param>
public sealed record OutsideKey(string Source, string Key, Guid Member, DateTimeOffset At);

/// <summary>Keeps by which name another program knows a member. One that is there already is refused.</summary>
public sealed record OutsideKeyAdded(OutsideKey Key) : Change.OfPeople;

/// <summary>Forgets such a name.</summary>
public sealed record OutsideKeyDropped(string Source, string Key) : Change.OfPeople;

/// <summary>A person as another program tells of them.</summary>
/// <param name="Key">Its name for them.</param>
/// <param name="Email">Their e-mail address: by it they are found the first time.</param>
/// <param name="Name">Their name, where they have no account yet.</param>
/// <param name="Roles">All roles that it gives them; null says nothing of roles.</param>
/// <param name="Groups">All groups that it gives them; null says nothing of groups.</param>
/// <param name="Plans">All plans that it gives them; null says nothing of plans.</param>
/// <param name="Gone">Whether it knows them no longer.</param>
public sealed record SyncRow(
    string? Key, string? Email, string? Name = null, IReadOnlyList<string>? Roles = null, IReadOnlyList<string>? Groups = null,
    IReadOnlyList<string>? Plans = null, bool Gone = false);

/// <summary>What came of a person.</summary>
/// <param name="Member">The member; null where nobody was meant.</param>
/// <param name="Effect">What was done.</param>
public sealed record SyncStep(Member? Member, ImportEffect Effect);

/// <summary>
/// Keeps members as another program has them. It says of a person all that it gives them; what it gave before and says no more ends. Said again, it changes
/// nothing, and what others gave stays. Under two names of that program, one member has what either gives.
/// </summary>
/// <param name="policy">Knows the roles, groups and plans.</param>
/// <param name="source">The program's name.</param>
/// <param name="adds">Whether who has no account gets one, as invited.</param>
/// <param name="now">The time.</param>
public sealed class MemberSync(Policy policy, string source, bool adds, DateTimeOffset now)
{
    /// <summary>Longest name of a program, in characters.</summary>
    public const int LongestSource = 32;

    /// <summary>Longest name of a person, in characters.</summary>
    public const int LongestKey = 80;

    private static readonly FactKind[] Kinds = [FactKind.Role, FactKind.Group, FactKind.Plan];

    /// <summary>Whether a program can be called so.</summary>
    public static bool IsSource(string name) => name.Length <= LongestSource && CatalogueKey.IsValid(name);

    /// <summary>Whether a person can be called so.</summary>
    public static bool IsKey(string? key) => key is { Length: > 0 and <= LongestKey } && PlainText.IsClean(key) && key.Trim() == key;

    /// <summary>What a row does.</summary>
    /// <param name="row">The row.</param>
    /// <param name="known">Whom the program has meant by that name so far.</param>
    /// <param name="there">That member; else the one with the row's address, if there is one.</param>
    public Outcome<Edit<SyncStep>> Step(SyncRow row, OutsideKey? known, Member? there)
    {
        var faults = new Faults();
        faults.Unless(IsKey(row.Key), "key", "sync-key", row.Key, LongestKey);
        if (row.Gone)
        {
            return faults.Any ? faults.ToProblem() : Gone(row, known, there);
        }

        faults.Unless(there is not null || EmailAddress.Normalise(row.Email) is not null, "email", "email-form", row.Email);
        var wanted = Wanted(row, faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        return there is not null ? Fitted(row, known, there, wanted)
            : adds ? Added(row, wanted)
            : new Edit<SyncStep>(new Edit("member.sync", row.Key!, []), new SyncStep(null, ImportEffect.Same));
    }

    private GrantSource SourceOf(string key) => GrantSource.OfSync(source, key);

    private List<Grant> Wanted(SyncRow row, Faults faults)
    {
        var wanted = new List<Grant>();
        foreach (var kind in Kinds)
        {
            var name = FactNames.NameOf(kind);
            foreach (var key in (Said(row, kind) ?? []).Distinct())
            {
                var read = GrantCommands.ReadFact(policy, $"{name}:{key}");
                if (read.Problem is { } problem)
                {
                    faults.Take(problem);
                    continue;
                }

                faults.Unless(kind != FactKind.Role || !StaffRights.IsStaffRole(policy, key), name + "s", "staff-role");
                wanted.Add(new Grant(kind, key, now) { Id = Guid.CreateVersion7(), Source = SourceOf(row.Key ?? "") });
            }
        }

        return wanted;
    }

    private Outcome<Edit<SyncStep>> Added(SyncRow row, List<Grant> wanted)
    {
        var name = string.IsNullOrWhiteSpace(row.Name) ? row.Email!.Split('@')[0] : row.Name;
        var read = MemberCommands.Read(policy, new MemberDraft { Email = row.Email, Name = name }, Guid.CreateVersion7(), now);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var fresh = read.Value with { Grants = wanted };
        return new Edit<SyncStep>(
            new Edit("member.sync", fresh.Email, [new MemberAdded(fresh), Known(row, fresh)], null, Told(fresh, row)),
            new SyncStep(fresh, ImportEffect.Fresh));
    }

    private Outcome<Edit<SyncStep>> Fitted(SyncRow row, OutsideKey? known, Member there, List<Grant> wanted)
    {
        var (changes, mine) = (new List<Change>(), there.Grants.Where(g => g.Source == SourceOf(row.Key!)).ToList());
        var after = mine.Where(g => !g.IsOver(now) && Said(row, g.Kind) is { } said && !said.Contains(g.Key))
            .Aggregate(there, (m, g) => GrantCommands.Ending(m, g, now, changes));
        var missing = wanted.Where(w => !mine.Exists(g => g.Kind == w.Kind && g.Key == w.Key && !g.IsOver(now))).ToList();
        if (there.Grants.Count + missing.Count > GrantCommands.MostOfOne)
        {
            return Problem.Of(ProblemKind.Conflict, "grant-many", there.Email, GrantCommands.MostOfOne);
        }

        after = missing.Aggregate(after, (m, g) => GrantCommands.Giving(m, g, changes));
        if (known is null)
        {
            changes.Add(Known(row, there));
        }

        return Stored(row, there, after, changes);
    }

    private Outcome<Edit<SyncStep>> Gone(SyncRow row, OutsideKey? known, Member? there)
    {
        if (known is null || there is null)
        {
            return new Edit<SyncStep>(new Edit("member.sync", row.Key!, []), new SyncStep(null, ImportEffect.Same));
        }

        var changes = new List<Change>();
        var after = there.Grants.Where(g => g.Source == SourceOf(row.Key!) && !g.IsOver(now))
            .Aggregate(there, (m, g) => GrantCommands.Ending(m, g, now, changes));
        changes.Add(new OutsideKeyDropped(source, row.Key!));
        return Stored(row, there, after, changes);
    }

    private Outcome<Edit<SyncStep>> Stored(SyncRow row, Member there, Member after, List<Change> changes)
    {
        if (changes.Count == 0)
        {
            return new Edit<SyncStep>(new Edit("member.sync", there.Email, []), new SyncStep(there, ImportEffect.Same));
        }

        after = after with { Version = there.Version + 1 };
        return new Edit<SyncStep>(
            new Edit(
                "member.sync", there.Email,
                [new MemberTouched(there.Id, there.Version), .. changes, .. GrantCommands.Guard(there, after, now)], Told(there, row), Told(after, row)),
            new SyncStep(after, ImportEffect.Changed));
    }

    private OutsideKeyAdded Known(SyncRow row, Member member) => new(new OutsideKey(source, row.Key!, member.Id, now));

    private static IReadOnlyList<string>? Said(SyncRow row, FactKind kind) => kind switch
    {
        FactKind.Role => row.Roles,
        FactKind.Group => row.Groups,
        FactKind.Plan => row.Plans,
        _ => null,
    };

    private string Told(Member member, SyncRow row) =>
        string.Join(", ", member.Grants.Where(g => g.Source == SourceOf(row.Key!) && !g.IsOver(now)).Select(g => g.Fact).Prepend($"{source}:{row.Key}"));
}
