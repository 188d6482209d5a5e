using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Oracle;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

/// <summary>What lifts a gate is told as it is, not guessed.</summary>
public sealed class LiftTests
{
    private static readonly string[] Paths = ["/", "/a", "/a/b", "/a/b/c", "/x", "/x/y", "/other", "/a?id=1"];

    [Property(MaxTest = 400, Arbitrary = [typeof(Worlds)])]
    public void Every_gate_that_exemptions_lift_is_told_with_those_that_do(World world)
    {
        var policy = world.Build();
        var unlifted = policy.With(policy.Gates.Where(g => !g.IsExemption));
        var now = World.Noon;
        foreach (var item in policy.Graph.Items.Select(i => i.Id))
        {
            Told(p => p.Decide(Visitor.Guest, item, Acts.Open, now).Value, item.ToString());
        }

        foreach (var path in Paths.Select(Scene.Path))
        {
            Told(p => p.Decide(Visitor.Guest, path, Acts.Open, now), path.Key);
        }

        void Told(Func<Policy, Decision> decide, string what)
        {
            var decision = decide(policy);
            var (met, all) = (KeysOf(decision), KeysOf(decide(unlifted)));
            var lifts = policy.LiftsOf(decision, now);
            lifts.Select(l => l.Gate.Key).ShouldBe(all.Except(met).Order(StringComparer.Ordinal), $"{what}\n{world}");
            foreach (var lift in lifts)
            {
                // Those that are named are enough, and without exemptions it would apply.
                lift.By.ShouldNotBeEmpty();
                lift.By.ShouldAllBe(e => e.IsExemption);
                var alone = policy.With(policy.Gates.Where(g => !g.IsExemption || lift.By.Contains(g)));
                KeysOf(decide(alone)).ShouldNotContain(lift.Gate.Key, $"{what} {lift.Gate.Key} by {string.Join(", ", lift.By.Select(e => e.Key))}\n{world}");
            }
        }
    }

    [Fact]
    public void Of_several_exemptions_about_the_one_that_lifts_is_named()
    {
        var policy = Policy(
            [Item("category:a"), Item("category:b"), Item("product:p", ["category:a"], ["/p"]), Item("product:q", ["category:b"], ["/q"])],
            Gate("site", "site"), Gate("paths", "path:/**"), Exemption("ea", "category:a"), Exemption("eb", "category:b"), Exemption("ep", "path:/p"));
        var named = policy.LiftsOf(policy.Decide(Visitor.Guest, Id("product:q"), Acts.Open, Now).Value, Now);
        named.ShouldHaveSingleItem().By.ShouldHaveSingleItem().Key.ShouldBe("eb");
        policy.LiftsOf(policy.Decide(Visitor.Guest, Scene.Path("/p"), Acts.Open, Now), Now).Single(l => l.Gate.Key == "paths").By.Select(e => e.Key)
            .ShouldBe(["ep"]);
        policy.LiftsOf(policy.Decide(Visitor.Guest, Scene.Path("/q"), Acts.Open, Now), Now).ShouldNotContain(l => l.Gate.Key == "paths");
    }

    private static ItemId Id(string text) => ItemId.TryParse(text, out var id) ? id : throw new ArgumentException(text, nameof(text));

    private static List<string> KeysOf(Decision decision) => [.. decision.Reasons.Select(r => r.Gate.Key).Distinct()];
}
