using System.Net;
using Shouldly;
using WarySentinel.Contract.Pages;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Pages of the service at the site's own addresses, in its menu, or not at all.</summary>
public sealed class OwnAddressTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task A_page_answers_at_its_own_address_and_the_usual_one_leads_there()
    {
        (await SetAsync("sign-in", new(Address: "/login"))).Stands.ShouldBe("/login");
        using var browser = site.NewBrowser();
        var page = await browser.PageAsync("/login?return_to=%2Fshop%2Fdealer-stock");
        page.ShouldContain("action=\"/login\"");
        using var usual = await browser.GetAsync("/account/sign-in?return_to=%2Fshop");
        (usual.StatusCode, usual.Headers.Location!.ToString()).ShouldBe((HttpStatusCode.SeeOther, "/login?return_to=%2Fshop"));
        var sent = await browser.FillAsync("/login", "/login", ("name", Nell), ("password", "orchard-quiet-91"), ("return_to", "/shop/dealer-stock"));
        (sent.StatusCode, sent.Headers.Location!.ToString()).ShouldBe((HttpStatusCode.SeeOther, "/shop/dealer-stock"));
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        // A form beneath the registration goes along, and so do letters that lead to a page.
        await SetAsync("register", new(Address: "/come-in"));
        using var fresh = site.NewBrowser();
        using var form = await fresh.GetAsync("/account/register/trade");
        form.Headers.Location!.ToString().ShouldBe("/come-in/trade");
        // Moved back, the address is the site's again.
        await SetAsync("sign-in", new());
        (await fresh.StatusAsync("/login")).ShouldBe(HttpStatusCode.NotFound);
        (await fresh.StatusAsync("/account/sign-in")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Where_the_site_has_something_no_page_is_put()
    {
        var fault = (await Should.ThrowAsync<Client.SentinelException>(() => SetAsync("sign-in", new(Address: "/visit")))).Faults.ShouldHaveSingleItem();
        fault.Field.ShouldBe("address");
        fault.Message.ShouldContain("/visit");
        fault.Message.ShouldContain("/sign-in");
        (await Should.ThrowAsync<Client.SentinelException>(() => SetAsync("sign-in", new(Address: "/account/x")))).Faults[0].Field.ShouldBe("address");
        (await Should.ThrowAsync<Client.SentinelException>(() => SetAsync("nowhere", new()))).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_page_that_is_off_is_not_there_and_nothing_leads_to_it()
    {
        await SetAsync("forgotten", new(Off: true));
        await SetAsync("profile", new(Off: true));
        using var browser = site.NewBrowser();
        string[] spellings =
            ["/account/password/forgotten", "/account/password/forgotten/", "/Account/Password/FORGOTTEN", "/account/password/%66orgotten"];
        foreach (var spelt in spellings)
        {
            (await browser.StatusAsync(spelt)).ShouldBe(HttpStatusCode.NotFound, spelt);
        }

        using var sent = await browser.PostAsync("/account/password/forgotten", ("name", Nell));
        sent.StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("forgotten");
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        (await browser.PageAsync("/account/")).ShouldNotContain("/account/profile");
    }

    [Fact]
    public async Task The_site_s_menu_has_the_pages_that_the_owner_put_into_it()
    {
        await SetAsync("register", new(Menu: true, Address: "/come-in"));
        await SetAsync("profile", new(Menu: true));
        await SetAsync("account", new(Menu: false));
        using var browser = site.NewBrowser();
        var guest = await MenuAsync(browser);
        guest.ShouldContain("href=\"/account/sign-in?return_to=%2Fvisit\"");
        guest.ShouldContain("href=\"/come-in?return_to=%2Fvisit\"");
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        var member = await MenuAsync(browser);
        member.ShouldContain("href=\"/account/profile\"");
        member.ShouldNotContain("href=\"/account/\"");
        member.ShouldContain("action=\"/account/sign-out\"");
    }

    [Fact]
    public async Task What_is_stored_and_cannot_be_read_leaves_pages_as_usual()
    {
        await SetAsync("sign-in", new(Address: "/login"));
        await site.Client.SetTextsAsync("de", new TextsPatch(new Dictionary<string, string?> { ["sign-in.title"] = "Hinein" }), Stop);
        await site.RestartAsync();
        using var browser = site.NewBrowser();
        (await browser.StatusAsync("/login")).ShouldBe(HttpStatusCode.OK);
    }

    private Task<VisitorPageView> SetAsync(string key, VisitorPageDraft draft) => site.Client.SetVisitorPageAsync(key, draft, Stop);

    private static async Task<string> MenuAsync(Browser browser)
    {
        var page = await browser.PageAsync("/visit");
        return page[page.IndexOf("wary-menu", StringComparison.Ordinal)..page.IndexOf("</nav>", page.IndexOf("wary-menu", StringComparison.Ordinal),
            StringComparison.Ordinal)];
    }
}
