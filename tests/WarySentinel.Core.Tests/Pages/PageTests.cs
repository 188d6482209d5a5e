using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Pages;
using Xunit;

namespace WarySentinel.Core.Tests.Pages;

/// <summary>Pages of the service at addresses of their own: never where anything else stands, and found there however the address is spelt.</summary>
public sealed class PageTests
{
    private static readonly Policy Shop = Scene.Policy(Scene.Shop(), Scene.Gate("inner", "path:/inner/**"));

    [Fact]
    public void A_page_with_an_address_of_its_own_is_found_there_with_all_that_stands_beneath_it()
    {
        var moved = Put(Put(Shop, "sign-in", "/login"), "register", "/come/in");
        var book = PageBook.Of(moved);
        book.AddressOf("/account", "/sign-in").ShouldBe("/login");
        book.AddressOf("/account", "/sign-in/letter").ShouldBe("/account/sign-in/letter");
        book.AddressOf("/account", "/register/trade").ShouldBe("/come/in/trade");
        book.AddressOf("/account", "/devices").ShouldBe("/account/devices");
        foreach (var (asked, path) in new[]
        {
            ("/login", "/sign-in"), ("/LOGIN/", "/sign-in"), ("//login", "/sign-in"), ("/%6cogin", "/sign-in"), ("/x/../login", "/sign-in"),
            ("/come/in/trade", "/register/trade"), ("/login/more", null), ("/logins", null), ("/come", null), ("/", null), ("/%", null),
        })
        {
            book.PathAt(asked, moved.Settings.Paths).ShouldBe(path, asked);
        }
    }

    [Theory]
    [InlineData("sign-in", "login", "page-address-form")]
    [InlineData("sign-in", "/", "page-address-form")]
    [InlineData("sign-in", "/log in", "page-address-form")]
    [InlineData("sign-in", "/login/", "page-address-form")]
    [InlineData("sign-in", "/login?a", "page-address-form")]
    [InlineData("sign-in", "/a/../login", "page-address-form")]
    [InlineData("sign-in", "/lo*", "page-address-form")]
    [InlineData("sign-in", "https://elsewhere.example/", "page-address-form")]
    [InlineData("sign-in", "/account/login", "page-address-ours")]
    [InlineData("sign-in", "/Sentinel/login", "page-address-ours")]
    [InlineData("sign-in", "/.well-known/login", "page-address-ours")]
    [InlineData("sign-in", "/shop", "page-address-item")]
    [InlineData("sign-in", "/SHOP", "page-address-item")]
    [InlineData("sign-in", "/members/login", "page-address-item")]
    [InlineData("sign-in", "/inner/login", "page-address-gate")]
    [InlineData("sign-in", "/come/in", "page-address-page")]
    [InlineData("sign-in", "/come/in/here", "page-address-page")]
    [InlineData("directory", "/come", "page-address-page")]
    [InlineData("refused", "/no", "page-addressless")]
    [InlineData("nowhere", "/no", "page-unknown")]
    public void An_address_where_something_stands_is_refused_and_another_that_is_free_is_named(string key, string address, string code)
    {
        var moved = Put(Shop, "register", "/come/in");
        var fault = PageCommands.Set(moved, new PageDraft(key, address), Scene.Reserved).Problem!.Faults.ShouldHaveSingleItem().Message;
        fault.Key.ShouldBe("problem." + code);
        if (code.StartsWith("page-address-", StringComparison.Ordinal))
        {
            PageCommands.Set(moved, new PageDraft(key, (string)fault.Values[2]!), Scene.Reserved).Problem.ShouldBeNull();
        }
    }

    [Theory]
    [InlineData("/PROFILE", "profile", "")]
    [InlineData("/profile/", "profile", "")]
    [InlineData("/register/Trade", "register", "/Trade")]
    [InlineData("", "account", "")]
    [InlineData("/", "account", "")]
    [InlineData("/profile/more", null, null)]
    [InlineData("/closed", null, null)]
    public void A_page_is_known_as_the_service_itself_reads_its_address(string path, string? key, string? more)
    {
        var found = VisitorPages.At(path);
        (found?.Page.Key, found?.More).ShouldBe((key, more));
    }

    [Fact]
    public void A_site_that_is_closed_as_a_whole_has_its_sign_in_where_the_owner_wants_it()
    {
        var closed = Scene.Policy(Scene.Shop(), Scene.Gate("all", "path:/**"));
        PageCommands.Set(closed, new PageDraft("sign-in", "/login"), Scene.Reserved).Problem.ShouldBeNull();
    }

    [Fact]
    public void What_no_site_can_do_without_stays_and_as_usual_is_stored_as_nothing()
    {
        PageCommands.Set(Shop, new PageDraft("sign-in", Off: true), Scene.Reserved).Problem!.Faults[0].Field.ShouldBe("off");
        PageCommands.Set(Shop, new PageDraft("confirm", Menu: true), Scene.Reserved).Problem!.Faults[0].Field.ShouldBe("menu");
        var off = Shop.After(PageCommands.Set(Shop, new PageDraft("forgotten", Off: true), Scene.Reserved).Value.ToStore);
        PageBook.Of(off).Has("forgotten").ShouldBeFalse();
        var on = off.After(PageCommands.Reset(off, "forgotten", Scene.Reserved).Value.ToStore);
        PageBook.Of(on).All.ShouldBeEmpty();
        PageCommands.Set(off, new PageDraft("forgotten"), Scene.Reserved, 7).Problem!.Code.ShouldBe("stale");
    }

    [Fact]
    public void However_pages_are_moved_no_two_answer_one_address_and_each_is_found_where_it_is_said_to_stand()
    {
        var random = new Random(14);
        string[] parts = ["a", "b", "login", "join", "A", "%61", "shop"];
        var policy = Shop;
        for (var trial = 0; trial < 3_000; trial++)
        {
            var page = VisitorPages.All[random.Next(VisitorPages.All.Count)];
            var address = "/" + string.Join('/', Enumerable.Range(0, random.Next(1, 4)).Select(_ => parts[random.Next(parts.Length)]));
            var set = PageCommands.Set(policy, new PageDraft(page.Key, random.Next(5) == 0 ? null : address), Scene.Reserved);
            policy = set.IsGood ? policy.After(set.Value.ToStore) : policy;
            var book = PageBook.Of(policy);
            foreach (var moved in book.Moved)
            {
                var (own, rules) = (VisitorPages.Find(moved.Key)!, policy.Settings.Paths);
                var at = book.AddressOf("/account", own.Path);
                book.PathAt(at, rules).ShouldBe(own.Path);
                policy.ItemsAt(Scene.Path(at)).ShouldBeEmpty();
                book.PathAt(at + "/x", rules).ShouldBe(own.HasMore ? own.Path + "/x" : book.PathAt(at + "/x", rules) is { } other && other != own.Path + "/x"
                    ? other : null);
            }
        }
    }

    private static Policy Put(Policy policy, string key, string address) =>
        policy.After(PageCommands.Set(policy, new PageDraft(key, address), Scene.Reserved).Value.ToStore);
}
