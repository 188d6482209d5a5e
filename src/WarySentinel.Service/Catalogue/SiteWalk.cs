using System.Globalization;
using System.Text.Json;
using AngleSharp.Html.Parser;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>How far and how fast a walk goes.</summary>
/// <param name="MostPages">Most pages fetched.</param>
/// <param name="Pause">Pause between two pages.</param>
/// <param name="PagesToo">Whether pages that are neither product nor listing come in as pages.</param>
public sealed record WalkBounds(int MostPages, TimeSpan Pause, bool PagesToo);

/// <summary>Where a walk stands; kept in a file, so that one that broke off goes on.</summary>
public sealed record WalkState(List<string> Waiting, HashSet<string> Seen, List<DiscoveredItem> Found, List<string> Answered, int Pages);

/// <summary>Walks over the site by its links and reads what the pages say of themselves. Honours robots.txt (RFC 9309).</summary>
public sealed class SiteWalk(Fetcher fetcher, Uri start, Func<string, string?> site, string keptIn)
{
    private const int MostWaiting = 200_000;
    private const int KeptEvery = 25;
    private static readonly HtmlParser Parser = new();
    private readonly List<string> forbidden = [];
    private readonly List<string> allowed = [];

    /// <summary>Walks on from where the last walk of this site broke off, or from the start.</summary>
    /// <param name="bounds">How far and how fast.</param>
    /// <param name="resume">Whether to go on with a kept walk.</param>
    /// <param name="tell">Told pages done and pages known.</param>
    /// <param name="stop">Cancels; what was found so far is kept.</param>
    /// <returns>What was found, and whether the walk came to its end.</returns>
    public async Task<(WalkState State, bool Whole)> RunAsync(WalkBounds bounds, bool resume, Action<int, int> tell, CancellationToken stop)
    {
        var state = (resume ? await KeptAsync(stop) : null) ?? new WalkState([start.PathAndQuery], [start.PathAndQuery], [], [], 0);
        var pause = bounds.Pause;
        if (await RobotsAsync(stop) is { } asked && asked > pause)
        {
            pause = asked;
        }

        var pages = 0;
        try
        {
            while (state.Waiting.Count > 0 && pages < bounds.MostPages)
            {
                var address = state.Waiting[0];
                if (pages > 0)
                {
                    await Task.Delay(pause, stop);
                }

                await PageAsync(state, address, bounds, stop);
                state.Waiting.RemoveAt(0);
                state = state with { Pages = state.Pages + 1 };
                tell(state.Pages, state.Pages + state.Waiting.Count);
                if (++pages % KeptEvery == 0)
                {
                    await KeepAsync(state);
                }
            }
        }
        finally
        {
            await KeepAsync(state);
        }

        var whole = state.Waiting.Count == 0;
        if (whole)
        {
            File.Delete(keptIn);
        }

        return (state, whole);
    }

    private async Task PageAsync(WalkState state, string address, WalkBounds bounds, CancellationToken stop)
    {
        Fetched fetched;
        try
        {
            fetched = await fetcher.GetAsync(new Uri(start, address), stop);
        }
        catch (SourceException) when (state.Pages > 0)
        {
            // One page that does not come does not end the walk.
            return;
        }

        if (fetched.Status != 200 || !fetched.Type.Contains("html", StringComparison.Ordinal))
        {
            if (state.Pages == 0)
            {
                throw new SourceException(Wording.Of("discover.status", start, fetched.Status));
            }

            return;
        }

        using var document = Parser.ParseDocument(new MemoryStream(fetched.Body));
        var page = site(fetched.Address.AbsoluteUri) ?? address;
        var data = StructuredData.Of(document, page, link => link.Length > 0 && Uri.TryCreate(fetched.Address, link, out var url) ? site(url.AbsoluteUri)
            : null);
        state.Answered.Add(page);
        Take(state, page, data, TitleOf(document), bounds.PagesToo);
        if (document.QuerySelector("meta[name=robots]")?.GetAttribute("content")?.Contains("nofollow", StringComparison.OrdinalIgnoreCase) == true)
        {
            return;
        }

        foreach (var link in document.QuerySelectorAll("a[href]:not([rel~=nofollow])"))
        {
            if (Uri.TryCreate(fetched.Address, link.GetAttribute("href"), out var url) && site(url.GetLeftPart(UriPartial.Query)) is { } next
                && IsWelcome(next) && state.Seen.Count < MostWaiting && state.Seen.Add(next))
            {
                state.Waiting.Add(next);
            }
        }
    }

    /// <summary>The heading, where it is not the name of the site that leads to its beginning; else the title.</summary>
    internal static string? TitleOf(AngleSharp.Dom.IDocument document)
    {
        var heading = document.QuerySelectorAll("h1").FirstOrDefault(h => h.QuerySelector("a[href='/'], a[rel~=home]") is null
            && h.Closest("a[href='/']") is null);
        return PageTitles.Clean(heading?.TextContent) ?? PageTitles.Clean(document.Title);
    }

    private static void Take(WalkState state, string page, StructuredData data, string? title, bool pagesToo)
    {
        var above = data.Crumbs.Where(c => c.Address is not null && c.Address != page).ToList();
        for (var i = 0; i < above.Count; i++)
        {
            state.Found.Add(new DiscoveredItem(above[i].Address, ItemKind.Category, above[i].Name, null, i > 0 ? [above[i - 1].Address!] : null));
        }

        var parents = above.Count > 0 ? [above[^1].Address!] : Array.Empty<string>();
        var isProduct = data.Products.Exists(p => p.Address == page);
        foreach (var product in data.Products)
        {
            state.Found.Add(product.Address == page ? product with { ParentAddresses = parents } : product with
            { ParentAddresses = data.IsListing ? [page] : null });
        }

        if (data.IsListing && !isProduct && page != "/")
        {
            state.Found.Add(new DiscoveredItem(page, ItemKind.Category, title, null, parents));
            state.Found.AddRange(data.Listed.Where(l => l.Address != page).Select(l => new DiscoveredItem(l.Address, ItemKind.Product, l.Name, null, [page])));
        }
        else if (!isProduct && pagesToo && page != "/")
        {
            state.Found.Add(new DiscoveredItem(page, null, string.IsNullOrWhiteSpace(title) ? null : title, null, parents));
        }
    }

    private async Task<TimeSpan?> RobotsAsync(CancellationToken stop)
    {
        Fetched robots;
        try
        {
            robots = await fetcher.GetAsync(new Uri(start, "/robots.txt"), stop);
        }
        catch (SourceException)
        {
            return null;
        }

        return robots.Status == 200 ? ReadRobots(System.Text.Encoding.UTF8.GetString(robots.Body)) : null;
    }

    private TimeSpan? ReadRobots(string text)
    {
        var (ours, delay, naming) = (false, (TimeSpan?)null, false);
        foreach (var raw in text.Split('\n').Take(5000))
        {
            var line = raw.Split('#')[0].Split(':', 2);
            var (name, value) = (line[0].Trim().ToLowerInvariant(), line.Length > 1 ? line[1].Trim() : "");
            if (name == "user-agent")
            {
                ours = (naming && ours) || value == "*" || value.Equals(Fetcher.Agent, StringComparison.OrdinalIgnoreCase);
                naming = true;
                continue;
            }

            naming = naming && name.Length == 0;
            if (ours && value.Length > 0)
            {
                delay = TakeRule(name, value) ?? delay;
            }
        }

        return delay;
    }

    private TimeSpan? TakeRule(string name, string value)
    {
        if (name is "disallow" or "allow")
        {
            (name == "allow" ? allowed : forbidden).Add(value);
        }

        return name == "crawl-delay" && double.TryParse(value, CultureInfo.InvariantCulture, out var seconds) && seconds is > 0 and <= 60
            ? TimeSpan.FromSeconds(seconds) : null;
    }

    /// <summary>The longest rule that fits decides (RFC 9309 §2.2.2).</summary>
    private bool IsWelcome(string address)
    {
        static int Longest(List<string> rules, string address) => rules.Where(r => Fits(r, address)).Select(r => r.Length).DefaultIfEmpty(-1).Max();
        return Longest(forbidden, address) <= Longest(allowed, address) || forbidden.Count == 0;
    }

    private static bool Fits(string rule, string address)
    {
        var parts = rule.TrimEnd('$').Split('*');
        var at = 0;
        for (var i = 0; i < parts.Length; i++)
        {
            var found = i == 0 ? (address.StartsWith(parts[0], StringComparison.Ordinal) ? 0 : -1) : address.IndexOf(parts[i], at, StringComparison.Ordinal);
            if (found < 0)
            {
                return false;
            }

            at = found + parts[i].Length;
        }

        return !rule.EndsWith('$') || at == address.Length;
    }

    /// <summary>The walk that was kept; null where none was, or what is kept cannot be read.</summary>
    private async Task<WalkState?> KeptAsync(CancellationToken stop)
    {
        try
        {
            var kept = File.Exists(keptIn) ? JsonSerializer.Deserialize<WalkState>(await File.ReadAllTextAsync(keptIn, stop)) : null;
            return kept is { Waiting: not null, Seen: not null, Found: not null, Answered: not null } ? kept : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private async Task KeepAsync(WalkState state)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(keptIn)!, DataFolder.Private);
        await using (var file = new FileStream(keptIn + ".new", new FileStreamOptions
        { Mode = FileMode.Create, Access = FileAccess.Write, UnixCreateMode = DataFolder.OwnFile }))
        {
            await JsonSerializer.SerializeAsync(file, state);
        }

        File.Move(keptIn + ".new", keptIn, true);
    }
}
