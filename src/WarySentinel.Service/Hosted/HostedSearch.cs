using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>A page that was found.</summary>
/// <param name="Page">The page.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where it stands.</param>
/// <param name="Before">What stands before the word.</param>
/// <param name="Word">The word that was found; empty where it stands in the title alone.</param>
/// <param name="After">What stands behind it.</param>
public sealed record SearchHit(HostedPage Page, string Title, string Address, string Before, string Word, string After);

/// <summary>
/// Searches hosted pages for what one visitor may read: a page that they may not open, and a piece that is not for them, are not there for it; they neither
/// are found nor count.
/// </summary>
public sealed class HostedSearch(Store store, HostedPages pages, PolicyHolder policies, VisitorReader visitors, Refusals refusals,
    ServiceOptions options, TimeProvider time)
{
    /// <summary>Most hits that are given.</summary>
    public const int MostHits = 50;

    private const int MostFindings = 5000;
    private const int WordsAround = 14;

    /// <summary>Maps the page.</summary>
    internal void Map(IEndpointRouteBuilder own) =>
        own.MapGet(options.AccountPrefix + "/search", ShowAsync).RequireRateLimiting(RateLimits.Proofs);

    /// <summary>The pages in which every word stands that was asked for, those first that say it most.</summary>
    public async Task<IReadOnlyList<SearchHit>> FindAsync(Policy policy, Visitor visitor, string asked, DateTimeOffset now, CancellationToken stop)
    {
        Dictionary<string, Found>? found = null;
        foreach (var term in SearchWords.OfSearch(asked))
        {
            var visible = new Dictionary<string, Found>(StringComparer.Ordinal);
            foreach (var group in (await store.FindInPagesAsync(term, MostFindings, stop)).Concat(SaidElsewhere(policy, term, now))
                .GroupBy(p => p.Page))
            {
                var before = found?.GetValueOrDefault(group.Key);
                if ((found is null || before is not null) && Seen(policy, visitor, group, term, before, now) is { } seen)
                {
                    visible[group.Key] = seen;
                }
            }

            found = visible;
        }

        var hits = new List<SearchHit>();
        foreach (var one in (found ?? []).Values.OrderByDescending(f => f.Weight)
            .ThenBy(f => f.Edition.Title, Core.Spelling.SortingOf(policy.Settings.Language)).Take(MostHits))
        {
            hits.AddRange(await HitOfAsync(policy, one, stop) is { } hit ? [hit] : []);
        }

        return hits;
    }

    /// <summary>The pages whose title or description has the word in the reader's language, where the owner said it in that; the index has the
    /// site's.</summary>
    private static IEnumerable<PageFinding> SaidElsewhere(Policy policy, string term, DateTimeOffset now)
    {
        foreach (var page in HostedBook.Of(policy).Pages)
        {
            if (page.At(now) is { } edition && $"{Reader.Book.FindOwn(page.TitleKey)} {Reader.Book.FindOwn(page.DescriptionKey)}" is { Length: > 1 } own
                && SearchWords.Of(own).Any(w => w.StartsWith(term, StringComparison.Ordinal)))
            {
                yield return new PageFinding(page.Key, edition.Number, -1, "");
            }
        }
    }

    private sealed record Found(HostedPage Page, PageEdition Edition, int Weight, int? Piece, string Term);

    /// <summary>What of a finding a visitor may know of; null where it is nothing.</summary>
    private static Found? Seen(Policy policy, Visitor visitor, IGrouping<string, PageFinding> finding, string term, Found? before, DateTimeOffset now)
    {
        if (HostedBook.Of(policy).Page(finding.Key) is not { } page || page.At(now) is not { } edition
            || !policy.Allows(visitor, page.Id, Acts.Open, now) || !policy.Allows(visitor, page.Id, Acts.List, now))
        {
            return null;
        }

        var answers = PageText.Answers(edition.Asks, a => a.Admits(visitor, "", now));
        var (weight, first) = (0, (int?)null);
        foreach (var piece in finding.Where(p => p.Version == edition.Number
            && PageWordsOf.Holds(p.If, answers, edition.Asks.Count, Reader.Book.Language)).Select(p => p.Piece).Order())
        {
            weight += piece < 0 ? 5 : 1;
            first ??= piece < 0 ? null : piece;
        }

        return weight == 0 ? null
            : new Found(page, edition, weight + (before?.Weight ?? 0), before?.Piece ?? first, before?.Piece is null ? term : before.Term);
    }

    private async Task<SearchHit?> HitOfAsync(Policy policy, Found found, CancellationToken stop)
    {
        if (HostedCommands.AddressOf(policy, found.Page.Id) is not { } address || await pages.TextAsync(found.Page.Key, found.Edition, stop) is not { } text)
        {
            return null;
        }

        var said = found.Piece is { } piece ? (text.Conditions().ElementAtOrDefault(piece).Piece as MarkdownPiece)?.Text ?? "" : "";
        var words = HostedText.PlainOf(said).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        var at = Array.FindIndex(words, w => SearchWords.Of(w).Any(one => one.StartsWith(found.Term, StringComparison.Ordinal)));
        if (at < 0)
        {
            return new SearchHit(
                found.Page, HostedSheet.TitleOf(found.Page, found.Edition), address, HostedSheet.AboutOf(found.Page, found.Edition) ?? "", "", "");
        }

        var (from, to) = (Math.Max(0, at - WordsAround), Math.Min(words.Length, at + 1 + (WordsAround * 2)));
        return new SearchHit(
            found.Page, HostedSheet.TitleOf(found.Page, found.Edition), address, (from > 0 ? "… " : "") + string.Join(' ', words[from..at]), Cut(words[at]),
            string.Join(' ', words[(at + 1)..to]) + (to < words.Length ? " …" : ""));
    }

    /// <summary>Scripts without blanks have words as long as a paragraph.</summary>
    private static string Cut(string word) => word.Length > 120 ? word[..120] + "…" : word;

    private async Task ShowAsync(HttpContext http)
    {
        var (identity, policy, typed) = (await visitors.ReadAsync(http), policies.Current, http.Request.Query["q"].ToString().Trim());
        if (HostedBook.Of(policy).Sections.Count == 0)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        typed = typed.Length > SearchWords.LongestSearch || !Core.PlainText.IsClean(typed) ? "" : typed;
        var hits = typed.Length == 0 ? [] : await FindAsync(policy, identity.Visitor, typed, identity.At ?? time.GetUtcNow(), http.RequestAborted);
        await Page.WriteAsync<SearchPage>(http, 200, new { Frame = refusals.Frame(identity, http.Request.Path), Typed = typed, Hits = hits });
    }
}
