using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Oracle;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

/// <summary>What must always hold, attacked with made-up sites.</summary>
public sealed class PolicyProperties
{
    private static readonly DateTimeOffset[] Times = [World.Noon, World.Noon.AddDays(-2), World.Noon.AddDays(4)];
    private static readonly string[] Paths = ["/", "/a", "/a/b", "/a/b/c", "/x", "/x/y", "/other", "/a?id=1", "/a/c", "/x/y/index.html", "/B/"];

    [Tried(120, 6000, Arbitrary = [typeof(Worlds)])]
    public void The_compiled_policy_agrees_with_the_rules_as_they_are_written(World world)
    {
        var policy = world.Build();
        var oracle = new Evaluator(world);
        foreach (var now in Times)
        {
            foreach (var visitor in world.Visitors)
            {
                var who = visitor.ToVisitor();
                foreach (var item in policy.Graph.Items)
                {
                    foreach (var act in ActNames.Each)
                    {
                        Same(policy.Decide(who, item.Id, act, now).Value, oracle.OnItem(visitor, item.Id.ToString(), ActNames.NameOf(act), now),
                            () => $"{visitor} {act} {item.Id} {now}\n{world}");
                        policy.Allows(who, item.Id, act, now).ShouldBe(oracle.OnItem(visitor, item.Id.ToString(), ActNames.NameOf(act), now).Allowed);
                    }
                }

                foreach (var path in Paths)
                {
                    Same(policy.Decide(who, Scene.Path(path), Acts.Open, now), oracle.AtPath(visitor, path, "open", now),
                        () => $"{visitor} {path} {now}\n{world}");
                    policy.Judge(who, Scene.Path(path), now).Allowed.ShouldBe(oracle.AtPath(visitor, path, "open", now).Allowed);
                }
            }
        }
    }

    [Fact]
    public void The_two_agree_on_random_cases_in_every_spelling()
    {
        var (cases, enough) = (0, Trials.Of(20_000, 1_000_000));
        for (var seed = 0; cases < enough; seed++)
        {
            var random = new Random(seed);
            var world = World.Make(random);
            var policy = world.Build(random);
            var oracle = new Evaluator(world);
            for (var n = 0; n < 60; n++, cases++)
            {
                var now = World.Noon.AddHours(random.Next(-80, 160));
                var visitor = world.Visitors[random.Next(world.Visitors.Count)];
                var act = ActNames.NameOf(ActNames.Each[random.Next(ActNames.Each.Count)]);
                var item = policy.Graph.Items[random.Next(policy.Graph.Items.Count)].Id;
                Same(policy.Decide(visitor.ToVisitor(), item, Worlds.ActOf(act), now).Value, oracle.OnItem(visitor, item.ToString(), act, now),
                    () => $"seed {seed}: {visitor} {act} {item} {now}\n{world}");
                var path = World.Address(random);
                Same(policy.Decide(visitor.ToVisitor(), Scene.Path(path), Worlds.ActOf(act), now), oracle.AtPath(visitor, path, act, now),
                    () => $"seed {seed}: {visitor} {act} {path} {now}\n{world}");
            }
        }

        cases.ShouldBeGreaterThanOrEqualTo(enough);
    }

    [Property(MaxTest = 400, Arbitrary = [typeof(Worlds)])]
    public void The_order_of_rows_decides_nothing(World world)
    {
        var (one, other) = (world.Build(new Random(1)), world.Build(new Random(2)));
        foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()))
        {
            foreach (var path in Paths.Select(Scene.Path))
            {
                var (a, b) = (one.Decide(visitor, path, Acts.Open, World.Noon), other.Decide(visitor, path, Acts.Open, World.Noon));
                (a.Allowed, a.Refusal?.Gate.Key, a.Refusal?.Answer).ShouldBe((b.Allowed, b.Refusal?.Gate.Key, b.Refusal?.Answer), world.ToString());
                a.Items.ShouldBe(b.Items);
                a.Reasons.Select(r => r.Gate.Key).ShouldBe(b.Reasons.Select(r => r.Gate.Key));
            }
        }
    }

    [Property(MaxTest = 600, Arbitrary = [typeof(Worlds)])]
    public void Adding_a_requirement_never_opens_anything(World world)
    {
        var with = world.Build();
        var extra = with.Gates.FirstOrDefault(g => !g.IsExemption);
        var without = extra is null ? with : with.With(with.Gates.Where(g => g != extra));
        Compare(world, without, with, (before, after) => before || !after);
    }

    [Property(MaxTest = 600, Arbitrary = [typeof(Worlds)])]
    public void Adding_an_exemption_never_closes_anything(World world)
    {
        var with = world.Build();
        var extra = with.Gates.FirstOrDefault(g => g.IsExemption);
        var without = extra is null ? with : with.With(with.Gates.Where(g => g != extra));
        Compare(world, without, with, (before, after) => !before || after);
    }

    [Property(MaxTest = 400, Arbitrary = [typeof(Worlds)])]
    public void A_decision_and_its_reasons_say_the_same(World world)
    {
        var policy = world.Build();
        foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()).Where(v => !v.IsStaff(World.Noon)))
        {
            foreach (var item in policy.Graph.Items)
            {
                var decision = policy.Decide(visitor, item.Id, Acts.Open, World.Noon).Value;
                decision.Allowed.ShouldBe(policy.Allows(visitor, item.Id, Acts.Open, World.Noon));
                decision.Allowed.ShouldBe(decision.Reasons.All(r => r.Admitted || !r.Guards));
                (decision.Refusal is null).ShouldBe(decision.Allowed);
                decision.Refusal?.Answer.ShouldNotBe(Answer.Auto);
            }
        }
    }

    [Property(MaxTest = 400, Arbitrary = [typeof(Worlds)])]
    public void What_is_hidden_is_in_no_listing(World world)
    {
        var policy = world.Build();
        for (var place = 0; place < policy.Graph.Items.Count; place++)
        {
            var item = policy.Graph.Items[place];
            foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()).Where(v => !v.IsStaff(World.Noon)))
            {
                var reasons = policy.Decide(visitor, item.Id, Acts.List, World.Noon).Value.Reasons;
                if (reasons.Any(r => r.Gate.Presence == Presence.Hidden && !r.Admitted))
                {
                    policy.SightOf(visitor, place, World.Noon).ShouldBe(Sight.Hidden);
                }
            }
        }
    }

    [Property(MaxTest = 300, Arbitrary = [typeof(Worlds)])]
    public void An_answer_never_asks_for_what_was_given(World world)
    {
        var policy = world.Build();
        foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()))
        {
            foreach (var item in policy.Graph.Items)
            {
                if (policy.Decide(visitor, item.Id, Acts.Open, World.Noon).Value.Refusal is { } refusal)
                {
                    (refusal.Answer == Answer.SignIn && visitor.IsSignedIn).ShouldBeFalse();
                    (refusal.Answer == Answer.Password && visitor.HasUnlocked(refusal.Gate.Key, World.Noon)).ShouldBeFalse();
                }
            }
        }
    }

    [Property(MaxTest = 300, Arbitrary = [typeof(Worlds)])]
    public void A_ring_of_parents_is_refused_and_named(World world)
    {
        var items = world.Items.Where(i => i.Id != "site").Select(i => i.ToItem()).ToList();
        if (items.Count < 2)
        {
            return;
        }

        items[0] = items[0] with { Parents = [items[^1].Id] };
        for (var i = 1; i < items.Count; i++)
        {
            items[i] = items[i] with { Parents = [items[i - 1].Id] };
        }

        CatalogueGraph.Build(items, new PathRules()).Problem!.Code.ShouldBe("item-cycle");
        CatalogueGraph.RingsAmong(items, new PathRules()).ShouldHaveSingleItem().ShouldBe(items.Select(i => i.Id), ignoreOrder: true);
    }

    private static void Same(Decision decision, Verdict expected, Func<string> told) =>
        Assert.True((decision.Allowed, decision.Refusal?.Gate.Key, decision.Refusal is { } r ? AnswerNames.NameOf(r.Answer)
            : null) == (expected.Allowed, expected.Gate, expected.Answer),
            $"{decision.Allowed} {decision.Refusal?.Gate.Key} {decision.Refusal?.Answer}, not {expected}: {told()}");

    private static void Compare(World world, Policy before, Policy after, Func<bool, bool, bool> holds)
    {
        foreach (var now in Times)
        {
            foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()))
            {
                for (var place = 0; place < before.Graph.Items.Count; place++)
                {
                    foreach (var act in ActNames.Each)
                    {
                        holds(before.Allows(visitor, place, act, now), after.Allows(visitor, place, act, now)).ShouldBeTrue();
                    }
                }

                foreach (var path in Paths.Select(Scene.Path))
                {
                    holds(before.Judge(visitor, path, now).Allowed, after.Judge(visitor, path, now).Allowed).ShouldBeTrue();
                }
            }
        }
    }
}
