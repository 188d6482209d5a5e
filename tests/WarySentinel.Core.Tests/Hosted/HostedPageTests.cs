using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Pages;
using WarySentinel.Core.Hosted;
using Xunit;

namespace WarySentinel.Core.Tests.Hosted;

/// <summary>Pages that are written here: where they stand, when which version is served, and whom they let in.</summary>
public sealed class HostedPageTests
{
    private static readonly HostedSurroundings Around = new(Scene.Reserved, "test", Scene.Now);
    private static readonly Policy Shop = Scene.Policy(Scene.Shop());

    [Fact]
    public void A_page_is_an_item_beneath_its_section_and_as_closed_as_that()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "text");
        var page = policy.Graph.Find(Scene.Id("page:night"))!;
        page.Addresses.ShouldHaveSingleItem().Text.ShouldBe("/handbook/night");
        policy.OpensPath(Visitor.Guest, "/handbook/night").ShouldBeTrue();
        var guarded = policy.After(GateCommands.Add(policy, new GateDraft { Title = "Guides", Covers = ["section:handbook"], Audience = "role:guide" },
            Gates(policy))
            .Value.ToStore);
        (guarded.OpensPath(Visitor.Guest, "/handbook/night"), guarded.OpensPath(Scene.Role("guide"), "/handbook/night")).ShouldBe((false, true));
        guarded.OpensPath(Visitor.Guest, "/handbook/not-written-yet").ShouldBeFalse();
        OwnGate.Of(guarded, page.Id, Scene.Now).From.ShouldHaveSingleItem().From.ShouldBe(Scene.Id("section:handbook"));
    }

    [Fact]
    public void A_gate_of_its_own_stands_in_place_of_the_section_s_and_goes_again()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "text");
        policy = policy.After(GateCommands.Add(policy, new GateDraft { Title = "Guides", Covers = ["section:handbook"], Audience = "role:guide" },
            Gates(policy))
            .Value.ToStore);
        var id = Scene.Id("page:night");
        var own = policy.After(OwnGate.Set(policy, id, "role:dealer", Gates(policy)).Value.ToStore);
        (own.OpensPath(Scene.Role("guide"), "/handbook/night"), own.OpensPath(Scene.Role("dealer"), "/handbook/night")).ShouldBe((false, true));
        OwnGate.Of(own, id, Scene.Now).Own!.Audience.ToString().ShouldBe("role:dealer");
        var open = own.After(OwnGate.Set(own, id, null, Gates(own)).Value.ToStore);
        open.OpensPath(Visitor.Guest, "/handbook/night").ShouldBeTrue();
        OwnGate.Of(open, id, Scene.Now).IsOpen.ShouldBeTrue();
        var back = open.After(OwnGate.Inherit(open, id, Gates(open)).Value.ToStore);
        (back.OpensPath(Scene.Role("guide"), "/handbook/night"), back.OpensPath(Scene.Role("dealer"), "/handbook/night")).ShouldBe((true, false));
        back.Gates.Count.ShouldBe(policy.Gates.Count);
    }

    [Fact]
    public void A_version_is_served_from_its_time_on_and_the_one_before_until_then()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "one");
        var later = Publish(policy, "night", "two", Scene.Now.AddDays(1));
        var page = HostedBook.Of(later).Page("night")!;
        (page.At(Scene.Now)!.Number, page.At(Scene.Now.AddDays(1))!.Number).ShouldBe((1, 2));
        HostedCommands.Served(page).ShouldBe([1, 2]);
        HostedBook.Of(Publish(later, "night", "three", null)).Page("night")!.At(Scene.Now.AddDays(2))!.Number.ShouldBe(3);
        var gone = later.After(HostedCommands.Unpublish(later, "night").Value.ToStore);
        HostedBook.Of(gone).Page("night")!.At(Scene.Now.AddDays(2)).ShouldBeNull();
    }

    [Fact]
    public void A_role_that_a_page_asks_for_is_not_dropped_unseen_and_a_new_name_of_it_counts_at_once()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "::: for role:guide\nx\n:::");
        Core.People.FactUses.In(policy, FactKind.Role, "guide").ShouldContain(n => n.Kind == "page" && n.Key == "night");
        var mapped = (HostedBook)HostedBook.Of(policy).Mapped(a => a.Replacing(f => new Audience.Fact(FactKind.Role, "warden")));
        mapped.Page("night")!.Now!.Asks.ShouldHaveSingleItem().ToString().ShouldBe("role:warden");
        mapped.Changed(HostedBook.Of(policy)).ShouldHaveSingleItem();
    }

    [Theory]
    [InlineData("/shop/filters", "page-address-item")]
    [InlineData("/SHOP/filters", "page-address-item")]
    [InlineData("/login", "page-address-page")]
    [InlineData("/account/x", "page-address-ours")]
    [InlineData("/a/*", "page-address-form")]
    [InlineData("/a/", "page-address-form")]
    [InlineData("nowhere", "page-address-form")]
    public void An_address_where_something_stands_is_refused_and_a_free_one_named(string address, string code)
    {
        var policy = Book("handbook", "/handbook");
        policy = policy.After(PageCommands.Set(policy, new PageDraft("sign-in", "/login"), Scene.Reserved).Value.ToStore);
        var fault = HostedCommands.Add(policy, new("night", "handbook", "Night", address), new("Night", null, ""), Around)
            .Problem!.Faults.ShouldHaveSingleItem();
        fault.Message.Key.ShouldBe("problem." + code);
        HostedCommands.Add(policy, new("night", "handbook", "Night", (string)fault.Message.Values[2]!), new("Night", null, ""), Around).Problem.ShouldBeNull();
    }

    [Fact]
    public void However_pages_are_made_and_moved_no_two_stand_at_one_address()
    {
        var random = new Random(45);
        string[] parts = ["a", "b", "login", "handbook", "A", "%61", "shop"];
        var policy = Book("handbook", "/handbook");
        for (var trial = 0; trial < 1_500; trial++)
        {
            var key = "p" + random.Next(12);
            var address = random.Next(4) == 0 ? null : "/" + string.Join('/', Enumerable.Range(0, random.Next(1, 4))
                .Select(_ => parts[random.Next(parts.Length)]));
            Edit? edit = random.Next(5) switch
            {
                0 => Good(PageCommands.Set(policy, new PageDraft(VisitorPages.All[random.Next(VisitorPages.All.Count)].Key, address), Scene.Reserved)),
                1 => Good(HostedCommands.Remove(policy, key, policy.GateNaming)),
                2 => Good(HostedCommands.Set(policy, key, new(key, null, null, address), null, Around)),
                _ => Good(HostedCommands.Add(policy, new(key, "handbook", key, address), new(key, null, ""), Around)),
            };
            policy = edit is null ? policy : policy.After(edit);
            var stands = HostedBook.Of(policy).Pages.Select(p => HostedCommands.AddressOf(policy, p.Id)!).ToList();
            var keys = stands.Select(a => RequestPath.TryNormalise(a, policy.Settings.Paths, out var path, out _) ? path.Key : a).ToList();
            keys.ShouldBeUnique();
            stands.ShouldAllBe(a => PageBook.Of(policy).PathAt(a, policy.Settings.Paths) == null);
        }
    }

    [Fact]
    public void A_section_with_pages_stays_and_an_item_of_the_site_is_not_taken_over()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "text");
        HostedCommands.RemoveSection(policy, "handbook", policy.GateNaming).Problem!.Code.ShouldBe("section-pages");
        HostedCommands.PutSection(policy, new("members", "Members", "/inner"), null, Around)
            .Problem!.Faults[0].Message.Key.ShouldBe("problem.page-item-exists");
        HostedCommands.PutSection(policy, new("handbook", "Handbook", "/handbook"), 7, Around).Problem!.Code.ShouldBe("stale");
        var empty = policy.After(HostedCommands.Remove(policy, "night", policy.GateNaming).Value.ToStore);
        var gone = empty.After(HostedCommands.RemoveSection(empty, "handbook", empty.GateNaming).Value.ToStore);
        gone.Graph.Find(Scene.Id("section:handbook")).ShouldBeNull();
    }

    [Fact]
    public void Pages_go_along_where_their_section_goes_and_nothing_is_covered_by_it()
    {
        var policy = With(Book("handbook", "/handbook"), "night", "text");
        var moved = policy.After(HostedCommands.PutSection(policy, new("handbook", "Handbook", "/book"), null, Around).Value.ToStore);
        HostedCommands.AddressOf(moved, Scene.Id("page:night")).ShouldBe("/book/night");
        HostedCommands.PutSection(policy, new("handbook", "Handbook", "/product"), null, Around).Problem.ShouldBeNull();
        var taken = With(Book("handbook", "/handbook"), "moss", "text");
        HostedCommands.PutSection(taken, new("handbook", "Handbook", "/product"), null, Around).Problem!.Faults[0].Message.Key
            .ShouldBe("problem.page-address-along");
    }

    [Fact]
    public void An_item_that_says_the_very_same_is_taken_over()
    {
        var item = Scene.Item("page:night", ["section:handbook"], ["/handbook/night"]);
        var policy = Book("handbook", "/handbook");
        policy = policy.After(new Edit("test", "", [new ItemsPut([item])]));
        HostedCommands.Add(policy, new("night", "handbook", "Night"), new("Night", null, ""), Around).Problem.ShouldBeNull();
        HostedCommands.Add(policy, new("night", "handbook", "Night", "/handbook/other"), new("Night", null, ""), Around).Problem!.Faults[0].Message.Key
            .ShouldBe("problem.page-item-exists");
    }

    [Theory]
    [InlineData("", 0, 0, true)]
    [InlineData("0+", 1, 1, true)]
    [InlineData("0+", 0, 1, false)]
    [InlineData("0- 1+", 2, 2, true)]
    [InlineData("0- 1+", 3, 2, false)]
    [InlineData("1+", 3, 1, false)]
    [InlineData("x+", 3, 2, false)]
    [InlineData("0*", 3, 2, false)]
    [InlineData("+", 3, 2, false)]
    [InlineData("de+", 0, 0, true)]
    [InlineData("de-", 0, 0, false)]
    [InlineData("fr/DE+", 0, 0, true)]
    [InlineData("fr/it-", 0, 0, true)]
    [InlineData("d+", 0, 0, false)]
    [InlineData("d-", 0, 0, false)]
    [InlineData("de//fr-", 0, 0, false)]
    [InlineData("0+ de+", 1, 1, true)]
    [InlineData("0+ de+", 0, 1, false)]
    public void What_is_stored_of_conditions_holds_as_it_was_written_and_never_where_it_cannot_be_read(string stored, int answers, int asks, bool holds) =>
        PageWordsOf.Holds(stored, (ulong)answers, asks, "de-AT").ShouldBe(holds);

    private static Edit? Good<T>(Outcome<Edit<T>> outcome) => outcome.IsGood ? outcome.Value.ToStore : null;

    private static GateSurroundings Gates(Policy policy) => new(new KnownKeys(policy, _ => false), Scene.Reserved, [], Scene.Now);

    private static Policy Book(string key, string address) =>
        Shop.After(HostedCommands.PutSection(Shop, new(key, "Handbook", address), 0, Around).Value.ToStore);

    private static Policy With(Policy policy, string key, string text)
    {
        var added = policy.After(HostedCommands.Add(policy, new(key, "handbook", "Night"), new("Night", null, text), Around).Value.ToStore);
        return Publish(added, key, text, null);
    }

    private static Policy Publish(Policy policy, string key, string text, DateTimeOffset? from) => policy.After(HostedCommands.Publish(
        policy, key, new("Night", null, text), from, new KnownKeys(policy, _ => false), t => t, Around).Value.ToStore);
}
