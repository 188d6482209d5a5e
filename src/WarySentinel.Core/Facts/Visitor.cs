using System.Net;

namespace WarySentinel.Core.Facts;

/// <summary>A dated fact given to one member. In force while <c>From &lt;= now &lt; Until</c>; either end may be open.</summary>
public sealed record Grant(FactKind Kind, string Key, DateTimeOffset? From = null, DateTimeOffset? Until = null)
{
    /// <summary>Its own name; a fact that is only looked at has none.</summary>
    public Guid Id { get; init; }

    /// <summary>What gave it. A member has one grant of a fact from one source, however often that says so.</summary>
    public GrantSource Source { get; init; } = GrantSource.Hand;

    /// <summary>The fact, such as <c>role:dealer</c>.</summary>
    public string Fact => $"{FactNames.NameOf(Kind)}:{Key}";

    /// <summary>Whether it counts at that time, or will later.</summary>
    public bool IsOver(DateTimeOffset now) => Until is not null && Until <= now;

    /// <summary>Whether it counts at that time.</summary>
    public bool IsInForce(DateTimeOffset now) => (From is null || From <= now) && (Until is null || now < Until);
}

/// <summary>A gate that a visitor has unlocked with a shared password, until when.</summary>
public sealed record Unlock(string Gate, DateTimeOffset Until);

/// <summary>Whoever makes a request, as a set of facts. Immutable.</summary>
public sealed class Visitor
{
    /// <summary>The two built-in roles that pass every gate.</summary>
    public static readonly IReadOnlyList<string> StaffRoles = ["owner", "editor"];

    /// <summary>Who is not signed in and has unlocked nothing.</summary>
    public static readonly Visitor Guest = new();

    /// <summary>Whether somebody is signed in.</summary>
    public bool IsSignedIn { get; init; }

    /// <summary>The e-mail address of the member, in lower case.</summary>
    public string? Email { get; init; }

    /// <summary>The name to be greeted by.</summary>
    public string? Name { get; init; }

    /// <summary>What stands for the member in addresses; null for whoever is none.</summary>
    public string? NameInAddresses { get; init; }

    /// <summary>The language that they read (RFC 5646 tag), where they have said.</summary>
    public string? Language { get; init; }

    /// <summary>The dated facts of the member.</summary>
    public IReadOnlyList<Grant> Grants
    {
        get;
        init
        {
            field = value;
            foreach (var grant in value)
            {
                MayStart |= grant is { Kind: FactKind.Plan, Until: null, Source.Kind: "order" };
            }
        }
    } = [];

    /// <summary>Whether something that they bought may wait for its first use.</summary>
    public bool MayStart { get; private init; }

    /// <summary>What was unlocked by shared passwords.</summary>
    public IReadOnlyList<Unlock> Unlocks { get; init; } = [];

    /// <summary>The address the request comes from.</summary>
    public IPAddress? Address { get; init; }

    /// <summary>Whether it is a crawler whose address was verified.</summary>
    public bool IsCrawler { get; init; }

    /// <summary>Whether somebody looks through another's eyes; then staff has no privilege.</summary>
    public bool IsViewpoint { get; init; }

    /// <summary>A signed-in visitor with these roles, groups or plans, as on a column of the access board.</summary>
    public static Visitor With(params Grant[] grants) => new() { IsSignedIn = true, Grants = grants, IsViewpoint = true };

    /// <summary>
    /// Who they are without the name and password that came with the request (RFC 7617): gates that take none see only this. Null where none came.
    /// </summary>
    public Visitor? Bare { get; init; }

    /// <summary>The same visitor with other unlocks.</summary>
    public Visitor Having(IReadOnlyList<Unlock> unlocks) => Like(Grants, unlocks, Address, Bare);

    /// <summary>The same visitor coming from an address.</summary>
    public Visitor From(IPAddress? address) => Like(Grants, Unlocks, address, Bare);

    /// <summary>The same visitor with other facts.</summary>
    public Visitor WithGrants(IReadOnlyList<Grant> grants) => Like(grants, Unlocks, Address, Bare);

    /// <summary>The same visitor with a pass as well.</summary>
    public Visitor Holding(Grant pass) => Like([.. Grants, pass], Unlocks, Address, Bare);

    /// <summary>The same visitor, who is another to gates that take no name and password with a request.</summary>
    public Visitor Over(Visitor bare) => Like(Grants, [.. bare.Unlocks, .. Unlocks], bare.Address, bare);

    private Visitor Like(IReadOnlyList<Grant> grants, IReadOnlyList<Unlock> unlocks, IPAddress? address, Visitor? bare) => new()
    {
        IsSignedIn = IsSignedIn, Email = Email, Name = Name, NameInAddresses = NameInAddresses, Language = Language, Grants = grants,
        Unlocks = unlocks, Address = address, IsCrawler = IsCrawler, IsViewpoint = IsViewpoint, Bare = bare,
    };

    /// <summary>Whether the fact holds at that time.</summary>
    public bool Has(FactKind kind, string key, DateTimeOffset now)
    {
        if (!IsSignedIn && kind != FactKind.Pass)
        {
            return false;
        }

        if (kind == FactKind.Member)
        {
            return Email == key;
        }

        for (var i = 0; i < Grants.Count; i++)
        {
            var grant = Grants[i];
            if (grant.Kind == kind && grant.Key == key && grant.IsInForce(now))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether the gate is unlocked at that time.</summary>
    public bool HasUnlocked(string gate, DateTimeOffset now)
    {
        for (var i = 0; i < Unlocks.Count; i++)
        {
            if (Unlocks[i].Gate == gate && now < Unlocks[i].Until)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether the staff privilege counts.</summary>
    public bool IsStaff(DateTimeOffset now) =>
        IsSignedIn && !IsViewpoint && Bare is null && (Has(FactKind.Role, "owner", now) || Has(FactKind.Role, "editor", now));
}
