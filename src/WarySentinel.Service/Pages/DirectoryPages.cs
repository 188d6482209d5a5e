using System.Globalization;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The directory of members who agreed to stand in it, and a page of each: only what they chose to show, only to whom the owner lets look, and to no search
/// engine.
/// </summary>
public sealed class DirectoryPages(PolicyHolder policies, VisitorReader visitors, Refusals refusals, Store store, TimeProvider time)
{
    /// <summary>Members of a page.</summary>
    public const int PerPage = 24;

    private const int MostPages = 400;
    private const int LongestText = 60;

    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/directory", ListAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/directory/{member:guid}", ShowAsync);
    }

    private async Task ListAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await FieldsAsync(http, identity) is not { } fields)
        {
            return;
        }

        var typed = http.Request.Query["q"].ToString().Trim();
        var text = typed.Length is 0 or > LongestText || !PlainText.IsClean(typed) ? null : typed;
        var page = int.TryParse(http.Request.Query["page"], NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? Math.Clamp(n, 1, MostPages) : 1;
        var language = PageLanguage.Spoken(http);
        var query = new DirectoryQuery([.. fields.Select(f => f.Key)], text, text is null ? [] : [.. OptionsWith(fields, text, language),
            .. CountriesWith(fields, text)]);
        var found = await store.ListedAsync(query, (page - 1) * PerPage, PerPage + 1, http.RequestAborted);
        var directory = MemberDirectory.Of(policies.Current);
        await Page.WriteAsync<DirectoryPage>(http, 200, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new DirectoryModel(
                directory.Title ?? PageWords.Of("directory.title"), directory.Lead, typed, [.. found.Take(PerPage).Select(l => CardOf(l, language))], page,
                found.Count > PerPage && page < MostPages),
        });
    }

    private async Task ShowAsync(HttpContext http, Guid member)
    {
        var identity = await visitors.ReadAsync(http);
        if (await FieldsAsync(http, identity) is not { } fields)
        {
            return;
        }

        if (await store.ListedAsync(member, [.. fields.Select(f => f.Key)], http.RequestAborted) is not { } listed)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        await Page.WriteAsync<MemberCardPage>(http, 200, new { Frame = refusals.Frame(identity, "/"), Card = CardOf(listed, PageLanguage.Spoken(http)) });
    }

    /// <summary>What the directory shows, to whoever may look at it; says so where not.</summary>
    private async Task<IReadOnlyList<Field>?> FieldsAsync(HttpContext http, RequestIdentity identity)
    {
        // Also where the owner opens it to anybody.
        http.Response.Headers["X-Robots-Tag"] = "noindex, nofollow";
        var directory = MemberDirectory.Of(policies.Current);
        if (directory.Audience is not { } audience)
        {
            await refusals.NotFoundAsync(http);
            return null;
        }

        if (audience.Admits(identity.Visitor, "", identity.At ?? time.GetUtcNow())
            || (policies.Current.Settings.StaffPasses && identity.Visitor.IsStaff(time.GetUtcNow())))
        {
            return directory.FieldsOf(FormBook.Of(policies.Current));
        }

        if (identity.Visitor.IsSignedIn)
        {
            await refusals.MessageAsync(http, 403, "directory.closed-title", "directory.closed-lead");
        }
        else
        {
            await refusals.SignInAsync(http, identity, $"{http.Request.PathBase}{http.Request.Path}{http.Request.QueryString}", null, true, null, 401);
        }

        return null;
    }

    private static List<string> OptionsWith(IReadOnlyList<Field> fields, string text, string? language)
    {
        var part = Spelling.Folded(text);
        return
        [
            .. fields.SelectMany(f => (f.WordsIn(language).Options ?? new Dictionary<string, string>()).Where(o => Spelling.Folded(o.Value)
                .Contains(part, StringComparison.Ordinal)).Select(o => $"{f.Key}={o.Key}")),
        ];
    }

    /// <summary>Countries whose names hold the text, as cards say them.</summary>
    private IEnumerable<string> CountriesWith(IReadOnlyList<Field> fields, string text)
    {
        var (book, part) = (FormBook.Of(policies.Current), Spelling.Folded(text));
        return fields.Where(f => f.Kind == FieldKind.Country).SelectMany(f => Countries.All.Where(c => Spelling.Folded(
            AnswerWords.Of(book, new FieldAnswer(f.Key, [c]), w => PageWords.Of("answer." + w))).Contains(part,
                StringComparison.Ordinal)).Select(c => $"{f.Key}={c}"));
    }

    private MemberCard CardOf(Listed listed, string? language)
    {
        var (book, directory) = (FormBook.Of(policies.Current), MemberDirectory.Of(policies.Current));
        var shown = listed.Shown.OrderBy(a => directory.Fields.ToList().IndexOf(a.Field));
        return new MemberCard(
            listed.Member.Id, listed.Member.Name,
            [
                .. shown.Select(a => new CardLine(
                    AnswerWords.LabelOf(book, a.Field, language), AnswerWords.Of(book, a, w => PageWords.Of("answer." + w), language),
                    book.FindField(a.Field)?.Kind == FieldKind.Url ? a.Values[0] : null)),
            ]);
    }
}

/// <summary>What a member shows of themselves.</summary>
/// <param name="Id">Their name in addresses.</param>
/// <param name="Name">Their name.</param>
/// <param name="Lines">What they show.</param>
public sealed record MemberCard(Guid Id, string Name, IReadOnlyList<CardLine> Lines);

/// <summary>An answer on a card.</summary>
/// <param name="Label">The field.</param>
/// <param name="Words">The answer in words.</param>
/// <param name="Link">The address that it is, where it is one.</param>
public sealed record CardLine(string Label, string Words, string? Link);

/// <summary>What the page of the directory shows.</summary>
/// <param name="Title">Its heading.</param>
/// <param name="Lead">What stands beneath it.</param>
/// <param name="Typed">What is looked for.</param>
/// <param name="Cards">Whom it found.</param>
/// <param name="Number">The page, from 1.</param>
/// <param name="More">Whether there is a next one.</param>
public sealed record DirectoryModel(string Title, string? Lead, string Typed, IReadOnlyList<MemberCard> Cards, int Number, bool More)
{
    /// <summary>The address of another page of it.</summary>
    public string AddressOf(string prefix, int page) =>
        $"{prefix}/directory?page={page.ToString(CultureInfo.InvariantCulture)}" + (Typed.Length == 0 ? "" : "&q=" + Uri.EscapeDataString(Typed));
}
