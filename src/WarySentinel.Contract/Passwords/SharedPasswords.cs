namespace WarySentinel.Contract.Passwords;

/// <summary>A shared password. <paramref name="Password"/> and <paramref name="Text"/> are told once, when it is generated.</summary>
public sealed record SharedPasswordView(
    Guid Id, string Gate, string Label, DateTimeOffset CreatedAt, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt, bool InForce,
    int Uses, int? MostUses, DateTimeOffset? LastUsedAt, int Networks, string Asked, Guid? Replaces, SecretText? Password, SecretText? Text,
    bool ForOrders);

/// <summary>
/// A shared password to be added; without <paramref name="Password"/> a strong one is generated and told once. <paramref name="Tell"/>: e-mail addresses that
/// are sent it. <paramref name="ForOrders"/>: letters to buyers tell it, where a fulfilment rule says so, and it is kept sealed for them.
/// </summary>
public sealed record SharedPasswordDraft(
    string? Gate, string? Label, SecretText? Password = null, string? From = null, string? Until = null, int? MostUses = null, string? Asked = null,
    IReadOnlyList<string>? Tell = null, bool ForOrders = false);

/// <summary>A shared password to be replaced by a generated one.</summary>
/// <param name="Overlap">How long both work (ISO 8601); <c>PT0S</c> ends the old one at once. Two days unless said.</param>
/// <param name="Tell">E-mail addresses that are sent the new one.</param>
public sealed record RotateDraft(string? Overlap, IReadOnlyList<string>? Tell);
