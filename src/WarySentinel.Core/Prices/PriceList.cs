using System.Collections.Frozen;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>One line of a price list: a price, or so many percent off the usual one.</summary>
/// <param name="Item">The item, with all beneath it that has no nearer line.</param>
/// <param name="Quantity">From which quantity on, 1 or more.</param>
/// <param name="Units">The price of one, in the smallest unit of the list's currency; null where it is reckoned.</param>
/// <param name="Off">Percent off the usual price; null where the price is fixed.</param>
public sealed record PriceLine(ItemId Item, int Quantity, long? Units, decimal? Off);

/// <summary>What things cost for an audience (docs/how-to/prices.md).</summary>
public sealed record PriceList
{
    private FrozenDictionary<ItemId, PriceLine[]>? byItem;

    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>What people call it.</summary>
    public required string Title { get; init; }

    /// <summary>Whom it is for. That of everybody says the usual prices.</summary>
    public required Audience Audience { get; init; }

    /// <summary>The currency (ISO 4217).</summary>
    public required string Currency { get; init; }

    /// <summary>Since when it counts; null for always.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>Until when it counts; null for always.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>What reckoned prices are whole multiples of, in the smallest unit of the currency.</summary>
    public int Step { get; init; } = 1;

    /// <summary>Its lines.</summary>
    public required IReadOnlyList<PriceLine> Lines { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether it is for everybody: it says the usual prices.</summary>
    public bool IsUsual => Audience is Audience.Plain { Atom: PlainAtom.Anyone };

    /// <summary>Whether it counts at a time.</summary>
    public bool IsInForce(DateTimeOffset now) => (From is null || From <= now) && (Until is null || now < Until);

    /// <summary>The lines of an item itself, largest quantity first; none where it has none.</summary>
    internal IReadOnlyList<PriceLine> LinesOf(ItemId item) => (byItem ??= Lines.GroupBy(l => l.Item)
        .ToFrozenDictionary(g => g.Key, g => g.OrderByDescending(l => l.Quantity).ToArray())).TryGetValue(item, out var found) ? found : [];

    /// <inheritdoc/>
    public bool Equals(PriceList? other) => other is not null && Key == other.Key && Title == other.Title && Audience.Equals(other.Audience)
        && Currency == other.Currency && From == other.From && Until == other.Until && Step == other.Step && Version == other.Version
        && Lines.SequenceEqual(other.Lines);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Key, Version, Lines.Count);
}

/// <summary>What one of an item costs somebody.</summary>
/// <param name="Unit">The price of one.</param>
/// <param name="Usual">What everybody pays, where a list says so.</param>
/// <param name="List">The key of the list that says it.</param>
public sealed record Price(Money Unit, Money? Usual, string List);

/// <summary>The price lists of a policy. Immutable.</summary>
public sealed record PriceBook : IPolicyPart
{
    /// <summary>None.</summary>
    public PriceBook()
    {
    }

    /// <summary>Some.</summary>
    public PriceBook(IEnumerable<PriceList> all) => All = [.. all.OrderBy(l => l.Key, StringComparer.Ordinal)];

    /// <summary>All of them, by key.</summary>
    public IReadOnlyList<PriceList> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => All.Select(l => new NamedAudience("price", l.Key, l.Audience));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var mapped = All.Select(l => map(l.Audience) is var audience && ReferenceEquals(audience, l.Audience) ? l : l with { Audience = audience }).ToList();
        return mapped.Zip(All, ReferenceEquals).All(same => same) ? this : new PriceBook(mapped);
    }

    /// <summary>The list of that name, or null.</summary>
    public PriceList? Find(string key) => All.FirstOrDefault(l => l.Key == key);

    /// <summary>Those of a policy.</summary>
    public static PriceBook Of(Policy policy) => policy.Parts.Of<PriceBook>();

    /// <summary>
    /// What one of an item costs: the lowest that a list says which admits the visitor; within a list the line of the item itself counts, else that of the
    /// nearest of its ancestors (of several as near, the lowest). Null where no list says anything. Whether the visitor may know it is for the gates to say.
    /// </summary>
    /// <param name="graph">Knows what an item stands beneath.</param>
    /// <param name="item">The item.</param>
    /// <param name="quantity">How many are bought.</param>
    /// <param name="currency">In which currency; null for that of the usual price, or else the first by its code.</param>
    /// <param name="now">The time.</param>
    /// <param name="admits">Whether a list admits the visitor; asked of lists that have something to say of the item.</param>
    public Price? For(CatalogueGraph graph, ItemId item, int quantity, string? currency, DateTimeOffset now, Func<PriceList, bool> admits)
    {
        if (All.Count == 0 || quantity < 1 || graph.PlaceOf(item) is not (>= 0 and var place))
        {
            return null;
        }

        var levels = LevelsAbove(graph, place);
        var said = All.Where(l => l.IsInForce(now) && (currency is null || l.Currency == currency))
            .Select(list => (List: list, Lines: NearestIn(list, levels, quantity))).Where(s => s.Lines.Count > 0).ToList();
        var usual = said.Where(s => s.List.IsUsual)
            .SelectMany(s => s.Lines.Where(l => l.Units is not null).Select(l => new Money(l.Units!.Value, s.List.Currency)))
            .GroupBy(m => m.Currency).ToDictionary(g => g.Key, g => g.MinBy(m => m.Units), StringComparer.Ordinal);
        var told = said.Where(s => s.List.IsUsual || admits(s.List)).SelectMany(s => s.Lines.Select(l => (s.List, Unit: UnitOf(s.List, l, usual))))
            .Where(t => t.Unit is not null).ToList();
        if (told.Count == 0)
        {
            return null;
        }

        var wanted = currency ?? (usual.Count > 0 ? usual.Keys.Min(StringComparer.Ordinal) : told.Select(t => t.List.Currency).Min(StringComparer.Ordinal))!;
        var best = told.Where(t => t.List.Currency == wanted).MinBy(t => t.Unit);
        return best.List is null ? null
            : new Price(new Money(best.Unit!.Value, wanted), usual.TryGetValue(wanted, out var everybodys) ? everybodys : null, best.List.Key);
    }

    private static long? UnitOf(PriceList list, PriceLine line, Dictionary<string, Money> usual) => line.Units
        ?? (usual.TryGetValue(list.Currency, out var from) ? Money.Rounded(from.Units * (100 - line.Off!.Value) / 100, list.Step) : null);

    /// <summary>The lines that count in a list: one of the item itself, or of each of the nearest ancestors that have any.</summary>
    private static List<PriceLine> NearestIn(PriceList list, List<List<ItemId>> levels, int quantity)
    {
        foreach (var level in levels)
        {
            var found = level.Select(i => list.LinesOf(i).FirstOrDefault(l => l.Quantity <= quantity)).OfType<PriceLine>().ToList();
            if (found.Count > 0)
            {
                return found;
            }
        }

        return [];
    }

    /// <summary>An item, its parents, theirs, and so on: each once, at its least distance.</summary>
    private static List<List<ItemId>> LevelsAbove(CatalogueGraph graph, int place)
    {
        var (levels, seen, level) = (new List<List<ItemId>>(), new HashSet<int> { place }, new List<int> { place });
        while (level.Count > 0)
        {
            levels.Add([.. level.Select(p => graph.Items[p].Id)]);
            level = [.. level.SelectMany(graph.ParentsOf).Where(seen.Add)];
        }

        return levels;
    }
}

/// <summary>Stores a price list.</summary>
public sealed record PriceListPut(PriceList List) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new PriceBook(draft.Part<PriceBook>().All.Where(l => l.Key != List.Key).Append(List)));
}

/// <summary>Drops a price list.</summary>
public sealed record PriceListDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new PriceBook(draft.Part<PriceBook>().All.Where(l => l.Key != Key)));
}
