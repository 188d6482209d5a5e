using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using Xunit;

namespace WarySentinel.Storage.Tests.Access;

public sealed class SqliteRuleTests() : RuleTests("sqlite");

public sealed class PostgresRuleTests() : RuleTests("postgres");

/// <summary>The rules of groups as they are stored; and what becomes of rows where a fact is renamed or retired.</summary>
public abstract class RuleTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Now = DateTimeOffset.UtcNow;

    [Theory]
    [InlineData("role:r and and", null)]
    [InlineData("group:b", "group:a")]
    public async Task A_stored_rule_that_cannot_be_read_closes_what_hangs_on_its_group_and_nothing_else(string ruleOfA, string? ruleOfB)
    {
        var facts = new[] { "a", "b", "c" }.Select(g => new FactDefinitionPut(new FactDefinition(FactKind.Group, g, g)));
        await PutAsync(
            [
                .. facts, new FactDefinitionPut(new FactDefinition(FactKind.Role, "r", "R")), new ItemsPut([Page("one"), Page("two"), Page("free")]),
                new GroupRuleSet("a", AudienceParser.Parse("role:r").Value), new GroupRuleSet("c", AudienceParser.Parse("group:a or role:r").Value),
                new GatePut(Gate("one", "page:one", "not group:c")), new GatePut(Gate("two", "page:two", "role:r")),
            ]);
        await SqlAsync("UPDATE group_rules SET \"Rule\" = '" + ruleOfA + "' WHERE \"Group\" = 'a'");
        if (ruleOfB is not null)
        {
            await SqlAsync($"INSERT INTO group_rules (\"Group\", \"Rule\") VALUES ('b', '{ruleOfB}')");
        }

        var stored = await store.LoadPolicyAsync(Stop);
        var (policy, faults) = Salvage.Build(stored.Items, stored.Gates, stored.Definitions, stored.Settings, stored.Parts, stored.Faults);
        faults.Select(f => f.Kind).Distinct().ShouldBe(["group-rule"]);
        var anybody = new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Role, "r")] };
        // Whoever is in "c" is not known, so that nobody is let in who is not in it.
        policy.Allows(new Visitor { IsSignedIn = true }, Id("page:one"), Acts.Open, Now).ShouldBeFalse();
        policy.Allows(anybody, Id("page:two"), Acts.Open, Now).ShouldBeTrue();
        policy.Allows(anybody, Id("page:free"), Acts.Open, Now).ShouldBeTrue();
        foreach (var key in faults.Select(f => f.Key))
        {
            (await store.DropUnreadableAsync("group-rule", key, "owner", Stop)).Dropped.ShouldBeTrue();
        }

        (await store.LoadPolicyAsync(Stop)).Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task What_is_renamed_is_renamed_in_every_row_and_what_moves_keeps_source_and_the_later_end()
    {
        var nell = Someone("nell@x.example", null, null) with
        {
            Grants = [Held("role", "old") with { Until = Now.AddDays(9) }, Held("role", "old", "order:1"),
            Held("role", "next") with { Until = Now.AddDays(2) }]
        };
        var over = Someone("over@x.example", null, null) with { Grants = [Held("role", "old") with { Until = Now.AddDays(-1) }] };
        await PutAsync(
            new MemberAdded(nell), new MemberAdded(over), new GatePut(Gate("g", "site", "role:old or plan:p")),
            new RedirectPut(new Redirect("r", RedirectOn.SignIn, AudienceParser.Parse("not role:old").Value, "/x", 1)),
            new GroupRuleSet("a", AudienceParser.Parse("role:old and signed-in").Value));
        await PutAsync(new FactReplaced(FactKind.Role, "old", new Audience.Fact(FactKind.Role, "next")), new GrantsMoved(FactKind.Role, "old", "next"));
        var stored = await store.LoadPolicyAsync(Stop);
        stored.Gates.Single().Audience.ToString().ShouldBe("role:next or plan:p");
        stored.Gates.Single().Version.ShouldBe(2);
        RedirectBook.Of(Policy.Build([], [], [], new SiteSettings(), stored.Parts).Value).All[0].Audience.ToString().ShouldBe("not role:next");
        stored.Parts.Of<GroupRules>().Written["a"].ToString().ShouldBe("role:next and signed-in");
        var moved = await store.MemberAsync(nell.Id, Stop);
        moved!.Version.ShouldBe(2);
        moved.Grants.Where(g => !g.IsOver(DateTimeOffset.UtcNow.AddMinutes(1))).Select(g => (g.Key, g.Source.ToString(), g.Until?.Date)).ShouldBe(
            [("next", "hand", Now.AddDays(9).Date), ("next", "order:1", null)], ignoreOrder: true);
        (await store.MemberAsync(over.Id, Stop))!.Grants.Single().IsOver(Now).ShouldBeTrue();
        await PutAsync(new GrantsMoved(FactKind.Role, "next", null));
        (await store.MemberAsync(nell.Id, Stop))!.Grants.ShouldAllBe(g => g.IsOver(DateTimeOffset.UtcNow.AddSeconds(1)));
    }

    private static Gate Gate(string key, string covers, string audience) => new()
    { Key = key, Title = key, Covers = [Selector.Parse(covers)], Audience = AudienceParser.Parse(audience).Value };
}
