using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;

namespace WarySentinel.Client;

/// <summary>Shared passwords.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Adds a shared password to a gate.</summary>
    public async Task<SharedPasswordView> AddPasswordAsync(SharedPasswordDraft draft, CancellationToken stop) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, "passwords", draft, null, stop)).Value;

    /// <summary>Puts a generated password in the place of another.</summary>
    public async Task<SharedPasswordView> RotateAsync(Guid id, string? overlap, IReadOnlyList<string> tell, CancellationToken stop) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, $"passwords/{id}/rotate", new RotateDraft(overlap, tell), null, stop)).Value;

    /// <summary>The shared passwords of a gate, or of all.</summary>
    public async Task<IReadOnlyList<SharedPasswordView>> PasswordsAsync(string? gate, CancellationToken stop) =>
        (await GetAsync<PageOf<SharedPasswordView>>("passwords" + (gate is null ? "" : "?gate=" + Uri.EscapeDataString(gate)), stop)).Value.Items;

    /// <summary>Withdraws a shared password.</summary>
    public async Task<SharedPasswordView> WithdrawAsync(Guid id, CancellationToken stop) =>
        (await SendAsync<SharedPasswordView>(HttpMethod.Post, $"passwords/{id}/withdraw", null, null, stop)).Value;
}
