using System.Text.Json.Serialization;

namespace WarySentinel.Contract.People;

/// <summary>People as another program has them.</summary>
/// <param name="People">A thousand at most.</param>
/// <param name="Unknown">What becomes of who has no account: <c>add</c> (usual) adds them as invited, <c>skip</c> leaves them out.</param>
public sealed record SyncDraft([property: JsonRequired] IReadOnlyList<SyncPersonDraft> People, string? Unknown = null);

/// <summary>A person as another program tells of them. What is left out says nothing; an empty list says none.</summary>
/// <param name="Key">Its name for them.</param>
/// <param name="Email">Their e-mail address: by it they are found the first time.</param>
/// <param name="Name">Their name, where they have no account yet.</param>
/// <param name="Roles">All roles that it gives them.</param>
/// <param name="Groups">All groups that it gives them.</param>
/// <param name="Plans">All plans that it gives them.</param>
/// <param name="Gone">Whether it knows them no longer: what it gave ends.</param>
public sealed record SyncPersonDraft(
    string? Key, string? Email = null, string? Name = null, IReadOnlyList<string>? Roles = null, IReadOnlyList<string>? Groups = null,
    IReadOnlyList<string>? Plans = null, bool? Gone = null);

/// <summary>What came of a batch.</summary>
/// <param name="Added">Members that were added.</param>
/// <param name="Changed">Members for whom something changed.</param>
/// <param name="Same">People for whom it was so already.</param>
/// <param name="Skipped">People who have no account and get none.</param>
/// <param name="Refused">People for whom it could not be done.</param>
/// <param name="People">Each person, in the order of the batch.</param>
public sealed record SyncView(int Added, int Changed, int Same, int Skipped, int Refused, IReadOnlyList<SyncPersonView> People);

/// <summary>What came of one person.</summary>
/// <param name="Key">The program's name for them.</param>
/// <param name="Effect"><c>added</c>, <c>changed</c>, <c>same</c>, <c>skipped</c> or <c>refused</c>.</param>
/// <param name="Member">The member.</param>
/// <param name="Email">The member's address; a program that has another for them is not followed in that.</param>
/// <param name="Code">Why it was refused, for programs.</param>
/// <param name="Detail">Why it was refused.</param>
public sealed record SyncPersonView(string? Key, string Effect, Guid? Member, string? Email, string? Code = null, string? Detail = null);

/// <summary>A name by which another program knows a member.</summary>
public sealed record OutsideKeyView(string Source, string Key, Guid Member, string Email, DateTimeOffset At);
