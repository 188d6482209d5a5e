using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Core.SiteFile;
using WarySentinel.Oracle;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class SiteFileTests
{
    private static readonly GateSurroundings Around = new(new KnownKeys(Core.Access.Policy.Empty, _ => false), Reserved, [], Now);

    [Property(MaxTest = 300, Arbitrary = [typeof(Worlds)])]
    public void What_a_site_says_of_itself_changes_nothing(World world)
    {
        var policy = Known(world);
        var (difference, edit) = Apply(policy, FileOf(policy), false);
        difference.Faults.ShouldBeEmpty();
        difference.IsEmpty.ShouldBeTrue();
        edit.ShouldBeNull();
    }

    [Property(MaxTest = 200, Arbitrary = [typeof(Worlds)])]
    public void Pruned_to_a_file_any_site_says_what_the_file_says(World world)
    {
        var wanted = Known(world);
        var other = Policy([.. Shop()], Gate("other", "category:filters"), Exemption("hole", "category:dealer"));
        var (difference, edit) = Apply(other, FileOf(wanted), true);
        difference.Faults.ShouldBeEmpty();
        var after = edit is null ? other : other.After(edit);
        after.Graph.Items.Select(i => i.Id).Order().ShouldBe(wanted.Graph.Items.Select(i => i.Id).Order());
        after.Gates.Select(GateDraft.Of).Zip(wanted.Gates.Select(GateDraft.Of)).ShouldAllBe(p => p.First.SaysTheSameAs(p.Second));
        after.Gates.Count.ShouldBe(wanted.Gates.Count);
        Apply(after, FileOf(wanted), true).Difference.IsEmpty.ShouldBeTrue();
    }

    [Fact]
    public void Nothing_is_stored_unless_all_of_it_is_good()
    {
        var (difference, edit) = Apply(Policy(Shop()), new SiteDocument
        {
            Gates = [At(4, new GateDraft { Key = "good", Covers = ["category:filters"], Audience = "signed-in" }),
            At(9, new GateDraft { Key = "bad", Covers = ["category:filtrs"], Audience = "role:dealer and (" })]
        }, false);
        edit.ShouldBeNull();
        difference.Faults.Select(f => (f.Line, f.Column)).ShouldBe([(10, 5), (11, 23)], ignoreOrder: true);
    }

    [Fact]
    public void A_gate_may_name_what_the_same_file_brings()
    {
        var file = new SiteDocument
        {
            Roles = [At(1, new FactDraft("smith", "Smiths"))], Items = [new ItemDraft("page:forge", "Forge", [], ["/forge"], 3)],
            Gates = [At(5, new GateDraft { Key = "forge", Covers = ["page:forge"], Audience = "role:smith" })]
        };
        var (difference, edit) = Apply(Policy(Shop()), file, false);
        difference.Added.ShouldBe(3);
        edit!.Notes.ShouldHaveSingleItem().Action.ShouldBe("gate.add");
        Policy(Shop()).After(edit).FindGate("forge")!.Title.ShouldBe("forge");
    }

    [Fact]
    public void Without_pruning_what_the_file_does_not_name_stays()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters"));
        var (difference, edit) = Apply(policy, new SiteDocument { Gates = [], Items = [] }, false);
        (difference.IsEmpty, difference.Beside, edit).ShouldBe((true, policy.Graph.Items.Count - 1 + 1 + policy.Definitions.Count, null));
    }

    [Fact]
    public void Pruning_touches_only_the_sections_of_the_file()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters"));
        var (difference, edit) = Apply(policy, new SiteDocument { Gates = [] }, true);
        difference.Removed.ShouldBe(1);
        policy.After(edit!).Graph.Items.Count.ShouldBe(policy.Graph.Items.Count);
    }

    [Fact]
    public void Nothing_goes_that_something_still_names_or_somebody_holds()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters", "role:dealer"));
        Apply(policy, new SiteDocument { Items = [] }, true).Difference.Faults.ShouldContain(f => f.Message.ToString()
            .Contains("category:filters", StringComparison.Ordinal));
        Apply(policy, new SiteDocument { Roles = [] }, true).Difference.Faults.ShouldContain(f => f.Message.ToString()
            .Contains("role:dealer", StringComparison.Ordinal));
    }

    [Fact]
    public void Pruning_leaves_what_somebody_holds_says_so_and_does_the_rest()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters", "signed-in"));
        var (difference, edit) = SiteFileCommands.Apply(policy, new SiteDocument
        { Groups = [], Gates = [] }, [], true, Around, _ => false, (_, key) => key == "schools" ? 1 : 0, (_, _, _) => { });
        difference.Faults.ShouldBeEmpty();
        difference.Kept.ShouldHaveSingleItem().ToString().ShouldContain("1 member holds it");
        var after = policy.After(edit!);
        after.Gates.ShouldBeEmpty();
        after.FindDefinition(FactKind.Group, "schools").ShouldNotBeNull();
    }

    [Fact]
    public void A_file_that_would_keep_every_owner_out_is_refused_at_the_line_of_the_gate()
    {
        var policy = Policy(Shop());
        var around = Around with { Owners = [Role("owner")], Known = new KnownKeys(policy, _ => false) };
        var strict = Core.Access.Policy.Build(Shop(), [], policy.Definitions, new SiteSettings { StaffPasses = false }).Value;
        var file = new SiteDocument
        {
            Gates =
            [At(2, new GateDraft { Key = "fine", Covers = ["category:filters"], Audience = "role:dealer" }),
            At(9, new GateDraft { Key = "all", Title = "All of it", Covers = ["site"], Audience = "role:dealer" })]
        };
        var fault = SiteFileCommands.Apply(strict, file, [], false, around, _ => false, (_, _) => 0, (_, _, _) => { }).Difference.Faults.ShouldHaveSingleItem();
        fault.Line.ShouldBe(10);
        fault.Message.ToString().ShouldContain("All of it (all) would keep every owner out");
    }

    [Fact]
    public void A_thing_that_stands_twice_is_told_where()
    {
        var draft = new GateDraft { Key = "g", Covers = ["category:filters"], Audience = "signed-in" };
        Apply(Policy(Shop()), new SiteDocument { Gates = [At(2, draft), At(7, draft)] }, false).Difference.Faults.ShouldHaveSingleItem().Line.ShouldBe(8);
        Apply(Policy(Shop()), new SiteDocument
        { Plans = [At(20, new FactDraft("p", "P")), At(22, new FactDraft("p", "P"))] },
            false).Difference.Faults.ShouldHaveSingleItem().Line.ShouldBe(23);
    }

    [Fact]
    public void The_difference_names_fields()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters"));
        var draft = GateDraft.Of(policy.Gates[0]) with { Audience = "role:guide", Kind = null };
        var change = Apply(policy, new SiteDocument { Gates = [At(1, draft)] }, false).Difference.Changes.ShouldHaveSingleItem();
        change.Changes.ShouldBe([new FieldChange("audience", "role:dealer", "role:guide")]);
    }

    [Fact]
    public void A_change_can_be_taken_back_and_that_too()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters"));
        var around = Around with { Known = new KnownKeys(policy, _ => false) };
        var set = GateCommands.Set(policy, "g", GateDraft.Of(policy.Gates[0]) with { Audience = "role:guide" }, null, around).Value;
        var changed = policy.After(set.ToStore);
        var undone = GateCommands.Undo(changed, "g", set.ToStore.Detail, around).Value;
        undone.Value.Audience.ToString().ShouldBe("role:dealer");
        undone.ToStore.Action.ShouldBe("gate.undo");
        GateCommands.Undo(changed.After(undone.ToStore), "g", undone.ToStore.Detail, around).Value.Value.Audience.ToString().ShouldBe("role:guide");
        var removed = GateCommands.Remove(policy, "g", null, around).Value;
        var back = GateCommands.Undo(policy.After(removed.ToStore), "g", removed.ToStore.Detail, around).Value;
        GateDraft.Of(back.Value).SaysTheSameAs(GateDraft.Of(policy.Gates[0])).ShouldBeTrue();
        policy.After(back.ToStore).After(GateCommands.Undo(policy, "g", back.ToStore.Detail, around).Value.ToStore).Gates.ShouldBeEmpty();
        GateCommands.Undo(policy, "g", null, around).Problem!.Code.ShouldBe("nothing-to-undo");
    }

    private static (SiteDifference Difference, Edit? Edit) Apply(Policy policy, SiteDocument file, bool prune) =>
        SiteFileCommands.Apply(policy, file, [], prune, Around with { Known = new KnownKeys(policy, _ => true) }, _ => true, (_, _) => 0, (_, _, _) => { });

    private static Written<T> At<T>(int line, T draft) =>
        new(draft, field => field switch { "covers" => (line + 1, 5), "audience" => (line + 2, 6), _ => (line + 1, 3) });

    internal static Policy Known(World world) => Core.Access.Policy.Build(
        world.Items.Where(i => i.Id != "site").Select(i => i.ToItem()),
        world.Gates.Select(g => g.ToGate()).Select(g => g.Until <= g.From ? g with { Until = null } : g)
            .Select(g => g.IsExemption ? g with { Audience = Audience.Anyone, Acts = Acts.Usual, Presence = Presence.Listed, Answer = Answer.Auto } : g),
        World.Facts.Select(f => f.Split(':')).Select(f => new FactDefinition(Enum.Parse<FactKind>(f[0], true), f[1], f[1])), new SiteSettings()).Value;

    private static SiteDocument FileOf(Policy policy) => new()
    {
        Roles = [.. policy.Definitions.Where(s => s.Kind == FactKind.Role).Select(s => At(1, new FactDraft(s.Key, s.Title)))],
        Groups = [.. policy.Definitions.Where(s => s.Kind == FactKind.Group).Select(s => At(1, new FactDraft(s.Key, s.Title)))],
        Plans = [.. policy.Definitions.Where(s => s.Kind == FactKind.Plan).Select(s => At(1, new FactDraft(s.Key, s.Title)))],
        Items = [.. policy.Graph.Items.Where(i => i.Id != ItemId.Site).Select(ItemDraft.Of)],
        Gates = [.. policy.Gates.Where(g => !g.IsExemption).Select(g => At(1, GateDraft.Of(g)))],
        Exemptions = [.. policy.Gates.Where(g => g.IsExemption).Select(g => At(1, GateDraft.Of(g)))],
        Redirects = [.. policy.Parts.Of<RedirectBook>().All.Select(r => At(1, RedirectDraft.Of(r)))],
    };
}
