using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>A role, group or plan as people write it.</summary>
/// <param name="Key">Its name in expressions; made of the title unless said.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Home">Of a role: where those who hold it are at home on the site.</param>
/// <param name="Links">Of a role: what it adds to the account menu, in order.</param>
/// <param name="Rule">Of a group: an audience expression; whom it admits is in the group.</param>
/// <param name="Length">Of a plan: how long it lasts, such as <c>P30D</c>, <c>P1M</c> or <c>P1Y</c>.</param>
/// <param name="Grace">Of a plan: how long it goes on where it is paid for and not renewed in time.</param>
/// <param name="Remind">Of a plan: how long before its end whoever has it is reminded.</param>
/// <param name="Starts">Of a plan: when the time that an order pays for begins; one of <see cref="StartNames"/>, at once unless said.</param>
public sealed record FactDraft(
    string? Key, string? Title, string? Home = null, IReadOnlyList<MenuLink>? Links = null, string? Rule = null, string? Length = null,
    string? Grace = null, string? Remind = null, string? Starts = null)
{
    /// <summary>Longest title, in characters.</summary>
    public const int LongestTitle = 120;

    /// <summary>Most links of one role.</summary>
    public const int MostLinks = 20;

    /// <summary>The names of when a plan that is paid for begins.</summary>
    public static readonly IReadOnlyList<string> StartNames = ["at-once", "by-hand", "on-use"];

    private const int LongestWords = 80;

    /// <summary>The draft that says what a definition says.</summary>
    public static FactDraft Of(FactDefinition one, Audience? rule) => new(
        one.Key, one.Title, one.Home, one.Links, rule?.ToString(), one.Length?.ToString(), one.Grace?.ToString(), one.Remind?.ToString(),
        one.Starts == PlanStart.AtOnce ? null : StartNames[(int)one.Starts]);

    /// <summary>What it says of how it is called, and of the pages that go with it; every fault of that goes to <paramref name="faults"/>.</summary>
    internal FactDefinition Read(FactKind kind, Faults faults)
    {
        var title = Title?.Trim() ?? "";
        faults.Unless(title.Length is > 0 and <= LongestTitle && PlainText.IsClean(title), "title", "title-length", LongestTitle);
        var key = string.IsNullOrWhiteSpace(Key) ? Slug.Of(title) : Key;
        faults.Unless(CatalogueKey.IsValid(key), "key", "key-form", key);
        var home = string.IsNullOrWhiteSpace(Home) ? null : Home.Trim();
        var links = Links ?? [];
        faults.Unless(kind == FactKind.Role || (home is null && links.Count == 0), home is null ? "links" : "home", "role-only");
        faults.Unless(home is null || ReturnTo.IsOnThisSite(home), "home", "site-address", home);
        faults.Unless(links.Count <= MostLinks, "links", "links-many", MostLinks);
        for (var i = 0; i < Math.Min(links.Count, MostLinks); i++)
        {
            var (address, words) = (links[i].Address, links[i].Words?.Trim() ?? "");
            faults.Unless(ReturnTo.IsOnThisSite(address), $"links.{i}.address", "site-address", address);
            faults.Unless(words.Length is > 0 and <= LongestWords && PlainText.IsClean(words), $"links.{i}.words", "title-length", LongestWords);
        }

        PlanLength? length = null;
        faults.Unless(kind == FactKind.Plan || string.IsNullOrWhiteSpace(Length), "length", "plan-only");
        faults.Unless(string.IsNullOrWhiteSpace(Length) || PlanLength.TryParse(Length, out length), "length", "plan-length", Length);
        PlanLength? grace = null;
        faults.Unless(kind == FactKind.Plan || string.IsNullOrWhiteSpace(Grace), "grace", "plan-only");
        faults.Unless(string.IsNullOrWhiteSpace(Grace) || PlanLength.TryParse(Grace, out grace), "grace", "plan-length", Grace);
        PlanLength? remind = null;
        faults.Unless(kind == FactKind.Plan || string.IsNullOrWhiteSpace(Remind), "remind", "plan-only");
        faults.Unless(string.IsNullOrWhiteSpace(Remind) || PlanLength.TryParse(Remind, out remind), "remind", "plan-length", Remind);
        var starts = string.IsNullOrWhiteSpace(Starts) ? 0 : StartNames.ToList().IndexOf(Starts.Trim());
        faults.Unless(kind == FactKind.Plan || string.IsNullOrWhiteSpace(Starts), "starts", "plan-only");
        faults.Unless(starts >= 0, "starts", "not-one-of", Starts, string.Join(", ", StartNames));
        faults.Unless(starts <= 0 || length is not null || faults.Any, "starts", "plan-starts");
        return new FactDefinition(kind, key, title)
        {
            Home = home, Links = [.. links.Select(l => l with { Words = l.Words?.Trim() ?? "" })], Length = length,
            Grace = grace,
            Remind = remind,
            Starts = (PlanStart)starts,
        };
    }

    /// <summary>The rule, or null where none is written. It may name roles, groups, plans, purchases, members and whoever is signed in.</summary>
    internal Outcome<Audience?> ReadRule(FactKind kind, IKnownKeys? known)
    {
        if (string.IsNullOrWhiteSpace(Rule))
        {
            return (Audience?)null;
        }

        if (kind != FactKind.Group)
        {
            return Problem.In("rule", "group-only");
        }

        var read = AudienceParser.Parse(Rule, known);
        if (read.Problem is { } problem)
        {
            return problem with { Faults = [.. problem.Faults.Select(f => f with { Field = "rule" })] };
        }

        var odd = read.Value.Atoms().FirstOrDefault(a => a is not (Audience.Plain { Atom: PlainAtom.SignedIn or PlainAtom.Anyone }
            or Audience.Fact { Kind: not FactKind.Pass }));
        return odd is null ? read.Value : Problem.In("rule", "group-rule-atom", odd);
    }
}

/// <summary>What names a role, group or plan, and how many hold it.</summary>
/// <param name="Named">Gates, redirects, rules of groups, shared passwords.</param>
/// <param name="Members">Members who hold it and will not have lost it by now.</param>
public sealed record FactUses(IReadOnlyList<NamedAudience> Named, int Members)
{
    /// <summary>What names it in a policy.</summary>
    public static IReadOnlyList<NamedAudience> In(Policy policy, FactKind kind, string key) =>
    [
        .. policy.Gates.Where(g => !g.StandsIn).Select(g => new NamedAudience("gate", g.Key, g.Audience))
            .Concat(policy.Parts.All.SelectMany(p => p.Audiences)).Where(n => n.Audience.Names(kind, key)),
    ];
}
