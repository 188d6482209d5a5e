using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Tests.Access;

/// <summary>The decision rules again, plain and slow: every upward route is walked, one by one.</summary>
internal sealed class Reference(IReadOnlyList<Item> items, IReadOnlyList<Gate> gates, PathRules rules)
{
    public bool Allows(Visitor visitor, Item item, Acts act, DateTimeOffset now) =>
        Applying(item, now).All(g => (g.Guards & act) == 0 || g.Audience.Admits(visitor, g.Key, now));

    public bool AllowsPath(Visitor visitor, RequestPath path, DateTimeOffset now)
    {
        var exact = items.Where(i => i.Addresses.Any(a => !a.IsPattern && a.Matches(path, rules))).ToList();
        var byPair = exact.Where(i => i.Addresses.Any(a => !a.IsPattern && a.Pairs.Count > 0 && a.Matches(path, rules))).ToList();
        exact = byPair.Count > 0 ? byPair : exact;
        var byPattern = exact.Count == 0;
        if (byPattern)
        {
            var longest = items.SelectMany(i => i.Addresses).Where(a => a.IsPattern && a.Matches(path, rules)).Select(a => a.LiteralPrefix).DefaultIfEmpty(-1).Max();
            exact = [.. items.Where(i => i.Addresses.Any(a => a.IsPattern && a.LiteralPrefix == longest && a.Matches(path, rules)))];
        }

        var applying = new List<Gate>();
        foreach (var gate in Requirements(now))
        {
            foreach (var item in exact)
            {
                var ways = Ways(item, gate, now).ToList();
                if (ways.Exists(w => w != ItemId.Site) || (ways.Count > 0 && !ExemptPattern(path, 0, now)))
                {
                    applying.Add(gate);
                }

                if (!byPattern && !IsExempt(item, now) && item.Addresses.Any(a => !a.IsPattern && PathReaches(gate, a, now)))
                {
                    applying.Add(gate);
                }
            }

            if (exact.Count == 0 && !gate.ItemOnly && gate.Covers.Any(c => c.Item == ItemId.Site) && !ExemptPattern(path, 0, now))
            {
                applying.Add(gate);
            }

            var allExempt = exact.Count > 0 && exact.TrueForAll(i => IsExempt(i, now));
            if (!allExempt && gate.Covers.Any(c => c.Path is { } p && p.Matches(path, rules) && !ExemptPattern(path, p.LiteralPrefix, now)))
            {
                applying.Add(gate);
            }
        }

        return applying.TrueForAll(g => (g.Guards & Acts.Open) == 0 || g.Audience.Admits(visitor, g.Key, now));
    }

    private IEnumerable<Gate> Applying(Item item, DateTimeOffset now)
    {
        foreach (var gate in Requirements(now))
        {
            var ways = Ways(item, gate, now).ToList();
            var addressesExempt = item.Addresses.Count > 0 && item.Addresses.All(a => Exemptions(now).SelectMany(e => e.Covers).Any(c => c.Path is { } p && p.LiteralPrefix > 0 && p.Covers(a, rules)));
            if (ways.Exists(w => w != ItemId.Site || item.Id == ItemId.Site) || (ways.Count > 0 && !addressesExempt)
                || (!IsExempt(item, now) && item.Addresses.Any(a => PathReaches(gate, a, now))))
            {
                yield return gate;
            }
        }
    }

    /// <summary>The items bearing the gate to which some upward route leads without meeting an exemption before.</summary>
    private IEnumerable<ItemId> Ways(Item start, Gate gate, DateTimeOffset now)
    {
        var bears = gate.Covers.Where(c => c.Item is not null).Select(c => c.Item!.Value).ToHashSet();
        return Walk(start, true);

        IEnumerable<ItemId> Walk(Item at, bool isStart)
        {
            if (bears.Contains(at.Id) && (isStart || !gate.ItemOnly))
            {
                yield return at.Id;
            }

            if (Exemptions(now).Any(e => e.Covers.Any(c => c.Item == at.Id) && (isStart || !e.ItemOnly)))
            {
                yield break;
            }

            foreach (var found in Parents(at).SelectMany(p => Walk(p, false)))
            {
                yield return found;
            }
        }
    }

    private IEnumerable<Item> Parents(Item item)
    {
        if (item.Id == ItemId.Site)
        {
            return [];
        }

        var named = items.Where(i => item.Parents.Contains(i.Id));
        var implied = items.Where(i => i != item && i.Id != ItemId.Site && item.Addresses.Any(a => !a.IsPattern && i.Addresses.Any(p => p.IsPattern && p.Covers(a, rules))));
        var all = named.Concat(implied).Distinct().ToList();
        return all.Count > 0 ? all : items.Where(i => i.Id == ItemId.Site);
    }

    private IEnumerable<Gate> Requirements(DateTimeOffset now) => gates.Where(g => !g.IsExemption && g.IsInForce(now));

    private IEnumerable<Gate> Exemptions(DateTimeOffset now) => gates.Where(g => g.IsExemption && g.IsInForce(now));

    private bool IsExempt(Item item, DateTimeOffset now) => Exemptions(now).Any(e => e.Covers.Any(c => c.Item == item.Id));

    private bool ExemptPattern(RequestPath path, int longerThan, DateTimeOffset now) =>
        Exemptions(now).SelectMany(e => e.Covers).Any(c => c.Path is { } p && p.LiteralPrefix > longerThan && p.Matches(path, rules));

    private bool PathReaches(Gate gate, Address address, DateTimeOffset now) => gate.Covers.Any(c => c.Path is { } p && p.Covers(address, rules)
        && !Exemptions(now).SelectMany(e => e.Covers).Any(x => x.Path is { } e && e.LiteralPrefix > p.LiteralPrefix && e.Covers(address, rules)));
}
