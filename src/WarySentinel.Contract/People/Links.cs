namespace WarySentinel.Contract.People;

/// <summary>A link that a member was sent; what stands in it is not kept.</summary>
/// <param name="Purpose"><c>set-password</c>, <c>invitation</c>, <c>confirm</c>, <c>new-address</c> or <c>sign-in</c>.</param>
/// <param name="Address">Where it went.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="Until">When it ends.</param>
/// <param name="State"><c>open</c>, <c>late</c>, <c>used</c>, <c>replaced</c> or <c>withdrawn</c>.</param>
/// <param name="ClosedAt">When it was closed; null where it was not.</param>
public sealed record LinkView(string Purpose, string Address, DateTimeOffset CreatedAt, DateTimeOffset Until, string State, DateTimeOffset? ClosedAt);

/// <summary>A link that was sent to somebody, or a code. What stands in it is kept nowhere.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Purpose">What it is for.</param>
/// <param name="Way"><c>link</c>, or <c>code</c> where the letter has a code that is typed.</param>
/// <param name="Email">Where it went.</param>
/// <param name="Member">Whose account it is about; null where it is about none.</param>
/// <param name="CreatedAt">When.</param>
/// <param name="Until">When it ends.</param>
/// <param name="State"><c>open</c>, <c>used</c>, <c>late</c>, <c>replaced</c> by a newer one, or <c>withdrawn</c>.</param>
/// <param name="ClosedAt">When it was used, replaced or withdrawn.</param>
public sealed record SentLinkView(
    Guid Id, string Purpose, string Way, string Email, Guid? Member, DateTimeOffset CreatedAt, DateTimeOffset Until, string State, DateTimeOffset? ClosedAt);

/// <summary>A letter with a link to be sent to a member.</summary>
/// <param name="Purpose"><c>invitation</c>, <c>set-password</c> or <c>confirm</c>; what fits where the account stands unless said.</param>
/// <param name="Words">Words of one's own.</param>
public sealed record LinkDraft(string? Purpose = null, string? Words = null);

/// <summary>People to be invited.</summary>
/// <param name="People">Addresses, with a name before them where it is known: <c>Ada Quill &lt;ada@quill.example&gt;</c>.</param>
/// <param name="Roles">Keys of roles.</param>
/// <param name="Groups">Keys of groups.</param>
/// <param name="Plans">Keys of plans.</param>
/// <param name="From">When what they hold begins.</param>
/// <param name="Until">When it ends.</param>
/// <param name="Words">Words of one's own in the letter.</param>
/// <param name="Language">The language that they are written to in.</param>
/// <param name="Form">The form that they fill in as they come, by its key; name and password alone where nothing is said.</param>
public sealed record InvitationsDraft(
    IReadOnlyList<string>? People, IReadOnlyList<string>? Roles = null, IReadOnlyList<string>? Groups = null, IReadOnlyList<string>? Plans = null,
    string? From = null, string? Until = null, string? Words = null, string? Language = null, string? Form = null);

/// <summary>What became of one invitation.</summary>
/// <param name="Email">The address.</param>
/// <param name="Invited">Whether a letter is on its way.</param>
/// <param name="Problem">Why not.</param>
public sealed record InvitedView(string Email, bool Invited, string? Problem);

/// <summary>A password that was made up; it is told here, and nowhere again.</summary>
/// <param name="Password">The password.</param>
/// <param name="Bits">How many random bits are in it.</param>
/// <param name="Member">The member.</param>
public sealed record GeneratedPasswordView(SecretText Password, int Bits, MemberView Member);

/// <summary>What is said to somebody who asked to join.</summary>
/// <param name="Words">Words of one's own; the letter brings them.</param>
public sealed record RequestDecision(string? Words = null);

/// <summary>How a member wants to be written to; what is left out stays.</summary>
/// <param name="Language">The language; empty for the site's.</param>
/// <param name="Unsubscribed">Whether they get no letters but those that have to be.</param>
public sealed record LetterWish(string? Language = null, bool? Unsubscribed = null);
