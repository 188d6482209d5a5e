using System.Globalization;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;

namespace WarySentinel.Core.Audio;

/// <summary>An episode as people write it.</summary>
/// <param name="Item">The episode, such as <c>episode:hours-01</c>.</param>
/// <param name="File">The way to its file in the folder of the show, such as <c>hours-01.mp3</c>.</param>
/// <param name="At">Since when it is out: a moment, or a day in the site's time zone.</param>
/// <param name="Notes">What it is about, in plain words.</param>
/// <param name="Length">How long it lasts, such as <c>42:10</c> or <c>1:02:10</c>.</param>
public sealed record EpisodeDraft(string? Item, string? File, string? At = null, string? Notes = null, string? Length = null);

/// <summary>A show as people write it.</summary>
public sealed record ShowDraft
{
    /// <summary>Most episodes of one show.</summary>
    public const int MostEpisodes = 2000;

    private const int LongestNotes = 4000;
    private const int LongestName = 200;
    private const int MostFaults = 50;
    private static readonly string[] Lengths = [@"m\:ss", @"mm\:ss", @"h\:mm\:ss", @"hh\:mm\:ss"];

    /// <summary>The key of its item: of <c>show:hours-of-dark</c>, <c>hours-of-dark</c>.</summary>
    public string? Key { get; init; }

    /// <summary>Who makes it.</summary>
    public string? By { get; init; }

    /// <summary>What it is about, in plain words.</summary>
    public string? Notes { get; init; }

    /// <summary>The language that is spoken in it (RFC 5646); the site's unless said.</summary>
    public string? Language { get; init; }

    /// <summary>The way to its picture in its folder.</summary>
    public string? Picture { get; init; }

    /// <summary>Its episodes.</summary>
    public IReadOnlyList<EpisodeDraft>? Episodes { get; init; }

    /// <summary>The draft that says what a show says.</summary>
    public static ShowDraft Of(Show show) => new()
    {
        Key = show.Key, By = show.By, Notes = PlainText.OrNull(show.Notes), Language = show.Language, Picture = show.Picture,
        Episodes = [.. show.Episodes.Select(Of)],
    };

    private static EpisodeDraft Of(EpisodeFile e) => new(
        e.Item.ToString(), e.File, SiteDates.Write(e.At), PlainText.OrNull(e.Notes), e.Length is { } length ? Say(length) : null);

    /// <summary>A length as people write it: minutes and seconds, with hours where it has some.</summary>
    public static string Say(TimeSpan length) => length.ToString(length.TotalHours >= 1 ? @"h\:mm\:ss" : @"m\:ss", CultureInfo.InvariantCulture);

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    /// <param name="graph">Knows the items; null where a show that is stored is read.</param>
    /// <param name="zone">The site's time zone.</param>
    /// <param name="now">Since when an episode is out that does not say.</param>
    public Outcome<Show> Read(CatalogueGraph? graph, string zone, DateTimeOffset now)
    {
        var faults = new Faults();
        if (!CatalogueKey.IsValid(Key))
        {
            faults.Bad("key", "key-form", Key);
        }
        else if (graph is not null && graph.Find(new ItemId(ItemKind.Show, Key!)) is null)
        {
            UnknownItem.Tell(faults, "key", new ItemId(ItemKind.Show, Key!), graph);
        }

        var (by, notes, picture, language) = (PlainText.OrNull(By), PlainText.OrNull(Notes) ?? "", PlainText.OrNull(Picture), PlainText.OrNull(Language));
        faults.Unless(by is null || (by.Length <= LongestName && PlainText.IsClean(by)), "by", "page-title", LongestName);
        faults.Unless(notes.Length <= LongestNotes && PlainText.IsClean(notes, true), "notes", "show-notes", LongestNotes);
        faults.Unless(language is null || Spelling.IsLanguage(language), "language", "show-language", Language);
        faults.Unless(
            picture is null || (AreaPath.TryRead(picture, out _) && MediaType.OfPicture(picture) is not null), "picture", "show-picture", Picture,
            MediaType.PictureEndings);
        var episodes = ReadAll(graph, new SiteDates(zone), now, faults);
        return faults.Any ? faults.ToProblem() : new Show
        {
            Key = Key!, By = by, Notes = notes, Language = language, Picture = picture,
            Episodes = [.. episodes.OrderByDescending(e => e.At).ThenByDescending(e => e.Item)],
        };
    }

    private List<EpisodeFile> ReadAll(CatalogueGraph? graph, SiteDates dates, DateTimeOffset now, Faults faults)
    {
        var (all, drafts) = (new List<EpisodeFile>(), Episodes ?? []);
        if (drafts.Count > MostEpisodes)
        {
            faults.Bad("episodes", "show-episodes-many", MostEpisodes);
            return all;
        }

        for (var (n, bad) = (0, 0); n < drafts.Count && bad < MostFaults; n++)
        {
            var found = new Faults();
            if (ReadOne(drafts[n] ?? new EpisodeDraft(null, null), $"episodes[{n}]", graph, dates, now, found) is { } episode)
            {
                found.Unless(all.TrueForAll(e => e.Item != episode.Item), $"episodes[{n}].item", "show-episode-twice", episode.Item);
                all.Add(episode);
            }

            if (found.Any)
            {
                bad++;
                faults.Take(found.ToProblem());
            }
        }

        return all;
    }

    private EpisodeFile? ReadOne(EpisodeDraft draft, string place, CatalogueGraph? graph, SiteDates dates, DateTimeOffset now, Faults faults)
    {
        var item = ItemOf(draft.Item, place + ".item", graph, faults);
        var file = PlainText.OrNull(draft.File)?.Trim('/') ?? "";
        var isFile = file.Length > 0 && AreaPath.TryRead(file, out _) && MediaType.OfEpisode(file) is not null;
        faults.Unless(isFile, place + ".file", "show-file", draft.File, MediaType.Endings);
        var notes = PlainText.OrNull(draft.Notes) ?? "";
        faults.Unless(notes.Length <= LongestNotes && PlainText.IsClean(notes, true), place + ".notes", "show-notes", LongestNotes);
        var at = new DateTimeOffset(now.Ticks - (now.Ticks % TimeSpan.TicksPerSecond), now.Offset);
        faults.Unless(
            string.IsNullOrWhiteSpace(draft.At) || dates.TryRead(draft.At.Trim(), false, out at), place + ".at", "show-at", draft.At);
        TimeSpan? length = null;
        if (PlainText.OrNull(draft.Length) is { } said)
        {
            var isLength = TimeSpan.TryParseExact(said, Lengths, CultureInfo.InvariantCulture, out var read) && read > TimeSpan.Zero;
            faults.Unless(isLength, place + ".length", "show-length", draft.Length);
            length = read;
        }

        return item is null || faults.Any ? null : new EpisodeFile(item.Value, file, at, notes, length);
    }

    /// <summary>The episode of that name, which stands beneath the show.</summary>
    private ItemId? ItemOf(string? text, string place, CatalogueGraph? graph, Faults faults)
    {
        if (!ItemId.TryParse(text?.Trim(), out var id) || id.Kind != ItemKind.Episode)
        {
            faults.Bad(place, "show-episode", text);
            return null;
        }

        if (graph is null || !CatalogueKey.IsValid(Key))
        {
            return id;
        }

        if (graph.PlaceOf(id) is not (>= 0 and var at))
        {
            UnknownItem.Tell(faults, place, id, graph);
            return null;
        }

        var show = new ItemId(ItemKind.Show, Key!);
        if (graph.PlaceOf(show) is >= 0 and var above && !graph.Branch(above).Contains(at))
        {
            faults.Bad(place, "show-episode-other", id, show);
            return null;
        }

        return id;
    }
}
