using System.Globalization;
using WarySentinel.Contract;
using WarySentinel.Contract.People;

namespace WarySentinel.Client;

/// <summary>Terms, and what members said to them.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The terms, in their order.</summary>
    public async Task<IReadOnlyList<TermsView>> TermsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<TermsView>>("terms", cancellationToken)).Value.Items;

    /// <summary>Terms of that key.</summary>
    public async Task<TermsView> TermsAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<TermsView>("terms/" + Uri.EscapeDataString(key), cancellationToken)).Value;

    /// <summary>Stores terms; another text is a new version.</summary>
    public async Task<TermsView> PutTermsAsync(string key, TermsDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<TermsView>(HttpMethod.Put, "terms/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes terms to which nobody has said anything.</summary>
    public Task RemoveTermsAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "terms/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>The text of a version.</summary>
    public async Task<TermsTextView> TermsTextAsync(string key, int number, CancellationToken cancellationToken) =>
        (await GetAsync<TermsTextView>(VersionAt(key, number), cancellationToken)).Value;

    /// <summary>Takes back a version that does not count yet.</summary>
    public Task WithdrawTermsAsync(string key, int number, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, VersionAt(key, number), null, null, cancellationToken);

    /// <summary>What a member said to terms, the newest first.</summary>
    public async Task<IReadOnlyList<ConsentView>> ConsentsAsync(string member, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<ConsentView>>($"members/{Uri.EscapeDataString(member)}/consents", cancellationToken)).Value.Items;

    private static string VersionAt(string key, int number) =>
        $"terms/{Uri.EscapeDataString(key)}/versions/{number.ToString(CultureInfo.InvariantCulture)}";
}
