using System.Buffers;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>A page that is being written, as somebody would see it.</summary>
/// <param name="Page">The page.</param>
/// <param name="Title">Its title.</param>
/// <param name="Description">What it is about.</param>
/// <param name="Text">What it says.</param>
/// <param name="As">Through whose eyes.</param>
public sealed record PagePreview(string Page, string Title, string? Description, PageText Text, Viewpoint As);

/// <summary>
/// Serves pages that are written here. What is not for a visitor is dropped before a page is made (<see cref="PageText"/>); what is made is kept, and what
/// became of it for one visitor is given to whoever gets the same answers (docs/how-to/hosted-pages.md).
/// </summary>
public sealed class HostedPages
{
    private const int MostTexts = 2000;
    private readonly Store store;
    private readonly PolicyHolder policies;
    private readonly VisitorReader visitors;
    private readonly BasicCredentials basic;
    private readonly Refusals refusals;
    private readonly Previews previews;
    private readonly ServiceOptions options;
    private readonly TimeProvider time;
    private readonly ILogger<HostedPages> log;
    private readonly SiteSurround surround;
    private readonly HostedPress press;
    private readonly Recent<PageText> texts = new(MostTexts);
    private volatile HostedShelf? shelf;

    /// <summary>Makes it.</summary>
    public HostedPages(
        Store store, PolicyHolder policies, VisitorReader visitors, BasicCredentials basic, Refusals refusals, Previews previews, ServiceOptions options,
        TimeProvider time, SiteSurround surround, IServiceProvider services, ILoggerFactory logs)
    {
        (this.store, this.policies, this.visitors, this.basic, this.refusals, this.previews, this.options, this.time) =
            (store, policies, visitors, basic, refusals, previews, options, time);
        this.surround = surround;
        (log, press) = (logs.CreateLogger<HostedPages>(), new HostedPress(services, logs, refusals, options));
    }

    /// <summary>Maps what stands beside the pages.</summary>
    internal void Map(IEndpointRouteBuilder own)
    {
        own.MapGet(options.MachinePrefix + "/pages/{page}/{file}", FileAsync);
        own.MapGet(options.AccountPrefix + "/page-preview", PreviewAsync);
    }

    /// <summary>Serves a page of ours to whoever may open its address; false where none stands there. On the path of every request.</summary>
    public ValueTask<bool> ServeAsync(HttpContext http, RequestIdentity identity, Policy policy, RequestPath path, DateTimeOffset now)
    {
        if (HostedBook.Of(policy).Sections.Count == 0 || ShelfOf(policy, now).At(path) is not { } spot)
        {
            return ValueTask.FromResult(false);
        }

        return new ValueTask<bool>(ShowAsync(http, identity, policy, path, spot, now, spot.Section.InSite && surround.IsWanted(http)));
    }

    /// <summary>The text of a version, taken apart; null where there is none, or it cannot be read.</summary>
    internal async Task<PageText?> TextAsync(string page, PageEdition edition, CancellationToken stop)
    {
        var name = $"{page}#{edition.Number}";
        if (!texts.TryGet(name, out var text))
        {
            if (await store.PageVersionAsync(page, edition.Number, stop) is not { } version
                || PageTextReader.ReadStored(version.Text) is not { IsGood: true } read)
            {
                log.LogError("CLOSED: version {Number} of the page {Page} is not there, or cannot be read. Publish it anew", edition.Number, page);
                return null;
            }

            texts.Keep(name, text = read.Value);
        }

        return text.Asks.Count == edition.Asks.Count ? text : null;
    }

    private HostedShelf ShelfOf(Policy policy, DateTimeOffset now)
    {
        var there = shelf;
        return there is not null && ReferenceEquals(there.Policy, policy) && there.From <= now && now < there.Until ? there
            : shelf = new HostedShelf(policy, now);
    }

    private async Task<bool> ShowAsync(HttpContext http, RequestIdentity identity, Policy policy, RequestPath path, Spot spot, DateTimeOffset now, bool within)
    {
        if (!HttpMethods.IsGet(http.Request.Method) && !HttpMethods.IsHead(http.Request.Method))
        {
            (http.Response.StatusCode, http.Response.Headers.Allow) = (StatusCodes.Status405MethodNotAllowed, "GET, HEAD");
            GuardedHeaders.Set(http.Response.Headers);
            return true;
        }

        var edition = spot.Page?.At(now);
        var key = new MadeKey(
            spot.Section.Key, spot.Page?.Key, edition?.Number ?? 0, AnswersOf(edition, identity, now), PageLanguage.TagOf(http, policy), within);
        var kept = ShelfOf(policy, now).Find(key);
        if (!within && kept is { Made.HasFacts: false } && identity.Viewpoint is null && kept.For(policy, identity.Visitor, now) is { } ready)
        {
            // Nearly always: it was made before, and went out to somebody who got the same answers.
            await WriteAsync(http, ready);
            return true;
        }

        PageLanguage.Speak(http, policy);
        kept ??= await MakeAsync(policy, spot, key, edition, now, http.RequestAborted);
        if (kept is null)
        {
            await refusals.NotFoundAsync(http);
            return true;
        }

        var made = Filled(
            kept.Made, kept.For(policy, identity.Visitor, now) is { } body && identity.Viewpoint is null ? body
            : Filtered(http, identity, policy, path, kept.Made, kept, now), identity, policy, now);
        if (!within)
        {
            await WriteAsync(http, made);
            return true;
        }

        var title = edition is not null ? HostedSheet.TitleOf(spot.Page!, edition) : HostedSheet.TitleOf(policy, spot.Section);
        return await surround.TryWriteAsync(http, title, made) || await ShowAsync(http, identity, policy, path, spot, now, false);
    }

    private static ulong AnswersOf(PageEdition? edition, RequestIdentity identity, DateTimeOffset now) =>
        edition is null || edition.Asks.Count == 0 ? 0 : PageText.Answers(edition.Asks, a => a.Admits(identity.Visitor, "", now));

    /// <summary>Makes a page for whoever gives these answers; null where nothing is served.</summary>
    private async Task<KeptPage?> MakeAsync(Policy policy, Spot spot, MadeKey key, PageEdition? edition, DateTimeOffset now, CancellationToken stop)
    {
        if (spot.Page is not null && edition is null)
        {
            return null;
        }

        IReadOnlyList<PagePiece> pieces = [new PutInPiece(1, "pages", "")];
        if (edition is not null)
        {
            if (await TextAsync(spot.Page!.Key, edition, stop) is not { } text)
            {
                return null;
            }

            pieces = [.. text.For(key.Answers, key.Language)];
        }

        var (title, about) = edition is not null ? (HostedSheet.TitleOf(spot.Page!, edition), HostedSheet.AboutOf(spot.Page!, edition))
            : (HostedSheet.TitleOf(policy, spot.Section), HostedSheet.AboutOf(spot.Section));
        var sheet = new HostedSheet(policy, spot.Section, spot.Page, title, about, spot.Address, pieces, now)
        {
            Pictures = spot.Page is null ? HostedSheet.NoPictures : await store.PictureSizesAsync(spot.Page.Key, stop),
        };
        return ShelfOf(policy, now).Keep(key, await press.MakeAsync(sheet, null, key.Within));
    }

    /// <summary>What is left of a page for one visitor: links to what is hidden from them go, and forms are put in.</summary>
    private byte[] Filtered(
        HttpContext http, RequestIdentity identity, Policy policy, RequestPath path, MadePage made, KeptPage? kept, DateTimeOffset now)
    {
        var decider = new PageDecider(new PageRequest(policy, identity, path), http.Request, options, now, false) { KeepsAnswers = kept is not null };
        var output = new ArrayBufferWriter<byte>(made.Html.Length);
        MarkupFilter.OfHtml(decider).Write(made.Html, true, output);
        var body = output.WrittenSpan.ToArray();
        if (decider.CanBeRemembered)
        {
            kept?.Keep(new HostedVariant(Asked.Apart(decider.Answers), body));
        }

        return body;
    }

    private static byte[] Filled(MadePage made, byte[] body, RequestIdentity identity, Policy policy, DateTimeOffset now) =>
        made.HasFacts ? HostedFacts.Filled(body, policy, identity.Visitor, now) : body;

    private Task WriteAsync(HttpContext http, byte[] body)
    {
        Page.Guard(http, options);
        http.Response.ContentType = "text/html; charset=utf-8";
        http.Response.ContentLength = body.Length;
        return HttpMethods.IsHead(http.Request.Method) ? Task.CompletedTask : http.Response.Body.WriteAsync(body, http.RequestAborted).AsTask();
    }

    /// <summary>A page as it is being written. Whoever has the address sees what the owner meant to try, for a while.</summary>
    private async Task PreviewAsync(HttpContext http)
    {
        var (policy, name, now) = (policies.Current, http.Request.Query["draft"].ToString(), time.GetUtcNow());
        var book = HostedBook.Of(policy);
        if (previews.Find<PagePreview>(name) is not { } preview || book.Page(preview.Page) is not { } page || book.Section(page.Section) is not { } section
            || !RequestPath.TryNormalise(HostedCommands.AddressOf(policy, page.Id) ?? "/", policy.Settings.Paths, out var path, out _))
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        var identity = new RequestIdentity(preview.As.Visitor, null);
        var answers = PageText.Answers(preview.Text.Asks, a => a.Admits(preview.As.Visitor, "", now));
        var sheet = new HostedSheet(
            policy, section, page, PageWords.Own(page.TitleKey, preview.Title),
            preview.Description is { } about ? PageWords.Own(page.DescriptionKey, about) : null, path.Sent,
            [.. preview.Text.For(answers, PageLanguage.Spoken(http))], now)
        { Pictures = await store.PictureSizesAsync(page.Key, http.RequestAborted) };
        var made = await press.MakeAsync(sheet, name);
        await WriteAsync(http, Filled(made, Filtered(http, identity, policy, path, made, null, now), identity, policy, now));
    }

    /// <summary>A file of a page: for whoever may open the page and sees a place in it that names the file.</summary>
    private async Task FileAsync(HttpContext http, string page, string file)
    {
        var (identity, policy) = (await visitors.ReadAsync(http), policies.Current);
        var now = identity.At ?? time.GetUtcNow();
        PageLanguage.Speak(http, policy);
        var book = HostedBook.Of(policy);
        if (book.Page(page) is not { } hosted || book.Section(hosted.Section) is not { } section)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (previews.Find<PagePreview>(http.Request.Query["draft"])?.Page != page)
        {
            var address = HostedCommands.AddressOf(policy, hosted.Id);
            if (address is null || !RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _))
            {
                await refusals.NotFoundAsync(http);
                return;
            }

            if (!policy.Judge(identity.Visitor, path, now).Allowed && await basic.ReadAsync(http, identity, policy, path, now) is { } proved)
            {
                identity = proved;
            }

            if (!policy.Judge(identity.Visitor, path, now).Allowed)
            {
                await refusals.RespondAsync(http, identity, policy, policy.Decide(identity.Visitor, path, Acts.Open, now), path);
                return;
            }

            var edition = hosted.At(now);
            var key = new MadeKey(section.Key, page, edition?.Number ?? 0, AnswersOf(edition, identity, now), Reader.Book.Language, false);
            var seen = ShelfOf(policy, now).Find(key) ?? await MakeAsync(policy, new Spot(section, hosted, address), key, edition, now, http.RequestAborted);
            if (seen?.Made.Files.Contains(file) != true)
            {
                await refusals.NotFoundAsync(http);
                return;
            }
        }

        if (await store.PageFileAsync(page, file, http.RequestAborted) is not { } kept)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        GuardedHeaders.Set(http.Response.Headers);
        http.Response.Headers.XContentTypeOptions = "nosniff";
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; style-src 'unsafe-inline'; sandbox";
        await Results.Bytes(kept.Content, kept.Type, PageFiles.IsShown(kept.Type) ? null : kept.Name, true).ExecuteAsync(http);
    }
}
