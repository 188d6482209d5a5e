using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Files;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>An episode on the page of its show.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Day">When it came out.</param>
/// <param name="Length">How long it lasts; empty where nobody said.</param>
/// <param name="Notes">What it is about.</param>
/// <param name="Address">Where it is heard.</param>
/// <param name="IsVideo">Whether there is something to be seen as well.</param>
public sealed record ListenLine(string Key, string Title, string Day, string Length, string Notes, string Address, bool IsVideo);

/// <summary>What the page of a show shows.</summary>
/// <param name="Title">What it is called.</param>
/// <param name="Notes">What it is about.</param>
/// <param name="By">Who makes it.</param>
/// <param name="Episodes">What may be listened to.</param>
/// <param name="To">Where its forms go.</param>
public sealed record ListenModel(string Title, string Notes, string? By, IReadOnlyList<ListenLine> Episodes, string To)
{
    /// <summary>Where its picture is; null for none.</summary>
    public string? Picture { get; init; }

    /// <summary>The reader's own feed address; null where they have none yet.</summary>
    public string? Feed { get; init; }

    /// <summary>Whether the reader can have a feed address.</summary>
    public bool MayHaveFeed { get; init; }

    /// <summary>Whether the address has just become another.</summary>
    public bool IsChanged { get; init; }

    /// <summary>The name of the anti-forgery field.</summary>
    public string TokenField { get; init; } = "";

    /// <summary>The anti-forgery token.</summary>
    public string? Token { get; init; }
}

/// <summary>The page of a show: its episodes, to be heard there, and the member's own feed address for their player.</summary>
public sealed class ListenPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, Sessions sessions, ItemDoor door, ShowShelf shelf, Store store,
    PeopleLane people, IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    private static readonly string[] Reading = ["GET", "HEAD"];

    /// <summary>Maps the pages.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapGet("/listen/{key}", ShowAsync);
        account.MapPost("/listen/{key}", ChangeAsync);
        account.MapMethods("/listen/{key}/{name}", Reading, HearAsync);
    }

    private async Task ShowAsync(HttpContext http, string key)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (ShowBook.Of(policy).Find(key) is not { } show || policy.Graph.Find(show.Item) is null)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (await door.MayAsync(http, policy, show.Item, Show.Listening, shelf.PageOf(show), now) is not { } identity)
        {
            return;
        }

        PageLanguage.Speak(http, policy);
        var dates = new SiteDates(policy.Settings.TimeZone);
        var at = identity.At ?? now;
        var member = identity.IsMember ? (await sessions.FindAsync(http, SessionPurpose.Site))?.Member : null;
        var one = member is { } id ? await store.SubscriberAsync(id, show.Key, http.RequestAborted) : null;
        var token = member is null ? null : antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<ListenPage>(http, StatusCodes.Status200OK, new
        {
            Frame = refusals.Frame(identity, shelf.PageOf(show)),
            Model = new ListenModel(
                ShowShelf.TitleOf(policy, show), show.Notes, show.By,
                [
                    .. show.HeardBy(policy, identity.Visitor, at).Where(e => shelf.FileOf(show, e) is not null).Select(e => new ListenLine(
                        e.Item.Key, ShowShelf.TitleOf(policy, e), Page.Day(dates, dates.StartOf(dates.DayOf(e.At)), false),
                        e.Length is { } length ? ShowDraft.Say(length) : "", e.Notes, shelf.HeardAt(show, e), IsVideo(e))),
                ],
                shelf.PageOf(show))
            {
                Picture = shelf.PictureOf(show) is null ? null : $"{shelf.PageOf(show)}/{ShowShelf.PictureName(show)}",
                Feed = one is null ? null : shelf.FeedOf(one), MayHaveFeed = member is not null, IsChanged = http.Request.Query.ContainsKey("changed"),
                TokenField = token?.FormFieldName ?? "", Token = token?.RequestToken,
            },
        });
    }

    /// <summary>Gives the member a feed address, or another in place of the one they have.</summary>
    private async Task ChangeAsync(HttpContext http, string key)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var identity = await visitors.ReadAsync(http);
        if (ShowBook.Of(policy).Find(key) is not { } show || !identity.IsMember
            || await antiforgery.FormAsync(http) is not { } form || await sessions.FindAsync(http, SessionPurpose.Site) is not { Member: { } member })
        {
            PageRequests.See(http, $"{options.AccountPrefix}/listen/{Uri.EscapeDataString(key)}");
            return;
        }

        var isChange = form["act"] == "change";
        if (policy.Allows(identity.Visitor, show.Item, Show.Listening, now))
        {
            var email = identity.Visitor.Email ?? "";
            await FeedDesk.GiveAsync(store, people, member, email, show, isChange, email, now, http.RequestAborted);
        }

        PageRequests.See(http, shelf.PageOf(show) + (isChange ? "?changed#feed" : "#feed"));
    }

    private async Task HearAsync(HttpContext http, string key, string name)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (ShowBook.Of(policy).Find(key) is not { } show || policy.Graph.Find(show.Item) is null)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (name == ShowShelf.PictureName(show) && shelf.PictureOf(show) is { } picture)
        {
            if (await door.MayAsync(http, policy, show.Item, Show.Listening, shelf.PageOf(show), now) is not null)
            {
                await FileAnswer.SendAsync(http, picture, MediaType.OfPicture(picture.Name));
            }

            return;
        }

        if (show.Episodes.FirstOrDefault(e => ShowShelf.NameOf(e) == name) is not { } episode || episode.At > now
            || policy.Graph.PlaceOf(episode.Item) < 0 || shelf.FileOf(show, episode) is not { } file)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (await door.MayAsync(http, policy, episode.Item, Show.Listening, shelf.PageOf(show), now) is not null)
        {
            await FileAnswer.SendAsync(http, file, MediaType.OfEpisode(file.Name));
        }
    }

    private static bool IsVideo(EpisodeFile episode) => MediaType.OfEpisode(episode.File)?.StartsWith("video/", StringComparison.Ordinal) == true;
}
