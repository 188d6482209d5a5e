using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>Something stored that cannot be read, and what has to be closed for it.</summary>
/// <param name="Kind">What it is: <c>gate</c>, <c>item</c>, <c>settings</c> …</param>
/// <param name="Key">Its name.</param>
/// <param name="Reason">What is wrong, in a sentence.</param>
/// <param name="Covered">What it covered, or may have: closed to everybody but staff until it is mended.</param>
public sealed record StoredFault(string Kind, string Key, Wording Reason, IReadOnlyList<Selector> Covered)
{
    /// <summary>A fault that leaves nothing unguarded.</summary>
    public static StoredFault Harmless(string kind, string key, Wording reason) => new(kind, key, reason, []);

    /// <summary>A fault of something that may have covered anything.</summary>
    public static StoredFault OfSite(string kind, string key, Wording reason) => new(kind, key, reason, [new Selector(ItemId.Site, null)]);

    /// <summary>What to do about it.</summary>
    public Wording Mend => Wording.Of(Words.Has("mend." + Kind) ? "mend." + Kind : "mend.other", Key);
}

/// <summary>
/// Makes a policy of whatever is stored: what cannot be read, or does not fit together, never keeps the service from starting;
/// it closes what it covered until somebody mends it.
/// </summary>
public static class Salvage
{
    /// <summary>The policy, and everything that is wrong with what is stored.</summary>
    public static (Policy Policy, IReadOnlyList<StoredFault> Faults) Build(
        IReadOnlyList<Item> items, IReadOnlyList<Gate> gates, IReadOnlyList<FactDefinition> standings, SiteSettings settings, PolicyParts parts,
        IReadOnlyList<StoredFault> already)
    {
        var faults = new List<StoredFault>(already);
        if (faults.Count == 0 && Policy.Build(items, gates, standings, settings, parts) is { IsGood: true, Value: var sound })
        {
            // The usual case, looked at once: everything fits together.
            return (sound, faults);
        }

        var whole = Fitting(items, settings.Paths, faults);
        var standIns = faults.Where(f => f.Covered.Count > 0 && f.Kind != "gate").Select(StandIn).ToList();
        var built = Policy.Build(whole, gates.Concat(standIns), standings, settings, parts);
        if (built.Problem is not { } problem)
        {
            return (built.Value, faults);
        }

        // Nothing of the catalogue can be told apart: all is closed, and nothing is exempt from that.
        faults.Add(StoredFault.OfSite("catalogue", "catalogue", problem.Detail));
        return (Policy.Build([], gates.Where(g => !g.IsExemption).Append(StandIn(faults[^1], 0)), standings, settings, parts).Value, faults);
    }

    /// <summary>A gate that could not be read, as it stands until it is mended: it admits nobody.</summary>
    public static Gate Closed(Gate gate, Wording reason) =>
        gate with { Audience = new Audience.Plain(PlainAtom.Nobody), Enabled = true, From = null, Until = null, Answer = Answer.Message, Unreadable = reason };

    /// <summary>What closes the pages of an address that cannot be read: its longest beginning that can.</summary>
    public static Selector Beginning(string address)
    {
        var path = address.Split('?')[0];
        for (var end = path.LastIndexOf('/'); end > 0; end = path.LastIndexOf('/', end - 1))
        {
            if (Address.TryParse(path[..end] + "/**", out var pattern, out _))
            {
                return new Selector(null, pattern);
            }
        }

        return new Selector(ItemId.Site, null);
    }

    private static Gate StandIn(StoredFault fault, int number) => new()
    {
        Key = $"unreadable-{number + 1}",
        Title = Words.Of("mend.stand-in", fault.Kind, fault.Key),
        Covers = fault.Covered,
        Audience = new Audience.Plain(PlainAtom.Nobody),
        Answer = Answer.Message,
        Unreadable = fault.Reason,
        StandsIn = true,
    };

    /// <summary>The items that fit together: one with a missing parent, and those of a ring, stay and are closed.</summary>
    private static List<Item> Fitting(IReadOnlyList<Item> items, PathRules rules, List<StoredFault> faults)
    {
        var byId = new Dictionary<ItemId, Item>();
        foreach (var item in items)
        {
            byId[item.Id] = item;
        }

        foreach (var item in byId.Values.ToList())
        {
            var missing = item.Parents.Where(p => p != ItemId.Site && !byId.ContainsKey(p)).ToList();
            if (missing.Count > 0)
            {
                byId[item.Id] = item with { Parents = [.. item.Parents.Except(missing)] };
                var reason = Wording.Of("problem.parent-missing", item.Id, missing[0]);
                faults.Add(new StoredFault("item", item.Id.ToString(), reason, [new Selector(item.Id, null)]));
            }
        }

        foreach (var ring in CatalogueGraph.RingsAmong(byId.Values, rules))
        {
            foreach (var id in ring)
            {
                var old = byId[id];
                byId[id] = old with { Parents = [], Addresses = [] };
                faults.Add(new StoredFault(
                    "item", id.ToString(), Wording.Of("problem.item-cycle", Rings.Told(ring)),
                    [new Selector(id, null), .. old.Addresses.Select(a => new Selector(null, a))]));
            }
        }

        return [.. byId.Values];
    }
}
