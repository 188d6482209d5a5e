using System.Diagnostics;
using System.Globalization;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;

namespace WarySentinel.Bench;

/// <summary>Decisions, listings and snapshot rebuilds at three sizes, in one process.</summary>
internal static class Decisions
{
    private static readonly DateTimeOffset Now = DateTimeOffset.UtcNow;

    public static void Run()
    {
        Console.WriteLine("items     gates   decision ns (min/med/max)   bytes each   list all ms   build ms   first decision after a gate change ms");
        foreach (var (items, gates, groups) in new[] { (1_000, 50, 100), (10_000, 300, 1_000), (100_000, 2_000, 10_000) })
        {
            Measure(items, gates, groups);
        }
    }

    private static void Measure(int count, int gates, int groups)
    {
        var random = new Random(1);
        var items = new List<Item>();
        var branches = Math.Max(20, count / 50);
        for (var n = 0; n < branches; n++)
        {
            items.Add(new Item(new ItemId(ItemKind.Category, "c" + n), "Category", n < 20 ? []
                : [new ItemId(ItemKind.Category, "c" + random.Next(n / 2))], []));
        }

        while (items.Count < count)
        {
            var n = items.Count;
            items.Add(new Item(new ItemId(ItemKind.Product, "p" + n), "Product", [new ItemId(ItemKind.Category, "c" + random.Next(branches))],
                [Address.Parse("/p/" + n.ToString(CultureInfo.InvariantCulture))]));
        }

        var rules = Enumerable.Range(0, gates).Select(n => new Gate
        {
            Key = "g" + n,
            Title = "Gate",
            Covers = [new Selector(items[20 + random.Next(items.Count - 20)].Id, null)],
            Audience = AudienceParser.Parse($"group:k{random.Next(groups)} or group:k{random.Next(groups)} or role:dealer").Value,
            Presence = n % 2 == 0 ? Presence.Hidden : Presence.Listed,
        }).ToList();
        var visitor = new Visitor { IsSignedIn = true, Grants = [.. Enumerable.Range(0, 8).Select(_ => new Grant(FactKind.Group, "k" + random.Next(groups)))] };

        var building = Stopwatch.GetTimestamp();
        var policy = Policy.Build(items, rules, [], new SiteSettings()).Value;
        policy.Pin(Now);
        var built = Stopwatch.GetElapsedTime(building).TotalMilliseconds;

        var places = Enumerable.Range(0, 65_536).Select(_ => random.Next(policy.Graph.Items.Count)).ToArray();
        var runs = new List<double>();
        var open = 0;
        long bytes = 0;
        for (var run = 0; run < 15; run++)
        {
            var before = GC.GetAllocatedBytesForCurrentThread();
            var began = Stopwatch.GetTimestamp();
            foreach (var place in places)
            {
                open += policy.Allows(visitor, place, Acts.Open, Now) ? 1 : 0;
            }

            runs.Add(Stopwatch.GetElapsedTime(began).TotalNanoseconds / places.Length);
            bytes = (GC.GetAllocatedBytesForCurrentThread() - before) / places.Length;
        }

        runs = [.. runs.Skip(5).Order()];
        var lists = new List<double>();
        for (var run = 0; run < 7; run++)
        {
            var began = Stopwatch.GetTimestamp();
            var listed = 0;
            for (var place = 0; place < policy.Graph.Items.Count; place++)
            {
                listed += policy.Allows(visitor, place, Acts.List, Now) ? 1 : 0;
            }

            lists.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds + (listed < 0 ? 1 : 0));
        }

        var changes = new List<double>();
        for (var run = 0; run < 5; run++)
        {
            var began = Stopwatch.GetTimestamp();
            var changed = policy.With(rules.Skip(run + 1));
            changed.Allows(visitor, 1, Acts.Open, Now);
            changes.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
        }

        var sets = Enumerable.Range(0, groups)
            .Select(n => new FactSet(new Visitor
            { IsSignedIn = true, Grants = [new Grant(FactKind.Group, "k" + n), new Grant(FactKind.Group, "k" + random.Next(groups))] }, 10)).ToList();
        var wider = policy.With(rules.Append(new Gate
        { Key = "wide", Title = "Wide", Covers = [new Selector(items[0].Id, null)], Audience = AudienceParser.Parse("group:k1").Value }));
        wider.Prepare(Now);
        var weighing = Stopwatch.GetTimestamp();
        var effect = Effect.Between(policy, wider, sets, Now);
        var weighed = Stopwatch.GetElapsedTime(weighing).TotalMilliseconds;

        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{count,-9} {gates,-7} {runs[0],7:F0} /{runs[runs.Count / 2],5:F0} /{runs[^1],5:F0}        {bytes,6}       {lists.Order().First(),8:F2}   "
                + $"{built,8:F0}   {changes.Order().First(),8:F0}      ({open % 7})"));
        Console.WriteLine(string.Create(
            CultureInfo.InvariantCulture,
            $"          effect of a gate on a branch: {effect.ItemsClosing} items close, {sets.Count} sets of members, {weighed:F0} ms"));
    }
}
