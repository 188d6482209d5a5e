using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Markdig;
using Markdig.Extensions.AutoIdentifiers;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Audio;
using WarySentinel.Service.Pages;
using static System.Net.WebUtility;

namespace WarySentinel.Service.Hosted;

/// <summary>Makes HTML of what a page says to somebody: Markdown, and what is put in between.</summary>
internal sealed partial class HostedText(HostedSheet sheet, ServiceOptions options, string? preview = null)
{
    private const char Hole = '\uE000';
    private const int MostPutIn = 200;

    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().DisableHtml().UsePipeTables().UseAutoLinks().UseFootnotes().UseTaskLists()
        .UseDefinitionLists().UseEmphasisExtras().UseAutoIdentifiers(AutoIdentifierOptions.GitHub).Build();

    private readonly HashSet<string> files = new(StringComparer.Ordinal);

    /// <summary>The files that it names, by what was made so far.</summary>
    public IReadOnlySet<string> Files => files;

    /// <summary>Whether it asks for a visitor's own facts.</summary>
    public bool HasFacts { get; private set; }

    /// <summary>The HTML of it.</summary>
    public string Html()
    {
        var (text, puts) = (new StringBuilder(), new List<PutInPiece>());
        foreach (var piece in sheet.Pieces)
        {
            if (piece is PutInPiece put)
            {
                text.Append('\n').Append(Hole).Append(puts.Count.ToString(CultureInfo.InvariantCulture)).Append(Hole).Append("\n\n");
                puts.Add(put);
            }
            else if (piece is MarkdownPiece markdown)
            {
                // A piece ends where a mark stood: what follows is no part of its last paragraph.
                text.Append(markdown.Text).Append('\n');
            }
        }

        var html = PageMarkdown.HtmlOf(
            text.ToString(), Pipeline, Lead, name => sheet.Pictures.TryGetValue(name, out var size) ? size : null);
        return puts.Count == 0 ? html
            : Holes().Replace(html, m => int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) is var n && n < puts.Count ? PutIn(puts[n]) : "");
    }

    /// <summary>The words of Markdown without its signs.</summary>
    public static string PlainOf(string markdown)
    {
        try
        {
            return Markdown.ToPlainText(markdown, Pipeline);
        }
        catch (ArgumentException)
        {
            return markdown;
        }
    }

    /// <summary>Where a link leads that names a page or a file of this one; null where it is an address.</summary>
    private string? Lead(string url)
    {
        if (PageFiles.IsName(url))
        {
            files.Add(url);
            return FileAddress(url);
        }

        if (!url.StartsWith("page:", StringComparison.Ordinal))
        {
            return null;
        }

        var hash = url.IndexOf('#', StringComparison.Ordinal);
        var key = hash < 0 ? url[5..] : url[5..hash];
        return HostedBook.Of(sheet.Policy).Page(key) is { } page && HostedCommands.AddressOf(sheet.Policy, page.Id) is { } address
            ? address + (hash < 0 ? "" : url[hash..]) : "#";
    }

    /// <summary>Where a file of the page is asked for, also by a page that is only tried.</summary>
    private string FileAddress(string name) =>
        $"{options.MachinePrefix}/pages/{sheet.Page?.Key}/{name}{(preview is null ? "" : "?draft=" + preview)}";

    private string PutIn(PutInPiece put) => put.Kind switch
    {
        "form" when put.About == "search" => Search(),
        "form" => $"""<div class="form"><wary-form name="{HtmlEncode(put.About)}"></wary-form></div>""",
        "search" => Search(),
        "pages" => PageList(),
        "downloads" => Downloads(put.About),
        "player" => Players(put.About),
        "facts" => Facts(put.About),
        _ => "",
    };

    /// <summary>The pages of the section. Those that a visitor may not know of are left out when it is filtered for them.</summary>
    private string PageList() => $"""
        <ul class="pages">{string.Concat(sheet.Pages().Where(p => p.Page.Key != sheet.Page?.Key).Select(
            p => EntryOf(p.Address, HostedSheet.TitleOf(p.Page, p.Edition), HostedSheet.AboutOf(p.Page, p.Edition))))}</ul>
        """;

    private static string EntryOf(string address, string title, string? about) => $"""
        <li><a href="{HtmlEncode(address)}">{HtmlEncode(title)}</a>{(about is null ? "" : $"<p>{HtmlEncode(about)}</p>")}</li>
        """;

    private string Downloads(string about) => $"""
        <ul class="downloads">{string.Concat(Beneath(about, ItemKind.Download).Select(i => $"""
        <li data-wary-item="{i.Item.Id}"><a href="{HtmlEncode(i.Address)}" download>{HtmlEncode(i.Item.Title)}</a></li>
        """))}</ul>
        """;

    private string Players(string about)
    {
        var shows = ShowBook.Of(sheet.Policy);
        var players = string.Concat(Beneath(about, ItemKind.Episode, shows).Select(i => $"""
        <figure class="player" data-wary-item="{i.Item.Id}"><figcaption>{HtmlEncode(i.Item.Title)}</figcaption>
        <div data-wary-item="{i.Item.Id}" data-wary-act="listen"><audio controls preload="none" src="{HtmlEncode(i.Address)}"></audio></div>
        <p class="soft" data-wary-item="{i.Item.Id}" data-wary-act="not listen">{HtmlEncode(Web.PageWords.Of("hosted.not-listen"))}</p></figure>
        """));
        return ItemId.TryParse(about, out var id) && id.Kind == ItemKind.Show && shows.Find(id.Key) is { } show
            ? players + $"""
                <p data-wary-item="{id}" data-wary-act="listen">
                <a href="{HtmlEncode(ShowShelf.PageOf(options, show))}#feed">{HtmlEncode(Web.PageWords.Of("listen.feed-title"))}</a></p>
                """
            : players;
    }

    /// <summary>What stands at or beneath an item, and where: an episode that has a file here is heard here, whatever page it has on the site.</summary>
    private IEnumerable<(Item Item, string Address)> Beneath(string about, ItemKind kind, ShowBook? shows = null)
    {
        var graph = sheet.Policy.Graph;
        return ItemId.TryParse(about, out var id) && graph.PlaceOf(id) is >= 0 and var place
            ? graph.Branch(place).Select(p => graph.Items[p]).Where(i => i.Id.Kind == kind)
                .Select(i => (Item: i, Address: shows?.OfEpisode(i.Id) is var (show, episode) ? ShowShelf.HeardAt(options, show, episode)
                    : i.Addresses.FirstOrDefault(a => !a.IsPattern)?.Text))
                .Where(i => i.Address is not null).Take(MostPutIn).Select(i => (i.Item, i.Address!))
            : [];
    }

    private string Facts(string about)
    {
        HasFacts = true;
        return HostedFacts.HoleOf(about);
    }

    /// <summary>The search of all pages.</summary>
    public string Search() => SearchForm(options, sheet.Policy);

    /// <summary>The form of the search.</summary>
    public static string SearchForm(ServiceOptions options, Core.Access.Policy policy)
    {
        var words = HtmlEncode(Web.PageWords.Of("search.label"));
        return $"""
            <form class="search" role="search" action="{Core.Access.PageBook.Of(policy).AddressOf(options.AccountPrefix, "/search")}">
            <input type="search" name="q" maxlength="{SearchWords.LongestSearch}" aria-label="{words}" placeholder="{words}">
            <button type="submit">{HtmlEncode(Web.PageWords.Of("search.button"))}</button></form>
            """;
    }

    [GeneratedRegex("(?:<p>)?\uE000([0-9]{1,6})\uE000(?:</p>)?")]
    private static partial Regex Holes();
}
