using System.Text.Json.Serialization;

namespace WarySentinel.Contract.People;

/// <summary>One customer with several people who sign in.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Key">Its name in addresses.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">So many people at most, those who are invited included.</param>
/// <param name="Taken">How many seats are taken.</param>
/// <param name="Until">When it ends; null where nothing says so.</param>
/// <param name="Over">Whether it has ended.</param>
/// <param name="CreatedAt">Since when it has been there.</param>
/// <param name="Facts">What it is given.</param>
/// <param name="People">Who belongs to it; left out in lists.</param>
/// <param name="Invitations">Who is asked to join; left out in lists.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record OrganisationView(
    Guid Id, string Key, string Title, int Seats, int Taken, DateTimeOffset? Until, bool Over, DateTimeOffset CreatedAt,
    IReadOnlyList<OrganisationFactView> Facts, IReadOnlyList<OrganisationPersonView>? People, IReadOnlyList<OrganisationInvitationView>? Invitations,
    int Version);

/// <summary>What an organisation is given, since when and until when.</summary>
public sealed record OrganisationFactView(string Fact, DateTimeOffset? From, DateTimeOffset? Until);

/// <summary>Somebody who belongs to an organisation.</summary>
/// <param name="Member">Their account.</param>
/// <param name="Email">Their e-mail address.</param>
/// <param name="Name">Their name.</param>
/// <param name="Status">Where the account stands.</param>
/// <param name="Manages">Whether they invite and remove others.</param>
/// <param name="JoinedAt">Since when they belong to it.</param>
/// <param name="SeenAt">When they last signed in to the site.</param>
public sealed record OrganisationPersonView(
    Guid Member, string Email, string Name, string Status, bool Manages, DateTimeOffset JoinedAt, DateTimeOffset? SeenAt);

/// <summary>Somebody who is asked to join.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Email">Their e-mail address.</param>
/// <param name="Manages">Whether they will manage it.</param>
/// <param name="At">When they were asked first.</param>
/// <param name="SentAt">When the last letter was written.</param>
/// <param name="Until">When the link in it ends.</param>
/// <param name="By">Who asked.</param>
public sealed record OrganisationInvitationView(
    Guid Id, string Email, bool Manages, DateTimeOffset At, DateTimeOffset SentAt, DateTimeOffset Until, string By);

/// <summary>An organisation as it is to be: all of it.</summary>
/// <param name="Key">Its name in addresses, where it is new; made of the title unless said.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">So many people at most.</param>
/// <param name="Until">When it ends: a moment, or a day of the site's time zone; never unless said.</param>
/// <param name="Facts">All that it is given.</param>
public sealed record OrganisationDraft(
    string? Key, string? Title, int? Seats, string? Until = null, IReadOnlyList<OrganisationFactDraft>? Facts = null);

/// <summary>What an organisation is to be given: <c>role:</c>, <c>group:</c> or <c>plan:</c> with a key, or <c>bought:</c> with an item.</summary>
public sealed record OrganisationFactDraft(string? Fact, string? From = null, string? Until = null);

/// <summary>Somebody to be asked to join.</summary>
/// <param name="Email">Their e-mail address.</param>
/// <param name="Manages">Whether they are to invite and remove others.</param>
public sealed record OrganisationInvitationDraft([property: JsonRequired] string Email, bool? Manages = null);

/// <summary>How somebody belongs to an organisation.</summary>
/// <param name="Manages">Whether they invite and remove others.</param>
public sealed record OrganisationPersonDraft(bool? Manages = null);

/// <summary>An organisation that a member belongs to.</summary>
public sealed record MembershipView(string Key, string Title, bool Manages, DateTimeOffset JoinedAt, bool Over);
