using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;

namespace WarySentinel.Client;

/// <summary>Shared passwords.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Adds a shared password to a gate.</summary>
    public async Task<SharedPasswordView> AddPasswordAsync(SharedPasswordDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, "passwords", draft, null, cancellationToken)).Value;

    /// <summary>Puts a generated password in the place of another.</summary>
    public async Task<SharedPasswordView> RotateAsync(Guid id, string? overlap, IReadOnlyList<string> tell, CancellationToken cancellationToken) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, $"passwords/{id}/rotate", new RotateDraft(overlap, tell), null, cancellationToken)).Value;

    /// <summary>The shared passwords of a gate, or of all.</summary>
    public async Task<IReadOnlyList<SharedPasswordView>> PasswordsAsync(string? gate, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<SharedPasswordView>>("passwords" + (gate is null ? "" : "?gate=" + Uri.EscapeDataString(gate)), cancellationToken)).Value.Items;

    /// <summary>Withdraws a shared password.</summary>
    public async Task<SharedPasswordView> WithdrawAsync(Guid id, CancellationToken cancellationToken) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, $"passwords/{id}/withdraw", null, null, cancellationToken)).Value;
}
