using System.Globalization;
using Microsoft.AspNetCore.Components;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>The pages where anybody reads the site's terms, in every version.</summary>
public sealed class TermsPages(PolicyHolder policies, VisitorReader visitors, Refusals refusals, Previews previews, TimeProvider time)
{
    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/terms", ListAsync);
        account.MapGet("/terms/{key}/{number:int?}", ShowAsync);
    }

    private async Task ListAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var (frame, language, now) = (refusals.Frame(identity, "/"), PageLanguage.Spoken(http), time.GetUtcNow());
        var links = TermsBook.Of(policies.Current).All.Where(t => t.InForce(now) is not null)
            .Select(t => new SiteLink($"{frame.Prefix}/terms/{t.Key}", t.InForce(now)!.WordsIn(language).Words.Title!)).ToList();
        if (links.Count == 0)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        await Page.WriteAsync<MessagePage>(http, 200, new { Frame = frame, Model = new MessageModel(PageWords.Of("terms.title"), []) { Links = links } });
    }

    /// <summary>The version that counts, or the one that is asked for; one that is announced can be read before it counts.</summary>
    private async Task ShowAsync(HttpContext http, string key, int? number)
    {
        var (identity, now) = (await visitors.ReadAsync(http), time.GetUtcNow());
        var preview = previews.Find<TermsOfSite>(http.Request.Query["preview"]);
        var terms = preview ?? TermsBook.Of(policies.Current).Find(key);
        if (preview is not null)
        {
            number = preview.Newest.Number;
        }

        if ((number is { } wanted ? terms?.Find(wanted) : terms?.InForce(now) ?? terms?.Newest) is not { } text)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        await Page.WriteAsync<TermsPage>(http, 200, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = TermsModel.Of(terms!, text, PageLanguage.Spoken(http), policies.Current.Settings, now),
        });
    }
}

/// <summary>What a page shows of terms.</summary>
/// <param name="Key">Their name.</param>
/// <param name="Number">The version.</param>
/// <param name="Words">Its words.</param>
/// <param name="Language">The language of the text.</param>
/// <param name="Says">Since when it counts, until when it did, or from when it will.</param>
/// <param name="Others">The other versions, newest first: number and since when.</param>
public sealed record TermsModel(
    string Key, int Number, TermsWords Words, string Language, string Says, IReadOnlyList<(int Number, string Says)> Others)
{
    /// <summary>The text as HTML.</summary>
    public MarkupString Html => new(PageMarkdown.HtmlOf(Words.Text ?? ""));

    /// <summary>A version as it is shown.</summary>
    public static TermsModel Of(TermsOfSite terms, TermsText text, string? language, SiteSettings settings, DateTimeOffset now)
    {
        var (words, of) = text.WordsIn(language);
        var dates = new SiteDates(settings.TimeZone);
        string Says(TermsText one) =>
            terms.InForce(now) is not { } inForce || one.Number > inForce.Number ? PageWords.Of("terms.from", Page.Day(dates, one.From,
            false))
            : one.Number == inForce.Number ? PageWords.Of("terms.since", Page.Day(dates, one.From, false))
            : PageWords.Of("terms.until",
                Page.Day(dates, one.From, false), Page.Day(dates, terms.Texts.First(t => t.Number > one.Number).From, false));
        return new TermsModel(
            terms.Key, text.Number, words, of ?? settings.Language, Says(text),
            [.. terms.Texts.Where(t => t.Number != text.Number).Reverse().Select(t => (t.Number, Says(t)))]);
    }
}
