using System.Xml;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Files;

/// <summary>An area as people write it.</summary>
public sealed record AreaDraft
{
    /// <summary>The names of who gets in.</summary>
    public static readonly IReadOnlyList<string> Ways = ["gate", "address"];

    private const int LongestTitle = 300;
    private static readonly TimeSpan UsualOverlap = TimeSpan.FromDays(1);
    private static readonly TimeSpan MostOverlap = TimeSpan.FromDays(366);

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>What people call it; the title of the item unless said.</summary>
    public string? Title { get; init; }

    /// <summary>The item, such as <c>download:sky-atlas</c>.</summary>
    public string? Item { get; init; }

    /// <summary>The folder; that of its key unless said.</summary>
    public string? Folder { get; init; }

    /// <summary><c>gate</c> unless said.</summary>
    public string? Opens { get; init; }

    /// <summary>How long an address lasts (ISO 8601); until it is changed by hand unless said.</summary>
    public string? Every { get; init; }

    /// <summary>How long an address still works beside the next (ISO 8601); a day unless said.</summary>
    public string? Overlap { get; init; }

    /// <summary>The draft that says what an area says.</summary>
    public static AreaDraft Of(Area area) => new()
    {
        Key = area.Key, Title = area.Title, Item = area.Item.ToString(), Folder = area.Folder, Opens = Ways[(int)area.Opens], Every = area.Every?.ToString(),
        Overlap = area.Every is null ? null : XmlConvert.ToString(area.Overlap),
    };

    /// <summary>Reads the draft against a policy, or gives every fault found in it.</summary>
    /// <param name="policy">Knows the items; null where an area that is stored is read.</param>
    /// <param name="now">When its addresses begin.</param>
    public Outcome<Area> Read(Policy? policy, DateTimeOffset now)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var item = ReadItem(policy, faults);
        var title = PlainText.OrNull(Title) ?? (item is { } of ? policy?.Graph.Find(of)?.Title : null) ?? Key ?? "";
        faults.Unless(title.Length <= LongestTitle && PlainText.IsClean(title), "title", "page-title", LongestTitle);
        var folder = PlainText.OrNull(Folder)?.Trim('/') ?? Key ?? "";
        faults.Unless(AreaPath.TryRead(folder, out _), "folder", "area-folder", Folder);
        var opens = string.IsNullOrWhiteSpace(Opens) ? 0 : Ways.ToList().IndexOf(Opens.Trim());
        faults.Unless(opens >= 0, "opens", "not-one-of", Opens, string.Join(", ", Ways));
        PlanLength? every = null;
        faults.Unless(string.IsNullOrWhiteSpace(Every) || PlanLength.TryParse(Every, out every), "every", "plan-length", Every);
        var overlap = ReadOverlap(faults);
        faults.Unless(
            every is null || Overlap is null || now + overlap <= new SiteDates("UTC").After(now, every, 1), "overlap", "area-overlap-long");
        return faults.Any ? faults.ToProblem() : new Area
        {
            Key = Key!, Title = title, Item = item!.Value, Folder = folder, Opens = (AreaOpens)opens, Every = every,
            Overlap = every is null ? TimeSpan.Zero : overlap, Run = default, Since = now,
        };
    }

    private ItemId? ReadItem(Policy? policy, Faults faults)
    {
        if (!ItemId.TryParse(Item ?? "", out var id))
        {
            faults.Bad("item", "area-item", Item);
            return null;
        }

        if (policy is null || policy.Graph.Find(id) is not null)
        {
            return id;
        }

        UnknownItem.Tell(faults, "item", id, policy.Graph);
        return null;
    }

    private TimeSpan ReadOverlap(Faults faults)
    {
        if (string.IsNullOrWhiteSpace(Overlap))
        {
            return UsualOverlap;
        }

        try
        {
            var read = XmlConvert.ToTimeSpan(Overlap.Trim());
            faults.Unless(read >= TimeSpan.Zero && read <= MostOverlap, "overlap", "area-overlap", Overlap);
            return read;
        }
        catch (Exception fault) when (fault is FormatException or OverflowException)
        {
            faults.Bad("overlap", "area-overlap", Overlap);
            return UsualOverlap;
        }
    }
}
