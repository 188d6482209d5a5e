using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Oracle;

namespace WarySentinel.Core.Tests.Access;

/// <summary>A policy that is made from the one before it decides as one made from nothing.</summary>
public sealed class DifferingTests
{
    private static readonly string[] Paths = ["/", "/a", "/a/b", "/a/b/c", "/x", "/x/y", "/other", "/a?id=1"];

    [Tried(80, 3000, Arbitrary = [typeof(Worlds)])]
    public void A_long_row_of_changes_ends_where_a_fresh_start_does(World world, int seed)
    {
        var random = new Random(seed);
        var whole = world.Build();
        var visitors = world.Visitors.Select(v => v.ToVisitor()).ToList();
        var policy = whole;
        for (var step = 0; step < 6; step++)
        {
            var now = World.Noon.AddHours(random.Next(-80, 160));
            var some = whole.Gates.Where(_ => random.Next(3) > 0).Select(g => random.Next(5) > 0 ? g : g with { ItemOnly = !g.ItemOnly }).ToList();
            policy = policy.With(some);
            if (random.Next(4) > 0)
            {
                policy.Pin(now);
            }

            var fresh = Policy.Build(whole.Graph.Items, some, whole.Definitions, whole.Settings, whole.Parts).Value;
            Alike(policy, fresh, visitors, now, world);
            Alike(policy, fresh, visitors, now.AddHours(random.Next(-80, 160)), world);
        }
    }

    private static void Alike(Policy one, Policy other, List<Visitor> visitors, DateTimeOffset now, World world)
    {
        one.GuardsAnything(now).ShouldBe(other.GuardsAnything(now));
        foreach (var visitor in visitors)
        {
            foreach (var item in other.Graph.Items.Select(i => i.Id))
            {
                Told(one.Decide(visitor, item, Acts.Open, now).Value).ShouldBe(Told(other.Decide(visitor, item, Acts.Open, now).Value),
                    $"{item} {now}\n{world}");
                one.Allows(visitor, item, Acts.List, now).ShouldBe(other.Allows(visitor, item, Acts.List, now), $"{item} {now}\n{world}");
            }

            foreach (var path in Paths.Select(Scene.Path))
            {
                Told(one.Decide(visitor, path, Acts.Open, now)).ShouldBe(Told(other.Decide(visitor, path, Acts.Open, now)), $"{path.Key} {now}\n{world}");
                one.Judge(visitor, path, now).ShouldBe(other.Judge(visitor, path, now), $"{path.Key} {now}\n{world}");
            }
        }
    }

    private static string Told(Decision decision) =>
        $"{decision.Allowed} {decision.Refusal?.Gate.Key} {decision.Refusal?.Answer} "
        + string.Join(", ", decision.Reasons.Select(r => $"{r.Gate.Key} {string.Join('>', r.Way)} {r.Pattern} {r.Admitted} {r.Guards}"));
}
