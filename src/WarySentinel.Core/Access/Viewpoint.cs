using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>A column of the access board: somebody to look as.</summary>
/// <param name="Key"><c>guest</c>, <c>signed-in</c>, <c>role:dealer</c>, <c>group:…</c>, <c>plan:…</c>, <c>pass:…</c>.</param>
/// <param name="Title">What the column is called.</param>
/// <param name="Visitor">The facts it looks with.</param>
public sealed record Viewpoint(string Key, string Title, Visitor Visitor)
{
    /// <summary>Guest, plain member, then every role, plan and group of the policy.</summary>
    public static IReadOnlyList<Viewpoint> All(Policy policy) =>
    [
        new("guest", Words.Of("viewpoint.guest"), new Visitor { IsViewpoint = true }),
        new("signed-in", Words.Of("viewpoint.member"), Visitor.With()),
        .. policy.Holders,
    ];

    /// <summary>One for every role, plan and group; worked out once for a policy and those that follow from it.</summary>
    internal static IReadOnlyList<Viewpoint> Holders(IReadOnlyList<FactDefinition> definitions, string language) =>
    [
        .. definitions.Where(s => !(s.Kind == FactKind.Role && Visitor.StaffRoles.Contains(s.Key)))
            .OrderBy(s => s.Kind).ThenBy(s => s.Title, Spelling.SortingOf(language))
            .Select(s => new Viewpoint(NameOf(s), s.Title, Seen(new Grant(s.Kind, s.Key)))),
    ];

    /// <summary>The viewpoint of that key, or a problem that names the nearest.</summary>
    public static Outcome<Viewpoint> Find(Policy policy, string key)
    {
        var all = All(policy);
        if (all.FirstOrDefault(v => v.Key == key) is { } found)
        {
            return found;
        }

        var near = Nearest.To(key, all.Select(v => v.Key));
        return near is null
            ? Problem.Of(ProblemKind.NotFound, "viewpoint-unknown", key)
            : Problem.Of(ProblemKind.NotFound, "viewpoint-unknown-near", key, near);
    }

    /// <summary>Somebody who holds that and nothing else; a pass makes nobody a member.</summary>
    private static Visitor Seen(Grant grant) =>
        grant.Kind == FactKind.Pass ? new Visitor { Grants = [grant], IsViewpoint = true } : Visitor.With(grant);

    private static string NameOf(FactDefinition standing) => $"{FactNames.NameOf(standing.Kind)}:{standing.Key}";
}
