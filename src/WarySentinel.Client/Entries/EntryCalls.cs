using WarySentinel.Contract;
using WarySentinel.Contract.Entries;

namespace WarySentinel.Client;

/// <summary>Rules of entries.</summary>
public sealed partial class SentinelClient
{
    /// <summary>All rules, by name.</summary>
    public async Task<IReadOnlyList<EntryView>> EntriesAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<EntryView>>("entries", cancellationToken)).Value.Items;

    /// <summary>Stores a rule.</summary>
    public async Task<EntryView> PutEntryAsync(string key, EntryDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<EntryView>(HttpMethod.Put, "entries/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes a rule.</summary>
    public Task RemoveEntryAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "entries/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>Looks for entries at an address.</summary>
    public async Task<EntryProposals> ProposeEntriesAsync(string address, CancellationToken cancellationToken) =>
        (await SendAsync<EntryProposals>(HttpMethod.Post, "entries/propose", new EntrySearch(address), null, cancellationToken)).Value;

    /// <summary>Shows what a rule would do at an address.</summary>
    public async Task<EntryTried> TryEntryAsync(EntryTrial trial, CancellationToken cancellationToken) =>
        (await SendAsync<EntryTried>(HttpMethod.Post, "entries/try", trial, null, cancellationToken)).Value;
}
