using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>The directory of members.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The directory.</summary>
    public async Task<DirectoryView> DirectoryAsync(CancellationToken cancellationToken) =>
        (await GetAsync<DirectoryView>("directory", cancellationToken)).Value;

    /// <summary>Sets the directory.</summary>
    public async Task<DirectoryView> SetDirectoryAsync(DirectoryDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<DirectoryView>(HttpMethod.Put, "directory", draft, null, cancellationToken)).Value;

    /// <summary>What a member shows of themselves.</summary>
    public async Task<ListingView> ListingAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<ListingView>($"members/{Uri.EscapeDataString(member)}/listing", cancellationToken)).Value;

    /// <summary>Takes a member out of the directory.</summary>
    public Task UnlistAsync(string member, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"members/{Uri.EscapeDataString(member)}/listing", null, null, cancellationToken);
}
