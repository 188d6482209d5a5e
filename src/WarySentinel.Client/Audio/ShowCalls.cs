using WarySentinel.Contract;
using WarySentinel.Contract.Audio;
using WarySentinel.Contract.Files;

namespace WarySentinel.Client;

/// <summary>Shows, and their subscribers.</summary>
public sealed partial class SentinelClient
{
    /// <summary>All shows.</summary>
    public async Task<IReadOnlyList<ShowView>> ShowsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<ShowView>>("shows", cancellationToken)).Value.Items;

    /// <summary>One of them, with its entity tag.</summary>
    public Task<(ShowView Value, string? Tag)> ShowAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<ShowView>(ShowPath(key), cancellationToken);

    /// <summary>Stores a show.</summary>
    public async Task<ShowView> PutShowAsync(string key, ShowDraft draft, string? tag, CancellationToken cancellationToken) =>
        (await SendAsync<ShowView>(HttpMethod.Put, ShowPath(key), draft, tag ?? "*", cancellationToken)).Value;

    /// <summary>Removes it. Its files stay.</summary>
    public Task RemoveShowAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, ShowPath(key), null, null, cancellationToken);

    /// <summary>What stands in its folder.</summary>
    public async Task<IReadOnlyList<AreaFileView>> ShowFilesAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<AreaFileView>>(ShowPath(key) + "/files", cancellationToken)).Value.Items;

    /// <summary>Puts a file into its folder.</summary>
    public Task PutShowFileAsync(string key, string path, Stream content, CancellationToken cancellationToken) =>
        PutFileAsync(ShowFilePath(key, path), content, cancellationToken);

    /// <summary>Removes a file from its folder.</summary>
    public Task RemoveShowFileAsync(string key, string path, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, ShowFilePath(key, path), null, null, cancellationToken);

    /// <summary>Members with a feed of it, a page at a time.</summary>
    public async Task<PageOf<SubscriberView>> SubscribersAsync(string key, string? cursor, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<SubscriberView>>(
            ShowPath(key) + "/subscribers" + (cursor is null ? "" : "?cursor=" + Uri.EscapeDataString(cursor)), cancellationToken)).Value;

    /// <summary>The feed of a member, made where they have none yet.</summary>
    public async Task<FeedView> FeedAsync(string key, string member, CancellationToken cancellationToken) =>
        (await SendAsync<FeedView>(HttpMethod.Put, FeedPath(key, member), null, null, cancellationToken)).Value;

    /// <summary>Gives a member another feed address; the one before leads nowhere from now on.</summary>
    public async Task<FeedView> ChangeFeedAsync(string key, string member, CancellationToken cancellationToken) =>
        (await SendAsync<FeedView>(HttpMethod.Post, FeedPath(key, member) + "/address", null, null, cancellationToken)).Value;

    private static string ShowPath(string key) => "shows/" + Uri.EscapeDataString(key);

    private static string FeedPath(string key, string member) => $"{ShowPath(key)}/subscribers/{Uri.EscapeDataString(member)}";

    private static string ShowFilePath(string key, string path) => $"{ShowPath(key)}/files/{string.Join('/', path.Split('/').Select(Uri.EscapeDataString))}";
}
