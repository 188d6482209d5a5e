using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Catalogue;

public sealed class DiscoveryTests
{
    private static readonly Policy Site = Policy(Shop());

    [Fact]
    public void What_is_known_is_recognised_by_its_address()
    {
        var (rows, _) = Run(Site, new DiscoveredItem("/product/moss", ItemKind.Product, "Moss two", "other-key"));
        var row = rows.ShouldHaveSingleItem();
        (row.Id, row.Title).ShouldBe(("product:moss", "Moss two"));
        row.Parents.ShouldBe(["category:filters"]);
    }

    [Fact]
    public void Looking_twice_brings_nothing_twice()
    {
        DiscoveredItem[] found =
        [
            new(null, ItemKind.Category, "Gläser & Röhren"), new("/product/new-one", ItemKind.Product, "New one", null, ["/shop/filters"], ["Gläser & Röhren"]),
            new("/a/b", null, null), new("/a/b?id=2", null, null), new("/x/b", null, null), new("/", null, "Home"),
        ];
        var (first, _) = Run(Site, found);
        var edit = ItemCommands.Import(Site.Graph, first, [], false, Reserved).Edit!;
        var after = Site.After(edit);
        after.Graph.Items.Count.ShouldBe(Site.Graph.Items.Count + 5);
        var (second, vanished) = Run(after, found);
        var again = ItemCommands.Import(after.Graph, second, [], false, Reserved).Result;
        (again.Added, again.Changed).ShouldBe((0, 0));
        vanished.ShouldAllBe(v => !first.Select(r => r.Id).Contains(v.ToString()));
    }

    [Fact]
    public void What_the_source_no_longer_names_is_told_and_stays()
    {
        var (rows, vanished) = Run(Site, new DiscoveredItem("/product/moss", ItemKind.Product, null));
        vanished.ShouldBe([Id("product:gear"), Id("product:barlow")]);
        rows.Count.ShouldBe(1);
        Discovery.Run(Site.Graph, [new DiscoveredItem("/product/moss", ItemKind.Product, null)], [], false).Vanished.ShouldBeEmpty();
        Discovery.Run(Site.Graph, [new DiscoveredItem("/product/moss", ItemKind.Product, null)], [], true, ["/product/gear"])
            .Vanished.ShouldBe([Id("product:barlow")]);
    }

    [Fact]
    public void A_listing_of_everything_adds_no_parent_above_the_shelf()
    {
        var (rows, _) = Run(Site, new DiscoveredItem("/product/fresh", ItemKind.Product, "Fresh", null, ["/shop/spares"]),
            new DiscoveredItem("/product/fresh", ItemKind.Product, null, null, ["/shop"]));
        rows.Single(r => r.Id == "product:fresh").Parents.ShouldBe(["category:spares"]);
    }

    [Fact]
    public void Rules_say_what_addresses_stand_for_and_paths_where()
    {
        var faults = new List<Fault>();
        KindRule[] rules = [KindRule.Read("/files/* = download", faults)!];
        KindRule.Read("nonsense", faults).ShouldBeNull();
        faults.ShouldHaveSingleItem().Field.ShouldBe("map");
        var (rows, _) = Discovery.Run(Site.Graph, [new DiscoveredItem("/files/atlas.pdf", null, null), new DiscoveredItem("/shop/filters/night", null, null)],
            rules, true);
        rows.Select(r => r.Id).ShouldBe(["download:atlas", "page:night"]);
        rows[1].Parents.ShouldBe(["category:filters"]);
        rows[0].Title.ShouldBe("Atlas.pdf");
    }

    private static (IReadOnlyList<ItemDraft> Rows, IReadOnlyList<ItemId> Vanished) Run(Policy policy, params DiscoveredItem[] found) =>
        Discovery.Run(policy.Graph, found, [], true);
}
