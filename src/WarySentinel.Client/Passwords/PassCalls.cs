using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;

namespace WarySentinel.Client;

/// <summary>Passes.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Passes, the newest first, page by page.</summary>
    public async Task<PageOf<PassView>> PassesAsync(string? kind, string? words, string? standing, string? cursor, CancellationToken cancellationToken)
    {
        var asked = new[] { ("kind", kind), ("q", words), ("standing", standing), ("cursor", cursor) }.Where(a => !string.IsNullOrEmpty(a.Item2))
            .Select(a => $"{a.Item1}={Uri.EscapeDataString(a.Item2!)}");
        return (await GetAsync<PageOf<PassView>>("passes?" + string.Join('&', asked), cancellationToken)).Value;
    }

    /// <summary>A pass by its id or sign-in name, with the entity tag that a change of it names.</summary>
    public Task<(PassView Value, string? Tag)> PassAsync(string id, CancellationToken cancellationToken) =>
        GetAsync<PassView>($"passes/{Uri.EscapeDataString(id)}", cancellationToken);

    /// <summary>Makes a pass. Its password is told in the answer, and nowhere else.</summary>
    public async Task<PassView> AddPassAsync(PassDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<PassView>(HttpMethod.Post, "passes", draft, null, cancellationToken)).Value;

    /// <summary>Changes whose a pass is, its dates and its bounds.</summary>
    public async Task<PassView> SetPassAsync(string id, PassDraft draft, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<PassView>(HttpMethod.Put, $"passes/{Uri.EscapeDataString(id)}", draft, tag, cancellationToken)).Value;

    /// <summary>Gives a pass another end.</summary>
    public async Task<PassView> RenewPassAsync(string id, string? until, CancellationToken cancellationToken) =>
        (await SendAsync<PassView>(HttpMethod.Post, $"passes/{Uri.EscapeDataString(id)}/renew", new PassRenewal(until), null, cancellationToken)).Value;

    /// <summary>Gives a pass another password.</summary>
    public async Task<PassView> RotatePassAsync(string id, string? overlap, bool send, CancellationToken cancellationToken) =>
        (await SendAsync<PassView>(HttpMethod.Post, $"passes/{Uri.EscapeDataString(id)}/rotate", new PassRotation(overlap, send), null, cancellationToken))
            .Value;

    /// <summary>Withdraws a pass.</summary>
    public async Task<PassView> WithdrawPassAsync(string id, CancellationToken cancellationToken) =>
        (await SendAsync<PassView>(HttpMethod.Post, $"passes/{Uri.EscapeDataString(id)}/withdraw", null, null, cancellationToken)).Value;

    /// <summary>Looks through a file of passes, or makes them all.</summary>
    public async Task<PassImportView> ImportPassesAsync(Stream csv, bool dryRun, CancellationToken cancellationToken) =>
        (await SendAsync<PassImportView>(
            HttpMethod.Post, "passes/import" + (dryRun ? "?dryRun=true" : ""), Content(csv, "text/csv"), null, cancellationToken)).Value;
}
