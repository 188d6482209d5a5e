using WarySentinel.Contract;
using WarySentinel.Contract.Hosted;

namespace WarySentinel.Client;

/// <summary>Pages that are written here, and their sections.</summary>
public sealed partial class SentinelClient
{
    private const int MostPages = 10_000;

    /// <summary>The sections.</summary>
    public async Task<IReadOnlyList<SectionView>> SectionsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<SectionView>>("sections", cancellationToken)).Value.Items;

    /// <summary>Makes a section, or changes one.</summary>
    public async Task<SectionView> PutSectionAsync(string key, HostedSectionDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<SectionView>(HttpMethod.Put, "sections/" + Uri.EscapeDataString(key), draft, "*", cancellationToken)).Value;

    /// <summary>Drops a section that has no pages.</summary>
    public Task RemoveSectionAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "sections/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>The pages, of one section or of all.</summary>
    public async Task<IReadOnlyList<HostedPageView>> PagesAsync(string? section, CancellationToken cancellationToken)
    {
        var pages = new List<HostedPageView>();
        await foreach (var page in AllAsync<HostedPageView>(
            section is null ? "pages" : "pages?section=" + Uri.EscapeDataString(section), MostPages, cancellationToken))
        {
            pages.Add(page);
        }

        return pages;
    }

    /// <summary>One page.</summary>
    public async Task<HostedPageView> PageAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<HostedPageView>(Page(key), cancellationToken)).Value;

    /// <summary>Makes a page.</summary>
    public async Task<HostedPageView> AddPageAsync(HostedPageNew draft, CancellationToken cancellationToken) =>
        (await SendAsync<HostedPageView>(HttpMethod.Post, "pages", draft, null, cancellationToken)).Value;

    /// <summary>Moves a page.</summary>
    public async Task<HostedPageView> SetPageAsync(string key, HostedPageDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<HostedPageView>(HttpMethod.Put, Page(key), draft, "*", cancellationToken)).Value;

    /// <summary>Drops a page with all its versions.</summary>
    public Task RemovePageAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Page(key), null, null, cancellationToken);

    /// <summary>What is written on a page: its draft, else what is served.</summary>
    public async Task<HostedTextView> PageTextAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<HostedTextView>(Page(key, "text"), cancellationToken)).Value;

    /// <summary>Keeps what is written and not published.</summary>
    public async Task<HostedTextView> WritePageAsync(string key, HostedTextDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<HostedTextView>(HttpMethod.Put, Page(key, "text"), draft, "*", cancellationToken)).Value;

    /// <summary>Publishes what is written, or what is said.</summary>
    public async Task<HostedPageView> PublishPageAsync(string key, PublishDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<HostedPageView>(HttpMethod.Post, Page(key, "publish"), draft, null, cancellationToken)).Value;

    /// <summary>Serves nothing of a page any more.</summary>
    public async Task<HostedPageView> UnpublishPageAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<HostedPageView>(HttpMethod.Post, Page(key, "unpublish"), null, null, cancellationToken)).Value;

    /// <summary>The versions of a page, the newest first.</summary>
    public async Task<IReadOnlyList<PageVersionView>> PageVersionsAsync(string key, CancellationToken cancellationToken)
    {
        var versions = new List<PageVersionView>();
        await foreach (var version in AllAsync<PageVersionView>(Page(key, "versions"), MostPages, cancellationToken))
        {
            versions.Add(version);
        }

        return versions;
    }

    /// <summary>What a version says.</summary>
    public async Task<HostedTextView> PageVersionAsync(string key, int number, CancellationToken cancellationToken) =>
        (await GetAsync<HostedTextView>(Page(key, $"versions/{number}"), cancellationToken)).Value;

    /// <summary>What two versions differ in; each a number, or <c>draft</c>.</summary>
    public async Task<PageDifference> PageDifferenceAsync(string key, string? from, string? to, CancellationToken cancellationToken) =>
        (await GetAsync<PageDifference>(
            Page(key, "difference") + "?" + string.Join('&', new[] { ("from", from), ("to", to) }.Where(v => v.Item2 is not null)
                .Select(v => $"{v.Item1}={Uri.EscapeDataString(v.Item2!)}")),
            cancellationToken)).Value;

    /// <summary>Writes what a version said, to be published again.</summary>
    public async Task<HostedTextView> RestorePageAsync(string key, int number, CancellationToken cancellationToken) =>
        (await SendAsync<HostedTextView>(HttpMethod.Post, Page(key, "restore"), new RestoreDraft(number), null, cancellationToken)).Value;

    /// <summary>Gives a page a gate of its own, or has it open to everybody.</summary>
    public async Task<GuardingView> GuardPageAsync(string key, string? audience, CancellationToken cancellationToken) =>
        (await SendAsync<GuardingView>(HttpMethod.Put, Page(key, "gate"), new GuardingDraft(audience), null, cancellationToken)).Value;

    /// <summary>Has a page be as its section is.</summary>
    public async Task<GuardingView> InheritPageAsync(string key, CancellationToken cancellationToken) =>
        (await SendAsync<GuardingView>(HttpMethod.Delete, Page(key, "gate"), null, null, cancellationToken)).Value;

    /// <summary>Where a page is looked at before it is published.</summary>
    public async Task<PagePreviewView> PreviewPageAsync(string key, PagePreviewDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<PagePreviewView>(HttpMethod.Post, Page(key, "preview"), draft, null, cancellationToken)).Value;

    /// <summary>The pages in which words stand, as somebody would find them.</summary>
    public async Task<IReadOnlyList<PageHit>> SearchPagesAsync(string words, string viewpoint, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<PageHit>>($"pages/search?q={Uri.EscapeDataString(words)}&as={Uri.EscapeDataString(viewpoint)}", cancellationToken)).Value.Items;

    /// <summary>The files of a page.</summary>
    public async Task<IReadOnlyList<PageFileView>> PageFilesAsync(string key, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<PageFileView>>(Page(key, "files"), cancellationToken)).Value.Items;

    /// <summary>A file of a page.</summary>
    public async Task<byte[]> PageFileAsync(string key, string name, CancellationToken cancellationToken)
    {
        using var response = await http.GetAsync(Page(key, "files/" + Uri.EscapeDataString(name)), cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        return await response.Content.ReadAsByteArrayAsync(cancellationToken);
    }

    /// <summary>Puts a file beside a page.</summary>
    public async Task PutPageFileAsync(string key, string name, Stream content, CancellationToken cancellationToken)
    {
        using var body = Content(content, "application/octet-stream");
        using var response = await http.PutAsync(Page(key, "files/" + Uri.EscapeDataString(name)), body, cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
    }

    /// <summary>Drops a file of a page.</summary>
    public Task RemovePageFileAsync(string key, string name, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Page(key, "files/" + Uri.EscapeDataString(name)), null, null, cancellationToken);

    private static string Page(string key, string? more = null) => "pages/" + Uri.EscapeDataString(key) + (more is null ? "" : "/" + more);
}
