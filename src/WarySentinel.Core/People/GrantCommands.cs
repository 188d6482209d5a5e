using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>A grant as people write it.</summary>
/// <param name="Fact"><c>role:</c>, <c>group:</c> or <c>plan:</c> with a key, or <c>bought:</c> with an item.</param>
/// <param name="From">When it begins: a moment, or a day of the site's time zone; at once unless said.</param>
/// <param name="Until">When it ends; unless said a plan ends when it has lasted as long as it does, anything else never. <c>never</c> says that.</param>
/// <param name="Source">What gives it, such as <c>order:4711</c>; by hand unless said.</param>
public sealed record GrantDraft(string? Fact, string? From = null, string? Until = null, string? Source = null);

/// <summary>What became of a member by a grant, and whether anything did.</summary>
public sealed record Granted(Member Member, Grant Grant, bool Changed);

/// <summary>Gives members facts, ends them, gives them other dates. Saying the same again from the same source changes nothing.</summary>
public static class GrantCommands
{
    /// <summary>Most grants that one member is given, ended ones included.</summary>
    public const int MostOfOne = 2000;

    private const int MostOffered = 5000;
    private const string Never = "never";

    /// <summary>
    /// Gives a fact. One from that source that is there stays as it is, also when it is over: an order that is told again gives nothing twice.
    /// </summary>
    /// <remarks>By hand, what is over can be given again.</remarks>
    public static Outcome<Edit<Granted>> Give(Policy policy, Member? member, GrantDraft draft, DateTimeOffset now)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        var endless = draft.Until?.Trim() == Never;
        var read = Read(policy, endless ? draft with { Until = null } : draft, now);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var fresh = endless ? read.Value : Lasting(policy, member, read.Value, draft, now);
        if (member.Grants.FirstOrDefault(g => g.Kind == fresh.Kind && g.Key == fresh.Key && g.Source == fresh.Source) is { } there)
        {
            var again = there with { From = fresh.From, Until = fresh.Until };
            return fresh.Source.Kind != "hand" || Same(there, read.Value, draft) || (fresh != read.Value && !there.IsOver(now)) ? Nothing(member, there)
                : there.IsOver(now) ? Dated(member, again, now, "grant.give")
                : Problem.Of(ProblemKind.Conflict, "grant-exists", member.Email, there.Fact, there.Id);
        }

        if (member.Grants.Count >= MostOfOne)
        {
            return Problem.Of(ProblemKind.Conflict, "grant-many", member.Email, MostOfOne);
        }

        var changes = new List<Change>();
        var after = Giving(member, fresh, changes) with { Version = member.Version + 1 };
        return new Edit<Granted>(
            new Edit("grant.give", member.Email, [new MemberTouched(member.Id, member.Version), .. changes], null, Describe(fresh)),
            new Granted(after, fresh, true));
    }

    /// <summary>A plan that is given without a word of its end lasts as long as it does: from when it was said to begin, or after what is held.</summary>
    private static Grant Lasting(Policy policy, Member member, Grant fresh, GrantDraft draft, DateTimeOffset now) =>
        PlanRun.Lasting(policy, string.IsNullOrWhiteSpace(draft.From) ? member.Grants : [], fresh, string.IsNullOrWhiteSpace(draft.From) ? now
            : fresh.From!.Value);

    /// <summary>Ends a grant now. The last active owner stays owner.</summary>
    public static Outcome<Edit<Granted>> End(Member? member, Guid grant, DateTimeOffset now)
    {
        if (Find(member, grant) is not { } there)
        {
            return Unknown(member);
        }

        return there.IsOver(now) ? Nothing(member!, there)
            : there.Source.IsOrganisation ? OfOrganisation(member!, there) : Dated(member!, there with { Until = now }, now, "grant.end");
    }

    /// <summary>Ends a fact now, whatever gave it. The last active owner stays owner.</summary>
    public static Outcome<Edit<Member>> EndAll(Member member, string fact, DateTimeOffset now)
    {
        var (changes, over) = (new List<Change>(), member.Grants.Where(g => g.Fact == fact && !g.IsOver(now)).ToList());
        if (over.Count == 0)
        {
            return new Edit<Member>(new Edit("grant.end", member.Email, []), member);
        }

        if (over.Find(g => g.Source.IsOrganisation) is { } kept)
        {
            return OfOrganisation(member, kept);
        }

        var after = over.Aggregate(member, (m, g) => Ending(m, g, now, changes)) with { Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit("grant.end", member.Email, [new MemberTouched(member.Id, member.Version), .. changes, .. Guard(member, after, now)],
            string.Join(", ", over.Select(Describe))), after);
    }

    /// <summary>Gives a grant other dates. A day without a time is that whole day in the site's time zone.</summary>
    public static Outcome<Edit<Granted>> SetDates(Policy policy, Member? member, Guid grant, string? from, string? until, DateTimeOffset now)
    {
        if (Find(member, grant) is not { } there)
        {
            return Unknown(member);
        }

        if (there.Source.IsOrganisation)
        {
            return OfOrganisation(member!, there);
        }

        Problem? bad = null;
        var (start, end) = SiteDates.ReadBoth(policy.Settings.TimeZone, from, until, (field, code, values) => bad ??= Problem.In(field, code, values));
        var after = there with { From = start, Until = end };
        return bad is not null ? bad : after == there ? Nothing(member!, there) : Dated(member!, after, now, "grant.set");
    }

    /// <summary>What comes through an organisation goes with it: who is to lose it leaves the organisation, or the organisation loses it.</summary>
    internal static Problem OfOrganisation(Member member, Grant grant) =>
        Problem.Of(ProblemKind.Conflict, "grant-organisation", member.Email, grant.Fact, grant.Source.Reference);

    /// <summary>The member with the grant over, and what is to be stored for it.</summary>
    internal static Member Ending(Member member, Grant grant, DateTimeOffset now, List<Change> changes) => Setting(member, grant with { Until = now }, changes);

    /// <summary>The member with the grant, and what is to be stored for it; one from the same source that is there takes its dates.</summary>
    internal static Member Giving(Member member, Grant fresh, List<Change> changes)
    {
        if (member.Grants.FirstOrDefault(g => g.Kind == fresh.Kind && g.Key == fresh.Key && g.Source == fresh.Source) is { } there)
        {
            return Setting(member, there with { From = fresh.From, Until = fresh.Until }, changes);
        }

        changes.Add(new GrantAdded(member.Id, fresh));
        return member with { Grants = [.. member.Grants, fresh] };
    }

    /// <summary>Where an active owner stops to be one, somebody else must be one still when it is stored.</summary>
    internal static IEnumerable<Change> Guard(Member before, Member after, DateTimeOffset now)
    {
        bool IsOwner(Member m) => m.Status == MemberStatus.Active && m.RolesAt(now).Contains("owner");
        return IsOwner(before) && (!IsOwner(after) || EndsSooner(before, after, now)) ? [new OwnerRemains(before.Id)] : [];
    }

    private static bool EndsSooner(Member before, Member after, DateTimeOffset now)
    {
        static DateTimeOffset Last(Member m, DateTimeOffset at) => m.Grants.Where(g => g is { Kind: FactKind.Role, Key: "owner" } && g.IsInForce(at))
            .Select(g => g.Until ?? DateTimeOffset.MaxValue).DefaultIfEmpty(DateTimeOffset.MinValue).Max();
        return Last(after, now) < Last(before, now);
    }

    private static Member Setting(Member member, Grant after, List<Change> changes)
    {
        changes.Add(new GrantSet(member.Id, after));
        return member with { Grants = [.. member.Grants.Select(g => g.Id == after.Id ? after : g)] };
    }

    private static Edit<Granted> Dated(Member member, Grant dated, DateTimeOffset now, string action)
    {
        var changes = new List<Change>();
        var after = Setting(member, dated, changes) with { Version = member.Version + 1 };
        var before = member.Grants.First(g => g.Id == dated.Id);
        return new Edit<Granted>(
            new Edit(action, member.Email, [new MemberTouched(member.Id, member.Version), .. changes, .. Guard(member, after, now)], Describe(before),
            Describe(dated)), new Granted(after, dated, true));
    }

    private static Edit<Granted> Nothing(Member member, Grant grant) => new(new Edit("grant.same", member.Email, []), new Granted(member, grant, false));

    /// <summary>Whether what is asked for is there already; a start that was not said is whatever it was.</summary>
    private static bool Same(Grant there, Grant fresh, GrantDraft draft) =>
        there.Until == fresh.Until && (string.IsNullOrWhiteSpace(draft.From) ? there.From is null || there.From <= fresh.From : there.From == fresh.From);

    private static Grant? Find(Member? member, Guid grant) => member?.Grants.FirstOrDefault(g => g.Id == grant && grant != Guid.Empty);

    private static Problem Unknown(Member? member) => member is null ? Problem.Of(ProblemKind.NotFound, "member-unknown")
        : Problem.Of(ProblemKind.NotFound, "grant-unknown", member.Email);

    private static Outcome<Grant> Read(Policy policy, GrantDraft draft, DateTimeOffset now)
    {
        var named = ReadFact(policy, draft.Fact);
        if (named.Problem is { } odd)
        {
            return odd;
        }

        var source = GrantSource.Hand;
        if (!string.IsNullOrWhiteSpace(draft.Source) && !GrantSource.TryParse(draft.Source, out source))
        {
            return Problem.In("source", "source-form", draft.Source, string.Join(", ", GrantSource.Kinds.Skip(1)));
        }

        Problem? bad = null;
        var (from, until) = SiteDates.ReadBoth(
            policy.Settings.TimeZone, draft.From, draft.Until, (field, code, values) => bad ??= Problem.In(field, code, values));
        return bad is null ? new Grant(named.Value.Kind, named.Value.Key, from ?? now, until) { Id = Guid.CreateVersion7(), Source = source } : bad;
    }

    /// <summary>A fact that can be given, as people name it.</summary>
    internal static Outcome<(FactKind Kind, string Key)> ReadFact(Policy policy, string? text)
    {
        if (!MemberNames.TryFact(text?.Trim(), out var fact))
        {
            return Problem.In("fact", "fact-form", text);
        }

        var (kind, key) = fact;
        var name = FactNames.NameOf(kind);

        if (kind == FactKind.Bought ? !(ItemId.TryParse(key, out var item) && policy.Graph.Find(item) is not null)
            : policy.FindDefinition(kind, key) is null && !(kind == FactKind.Role && StaffRights.Names.Contains(key)))
        {
            var known = kind == FactKind.Bought ? policy.Graph.Items.Select(i => i.Id.ToString())
                : policy.Definitions.Where(s => s.Kind == kind).Select(s => s.Key).Concat(kind == FactKind.Role ? StaffRights.Names : []);
            var near = Nearest.To(key, known.Take(MostOffered));
            var what = kind == FactKind.Bought ? "item" : name;
            return near is null ? Problem.In("fact", "standing-unknown", what, key) : Problem.In("fact", "standing-unknown-near", what, key, near);
        }

        return fact;
    }

    private static string Describe(Grant grant)
    {
        static string At(DateTimeOffset? at) => at?.ToString("yyyy-MM-dd HH:mm'Z'", System.Globalization.CultureInfo.InvariantCulture) ?? "…";
        return $"{grant.Fact} ({grant.Source}) {At(grant.From)} – {At(grant.Until)}";
    }
}
