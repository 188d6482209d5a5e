using WarySentinel.Contract.Gates;

namespace WarySentinel.Client;

/// <summary>Gates.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One gate and its entity tag.</summary>
    public Task<(GateView Value, string? Tag)> GateAsync(string key, CancellationToken stop) => GetAsync<GateView>("gates/" + Uri.EscapeDataString(key), stop);

    /// <summary>Adds a gate.</summary>
    public async Task<GateView> AddGateAsync(GateDraft draft, CancellationToken stop) =>
        (await SendAsync<GateView>(HttpMethod.Post, "gates", draft, null, stop)).Value;

    /// <summary>Changes a gate.</summary>
    public async Task<GateView> SetGateAsync(string key, GateDraft draft, string tag, CancellationToken stop) =>
        (await SendAsync<GateView>(HttpMethod.Put, "gates/" + Uri.EscapeDataString(key), draft, tag, stop)).Value;

    /// <summary>Removes a gate.</summary>
    public Task RemoveGateAsync(string key, string tag, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, "gates/" + Uri.EscapeDataString(key), null, tag, stop);

    /// <summary>What a change of a gate would do; no draft removes it, no key adds one.</summary>
    public async Task<EffectView> PreviewAsync(string? key, GateDraft? draft, CancellationToken stop) =>
        (await SendAsync<EffectView>(HttpMethod.Post, "gates/preview", new PreviewDraft(key, draft), null, stop)).Value;

    /// <summary>Takes a gate's last change back.</summary>
    public async Task<GateView?> UndoGateAsync(string key, CancellationToken stop) =>
        (await SendAsync<GateView?>(HttpMethod.Post, $"gates/{Uri.EscapeDataString(key)}/undo", null, null, stop)).Value;
}
