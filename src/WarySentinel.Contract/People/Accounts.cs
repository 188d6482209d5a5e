namespace WarySentinel.Contract.People;

/// <summary>A name and a password.</summary>
public sealed record Credentials(string? Name, SecretText? Password);

/// <summary>Who is signed in to the console.</summary>
/// <param name="Name">What they are called.</param>
/// <param name="Email">Their address.</param>
/// <param name="IsOwner">Whether they are an owner.</param>
/// <param name="Right">Their staff right: <c>owner</c>, <c>editor</c> or <c>support</c>.</param>
/// <param name="Scopes">What they may do, in the words of access tokens.</param>
public sealed record MeView(string Name, string Email, bool IsOwner, string Right, IReadOnlyList<string> Scopes);

/// <summary>The first owner of a new service.</summary>
public sealed record FirstOwnerDraft(SecretText? Code, string? Email, string? Name, SecretText? Password);

/// <summary>What a console begins with, for anybody who asks.</summary>
/// <param name="NeedsOwner">Whether a first owner is still to be made.</param>
/// <param name="SiteName">What the owner calls the site.</param>
/// <param name="Me">Who is signed in; null for a stranger.</param>
public sealed record SetUpView(bool NeedsOwner, string SiteName, MeView? Me);

/// <summary>A token to be made; without a bearer, credentials of staff stand for one.</summary>
public sealed record TokenDraft(string? Label, IReadOnlyList<string>? Scopes, int? Days, Credentials? SignIn);

/// <summary>A token; <paramref name="Token"/> itself is told once, when it is made.</summary>
public sealed record TokenView(Guid Id, string Label, IReadOnlyList<string> Scopes, DateTimeOffset CreatedAt, DateTimeOffset? Until, SecretText? Token);

/// <summary>A session, on the site or in the console, with the gates that it has unlocked.</summary>
public sealed record SessionView(
    Guid Id, string Purpose, string? Member, DateTimeOffset CreatedAt, DateTimeOffset Until, string? Network, string? Agent, IReadOnlyList<string> Unlocked);
