using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Consents;

namespace WarySentinel.Core.People;

/// <summary>Where an account stands.</summary>
public enum MemberStatus
{
    /// <summary>Asked to join; no password yet.</summary>
    Invited,
    /// <summary>The e-mail address is not proved yet.</summary>
    Unverified,
    /// <summary>Waits for approval.</summary>
    Pending,
    /// <summary>May sign in.</summary>
    Active,
    /// <summary>Kept out for now.</summary>
    Suspended,
    /// <summary>Ended.</summary>
    Closed,
}

/// <summary>How an account came to stand where it does.</summary>
/// <param name="At">Since when.</param>
/// <param name="By">Who did it.</param>
/// <param name="Words">What the member reads of it when they sign in; null where nothing was said.</param>
public sealed record StatusCause(DateTimeOffset At, string By, string? Words);

/// <summary>What staff noted of a member. The member never reads it.</summary>
public sealed record MemberNote(Guid Id, Guid Member, DateTimeOffset At, string By, string Text);

/// <summary>A person with an account.</summary>
public sealed record Member(
    Guid Id, string Email, string Name, string? UserName, Secret? PasswordHash, MemberStatus Status,
    IReadOnlyList<Grant> Grants, DateTimeOffset CreatedAt, int Version = 1)
{
    /// <summary>How it came to be so; null where nothing has changed since it was made.</summary>
    public StatusCause? Cause { get; init; }

    /// <summary>The language that they are written to in (RFC 5646 tag); null where nobody has said.</summary>
    public string? Language { get; init; }

    /// <summary>Whether they want no letters but those that have to be (RFC 8058).</summary>
    public bool IsUnsubscribed { get; init; }

    /// <summary>What they said last to each of the site's terms.</summary>
    public IReadOnlyList<Consented> Said { get; init; } = [];

    /// <summary>When they last signed in to the site; null where they never have.</summary>
    public DateTimeOffset? SeenAt { get; init; }

    /// <summary>
    /// The member as a visitor. Only an active member holds anything and counts as signed in; whoever is invited, waits, is suspended or gone
    /// is a guest to every gate, on every surface (docs/explanation/decisions.md).
    /// </summary>
    public Visitor AsVisitor() => Status == MemberStatus.Active
        ? new() { IsSignedIn = true, Email = Email, Name = Name, NameInAddresses = NameInAddresses, Grants = Grants, Language = Language }
        : Visitor.Guest;

    /// <summary>What stands for them in addresses: their user name, or their id where they have none.</summary>
    public string NameInAddresses => UserName ?? Id.ToString("N");

    /// <summary>The keys of the roles in force.</summary>
    public IReadOnlyList<string> RolesAt(DateTimeOffset now) =>
        [.. Grants.Where(g => g.Kind == FactKind.Role && g.IsInForce(now)).Select(g => g.Key).Distinct().Order(StringComparer.Ordinal)];
}

/// <summary>An access token of the API; only its digest is kept.</summary>
public sealed record ApiToken(Guid Id, string Label, Secret Digest, IReadOnlyList<string> Scopes, Guid? Member, DateTimeOffset CreatedAt, DateTimeOffset? Until)
{
    /// <summary>
    /// The scopes there are: reading, changing everything, changing people only, asking for decisions, opening the live site through somebody else's
    /// eyes, and managing tokens.
    /// </summary>
    public static readonly IReadOnlyList<string> AllScopes = ["read", "write", "people", "decide", "view", "tokens"];
}
