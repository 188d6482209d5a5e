using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

/// <summary>Groups by rule; and roles that are renamed, copied and retired wherever they are named.</summary>
public sealed class GroupRuleTests
{
    private static readonly string[] Groups = ["a", "b", "c", "d"];
    private static readonly string[] Roles = ["r", "s", "t"];

    private static readonly Gen<string> Atom = Gen.OneOf(
        Gen.Elements(Groups).Select(g => "group:" + g), Gen.Elements(Roles).Select(r => "role:" + r), Gen.Elements("signed-in", "plan:p", "anyone"));

    private static Gen<string> Expression(int depth) => depth == 0 ? Atom : Gen.OneOf(
        Atom, Expression(depth - 1).Select(e => $"not ({e})"),
        Expression(depth - 1).Zip(Expression(depth - 1)).Zip(Gen.Elements("and", "or")).Select(x => $"({x.Item1.Item1}) {x.Item2} ({x.Item1.Item2})"));

    private static readonly Gen<Visitor> Anybody = Gen.SubListOf<string>(
        [.. Groups.Select(g => "group:" + g), .. Roles.Select(r => "role:" + r), "plan:p"]).Zip(Gen.Elements(true, true, true, false)).Select(x => new Visitor
        { IsSignedIn = x.Item2, Grants = [.. x.Item1.Select(f => new Grant(Enum.Parse<FactKind>(f.Split(':')[0], true), f.Split(':')[1]))] });

    /// <summary>Rules that stand in no ring: each names only groups before its own.</summary>
    private static readonly Gen<string[]> Rules = Gen.ArrayOf(Expression(2), 4).Select(all => all.Select((text, place) =>
        Enumerable.Range(0, 4).Where(g => g >= place).Aggregate(text, (t, g) => t.Replace("group:" + Groups[g], "role:r", StringComparison.Ordinal)))
            .ToArray());

    [Property(MaxTest = 500)]
    public Property A_gate_that_names_groups_by_rule_admits_as_if_the_rules_were_written_into_it() => Prop.ForAll(
        Rules.ToArbitrary(), Expression(3).ToArbitrary(), Anybody.ToArbitrary(), (rules, asked, visitor) =>
        {
            var policy = With(rules, asked);
            var written = WrittenOut(asked, rules);
            policy.Opens(visitor, "product:moss").ShouldBe(Policy(Shop(), Gate("g", "product:moss", written)).Opens(visitor, "product:moss"), written);
            // What the effect looks at is all that can make a difference.
            var facts = policy.Gates[0].Audience.FactsAsked().Select(f => (f.Kind, f.Key)).ToHashSet();
            var less = new Visitor { IsSignedIn = visitor.IsSignedIn, Grants = [.. visitor.Grants.Where(g => facts.Contains((g.Kind, g.Key)))] };
            policy.Opens(less, "product:moss").ShouldBe(policy.Opens(visitor, "product:moss"));
        });

    [Property(MaxTest = 300)]
    public Property A_ring_is_found_where_there_is_one_and_each_in_it_names_the_next() => Prop.ForAll(Gen.ArrayOf(Expression(2), 4).ToArbitrary(), texts =>
    {
        var rules = Groups.Zip(texts).ToDictionary(r => r.First, r => AudienceParser.Parse(r.Second).Value);
        var ring = GroupRules.RingAmong(rules);
        (ring is not null).ShouldBe(Groups.Any(g => Reaches(rules, g, g)));
        for (var i = 0; ring is not null && i + 1 < ring.Count; i++)
        {
            rules[ring[i]].Names(FactKind.Group, ring[i + 1]).ShouldBeTrue();
            ring[^1].ShouldBe(ring[0]);
        }
    });

    [Property(MaxTest = 300)]
    public Property Renaming_changes_nothing_for_anybody_and_a_copy_may_what_the_other_may() => Prop.ForAll(
        Rules.ToArbitrary(), Expression(3).ToArbitrary(), Anybody.ToArbitrary(), (rules, asked, visitor) =>
        {
            var policy = With(rules, asked);
            var before = policy.Opens(visitor, "product:moss");
            var renamed = policy.After(FactCommands.Rename(policy, FactKind.Role, "r", "renamed").Value.ToStore);
            renamed.Opens(Holding(visitor, "r", "renamed"), "product:moss").ShouldBe(before);
            renamed.FindDefinition(FactKind.Role, "r").ShouldBeNull();
            FactUses.In(renamed, FactKind.Role, "r").ShouldBeEmpty();

            var copied = policy.After(FactCommands.Add(policy, FactKind.Role, new FactDraft("copy", "Copies"), null, "r").Value.ToStore);
            copied.Opens(visitor, "product:moss").ShouldBe(before);
            copied.Opens(Holding(visitor, "r", "copy"), "product:moss").ShouldBe(before);

            var retired = policy.After(FactCommands.Retire(policy, FactKind.Role, "r", "s").Value.ToStore);
            FactUses.In(retired, FactKind.Role, "r").ShouldBeEmpty();
            var moved = Holding(visitor, "r", "s");
            // Who held either is now one of those who hold the other.
            var either = new Visitor
            {
                IsSignedIn = moved.IsSignedIn, Grants = moved.Has(FactKind.Role, "s", Now)
                ? [.. moved.Grants, new Grant(FactKind.Role, "r")] : moved.Grants
            };
            retired.Opens(moved, "product:moss").ShouldBe(policy.Opens(either, "product:moss"));
        });

    [Fact]
    public void A_rule_in_a_ring_is_refused_with_the_ring()
    {
        var policy = With(["role:r", "group:a", "group:b", "role:s"], "group:c");
        var known = new KnownKeys(policy, _ => false);
        var problem = FactCommands.Set(policy, policy.FindDefinition(FactKind.Group, "a")!, new FactDraft(null, "A", Rule: "role:r or group:c"),
            known).Problem!;
        (problem.Code, problem.Faults[0].Field).ShouldBe(("group-ring", "rule"));
        problem.Detail.ToString().ShouldContain("group:a → group:c → group:b → group:a");
    }

    [Theory]
    [InlineData("password", "group-rule-atom")]
    [InlineData("guest", "group-rule-atom")]
    [InlineData("role:r and network:10.0.0.0/8", "group-rule-atom")]
    [InlineData("role:zzz", "audience-unknown-key")]
    [InlineData("role:r and", null)]
    public void A_rule_that_facts_cannot_answer_is_refused_at_its_field(string rule, string? code)
    {
        var policy = With(["role:r", "role:r", "role:r", "role:r"], "anyone");
        var problem = FactCommands.Add(policy, FactKind.Group, new FactDraft("n", "N", Rule: rule), new KnownKeys(policy, _ => false)).Problem!;
        problem.Faults.ShouldContain(f => f.Field == "rule");
        if (code == "group-rule-atom")
        {
            problem.Code.ShouldBe(code);
        }
    }

    [Fact]
    public void A_rule_that_grows_beyond_measure_is_refused_and_costs_nothing_to_refuse()
    {
        var policy = With(["role:r", "role:r", "role:r", "role:r"], "anyone");
        var grown = policy;
        string? refused = null;
        for (var i = 0; i < 40 && refused is null; i++)
        {
            var last = i == 0 ? "role:r" : $"group:g{i - 1}";
            var added = FactCommands.Add(grown, FactKind.Group, new FactDraft($"g{i}", "G", Rule: $"({last} and {last}) or (plan:p and {last})"), null);
            refused = added.Problem?.Code;
            grown = added.IsGood ? grown.After(added.Value.ToStore) : grown;
        }

        refused.ShouldBe("group-rule-large");
    }

    [Fact]
    public void What_changes_by_a_rule_is_an_effect_like_that_of_a_gate()
    {
        var policy = With(["role:r", "role:s", "role:s", "role:s"], "group:a");
        var edit = FactCommands.Set(policy, policy.FindDefinition(FactKind.Group, "a")!, new FactDraft(null, "A", Rule: "role:s"), null).Value;
        var scope = EffectScope.Of(policy, policy.After(edit.ToStore), Now);
        var effect = scope.Weigh(
            [new FactSet(Holds("r"), 3), new FactSet(Holds("s"), 5), new FactSet(new Visitor { IsSignedIn = true }, 100)]);
        (effect.MembersLosing, effect.MembersGaining, effect.MembersKeeping).ShouldBe((3, 5, 100));
    }

    [Fact]
    public void Staff_rights_are_no_roles_of_the_site()
    {
        var policy = Policy(Shop());
        FactCommands.Add(policy, FactKind.Role, new FactDraft("support", "Support"), null).Problem!.Code.ShouldBe("standing-exists");
        FactCommands.Rename(policy, FactKind.Role, "guide", "support").Problem!.Code.ShouldBe("standing-exists");
        var helper = Holds("support").Grants;
        StaffRights.Of(policy, helper, Now).ShouldBe(StaffRight.Support);
        // A site that had a role of that name keeps it; it makes nobody staff, and goes with those who held it.
        var older = policy.After(new Edit("x", "x", [new FactDefinitionPut(new FactDefinition(FactKind.Role, "support", "Sponsors"))]));
        StaffRights.Of(older, helper, Now).ShouldBe(StaffRight.None);
        FactCommands.Remove(older, FactKind.Role, "support", 0).Value.ToStore.Changes.OfType<GrantsMoved>().ShouldHaveSingleItem().To.ShouldBeNull();
        StaffRights.Within(StaffRight.Support, ["read", "write", "tokens"]).ShouldBe(["read", "people"]);
        StaffRights.Within(StaffRight.None, ApiToken.AllScopes).ShouldBeEmpty();
        foreach (var (less, more) in new[] { (StaffRight.None, StaffRight.Support), (StaffRight.Support, StaffRight.Editor),
            (StaffRight.Editor, StaffRight.Owner) })
        {
            StaffRights.ScopesOf(less).Except(StaffRights.ScopesOf(more)).ShouldBeEmpty();
            StaffRights.ScopesOf(more).Count.ShouldBeGreaterThan(StaffRights.ScopesOf(less).Count);
        }
    }

    private static Visitor Holds(string role) => new() { IsSignedIn = true, Grants = [new Grant(FactKind.Role, role)] };

    private static Visitor Holding(Visitor visitor, string old, string fresh) => new()
    { IsSignedIn = visitor.IsSignedIn, Grants = [.. visitor.Grants.Select(g => g.Kind == FactKind.Role && g.Key == old ? g with { Key = fresh } : g)] };

    private static Policy With(string[] rules, string asked)
    {
        IEnumerable<FactDefinition> definitions =
        [
            .. Groups.Select(g => new FactDefinition(FactKind.Group, g, g.ToUpperInvariant())), .. Roles.Select(r => new FactDefinition(FactKind.Role, r, r)),
            new(FactKind.Plan, "p", "P"),
        ];
        var policy = Core.Access.Policy.Build(Shop(), [Gate("g", "product:moss", asked)], definitions, new SiteSettings()).Value;
        return policy.After(new Edit("x", "x", [.. Groups.Zip(rules).Select(r => new GroupRuleSet(r.First, AudienceParser.Parse(r.Second).Value))]));
    }

    /// <summary>The same expression with each group's rule in its place, from the last group to the first; text alone.</summary>
    private static string WrittenOut(string asked, string[] rules)
    {
        for (var place = 3; place >= 0; place--)
        {
            asked = asked.Replace($"group:{Groups[place]}", $"(GROUP:{Groups[place]} or (signed-in and ({rules[place]})))", StringComparison.Ordinal);
        }

        return asked.Replace("GROUP:", "group:", StringComparison.Ordinal);
    }

    private static bool Reaches(Dictionary<string, Audience> rules, string from, string to)
    {
        var seen = new HashSet<string>();
        var open = new Stack<string>([from]);
        while (open.TryPop(out var group))
        {
            foreach (var next in Groups.Where(g => rules[group].Names(FactKind.Group, g)))
            {
                if (next == to)
                {
                    return true;
                }

                if (seen.Add(next))
                {
                    open.Push(next);
                }
            }
        }

        return false;
    }
}
