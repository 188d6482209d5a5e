using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Files;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Audio;

/// <summary>The files of shows on this machine's disk, and the addresses of shows, episodes and feeds.</summary>
public sealed class ShowShelf(AreaFolder folder, Secrets secrets, ServiceOptions options) : IShows
{
    /// <inheritdoc/>
    public IReadOnlyList<SiteLink> For(Policy policy, Visitor visitor, DateTimeOffset now) =>
        [.. ShowBook.Of(policy).All.Where(s => s.IsTheirs(policy, visitor, now)).Select(s => new SiteLink(PageOf(s), TitleOf(policy, s)))];

    /// <summary>The file of an episode; null where it is not there.</summary>
    public FileInfo? FileOf(Show show, EpisodeFile episode) => FileOf(show, episode.File);

    /// <summary>The show's picture; null where it has none, or that is not there.</summary>
    public FileInfo? PictureOf(Show show) => show.Picture is { } picture ? FileOf(show, picture) : null;

    /// <summary>Our page of a show, on this site.</summary>
    public string PageOf(Show show) => PageOf(options, show);

    /// <summary>Our page of a show, on this site.</summary>
    public static string PageOf(ServiceOptions options, Show show) => $"{options.AccountPrefix}/listen/{show.Key}";

    /// <summary>Where whoever may listen to an episode hears it on a page, on this site.</summary>
    public string HeardAt(Show show, EpisodeFile episode) => HeardAt(options, show, episode);

    /// <summary>Where whoever may listen to an episode hears it on a page, on this site.</summary>
    public static string HeardAt(ServiceOptions options, Show show, EpisodeFile episode) => $"{PageOf(options, show)}/{NameOf(episode)}";

    /// <summary>The feed address of a subscriber, whole.</summary>
    public string FeedOf(Subscriber one) => $"{Machines}/feeds/{secrets.FeedTokenOf(one.Id, one.Number)}";

    /// <summary>The address of an episode in a subscriber's feed, whole.</summary>
    public string MediaOf(Subscriber one, EpisodeFile episode) => $"{Machines}/media/{secrets.FeedTokenOf(one.Id, one.Number)}/{NameOf(episode)}";

    /// <summary>The address of the show's picture in a subscriber's feed, whole.</summary>
    public string PictureOf(Subscriber one, Show show) =>
        $"{Machines}/media/{secrets.FeedTokenOf(one.Id, one.Number)}/{PictureName(show)}";

    /// <summary>The name of the picture in addresses. No episode has an ending of pictures.</summary>
    public static string PictureName(Show show) => "picture" + MediaType.EndingOf(show.Picture ?? "");

    /// <summary>The name of an episode in addresses: its key, with the ending of its file, as players tell by that what it is.</summary>
    public static string NameOf(EpisodeFile episode) => episode.Item.Key + MediaType.EndingOf(episode.File);

    /// <summary>What people call a show, in the reader's language.</summary>
    public static string TitleOf(Policy policy, Show show) =>
        PageWords.Own(TextCatalogue.TitleKey(show.Item), policy.Graph.Find(show.Item)?.Title ?? show.Key);

    /// <summary>What people call an episode, in the reader's language.</summary>
    public static string TitleOf(Policy policy, EpisodeFile episode) =>
        PageWords.Own(TextCatalogue.TitleKey(episode.Item), policy.Graph.Find(episode.Item)?.Title ?? episode.Item.Key);

    private string Machines => options.SiteUrl.TrimEnd('/') + options.MachinePrefix;

    private FileInfo? FileOf(Show show, string path) => folder.Find(show.Folder, path) as FileInfo;
}
