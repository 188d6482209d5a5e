using WarySentinel.Contract.Audio;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Files;

namespace WarySentinel.Service.Audio;

/// <summary>Shows as the API has them.</summary>
internal static class ShowWire
{
    public static ShowView ToWire(
        this Show show, Policy policy, ShowShelf shelf, AreaFolder folder, ServiceOptions options, int subscribers, DateTimeOffset now) => new(
        show.Key, policy.Graph.Find(show.Item)?.Title ?? show.Key, show.By, PlainText.OrNull(show.Notes), show.Language, show.Picture,
        folder.PathOf(show.Folder), options.SiteUrl.TrimEnd('/') + shelf.PageOf(show), IsGuarded(policy, show.Item, now),
        [.. show.Episodes.Select(e => e.ToWire(policy, show, shelf, now))], subscribers, show.Version);

    public static Core.Audio.ShowDraft ToCore(this Contract.Audio.ShowDraft draft, string key) => new()
    {
        Key = key, By = draft.By, Notes = draft.Notes, Language = draft.Language, Picture = draft.Picture,
        Episodes = draft.Episodes?.Select(e => new Core.Audio.EpisodeDraft(e?.Item, e?.File, e?.At, e?.Notes, e?.Length)).ToList(),
    };

    private static EpisodeView ToWire(this EpisodeFile episode, Policy policy, Show show, ShowShelf shelf, DateTimeOffset now) => new(
        episode.Item.ToString(), policy.Graph.Find(episode.Item)?.Title ?? episode.Item.Key, episode.File, episode.At,
        new SiteDates(policy.Settings.TimeZone).Type(episode.At, false), episode.At <= now,
        PlainText.OrNull(episode.Notes), episode.Length is { } length ? Core.Audio.ShowDraft.Say(length) : null, shelf.FileOf(show, episode)?.Length,
        IsGuarded(policy, episode.Item, now));

    private static bool IsGuarded(Policy policy, ItemId id, DateTimeOffset now) =>
        policy.Graph.PlaceOf(id) >= 0 && !policy.Allows(Visitor.Guest, id, Show.Listening, now);
}
