using System.Security.Cryptography;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Files;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>
/// Feeds for players that know no cookies: each subscriber's own address, and beneath it the files. The gates are asked for every feed, every file and every
/// part of one, as if the member had come themselves.
/// </summary>
public sealed class FeedPages(
    PolicyHolder policies, FeedReaders readers, ShowShelf shelf, IFirstUse uses, Store store, ServiceOptions options, TimeProvider time)
{
    private static readonly string[] Reading = ["GET", "HEAD"];

    /// <summary>Maps the addresses.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        site.MapMethods(options.MachinePrefix + "/feeds/{token}", Reading, FeedAsync);
        site.MapMethods(options.MachinePrefix + "/media/{token}/{name}", Reading, MediaAsync);
    }

    private async Task FeedAsync(HttpContext http, string token)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (await FindAsync(http, token, policy, now) is not var (reader, show))
        {
            return;
        }

        PageLanguage.Speak(http, policy);
        var identity = reader.From(policy, http.Connection.RemoteIpAddress, now);
        var at = identity.At ?? now;
        var episodes = show.HeardBy(policy, identity.Visitor, at).Select(e => EpisodeOf(policy, show, e, reader.One)).OfType<FeedEpisode>().ToList();
        var page = options.SiteUrl.TrimEnd('/') + shelf.PageOf(show);
        if (!show.IsTheirs(policy, identity.Visitor, at) && show.Episodes.Any(e => e.At <= now && !Show.Lets(policy, identity.Visitor, e, at)))
        {
            // Players show no refusal: what they show is an episode, so this says how to get in again.
            episodes.Insert(0, new FeedEpisode(
                $"closed-{reader.One.Id:N}", PageWords.Of("listen.closed-title"), reader.One.Since,
                PageWords.Of("listen.closed", page), page, null, "", 0, null));
        }

        var feed = new ShowFeed
        {
            Title = ShowShelf.TitleOf(policy, show), Page = page, Self = shelf.FeedOf(reader.One), Notes = show.Notes, By = show.By,
            Language = show.Language ?? policy.Settings.Language, Picture = shelf.PictureOf(show) is null ? null : shelf.PictureOf(reader.One, show),
            Episodes = episodes,
        }.Write();
        if (reader.IsToNote(now))
        {
            await store.FeedReadAsync(reader.One, ReaderOf(http), now, CancellationToken.None);
        }

        // Players ask again and again: what has not changed is not sent again. Nobody else may keep it.
        http.Response.Headers.CacheControl = "private, no-cache";
        http.Response.Headers.XContentTypeOptions = "nosniff";
        var tag = new EntityTagHeaderValue($"\"{Convert.ToHexStringLower(SHA256.HashData(feed).AsSpan(0, 12))}\"");
        await Results.Bytes(feed, "application/rss+xml; charset=utf-8", entityTag: tag).ExecuteAsync(http);
    }

    private async Task MediaAsync(HttpContext http, string token, string name)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (await FindAsync(http, token, policy, now) is not var (reader, show))
        {
            return;
        }

        if (name == ShowShelf.PictureName(show) && shelf.PictureOf(show) is { } picture)
        {
            await FileAnswer.SendAsync(http, picture, MediaType.OfPicture(picture.Name));
            return;
        }

        if (show.Episodes.FirstOrDefault(e => ShowShelf.NameOf(e) == name) is not { } episode || policy.Graph.PlaceOf(episode.Item) < 0 || episode.At > now)
        {
            await SayAsync(http, StatusCodes.Status404NotFound, "listen.unknown");
            return;
        }

        var identity = reader.From(policy, http.Connection.RemoteIpAddress, now);
        var at = identity.At ?? now;
        if (!Show.Lets(policy, identity.Visitor, episode, at))
        {
            await SayAsync(http, StatusCodes.Status403Forbidden, "listen.closed", options.SiteUrl.TrimEnd('/') + shelf.PageOf(show));
            return;
        }

        if (identity.Visitor.MayStart)
        {
            await uses.OpenedAsync(identity, policy, v => Show.Lets(policy, v, episode, at), at);
        }

        if (shelf.FileOf(show, episode) is { } file)
        {
            await FileAnswer.SendAsync(http, file, MediaType.OfEpisode(file.Name));
        }
        else
        {
            await SayAsync(http, StatusCodes.Status404NotFound, "listen.unknown");
        }
    }

    /// <summary>Whose address that is, and the show; null where it is nobody's, and that is said.</summary>
    private async ValueTask<(FeedReader Reader, Show Show)?> FindAsync(HttpContext http, string token, Policy policy, DateTimeOffset now)
    {
        http.Response.Headers["X-Robots-Tag"] = "noindex, nofollow";
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        var (reader, isOver) = await readers.FindAsync(token, now, http.RequestAborted);
        if (reader is not null && ShowBook.Of(policy).Find(reader.One.Show) is { } show && policy.Graph.Find(show.Item) is not null)
        {
            return (reader, show);
        }

        PageLanguage.Speak(http, policy);
        await SayAsync(
            http, isOver ? StatusCodes.Status410Gone : StatusCodes.Status404NotFound, isOver ? "listen.over" : "listen.unknown", options.SiteUrl.TrimEnd('/'));
        return null;
    }

    private FeedEpisode? EpisodeOf(Policy policy, Show show, EpisodeFile episode, Subscriber one)
    {
        if (shelf.FileOf(show, episode) is not { } file || MediaType.OfEpisode(episode.File) is not { } type)
        {
            return null;
        }

        var own = policy.Graph.Find(episode.Item)?.Addresses.FirstOrDefault(a => !a.IsPattern)?.Text;
        return new FeedEpisode(
            episode.Item.ToString(), ShowShelf.TitleOf(policy, episode), episode.At, episode.Notes,
            own is null ? null : options.SiteUrl.TrimEnd('/') + own, shelf.MediaOf(one, episode), type, file.Length, episode.Length);
    }

    private static string? ReaderOf(HttpContext http)
    {
        var agent = http.Request.Headers.UserAgent.ToString();
        return agent.Length == 0 || !PlainText.IsClean(agent) ? null
            : agent.Length > SubscriberCommands.LongestReader ? agent[..SubscriberCommands.LongestReader] : agent;
    }

    private static Task SayAsync(HttpContext http, int status, string words, params object?[] values)
    {
        http.Response.StatusCode = status;
        http.Response.Headers.CacheControl = "no-store";
        http.Response.ContentType = "text/plain; charset=utf-8";
        return HttpMethods.IsHead(http.Request.Method) ? Task.CompletedTask : http.Response.WriteAsync(PageWords.Of(words, values) + "\n", http.RequestAborted);
    }
}
