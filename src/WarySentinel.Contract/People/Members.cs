using System.Text.Json.Serialization;

namespace WarySentinel.Contract.People;

/// <summary>A fact given to a member.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Fact">Kind and key, such as <c>role:dealer</c>.</param>
/// <param name="Kind">The kind.</param>
/// <param name="Key">The key.</param>
/// <param name="From">When it begins.</param>
/// <param name="Until">When it ends, or ended.</param>
/// <param name="Source">What gave it: <c>hand</c>, <c>order:4711</c>.</param>
/// <param name="InForce">Whether it counts now.</param>
public sealed record GrantView(
    Guid Id, string Fact, string Kind, string Key, DateTimeOffset? From, DateTimeOffset? Until, string Source, bool InForce);

/// <summary>What became of a grant.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Changed">Whether anything changed by it; saying the same again from the same source changes nothing.</param>
/// <param name="Version">The member's version by now.</param>
public sealed record GrantedView(GrantView Grant, bool Changed, int Version);

/// <summary>A fact to be given.</summary>
/// <param name="Fact">Kind and key, such as <c>role:dealer</c>.</param>
/// <param name="From">When it begins; at once unless said.</param>
/// <param name="Until">When it ends; never unless said.</param>
/// <param name="Source">What gives it; <c>hand</c> unless said.</param>
public sealed record GrantDraft(string? Fact, string? From, string? Until, string? Source);

/// <summary>Other dates for a grant; what is left out is open.</summary>
public sealed record GrantDatesDraft(string? From, string? Until);

/// <summary>A member.</summary>
public sealed record MemberView(
    Guid Id, string Email, string Name, string? UserName, string Status, IReadOnlyList<string> Roles, IReadOnlyList<GrantView> Grants,
    DateTimeOffset CreatedAt, int Version);

/// <summary>A member to be added.</summary>
/// <param name="Email">The e-mail address.</param>
/// <param name="Name">The name to be greeted by.</param>
/// <param name="UserName">A second name to sign in with.</param>
/// <param name="Password">The password; without one the member is <c>invited</c>.</param>
/// <param name="Roles">Keys of roles.</param>
/// <param name="Groups">Keys of groups.</param>
/// <param name="Plans">Keys of plans.</param>
public sealed record MemberDraft(
    string? Email, string? Name, string? UserName = null, SecretText? Password = null, IReadOnlyList<string>? Roles = null,
    IReadOnlyList<string>? Groups = null, IReadOnlyList<string>? Plans = null);

/// <summary>The roles that a member is to have.</summary>
public sealed record RolesDraft([property: JsonRequired] IReadOnlyList<string> Roles);

/// <summary>Where an account is to stand: <c>active</c>, <c>suspended</c> or <c>closed</c>.</summary>
public sealed record StatusDraft([property: JsonRequired] string Status);
