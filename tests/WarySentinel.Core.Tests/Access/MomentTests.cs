using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

/// <summary>Policies at different times, and resolved requests.</summary>
public sealed class MomentTests
{
    [Fact]
    public void Looks_at_other_days_never_push_out_what_holds_now()
    {
        var gates = Enumerable.Range(1, 20).Select(n => Gate("g" + n, "product:moss") with { From = Now.AddDays(n), Until = Now.AddDays(n).AddHours(1) });
        var policy = Policy(Shop(), [Gate("now", "category:dealer"), .. gates]);
        policy.Pin(Now);
        var held = policy.At(Now);
        for (var n = 1; n <= 20; n++)
        {
            policy.Opens(Visitor.Guest, "product:moss", at: Now.AddDays(n).AddMinutes(1)).ShouldBeFalse();
            policy.Opens(Visitor.Guest, "product:moss", at: Now.AddDays(n).AddHours(2)).ShouldBeTrue();
        }

        policy.At(Now.AddMinutes(5)).ShouldBeSameAs(held);
    }

    [Fact]
    public void A_day_is_compiled_once_however_many_ask_at_once()
    {
        var policy = Policy(Shop(), Gate("later", "category:dealer") with { From = Now.AddDays(1) });
        policy.Pin(Now);
        var asked = ParallelEnumerable.Range(0, 200).WithDegreeOfParallelism(8).Select(n => policy.At(Now.AddDays(2).AddSeconds(n))).ToList();
        asked.Distinct().Count().ShouldBe(1);
    }

    [Fact]
    public void What_comes_next_takes_over_when_its_time_comes()
    {
        var policy = Policy(Shop(), Gate("later", "product:moss") with { From = Now.AddDays(1) });
        policy.Pin(Now);
        policy.Prepare(Now.AddDays(1).AddSeconds(1));
        var next = policy.At(Now.AddDays(1));
        policy.Opens(Visitor.Guest, "product:moss", at: Now.AddDays(1)).ShouldBeFalse();
        policy.Pin(Now.AddDays(1));
        policy.At(Now.AddDays(3)).ShouldBeSameAs(next);
    }

    [Property(MaxTest = 200)]
    public Property A_query_decides_only_where_an_address_asks_for_it() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        string Any(params string[] from) => from[random.Next(from.Length)];
        string Target() => "/" + Any("a", "b", "item", "item/x") + Any("", "?id=1", "?id=2", "?x=9&id=1", "?utm=z", "?id=1&id=2");
        var items = Enumerable.Range(0, 4).Select(n => Item("product:p" + n, null, ["/" + Any("a", "b", "item", "item/*") + Any("", "?id=1", "?id=2")]))
            .ToArray();
        var gates = new[] { Gate("g", "product:p0"), Gate("h", "path:/" + Any("item/**", "a", "item?id=1", "**")),
            Exemption("e", "path:/" + Any("item?id=2", "a", "b")) };
        var policy = Policy(items, gates);
        // Asked in a row, with what was asked before kept: the same as asked of a policy that has seen nothing.
        return Enumerable.Range(0, 12).Select(_ => Target()).All(t => policy.Judge(Visitor.Guest, Scene.Path(t), Now) == Policy(items, gates)
            .Judge(Visitor.Guest, Scene.Path(t), Now));
    });

    [Property(MaxTest = 100)]
    public Property The_effect_counts_as_if_every_member_were_asked() => Prop.ForAll(Gen.Choose(0, int.MaxValue).ToArbitrary(), seed =>
    {
        var random = new Random(seed);
        string[] audiences = ["role:dealer", "group:schools or role:guide", "not role:guide", "signed-in", "member:a@x.example", "guest", "role:owner",
            "role:dealer and group:schools"];
        Gate AnyGate(string key) => Gate(key, Shop()[random.Next(9)].Id.ToString(), audiences[random.Next(audiences.Length)], random.Next(2) == 0);
        var before = Policy(Shop(), [.. Enumerable.Range(0, random.Next(5)).Select(n => AnyGate("g" + n))]);
        var after = before.With(before.Gates.Where(g => g.Key != "g0").Append(AnyGate("new")));
        Grant[] facts = [new(FactKind.Role, "dealer"), new(FactKind.Role, "guide"), new(FactKind.Group, "schools"), new(FactKind.Role, "owner")];
        var everybody = Enumerable.Range(0, 12).Select(n => new Visitor
        { IsSignedIn = true, Email = n == 0 ? "a@x.example" : "m@x.example", Grants = [.. facts.Where(_ => random.Next(3) == 0)] }).ToList();
        var scope = EffectScope.Of(before, after, Now);
        // Each member with only what the scope says may matter, as the store gives them.
        var sets = everybody.Select(v => new FactSet(new Visitor
        {
            IsSignedIn = true, Email = scope.Facts.Contains((FactKind.Member, v.Email!)) ? v.Email : null,
            Grants = [.. v.Grants.Where(g => scope.Facts.Contains((g.Kind, g.Key)))],
        }, 1)).ToList();
        var effect = scope.Weigh(sets);
        bool May(Policy policy, Visitor visitor, int place, Acts act) => policy.Allows(visitor, place, act, Now);
        var all = Enumerable.Range(0, before.Graph.Items.Count).SelectMany(p => ActNames.Each.Select(a => (p, a))).ToList();
        var losing = everybody.Count(v => all.Exists(x => May(before, v, x.p, x.a) && !May(after, v, x.p, x.a)));
        var gaining = everybody.Count(v => all.Exists(x => !May(before, v, x.p, x.a) && May(after, v, x.p, x.a))
            && !all.Exists(x => May(before, v, x.p, x.a) && !May(after, v, x.p, x.a)));
        return (effect.MembersLosing, effect.MembersGaining, effect.MembersKeeping) == (losing, gaining, everybody.Count - losing - gaining);
    });

    [Fact]
    public void The_board_tells_of_a_row_what_it_would_tell_of_all()
    {
        var random = new Random(5);
        for (var round = 0; round < 40; round++)
        {
            var policy = Policy(Shop(), [.. Enumerable.Range(0, 4).Select(n =>
                Gate("g" + n, Shop()[random.Next(9)].Id.ToString(), "role:dealer", n % 2 == 0, n == 3))]);
            var viewpoints = Viewpoint.All(policy);
            int[] places = [.. Enumerable.Range(0, policy.Graph.Items.Count)];
            var whole = Board.Cells(policy, viewpoints, places, Now);
            foreach (var place in places)
            {
                var alone = Board.Cells(policy, viewpoints, [place], Now);
                for (var v = 0; v < viewpoints.Count; v++)
                {
                    alone[v][0].ShouldBe(whole[v][place]);
                    whole[v][place].Own.ShouldBe(policy.SightOf(viewpoints[v].Visitor, place, Now));
                    whole[v][place].InPart.ShouldBe(policy.Graph.Branch(place).Any(p => policy.SightOf(viewpoints[v].Visitor, p, Now) != whole[v][place].Own));
                }
            }
        }
    }
}
