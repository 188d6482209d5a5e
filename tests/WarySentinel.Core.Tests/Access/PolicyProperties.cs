using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

/// <summary>What must always hold, whatever the catalogue, the gates and the visitor.</summary>
public sealed class PolicyProperties
{
    private static readonly DateTimeOffset[] Times = [Scene.Now.AddDays(-2), Scene.Now, Scene.Now.AddDays(2)];
    private static readonly string[] Paths = ["/", "/a", "/a/b", "/a/b/c", "/x", "/x/y", "/other", "/a?id=1", "/a/c"];
    private static readonly Visitor[] Visitors =
    [
        Visitor.Guest, Scene.Role("dealer"), Scene.Role("guide"), new Visitor { IsSignedIn = true }, Visitor.Guest.Having([new Unlock("g1", Scene.Now.AddDays(1)), new Unlock("g3", Scene.Now.AddDays(9))]),
    ];

    [Property(MaxTest = 1500, Arbitrary = [typeof(Worlds)])]
    public void The_compiled_policy_agrees_with_the_plain_reference(World world)
    {
        var policy = world.Build();
        var reference = new Reference(policy.Graph.Items, world.Gates, policy.Settings.Paths);
        foreach (var now in Times)
        {
            foreach (var visitor in Visitors)
            {
                for (var place = 0; place < policy.Graph.Items.Count; place++)
                {
                    foreach (var act in new[] { Acts.List, Acts.Open, Acts.Price })
                    {
                        var item = policy.Graph.Items[place];
                        Assert.True(policy.Allows(visitor, place, act, now) == reference.Allows(visitor, item, act, now), $"{item.Id} {act} {now}\n{world}");
                    }
                }

                foreach (var path in Paths.Select(Scene.Path))
                {
                    var expected = reference.AllowsPath(visitor, path, now);
                    Assert.True(policy.Allows(visitor, path, Acts.Open, now) == expected, $"{path.SentWithQuery} {now}\n{world}");
                    policy.Decide(visitor, path, Acts.Open, now).Allowed.ShouldBe(expected);
                }
            }
        }
    }

    [Fact]
    public void The_two_agree_on_more_than_a_hundred_thousand_cases()
    {
        var cases = 0;
        for (var seed = 0; cases < 100_000; seed++)
        {
            var random = new Random(seed);
            var world = Worlds.Make(random);
            var policy = world.Build();
            var reference = new Reference(policy.Graph.Items, world.Gates, policy.Settings.Paths);
            for (var n = 0; n < 60; n++, cases++)
            {
                var now = Scene.Now.AddHours(random.Next(-80, 160));
                var visitor = Visitors[random.Next(Visitors.Length)];
                var act = ActNames.Each[random.Next(ActNames.Each.Count)];
                var place = random.Next(policy.Graph.Items.Count);
                var item = policy.Graph.Items[place];
                Assert.True(policy.Allows(visitor, place, act, now) == reference.Allows(visitor, item, act, now), $"seed {seed}: {item.Id} {act} {now}\n{world}");
                var path = Scene.Path("/" + string.Join('/', Enumerable.Range(0, random.Next(0, 4)).Select(_ => "abcx"[random.Next(4)])) + (random.Next(4) == 0 ? "?id=" + random.Next(3) : ""));
                Assert.True(policy.Allows(visitor, path, Acts.Open, now) == reference.AllowsPath(visitor, path, now), $"seed {seed}: {path.SentWithQuery} {now}\n{world}");
            }
        }

        cases.ShouldBeGreaterThanOrEqualTo(100_000);
    }

    [Property(MaxTest = 800, Arbitrary = [typeof(Worlds)])]
    public void Adding_a_requirement_never_opens_anything(World world)
    {
        var with = world.Build();
        var extra = world.Gates.FirstOrDefault(g => !g.IsExemption);
        var without = extra is null ? with : with.With(world.Gates.Where(g => g != extra));
        Compare(without, with, (before, after) => before || !after);
    }

    [Property(MaxTest = 800, Arbitrary = [typeof(Worlds)])]
    public void Adding_an_exemption_never_closes_anything(World world)
    {
        var with = world.Build();
        var extra = world.Gates.FirstOrDefault(g => g.IsExemption);
        var without = extra is null ? with : with.With(world.Gates.Where(g => g != extra));
        Compare(without, with, (before, after) => !before || after);
    }

    [Property(MaxTest = 500, Arbitrary = [typeof(Worlds)])]
    public void A_decision_and_its_reasons_say_the_same(World world)
    {
        var policy = world.Build();
        foreach (var visitor in Visitors)
        {
            foreach (var item in policy.Graph.Items)
            {
                var decision = policy.Decide(visitor, item.Id, Acts.Open, Scene.Now).Value;
                decision.Allowed.ShouldBe(policy.Allows(visitor, item.Id, Acts.Open, Scene.Now));
                decision.Allowed.ShouldBe(decision.Reasons.All(r => r.Admitted || !r.Guards));
                (decision.Refusal is null).ShouldBe(decision.Allowed);
                decision.Refusal?.Answer.ShouldNotBe(Answer.Auto);
            }
        }
    }

    [Property(MaxTest = 500, Arbitrary = [typeof(Worlds)])]
    public void What_is_hidden_is_in_no_listing(World world)
    {
        var policy = world.Build();
        for (var place = 0; place < policy.Graph.Items.Count; place++)
        {
            var item = policy.Graph.Items[place];
            foreach (var visitor in Visitors)
            {
                var reasons = policy.Decide(visitor, item.Id, Acts.List, Scene.Now).Value.Reasons;
                if (reasons.Any(r => r.Gate.Presence == Presence.Hidden && !r.Admitted))
                {
                    policy.SightOf(visitor, place, Scene.Now).ShouldBe(Sight.Hidden);
                }
            }
        }
    }

    [Property(MaxTest = 500, Arbitrary = [typeof(Worlds)])]
    public void A_ring_of_parents_is_refused(World world)
    {
        var items = world.Items.ToList();
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
    }

    private static void Compare(Policy before, Policy after, Func<bool, bool, bool> holds)
    {
        foreach (var now in Times)
        {
            foreach (var visitor in Visitors)
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

    public sealed record World(IReadOnlyList<Item> Items, IReadOnlyList<Gate> Gates)
    {
        public Policy Build() => Policy.Build(Items, Gates, [], new SiteSettings()).Value;

        public override string ToString() =>
            string.Join('\n', Items.Select(i => $"{i.Id} < {string.Join(' ', i.Parents)} @ {string.Join(' ', i.Addresses)}").Concat(Gates.Select(g => $"{g.Key} {(g.IsExemption ? "frees" : "guards")} {string.Join(' ', g.Covers)} {(g.ItemOnly ? "item" : "branch")} {g.Audience} {g.Presence} {g.From} {g.Until}")));
    }

    public static class Worlds
    {
        private static readonly string[] Addresses = ["/a", "/a/b", "/a/**", "/a/b/*", "/x", "/x/*", "/a/b/c", "/a?id=1"];
        private static readonly string[] Patterns = ["path:/a/**", "path:/a/b", "path:/**", "path:/x/*", "path:/a/b/*"];
        private static readonly string[] Audiences = ["nobody", "role:dealer", "signed-in", "password", "role:guide or password", "not guest", "guest"];

        public static Arbitrary<World> Any() => Gen.Choose(0, int.MaxValue).Select(seed => Make(new Random(seed))).ToArbitrary();

        internal static World Make(Random random)
        {
            var items = new List<Item>();
            for (var i = 0; i < random.Next(0, 8); i++)
            {
                var parents = items.Where(_ => random.Next(3) == 0).Select(p => p.Id).ToList();
                var addresses = Addresses.Where(_ => random.Next(6) == 0).Select(Address.Parse).ToList();
                var fresh = new Item(new ItemId((ItemKind)random.Next(1, 9), "k" + i), "T", parents, addresses);
                if (CatalogueGraph.Build(items.Append(fresh), new PathRules()).IsGood)
                {
                    items.Add(fresh);
                }
            }

            var gates = new List<Gate>();
            for (var i = 0; i < random.Next(0, 7); i++)
            {
                var covers = Enumerable.Range(0, random.Next(1, 3)).Select(_ => random.Next(5) switch
                {
                    0 => "site",
                    1 => Patterns[random.Next(Patterns.Length)],
                    _ => items.Count == 0 ? "site" : items[random.Next(items.Count)].Id.ToString(),
                }).Distinct();
                gates.Add(Scene.Gate("g" + i, string.Join(',', covers), Audiences[random.Next(Audiences.Length)], random.Next(2) == 0, random.Next(4) == 0) with
                {
                    IsExemption = random.Next(3) == 0,
                    Acts = random.Next(3) == 0 ? Acts.Price : Acts.Usual,
                    From = random.Next(4) == 0 ? Scene.Now.AddDays(random.Next(-3, 3)) : null,
                    Until = random.Next(4) == 0 ? Scene.Now.AddDays(random.Next(3, 6) - 3) : null,
                });
            }

            return new World(items, gates);
        }
    }
}
