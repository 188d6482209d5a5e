using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Oracle;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

/// <summary>What is stored and does not fit together, or cannot be read.</summary>
public sealed class SalvageTests
{
    [Fact]
    public void An_item_whose_parent_is_gone_stays_and_is_closed()
    {
        var (policy, faults) = Build([Item("page:lost", ["category:gone"], ["/lost"]), Item("page:fine", null, ["/fine"])]);
        faults.ShouldHaveSingleItem().Key.ShouldBe("page:lost");
        policy.OpensPath(Visitor.Guest, "/lost").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/fine").ShouldBeTrue();
        policy.OpensPath(Role("editor"), "/lost").ShouldBeTrue();
    }

    [Fact]
    public void A_ring_is_closed_at_all_its_addresses()
    {
        var (policy, faults) = Build([Item("category:a", ["category:b"], ["/a", "/a/**"]), Item("category:b", ["category:a"], ["/b"]),
            Item("page:inside", ["category:a"], ["/inside"])]);
        faults.Select(f => f.Key).ShouldBe(["category:a", "category:b"], ignoreOrder: true);
        foreach (var path in new[] { "/a", "/a/x", "/b", "/inside" })
        {
            policy.OpensPath(Visitor.Guest, path).ShouldBeFalse();
        }
    }

    [Fact]
    public void What_a_fault_covered_is_closed_and_nothing_else()
    {
        var unreadable = new StoredFault("item", "page:?", Wording.Plain("broken"), [new Selector(null, Address.Parse("/secret/**"))]);
        var (policy, faults) = Build([Item("page:fine", null, ["/fine"])], unreadable);
        faults.ShouldBe([unreadable]);
        policy.OpensPath(Visitor.Guest, "/secret/x").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/fine").ShouldBeTrue();
        policy.Gates.ShouldHaveSingleItem().StandsIn.ShouldBeTrue();
    }

    [Theory]
    [InlineData("/members/[0-9]", "path:/members/**")]
    [InlineData("/a/b/c*d", "path:/a/b/**")]
    [InlineData("/*x", "site")]
    [InlineData("shop", "site")]
    [InlineData("", "site")]
    public void An_address_that_cannot_be_read_closes_its_beginning(string address, string closed) => Salvage.Beginning(address).ToString().ShouldBe(closed);

    [Fact]
    public void A_ring_by_addresses_is_found_whole_whichever_item_stands_first()
    {
        Item[] all =
        [
            Item("download:k1", ["episode:k5"], ["/a/b/*"]), Item("category:k2", ["site"], ["/a/b/c"]), Item("page:k3", ["category:k2"], ["/**"]),
            Item("download:k4", null, ["/x/y?id=1", "/a/*/c"]), Item("episode:k5", ["download:k4"], ["/b"]),
        ];
        CatalogueGraph.RingsAmong(all, new SiteSettings().Paths).ShouldHaveSingleItem().Count.ShouldBe(5);
        var (policy, faults) = Build(all);
        faults.Select(f => f.Kind).Distinct().ShouldBe(["item"]);
        policy.OpensPath(Visitor.Guest, "/x/y?id=1").ShouldBeFalse();
    }

    [Property(MaxTest = 300, Arbitrary = [typeof(Worlds)])]
    public void Whatever_items_are_stored_there_is_a_policy_and_nothing_opens_by_it(World world)
    {
        // Some rows are lost, and parents turned round.
        var random = new Random(world.Items.Count * 31 + world.Gates.Count);
        var items = world.Items.Where(_ => random.Next(4) != 0).Select(i => i.ToItem())
            .Select(i => i.Id != ItemId.Site && random.Next(3) == 0 && world.Items.Count > 1 ? i with
            { Parents = [Id(world.Items[random.Next(world.Items.Count)].Id)] } : i)
            .Select(i => i with { Parents = [.. i.Parents.Where(p => p != i.Id)] }).ToList();
        var (policy, faults) = Salvage.Build(items, [.. world.Gates.Select(g => g.ToGate())], [], new SiteSettings
        { StaffPasses = false }, PolicyParts.None, []);
        foreach (var fault in faults.Where(f => f.Kind == "item"))
        {
            policy.Allows(Visitor.Guest, Id(fault.Key), Acts.Open, World.Noon).ShouldBeFalse();
            foreach (var address in items.First(i => i.Id.ToString() == fault.Key).Addresses.Where(a => !a.IsPattern
                && policy.ItemsAt(Path(a.Text)).All(i => i.Id.ToString() == fault.Key)))
            {
                policy.OpensPath(Visitor.Guest, address.Text).ShouldBeFalse();
            }
        }
    }

    private static (Policy Policy, IReadOnlyList<StoredFault> Faults) Build(Item[] items, params StoredFault[] already) =>
        Salvage.Build(items, [], [], new SiteSettings(), PolicyParts.None, already);
}
