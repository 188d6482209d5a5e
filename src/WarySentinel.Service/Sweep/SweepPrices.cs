using System.Collections.Concurrent;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Prices of an item that stand somewhere and are closed to whoever read them.</summary>
/// <param name="Address">Where they stand.</param>
/// <param name="As">Who read them.</param>
/// <param name="Via">The way.</param>
/// <param name="About">The item.</param>
/// <param name="Amounts">The prices, as they stand there.</param>
/// <param name="IsCut">Whether others of that item that the site says there were taken out.</param>
internal sealed record ShownPrices(string Address, string As, SweepVia Via, string About, IReadOnlyList<string> Amounts, bool IsCut);

/// <summary>
/// Reads what outsiders get for prices that are closed to them. A shop may say one price to all and another to the trade: what is left where one was taken
/// out, and what a price list says to everybody, is no secret.
/// </summary>
internal sealed class SweepPrices(SweepSite site)
{
    private static readonly HashSet<ItemKind> Sold = [ItemKind.Product, ItemKind.Download, ItemKind.Episode, ItemKind.Page];
    private readonly ConcurrentQueue<ShownPrices> all = [];

    /// <summary>Whether a gate closes the price of anything that it leaves open.</summary>
    private readonly bool isNeeded = site.Policy.Gates.Any(
        g => !g.IsExemption && g.IsInForce(site.Now) && g.Guards.HasFlag(Acts.Price) && !g.Guards.HasFlag(Acts.Open));

    /// <summary>Whether any stand in a text.</summary>
    public bool HasAny(SweepProbe probe, SweepTarget target, string text) => isNeeded && ShownIn(target, text, i => IsClosed(probe, i)).Count > 0;

    /// <summary>Those that stand in a text.</summary>
    /// <param name="probe">Who got it.</param>
    /// <param name="target">Where.</param>
    /// <param name="via">The way.</param>
    /// <param name="text">What they got.</param>
    /// <param name="whole">What the site itself says there, where that is known.</param>
    public IReadOnlyList<ShownPrices> In(SweepProbe probe, SweepTarget target, SweepVia via, string text, string? whole)
    {
        if (!isNeeded)
        {
            return [];
        }

        var said = whole is null ? [] : ByItem(ShownIn(target, whole, i => IsClosed(probe, i)));
        return [.. ByItem(ShownIn(target, text, i => IsClosed(probe, i))).Select(shown => new ShownPrices(
            target.Address, probe.As.Key, via, shown.Key.ToString(), shown.Value, said.GetValueOrDefault(shown.Key)?.Count > shown.Value.Count))];
    }

    /// <summary>Takes in what was read.</summary>
    public void Note(ShownPrices shown) => all.Enqueue(shown);

    /// <summary>What it found.</summary>
    public IEnumerable<SweepFinding> Findings()
    {
        var open = all.Where(s => s.IsCut).SelectMany(s => s.Amounts.Select(a => (s.About, Value: ClosedPrices.ValueOf(a)))).ToHashSet();
        foreach (var page in all.Where(s => !s.IsCut).GroupBy(s => (s.Address, s.As, s.Via)))
        {
            var visitor = site.Probes.First(p => p.As.Key == page.Key.As).As.Visitor;
            var closed = page.SelectMany(s => s.Amounts.Where(a => !open.Contains((s.About, ClosedPrices.ValueOf(a))))
                    .Select(a => new ShownPrice(ItemOf(s.About), a)))
                .Where(s => ListedFor(visitor, s.Item) != ClosedPrices.ValueOf(s.Amount)).Distinct().ToList();
            if (closed.Count > 0)
            {
                var target = new SweepTarget(page.Key.Address, null, false);
                yield return SweepRules.Priced(site.Policy, visitor, page.Key.As, target, page.Key.Via, closed, site.Now);
            }
        }
    }

    /// <summary>What a price list says to somebody that an item costs.</summary>
    private decimal? ListedFor(Visitor visitor, ItemId item) => PriceBook.Of(site.Policy)
        .For(site.Policy.Graph, item, 1, null, site.Now, list => list.Audience.Admits(visitor, "", site.Now)) is { } price
            ? ClosedPrices.ValueOf(price.Unit.Amount) : null;

    private bool IsClosed(SweepProbe probe, ItemId item) =>
        site.Policy.Allows(probe.As.Visitor, item, Acts.Open, site.Now) && !site.Policy.Allows(probe.As.Visitor, item, Acts.Price, site.Now);

    private IReadOnlyList<ShownPrice> ShownIn(SweepTarget target, string text, Func<ItemId, bool> isClosed)
    {
        ItemId? ItemAt(string href) => SweepLinks.At(href, target.Address, site.Hosts) is { } address && site.PathOf(address) is { } path
            ? site.Policy.ItemsAt(path).FirstOrDefault(i => Sold.Contains(i.Id.Kind))?.Id : null;
        ItemId? ItemOf(string value) => site.Policy.Graph.WithKey(value).Where(i => i.Kind == ItemKind.Product).Select(i => (ItemId?)i).FirstOrDefault();
        return ClosedPrices.In(text, target.Item, ItemAt, ItemOf, isClosed);
    }

    private static Dictionary<ItemId, IReadOnlyList<string>> ByItem(IReadOnlyList<ShownPrice> shown) =>
        shown.GroupBy(s => s.Item).ToDictionary(g => g.Key, g => (IReadOnlyList<string>)[.. g.Select(s => s.Amount).Distinct(StringComparer.Ordinal)]);

    private static ItemId ItemOf(string about) => ItemId.TryParse(about, out var id) ? id : ItemId.Site;
}
