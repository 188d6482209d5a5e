using WarySentinel.Contract.Gates;

namespace WarySentinel.Client;

/// <summary>Gates.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One gate and its entity tag.</summary>
    public Task<(GateView Value, string? Tag)> GateAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<GateView>("gates/" + Uri.EscapeDataString(key), cancellationToken);

    /// <summary>Adds a gate.</summary>
    public async Task<GateView> AddGateAsync(GateDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<GateView>(HttpMethod.Post, "gates", draft, null, cancellationToken)).Value;

    /// <summary>Changes a gate.</summary>
    public async Task<GateView> SetGateAsync(string key, GateDraft draft, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<GateView>(HttpMethod.Put, "gates/" + Uri.EscapeDataString(key), draft, tag, cancellationToken)).Value;

    /// <summary>Removes a gate.</summary>
    public Task RemoveGateAsync(string key, string tag, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "gates/" + Uri.EscapeDataString(key), null, tag, cancellationToken);

    /// <summary>What a change of a gate would do; no draft removes it, no key adds one.</summary>
    public async Task<EffectView> PreviewAsync(string? key, GateDraft? draft, CancellationToken cancellationToken) =>
        (await SendAsync<EffectView>(HttpMethod.Post, "gates/preview", new PreviewDraft(key, draft), null, cancellationToken)).Value;

    /// <summary>Takes a gate's last change back.</summary>
    public async Task<GateView?> UndoGateAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<GateView?>(HttpMethod.Post, $"gates/{Uri.EscapeDataString(key)}/undo", null, null, cancellationToken)).Value;
}
