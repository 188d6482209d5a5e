namespace WarySentinel.Client;

/// <summary>A shared password; itself it is told once, where it was generated.</summary>
public sealed record SharedPassword(
    Guid Id, string Gate, string Label, DateTimeOffset CreatedAt, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt, bool InForce,
    int Uses, int? MostUses,
    DateTimeOffset? LastUsedAt, int Networks, string Asked, Guid? Replaces, string? Password, string? Text);

/// <summary>A shared password to be added; without a password a strong one is generated.</summary>
public sealed record SharedPasswordDraft(
    string Gate, string Label, string? Password = null, string? From = null, string? Until = null, int? MostUses = null, string? Asked = null);

/// <summary>Shared passwords.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Adds a shared password to a gate.</summary>
    public async Task<SharedPassword> AddPasswordAsync(SharedPasswordDraft draft, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, "passwords", draft, null, stop)).Value;

    /// <summary>Puts a generated password in the place of another.</summary>
    public async Task<SharedPassword> RotateAsync(Guid id, string? overlap, IReadOnlyList<string> tell, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, $"passwords/{id}/rotate", new { overlap, tell }, null, stop)).Value;

    /// <summary>The shared passwords of a gate, or of all.</summary>
    public async Task<IReadOnlyList<SharedPassword>> PasswordsAsync(string? gate, CancellationToken stop) =>
        (await GetAsync<PageOf<SharedPassword>>("passwords" + (gate is null ? "" : "?gate=" + Uri.EscapeDataString(gate)), stop)).Value.Items;

    /// <summary>Withdraws a shared password.</summary>
    public async Task<SharedPassword> WithdrawAsync(Guid id, CancellationToken stop) =>
        (await SendAsync<SharedPassword>(HttpMethod.Post, $"passwords/{id}/withdraw", null, null, stop)).Value;
}
