using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Files;

/// <summary>Who gets into an area.</summary>
public enum AreaOpens
{
    /// <summary>Whom the gates of its item let have it, and nobody else, whatever address they know.</summary>
    Gate,
    /// <summary>Whoever has its present address, signed in or not.</summary>
    Address,
}

/// <summary>
/// A folder of files behind one address that nobody can guess, and that changes. The address is kept nowhere: it is reckoned from what stands here and the
/// service's secret, so that every machine knows it, and none has to be told when it changes (docs/how-to/folders.md).
/// </summary>
public sealed record Area
{
    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>What people call it.</summary>
    public required string Title { get; init; }

    /// <summary>The item whose files they are.</summary>
    public required ItemId Item { get; init; }

    /// <summary>The folder, beneath the one that holds all of them; its parts joined by slashes.</summary>
    public required string Folder { get; init; }

    /// <summary>Who gets in.</summary>
    public AreaOpens Opens { get; init; }

    /// <summary>How long an address lasts; null for until it is changed by hand.</summary>
    public PlanLength? Every { get; init; }

    /// <summary>How long an address still works when the next one is there.</summary>
    public TimeSpan Overlap { get; init; }

    /// <summary>Stands for the run of addresses; another makes all of them others.</summary>
    public required Guid Run { get; init; }

    /// <summary>When the address of number <see cref="First"/> began.</summary>
    public required DateTimeOffset Since { get; init; }

    /// <summary>The number of the address that began at <see cref="Since"/>.</summary>
    public int First { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>What has to be allowed to have its files.</summary>
    public Acts Acts => Item.Kind switch
    {
        ItemKind.Download => Acts.Open | Acts.Download,
        ItemKind.Episode => Acts.Open | Acts.Listen,
        _ => Acts.Open,
    };

    /// <summary>The address that is the present one at a time.</summary>
    /// <param name="dates">Knows the site's time zone.</param>
    /// <param name="now">The time.</param>
    public AreaTerm TermAt(SiteDates dates, DateTimeOffset now)
    {
        if (Every is null || now <= Since)
        {
            return new AreaTerm(First, Since, Every is null ? null : dates.After(Since, Every, 1));
        }

        // A day is the shortest length there is, a leap of the clocks shortens one by an hour or two.
        var (low, high) = (0, Math.Min((int)Math.Min((now - Since).TotalDays + 2, int.MaxValue / 2), MostTerms));
        while (low < high)
        {
            var middle = low + ((high - low + 1) / 2);
            (low, high) = dates.After(Since, Every, middle) <= now ? (middle, high) : (low, middle - 1);
        }

        return new AreaTerm(First + low, dates.After(Since, Every, low), dates.After(Since, Every, low + 1));
    }

    /// <summary>The number of the address before the present one, where it still works, and until when; null where it does not.</summary>
    public (int Number, DateTimeOffset Until)? StillAt(SiteDates dates, DateTimeOffset now)
    {
        var term = TermAt(dates, now);
        return term.Number > 0 && now < term.From + Overlap ? (term.Number - 1, term.From + Overlap) : null;
    }

    /// <summary>Until when the present address leads to the area: beyond its end by the overlap; null for until it is changed by hand.</summary>
    public DateTimeOffset? WorksUntil(SiteDates dates, DateTimeOffset now) => TermAt(dates, now).Until + Overlap;

    /// <summary>What an address is made from, with the service's secret.</summary>
    /// <param name="number">Which address of the run.</param>
    public string Named(int number) => $"area {Key} {Run:N} {number}";

    private const int MostTerms = 4_000_000;
}

/// <summary>An address of an area: which, and from when to when it is the present one.</summary>
/// <param name="Number">Counts the addresses of a run, from 0.</param>
/// <param name="From">Since when it is the present one.</param>
/// <param name="Until">When the next one takes its place; null for not by itself.</param>
public readonly record struct AreaTerm(int Number, DateTimeOffset From, DateTimeOffset? Until);

/// <summary>The areas of a policy. Immutable.</summary>
public sealed record AreaBook : IPolicyPart
{
    /// <summary>None.</summary>
    public AreaBook()
    {
    }

    /// <summary>Some.</summary>
    public AreaBook(IEnumerable<Area> all) => All = [.. all.OrderBy(a => a.Key, StringComparer.Ordinal)];

    /// <summary>All of them, by key.</summary>
    public IReadOnlyList<Area> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <inheritdoc/>
    public string? Holding(ItemId id) => All.FirstOrDefault(a => a.Item == id) is { } area ? "folder " + area.Key : null;

    /// <summary>The area of that name, or null.</summary>
    public Area? Find(string key) => All.FirstOrDefault(a => a.Key == key);

    /// <summary>Those of a policy.</summary>
    public static AreaBook Of(Policy policy) => policy.Parts.Of<AreaBook>();
}

/// <summary>Stores an area.</summary>
public sealed record AreaPut(Area Area) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new AreaBook(draft.Part<AreaBook>().All.Where(a => a.Key != Area.Key).Append(Area)));
}

/// <summary>Drops an area. Its files stay where they are.</summary>
public sealed record AreaDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new AreaBook(draft.Part<AreaBook>().All.Where(a => a.Key != Key)));
}

/// <summary>A file of an area is there, another, or gone: on the disk already, so that nothing is to be stored but that it happened.</summary>
public sealed record AreaFileChanged(string Key, string Path) : Change.OfPeople;
