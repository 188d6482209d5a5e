using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Audio;

/// <summary>What is told of an episode, and its file.</summary>
/// <param name="Item">The episode.</param>
/// <param name="File">The way to its file in the folder of the show.</param>
/// <param name="At">Since when it is out.</param>
/// <param name="Notes">What it is about; empty for nothing.</param>
/// <param name="Length">How long it lasts; null where nobody said.</param>
public sealed record EpisodeFile(ItemId Item, string File, DateTimeOffset At, string Notes, TimeSpan? Length);

/// <summary>
/// A show that is listened to here and by feeds: what is told of it, and the files of its episodes. Who may listen to which of them, the gates say, each
/// time one is asked for.
/// </summary>
public sealed record Show
{
    /// <summary>The key of its item.</summary>
    public required string Key { get; init; }

    /// <summary>Who makes it; null where nobody said.</summary>
    public string? By { get; init; }

    /// <summary>What it is about; empty for nothing.</summary>
    public string Notes { get; init; } = "";

    /// <summary>The language that is spoken in it (RFC 5646); null for the site's.</summary>
    public string? Language { get; init; }

    /// <summary>The way to its picture in its folder; null for none.</summary>
    public string? Picture { get; init; }

    /// <summary>Its episodes, the newest first.</summary>
    public IReadOnlyList<EpisodeFile> Episodes { get; init; } = [];

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>The item.</summary>
    public ItemId Item => new(ItemKind.Show, Key);

    /// <summary>
    /// The folder of its files, beneath the one that holds those of all folders: hidden there, so that none of them, whatever it opens by, leads to it.
    /// </summary>
    public string Folder => ".shows/" + Key;

    /// <summary>What has to be allowed to listen.</summary>
    public const Acts Listening = Acts.Open | Acts.Listen;

    /// <summary>The episodes that are out and that somebody may listen to, the newest first.</summary>
    public IEnumerable<EpisodeFile> HeardBy(Policy policy, Visitor visitor, DateTimeOffset now) => Episodes.Where(e => Lets(policy, visitor, e, now));

    /// <summary>Whether an episode is out and somebody may listen to it.</summary>
    public static bool Lets(Policy policy, Visitor visitor, EpisodeFile episode, DateTimeOffset now) =>
        episode.At <= now && policy.Graph.PlaceOf(episode.Item) >= 0 && policy.Allows(visitor, episode.Item, Listening, now);

    /// <summary>Whether somebody may listen to the show and a guest may not.</summary>
    public bool IsTheirs(Policy policy, Visitor visitor, DateTimeOffset now) => policy.Graph.PlaceOf(Item) >= 0
        && policy.Allows(visitor, Item, Listening, now) && !policy.Allows(Visitor.Guest, Item, Listening, now);
}

/// <summary>The shows of a policy. Immutable.</summary>
public sealed record ShowBook : IPolicyPart
{
    /// <summary>None.</summary>
    public ShowBook()
    {
    }

    /// <summary>Some.</summary>
    public ShowBook(IEnumerable<Show> all) => All = [.. all.OrderBy(s => s.Key, StringComparer.Ordinal)];

    /// <summary>All of them, by key.</summary>
    public IReadOnlyList<Show> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <inheritdoc/>
    public string? Holding(ItemId id) => All.FirstOrDefault(s => s.Item == id || s.Episodes.Any(e => e.Item == id)) is { } show ? "show " + show.Key : null;

    /// <summary>The show of that name, or null.</summary>
    public Show? Find(string key) => All.FirstOrDefault(s => s.Key == key);

    /// <summary>The show and the episode that an item is; null where it has no file here.</summary>
    public (Show Show, EpisodeFile Episode)? OfEpisode(ItemId id)
    {
        foreach (var show in All)
        {
            if (show.Episodes.FirstOrDefault(e => e.Item == id) is { } episode)
            {
                return (show, episode);
            }
        }

        return null;
    }

    /// <summary>Those of a policy.</summary>
    public static ShowBook Of(Policy policy) => policy.Parts.Of<ShowBook>();
}

/// <summary>Stores a show.</summary>
public sealed record ShowPut(Show Show) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new ShowBook(draft.Part<ShowBook>().All.Where(s => s.Key != Show.Key).Append(Show)));
}

/// <summary>Drops a show. Its files stay where they are, and its feeds say nothing any more.</summary>
public sealed record ShowDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new ShowBook(draft.Part<ShowBook>().All.Where(s => s.Key != Key)));
}

/// <summary>A file of a show is there, another, or gone: on the disk already, so that nothing is to be stored but that it happened.</summary>
public sealed record ShowFileChanged(string Key, string Path) : Change.OfPeople;
