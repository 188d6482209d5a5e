using WarySentinel.Contract;
using WarySentinel.Contract.Files;

namespace WarySentinel.Client;

/// <summary>Folders to download from.</summary>
public sealed partial class SentinelClient
{
    /// <summary>All areas.</summary>
    public async Task<IReadOnlyList<AreaView>> AreasAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<AreaView>>("areas", cancellationToken)).Value.Items;

    /// <summary>One of them, with its entity tag.</summary>
    public Task<(AreaView Value, string? Tag)> AreaAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<AreaView>(AreaPath(key), cancellationToken);

    /// <summary>Stores an area.</summary>
    public async Task<AreaView> PutAreaAsync(string key, AreaDraft draft, string? tag, CancellationToken cancellationToken) =>
        (await SendAsync<AreaView>(HttpMethod.Put, AreaPath(key), draft, tag ?? "*", cancellationToken)).Value;

    /// <summary>Where it is found now.</summary>
    public async Task<AreaAddressView> AreaAddressAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<AreaAddressView>(AreaPath(key) + "/address", cancellationToken)).Value;

    /// <summary>Gives it another address; those before lead nowhere from now on.</summary>
    public async Task<AreaAddressView> ChangeAreaAddressAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<AreaAddressView>(HttpMethod.Post, AreaPath(key) + "/address", null, null, cancellationToken)).Value;

    /// <summary>What stands in it, or in a folder inside it.</summary>
    public async Task<IReadOnlyList<AreaFileView>> AreaFilesAsync(string key, string? within, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<AreaFileView>>(
            AreaPath(key) + "/files" + (string.IsNullOrEmpty(within) ? "" : "?within=" + Uri.EscapeDataString(within)), cancellationToken)).Value.Items;

    /// <summary>Puts a file into it.</summary>
    public Task PutAreaFileAsync(string key, string path, Stream content, CancellationToken cancellationToken) =>
        PutFileAsync(AreaFilePath(key, path), content, cancellationToken);

    private async Task PutFileAsync(string at, Stream content, CancellationToken cancellationToken)
    {
        using var body = Content(content, "application/octet-stream");
        using var request = new HttpRequestMessage(HttpMethod.Put, at) { Content = body };
        // What is too large is refused by its length before it is sent.
        request.Headers.ExpectContinue = true;
        using var response = await http.SendAsync(request, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
    }

    /// <summary>Removes a file of it.</summary>
    public Task RemoveAreaFileAsync(string key, string path, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, AreaFilePath(key, path), null, null, cancellationToken);

    /// <summary>Removes it. Its files stay.</summary>
    public Task RemoveAreaAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, AreaPath(key), null, null, cancellationToken);

    private static string AreaPath(string key) => "areas/" + Uri.EscapeDataString(key);

    private static string AreaFilePath(string key, string path) => $"{AreaPath(key)}/files/{string.Join('/', path.Split('/').Select(Uri.EscapeDataString))}";
}
