using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Stores a new member with the grants it begins with. An e-mail address or user name that somebody has is refused.</summary>
public sealed record MemberAdded(Member Member) : Change.OfPeople;

/// <summary>Stores what a member is, grants aside, unless somebody else changed them since version <paramref name="Was"/>.</summary>
public sealed record MemberSet(Member Member, int Was) : Change.OfPeople;

/// <summary>Counts a member's version on, as what they hold changes, unless somebody else changed them since version <paramref name="Was"/>.</summary>
public sealed record MemberTouched(Guid Member, int Was) : Change.OfPeople;

/// <summary>Gives a member a fact. One from the same source that is there already is refused.</summary>
public sealed record GrantAdded(Guid Member, Grant Grant) : Change.OfPeople;

/// <summary>Gives a grant other dates.</summary>
public sealed record GrantSet(Guid Member, Grant Grant) : Change.OfPeople;

/// <summary>Takes a grant away altogether, as if it had never been: what gave it says so.</summary>
public sealed record GrantDropped(Guid Member, Guid Grant) : Change.OfPeople;

/// <summary>Refuses the whole edit unless some other active member is an owner now, and has no end to it.</summary>
public sealed record OwnerRemains(Guid Beside) : Change.OfPeople;

/// <summary>Refuses the whole edit where an active member is an owner already.</summary>
public sealed record NoOwnerYet : Change.OfPeople;

/// <summary>Stores an access token of the API.</summary>
public sealed record TokenPut(ApiToken Token) : Change.OfPeople;

/// <summary>Drops an access token of the API.</summary>
public sealed record TokenDropped(Guid Id) : Change.OfPeople;

/// <summary>
/// Removes a member with all that is known of them; what the audit trail says of them goes on under <paramref name="Tag"/>, without what it said.
/// </summary>
public sealed record MemberErased(Guid Member, string Email, string Tag) : Change.OfPeople;

/// <summary>Keeps what staff noted of a member.</summary>
public sealed record NoteAdded(MemberNote Note) : Change.OfPeople;

/// <summary>Drops what staff noted.</summary>
public sealed record NoteDropped(Guid Id) : Change.OfPeople;

/// <summary>
/// Whoever was given one fact has another from now on, from the same source and until the same day; or, where there is none, has it no longer. As many
/// as there are: the policy's lane stores it, as the fact itself goes.
/// </summary>
public sealed record GrantsMoved(FactKind Kind, string Key, string? To) : Change.OfPeople;

/// <summary>Ends every session of a member, but for the one named.</summary>
public sealed record SessionsEnded(Guid Member, Guid? Except = null) : Change.OfPeople;
