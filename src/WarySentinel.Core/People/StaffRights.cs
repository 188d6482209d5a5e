using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>What somebody of the staff may, in the console and by the API. Each may what stands before it, too.</summary>
public enum StaffRight
{
    /// <summary>Nothing: no staff.</summary>
    None,
    /// <summary>Sees everything, helps members: gives and ends, suspends and lets back in, notes, signs out, looks through their eyes.</summary>
    Support,
    /// <summary>Changes what is guarded and how, too.</summary>
    Editor,
    /// <summary>Erases members, makes others staff, and makes access tokens, too.</summary>
    Owner,
}

/// <summary>
/// Staff rights are not roles of the site: they are given by owners only, and nothing that an editor can add or rename makes one. They travel as grants
/// of the built-in roles of their names. A role named <c>support</c> that a site had of its own stays what it was: who holds it is no staff.
/// </summary>
public static class StaffRights
{
    /// <summary>The names of the rights there are, from the most to the least.</summary>
    public static readonly IReadOnlyList<string> Names = [.. Visitor.StaffRoles, "support"];

    private static readonly IReadOnlyList<string> Support = ["read", "people", "decide", "view"];

    /// <summary>The scopes that calls of somebody with that right have.</summary>
    public static IReadOnlyList<string> ScopesOf(StaffRight right) => right switch
    {
        StaffRight.Owner => ApiToken.AllScopes,
        StaffRight.Editor => [.. Support, "write"],
        StaffRight.Support => Support,
        _ => [],
    };

    /// <summary>The scopes that a token has where somebody with that right stands behind it. Who may change everything may help members as well.</summary>
    public static IReadOnlyList<string> Within(StaffRight right, IReadOnlyList<string> scopes)
    {
        var most = ScopesOf(right);
        IEnumerable<string> all = scopes.Contains("write") ? scopes.Append("people") : scopes;
        return [.. all.Where(most.Contains).Distinct()];
    }

    /// <summary>Whether a role of that key makes somebody staff, and is no role of the site.</summary>
    public static bool IsStaffRole(Policy policy, string key) => Names.Contains(key) && policy.FindDefinition(FactKind.Role, key) is null;

    /// <summary>Whether an account is staff's, now or later, and whether or not it is kept out at present: only owners touch those.</summary>
    public static bool IsStaff(Policy policy, Member member, DateTimeOffset now) =>
        member.Grants.Any(g => g.Kind == FactKind.Role && !g.IsOver(now) && IsStaffRole(policy, g.Key));

    /// <summary>The right that somebody has by what they hold.</summary>
    public static StaffRight Of(Policy policy, IEnumerable<Grant> grants, DateTimeOffset now)
    {
        var right = StaffRight.None;
        foreach (var grant in grants)
        {
            if (grant.Kind == FactKind.Role && grant.IsInForce(now) && IsStaffRole(policy, grant.Key) && RightOf(grant.Key) is var found && found > right)
            {
                right = found;
            }
        }

        return right;
    }

    /// <summary>The right that an account has; none unless it is active.</summary>
    public static StaffRight Of(Policy policy, Member member, DateTimeOffset now) =>
        member.Status == MemberStatus.Active ? Of(policy, member.Grants, now) : StaffRight.None;

    /// <summary>The name of a right; null of none.</summary>
    public static string? NameOf(StaffRight right) => right == StaffRight.None ? null : right.ToString().ToLowerInvariant();

    private static StaffRight RightOf(string key) => key switch
    {
        "owner" => StaffRight.Owner,
        "editor" => StaffRight.Editor,
        _ => StaffRight.Support,
    };
}
