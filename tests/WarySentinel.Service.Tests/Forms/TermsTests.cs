using System.Net;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Terms over HTTP: agreed to by a form, asked again when a new version counts, refused, read by anybody in every version.</summary>
public sealed class TermsTests : JoiningSite
{
    private const string Orla = "orla@vane.example";

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("open", false);
        await ApplyAsync("""
            items:
              - {id: "page:charts", title: Charts, addresses: [/charts]}
            gates:
              - {key: charts, title: Charts, covers: ["page:charts"], audience: signed-in}
            terms:
              - key: use
                title: Terms of use
                text: |
                  ## What you may

                  Look, and *share* what you saw.
                in:
                  de: {title: Nutzung, text: Schauen Sie.}
            """);
    }

    [Fact]
    public async Task A_form_asks_for_what_counts_and_a_new_version_keeps_a_session_out_until_it_is_agreed_to()
    {
        using var browser = new Browser(Running.Site);
        (await browser.PageAsync("/account/register")).ShouldContain("/account/terms/use/1");
        (await SendAsync(browser, "", Orla)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await SendAsync(browser, "", Orla, ("seen.use", "1"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await SendAsync(browser, "", Orla, ("seen.use", "2"), ("agree.use", "yes"))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await StatusOfAsync(Orla)).ShouldBeNull();
        (await SendAsync(browser, "", Orla, ("seen.use", "1"), ("agree.use", "yes"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        await SignInAsync(browser, Orla);
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);

        await PublishAsync(new { title = "Terms of use", text = "Look, and share nothing.", note = "Nothing is shared." });
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.Unauthorized);
        var why = (await Owner.AskAsync("POST", "decisions/why", new { visitor = Orla, item = "page:charts", act = "open" })).Body;
        why.GetProperty("allowed").GetBoolean().ShouldBeFalse();
        why.GetProperty("headline").GetString().ShouldNotBeNull().ShouldContain("has yet to agree");
        var asked = await browser.GetAsync("/account/sign-in?return_to=/charts");
        asked.Headers.Location!.OriginalString.ShouldBe("/account/agree?return_to=%2Fcharts");
        (await browser.PageAsync("/account/agree?return_to=%2Fcharts")).ShouldContain("Nothing is shared.");
        (await browser.FillAsync("/account/agree?return_to=%2Fcharts", "/account/agree", ("seen.use", "2"), ("answer", "agree"))).StatusCode
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await browser.FillAsync("/account/agree", "/account/agree", ("seen.use", "1"), ("agree.use", "yes"), ("answer", "agree"))).StatusCode
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        var agreed = await browser.FillAsync(
            "/account/agree?return_to=%2Fcharts", "/account/agree", ("return_to", "/charts"), ("seen.use", "2"), ("agree.use", "yes"), ("answer", "agree"));
        agreed.Headers.Location!.OriginalString.ShouldBe("/charts");
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);

        // A version that changes nothing that matters asks nobody; the evidence says what was said to which, and where.
        await PublishAsync(new { title = "Terms of use", text = "Look, and share nothing!", minor = true });
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);
        var member = (await Store.MemberByNameAsync(Orla, Stop))!;
        (await Store.ConsentsAsync(member.Id, 10, Stop)).Select(c => (c.Number, c.Agreed, c.Language, c.Where))
            .ShouldBe([(2, true, "en", "sign-in"), (1, true, "en", "register")]);
        (await Owner.AskAsync("DELETE", "terms/use")).Status.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task Who_says_no_is_signed_out_keeps_the_account_and_may_change_their_mind()
    {
        using var browser = new Browser(Running.Site);
        await JoinAsync(browser);
        await PublishAsync(new { title = "Terms of use", text = "Other." });
        var no = await browser.FillAsync("/account/agree", "/account/agree", ("seen.use", "2"), ("answer", "refuse"));
        (await TextAsync(no)).ShouldContain("You have said no");
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.Unauthorized);
        (await StatusOfAsync(Orla)).ShouldBe(MemberStatus.Active);
        var again = await SignInAsync(browser, Orla);
        again.Headers.Location!.OriginalString.ShouldStartWith("/account/agree");
        await browser.FillAsync("/account/agree", "/account/agree", ("seen.use", "2"), ("agree.use", "yes"), ("answer", "agree"));
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task Every_version_is_a_page_for_anybody_in_their_language_and_one_to_come_counts_when_its_day_is_there()
    {
        using var browser = new Browser(Running.Site);
        await JoinAsync(browser);
        await PublishAsync(new { title = "Terms of use", text = "To come.", from = Clock.GetUtcNow().AddDays(9).ToString("O") });
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);
        (await browser.PageAsync("/account/terms/use")).ShouldContain("<em>share</em>");
        (await browser.PageAsync("/account/terms/use/2")).ShouldContain("To come.");
        (await browser.GetAsync("/account/terms/use/3")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await browser.GetAsync("/account/terms/other")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        using var german = new HttpRequestMessage(HttpMethod.Get, "/account/terms/use/1") { Headers = { { "Accept-Language", "de-AT,en;q=0.5" } } };
        (await TextAsync(await browser.SendAsync(german))).ShouldContain("Schauen Sie.");
        Clock.Advance(TimeSpan.FromDays(10));
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Ten_who_publish_at_once_make_versions_that_each_have_a_number_of_their_own_and_a_file_says_them_again()
    {
        await Task.WhenAll(Enumerable.Range(0, 10).Select(i => PublishAsync(new { title = "Terms of use", text = "Text " + i })));
        var terms = (await Owner.AskAsync("GET", "terms/use")).Body;
        var versions = terms.GetProperty("versions").EnumerateArray().Select(v => v.GetProperty("number").GetInt32()).ToList();
        versions.ShouldBe(Enumerable.Range(1, versions.Count).Reverse());
        versions.Count.ShouldBe(11);
        using var http = NewClient();
        var file = await http.GetStringAsync(new Uri("/api/v1/site.yaml", UriKind.Relative), Stop);
        file.ShouldContain("terms:");
        (await ApplyTextAsync(file)).ShouldContain("\"added\":0,\"changed\":0,\"removed\":0");
        (await Owner.AskAsync("GET", "terms/use")).Body.GetProperty("versions").GetArrayLength().ShouldBe(11);
        (await ApplyTextAsync("terms:\n  - {key: use, title: Terms, text: Other, audience: 'group:nobody-knows'}")).ShouldContain("\"line\":2");
        (await ApplyTextAsync("forms:\n  - {key: f, title: F, terms: [gone], sections: [{fields: []}]}")).ShouldContain("gone");
    }

    private async Task JoinAsync(Browser browser)
    {
        (await SendAsync(browser, "", Orla, ("seen.use", "1"), ("agree.use", "yes"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        await SignInAsync(browser, Orla);
        (await CheckAsync(browser)).ShouldBe(HttpStatusCode.NoContent);
    }

    private static Task<HttpResponseMessage> SignInAsync(Browser browser, string email) =>
        browser.FillAsync("/account/sign-in", "/account/sign-in", ("name", email), ("password", Password));

    private static async Task<HttpStatusCode> CheckAsync(Browser browser) =>
        (await browser.SendAsync(new HttpRequestMessage(HttpMethod.Get, "/sentinel/check") { Headers = { { "X-Original-URI", "/charts" } } })).StatusCode;

    private async Task PublishAsync(object draft)
    {
        var put = await Owner.AskAsync("PUT", "terms/use", draft);
        put.Status.ShouldBe(HttpStatusCode.OK, put.Body.ToString());
    }
}
