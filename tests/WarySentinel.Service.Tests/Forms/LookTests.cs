using System.Net;
using System.Text.Json;
using Shouldly;
using WarySentinel.Contract.Hosted;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>How pages are dressed: tried before it is stored, refused where it could hardly be read.</summary>
public sealed class LookTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller owner = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        owner = new Caller(site);
    }

    public async ValueTask DisposeAsync()
    {
        owner.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task A_look_is_seen_at_an_address_that_nobody_else_knows_before_it_is_stored()
    {
        var look = new { accent = "#1a5c3a", background = "#ffffff", links = Array.Empty<object>(), theme = "auto", place = "end" };
        var address = (await owner.AskAsync("POST", "settings/look/preview", look)).Body.GetProperty("address").GetString()!;
        using var browser = site.NewBrowser();
        var tried = await browser.PageAsync(new Uri(address).PathAndQuery);
        tried.ShouldContain("--accent-day: #1a5c3a");
        tried.ShouldContain("data-theme=\"auto\" data-place=\"end\"");
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("#1a5c3a");
        // The refused see it, too, where they are refused.
        (await browser.PageAsync("/shop/dealer-stock" + new Uri(address).Query)).ShouldContain("--accent-day: #1a5c3a");
        (await browser.PageAsync("/account/sign-in?look=" + new string('0', 32))).ShouldNotContain("#1a5c3a");
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look }), "*", Stop);
        (await browser.PageAsync("/account/sign-in")).ShouldContain("--accent-day: #1a5c3a");
        var stored = (await owner.AskAsync("GET", "settings")).Body.GetProperty("look");
        (stored.GetProperty("theme").GetString(), stored.GetProperty("place").GetString()).ShouldBe(("auto", "end"));
        await site.RestartAsync();
        (await browser.PageAsync("/account/sign-in")).ShouldContain("data-theme=\"auto\"");
    }

    [Theory]
    [InlineData("accent", "#e8c15a", "#8a7336")]
    [InlineData("accent", "red;}body{display:none", null)]
    [InlineData("night", "</style><script>", null)]
    [InlineData("theme", "7", null)]
    [InlineData("theme", "dusk", null)]
    [InlineData("place", "-1", null)]
    public async Task What_could_hardly_be_read_or_is_none_is_refused_beside_its_field(string field, string value, string? nearest)
    {
        var look = new Dictionary<string, object> { ["accent"] = "#8a5a00", ["background"] = "#f7f3ea", ["links"] = Array.Empty<object>(), [field] = value };
        foreach (var (method, path, body) in new[] { ("POST", "settings/look/preview", (object)look), ("PUT", "settings", new { look }) })
        {
            var refused = await owner.AskAsync(method, path, body, "*");
            refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
            var fault = refused.Body.GetProperty("errors")[0];
            fault.GetProperty("field").GetString().ShouldBe("look." + field);
            fault.GetProperty("message").GetString()!.ShouldContain(nearest ?? "");
        }
    }

    [Fact]
    public async Task A_picture_letters_and_a_style_of_ones_own_dress_the_page_and_nothing_breaks_out_of_them()
    {
        var look = new
        {
            accent = "#1a5c3a", background = "#ffffff", links = Array.Empty<object>(), type = "device", picture = "/images/dome.jpg?v=2",
            css = "h1{letter-spacing:0}"
        };
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look }), "*", Stop);
        using var browser = site.NewBrowser();
        var page = await browser.PageAsync("/account/sign-in");
        page.ShouldContain("--picture: url('/images/dome.jpg?v=2');");
        page.ShouldContain("<style>.panel h1{letter-spacing: 0}</style>");
        page.ShouldContain("data-type=\"device\"");
        foreach (var (field, value) in new[]
        {
            ("picture", "https://elsewhere.example/x.jpg"), ("picture", "/x.jpg');}body{display:none"), ("picture", "//elsewhere.example/x"), ("type", "comic"),
            ("css", "body{background:url(//elsewhere.example)}"), ("css", "</style><script>alert(1)</script>"), ("css", new string('a', 20_001)),
        })
        {
            var wanted = new Dictionary<string, object>
            { ["accent"] = "#1a5c3a", ["background"] = "#ffffff", ["links"] = Array.Empty<object>(), [field] = value };
            var refused = await owner.AskAsync("PUT", "settings", new { look = wanted }, "*");
            refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity, value);
            refused.Body.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("look." + field);
        }
    }

    [Fact]
    public async Task Pages_that_the_owner_wrote_have_a_style_of_their_own_alone_and_within_a_page_of_the_site()
    {
        var look = new { accent = "#1a5c3a", background = "#ffffff", links = Array.Empty<object>(), css = "h1{margin:1px}", hostedCss = "h1{margin:2px}" };
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look }), "*", Stop);
        await site.Client.PutSectionAsync("styled", new HostedSectionDraft("Styled", "/styled"), Stop);
        await site.Client.AddPageAsync(new HostedPageNew("styled", "Of cloth", "cloth", "/styled/cloth", null, "Silk."), Stop);
        await site.Client.PublishPageAsync("cloth", new PublishDraft(), Stop);
        using var browser = site.NewBrowser();
        var (written, ours, framed) = (
            await browser.PageAsync("/styled/cloth"), await browser.PageAsync("/account/sign-in"), await browser.PageAsync("/account/framed.css"));
        written.ShouldContain("<style>.hosted h1{margin: 2px}</style>");
        written.ShouldNotContain("1px");
        ours.ShouldContain("<style>.panel h1{margin: 1px}</style>");
        ours.ShouldNotContain("2px");
        framed.ShouldContain("\n.wary-frame.wary-frame .panel h1{margin: 1px}\n.wary-frame.wary-frame.hosted h1{margin: 2px}\n");
        var covering = new { look.accent, look.background, look.links, hostedCss = "p{position:fixed}" };
        var refused = await owner.AskAsync("PUT", "settings", new { look = covering }, "*");
        refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        refused.Body.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("look.hostedCss");
    }

    [Fact]
    public async Task Whoever_was_signed_in_and_is_no_longer_is_told_so()
    {
        using var browser = site.NewBrowser();
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("You are signed out here");
        await browser.SignInAsync("nell@orchard-optics.example", "orchard-quiet-91");
        (await owner.AskAsync("DELETE", "members/nell@orchard-optics.example/sessions")).Status.ShouldBe(HttpStatusCode.OK);
        (await browser.PageAsync("/account/sign-in")).ShouldContain("You are signed out here");
        await browser.SignInAsync("nell@orchard-optics.example", "orchard-quiet-91");
        await browser.FillAsync("/account/", "/account/sign-out");
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("You are signed out here");
    }

    [Fact]
    public async Task A_page_can_be_looked_at_by_day_and_by_night_whatever_is_set()
    {
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/account/sign-in?theme=dark")).ShouldContain("data-theme=\"dark\"");
        (await guest.PageAsync("/account/sign-in?theme=light")).ShouldContain("data-theme=\"light\"");
        (await guest.PageAsync("/account/sign-in?theme=%22onload=x")).ShouldNotContain("onload=x");
        (await guest.PageAsync("/shop/dealer-stock?theme=dark")).ShouldContain("data-theme=\"dark\"");
    }

    [Fact]
    public async Task Whoever_was_never_here_is_first_offered_to_join_and_nobody_else()
    {
        (await owner.AskAsync("PUT", "settings", new { joining = new { way = "open", confirm = false, first = true } }, "*"))
            .Status.ShouldBe(HttpStatusCode.OK);
        using var guest = site.NewBrowser();
        var asked = await guest.PageAsync("/members");
        asked.IndexOf("/account/register?return_to=%2Fmembers", StringComparison.Ordinal)
            .ShouldBeInRange(0, asked.IndexOf("name=\"password\"", StringComparison.Ordinal));
        (await guest.PageAsync("/account/sign-in")).ShouldContain("New here?");
        // What is left out stays; where nobody can join, nobody is offered to.
        (await owner.AskAsync("PUT", "settings", new { joining = new { way = "closed", confirm = true } }, "*")).Body.GetProperty("joining")
            .GetProperty("first")
            .GetBoolean().ShouldBeTrue();
        (await guest.PageAsync("/members")).ShouldNotContain("/account/register");
        (await owner.AskAsync("PUT", "settings", new { joining = new { way = "closed", confirm = true, first = false } }, "*"))
            .Status.ShouldBe(HttpStatusCode.OK);
    }
}
