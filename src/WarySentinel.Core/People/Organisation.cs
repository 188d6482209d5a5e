using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>
/// One customer with several people who sign in, each with an account of their own: a school, a dealer with three buyers. What it is given holds for its
/// people: each has it as a grant of their own, which ends when they leave and when the organisation does.
/// </summary>
/// <param name="Id">Its own name.</param>
/// <param name="Key">Its name in addresses and sources.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">So many people belong to it at most, those who are invited included.</param>
/// <param name="CreatedAt">Since when it has been there.</param>
/// <param name="Version">Counts its changes, those of its people included, from 1.</param>
public sealed record Organisation(Guid Id, string Key, string Title, int Seats, DateTimeOffset CreatedAt, int Version = 1)
{
    /// <summary>When it ends; null where nothing says so.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>What it is given.</summary>
    public IReadOnlyList<OrganisationFact> Facts { get; init; } = [];

    /// <summary>Who belongs to it.</summary>
    public IReadOnlyList<OrganisationPerson> People { get; init; } = [];

    /// <summary>Who is asked to join.</summary>
    public IReadOnlyList<OrganisationInvitation> Invitations { get; init; } = [];

    /// <summary>How many seats are taken.</summary>
    public int SeatsTaken => People.Count + Invitations.Count;

    /// <summary>What its people's grants come from.</summary>
    public GrantSource Source => GrantSource.OfOrganisation(Key);

    /// <summary>The name under which the audit trail speaks of it.</summary>
    public string Subject => "organisation:" + Key;

    /// <summary>Whether it has ended.</summary>
    public bool IsOver(DateTimeOffset now) => Until <= now;

    /// <summary>The person of that account, if they belong to it.</summary>
    public OrganisationPerson? PersonOf(Guid member) => People.FirstOrDefault(p => p.Member == member);
}

/// <summary>What an organisation is given, since when and until when.</summary>
public sealed record OrganisationFact(FactKind Kind, string Key, DateTimeOffset? From = null, DateTimeOffset? Until = null)
{
    /// <summary>As it is written, such as <c>group:schools</c>.</summary>
    public string Fact => $"{FactNames.NameOf(Kind)}:{Key}";
}

/// <summary>Somebody who belongs to an organisation.</summary>
/// <param name="Member">Their account.</param>
/// <param name="Manages">Whether they invite and remove others.</param>
/// <param name="JoinedAt">Since when.</param>
public sealed record OrganisationPerson(Guid Member, bool Manages, DateTimeOffset JoinedAt);

/// <summary>Somebody who is asked to join. They have a seat until they come or it is taken back.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Email">Their address.</param>
/// <param name="Manages">Whether they will manage it.</param>
/// <param name="At">When they were asked first.</param>
/// <param name="SentAt">When the last letter was written.</param>
/// <param name="Until">When the link in it ends.</param>
/// <param name="By">Who asked.</param>
public sealed record OrganisationInvitation(
    Guid Id, string Email, bool Manages, DateTimeOffset At, DateTimeOffset SentAt, DateTimeOffset Until, string By);

/// <summary>Stores a new organisation with all that it begins with. One whose key another has is refused.</summary>
public sealed record OrganisationAdded(Organisation Organisation) : Change.OfPeople;

/// <summary>Stores what an organisation is, and counts on from version <paramref name="Was"/>, unless somebody else changed it since.</summary>
public sealed record OrganisationSet(Organisation Organisation, int Was) : Change.OfPeople;

/// <summary>Stores what an organisation is given, in place of what it was.</summary>
public sealed record OrganisationFactsSet(Guid Organisation, IReadOnlyList<OrganisationFact> Facts) : Change.OfPeople;

/// <summary>Removes an organisation; its people keep their accounts.</summary>
public sealed record OrganisationRemoved(Guid Organisation) : Change.OfPeople;

/// <summary>Stores that somebody belongs to an organisation, and whether they manage it.</summary>
public sealed record PersonPut(Guid Organisation, OrganisationPerson Person) : Change.OfPeople;

/// <summary>Somebody belongs to an organisation no longer.</summary>
public sealed record PersonDropped(Guid Organisation, Guid Member) : Change.OfPeople;

/// <summary>Stores an invitation.</summary>
public sealed record InvitationPut(Guid Organisation, OrganisationInvitation Invitation) : Change.OfPeople;

/// <summary>Drops an invitation.</summary>
public sealed record InvitationDropped(Guid Id) : Change.OfPeople;
