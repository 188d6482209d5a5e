using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Forms of the owner's own, over HTTP: what they ask, what they give, who is held back, and requests decided, asked back and mended.</summary>
public sealed partial class JoinFormTests : IAsyncLifetime
{
    private const string Orla = "orla@vane.example", Password = "a-ladder-in-the-orchard";

    private const string Site = """
        fields:
          - {key: company, label: Company}
          - {key: resale, kind: yes-no, label: For resale?}
          - {key: vat, label: VAT number, format: vat, message: Look at the number again.}
          - {key: proof, kind: file, label: Proof, types: [pdf, txt], kilobytes: 4}
          - {key: code, label: Code}
        groups:
          - {key: traders, title: Traders}
          - {key: proved, title: Proved}
        forms:
          - key: trade
            title: Trade
            way: approval
            sections:
              - fields:
                  - {field: company, required: true}
                  - {field: resale, required: true}
                  - {field: vat, required: true, shownIf: {field: resale, is: ["yes"]}}
                  - {field: proof, shownIf: {field: resale, is: ["yes"]}}
                  - {field: code}
            grants:
              - {grant: "group:traders", when: {field: vat, given: true}}
              - {grant: "group:proved", days: 30, when: {field: proof, given: true}}
            approves: {domains: [known.example], when: {field: code, is: [SPRING]}}
          - key: shop
            title: Shop
            way: open
            confirm: false
            position: 200
            sections:
              - fields: [{field: company}]
            grants:
              - {grant: "group:proved"}
              - {grant: "group:traders", when: {field: company, given: true}, afterApproval: true}
        """;

    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller owner = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Store Store => site.Services.GetRequiredService<Store>();

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=5000"], time: clock);
        owner = new Caller(site, site.Token);
        (await owner.AskAsync("PUT", "settings", new
        {
            joining = new { way = "approval", confirm = true },
            letters = new { noticesTo = "keeper@site.example" }
        }, "*"))
            .Status.ShouldBe(HttpStatusCode.OK);
        await ApplyAsync(Site);
    }

    public async ValueTask DisposeAsync()
    {
        owner.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task What_a_form_asks_depends_on_its_answers_and_nothing_typed_is_lost()
    {
        using var browser = site.NewBrowser();
        var page = await browser.PageAsync("/account/register/trade");
        page.ShouldContain("name=\"f.vat\"", customMessage: "without scripts every field can be filled in");
        Field(page, "vat").ShouldContain("hidden");
        var answer = await TextAsync(await SendAsync(browser, "trade", Orla, ("f.company", "Vane <b>"), ("f.resale", "yes"), ("f.vat", "PT501964842")));
        answer.ShouldContain("Look at the number again.");
        answer.ShouldContain("value=\"Vane &lt;b&gt;\"");
        answer.ShouldContain("value=\"PT501964842\"");
        Field(answer, "vat").ShouldNotContain("hidden");
        answer.ShouldContain($"value=\"{Orla}\"");
        (await TextAsync(await SendAsync(browser, "trade", Orla, ("f.resale", "no")))).ShouldContain("This has to be filled in.");
        (await Store.MemberByNameAsync(Orla, Stop)).ShouldBeNull();
        // What is not shown is not taken, whatever was sent.
        (await SendAsync(browser, "trade", Orla, ("f.company", "Vane"), ("f.resale", "no"), ("f.vat", "PT501964843"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        var (member, request) = await RequestOfAsync(Orla);
        (await Store.AnswersAsync(member.Id, Stop)).Select(a => $"{a.Field}={a.Values[0]}").ShouldBe(["company=Vane", "resale=no"]);
        request.Grants.ShouldBeEmpty();
        (await browser.StatusAsync("/account/register/nothing-of-the-kind")).ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_request_is_asked_back_mended_and_approved_and_gives_what_the_answers_call_for()
    {
        using var browser = site.NewBrowser();
        await SendAsync(browser, "trade", Orla, ("f.company", "Vane"), ("f.resale", "yes"), ("f.vat", "PT 501.964.843"));
        (await RequestOfAsync(Orla)).Request.State.ShouldBe(RequestState.Unproved);
        await owner.RefusedAsync(HttpStatusCode.Conflict, "request-unproved", "POST", $"members/{Orla}/ask-back", new { words = "Who are you?" });
        await ProveAsync(browser, Orla);
        (await RequestOfAsync(Orla)).Request.State.ShouldBe(RequestState.Waiting);
        var notice = await LetterAsync("keeper@site.example", "notice-request");
        notice.ShouldContain("VAT number: PT501964843");
        await owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "request-question", "POST", $"members/{Orla}/ask-back", new { });
        (await owner.AskAsync("POST", $"members/{Orla}/ask-back", new { words = "Is Vane the <whole> name?" })).Status.ShouldBe(HttpStatusCode.OK);
        var letter = await LetterAsync(Orla, "request-asked");
        letter.ShouldContain("Is Vane the <whole> name?");
        var link = LinkIn(letter);
        var page = await browser.PageAsync(link);
        page.ShouldContain("Is Vane the &lt;whole&gt; name?");
        page.ShouldContain("value=\"Vane\"");
        (await browser.FillAsync(link, "/account/application", ("link", SecretIn(link)), ("f.company", ""), ("f.resale", "yes"))).StatusCode
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await browser.FillAsync(link, "/account/application", ("link", SecretIn(link)), ("f.company", "Vane & Sons"), ("f.resale", "yes"), ("f.vat",
            "PT501964843")))
            .StatusCode.ShouldBe(HttpStatusCode.OK);
        (await RequestOfAsync(Orla)).Request.State.ShouldBe(RequestState.Waiting);
        await browser.FillAsync(link, "/account/application", ("link", SecretIn(link)), ("f.company", "Vane & Sons"), ("f.resale", "yes"), ("f.vat",
            "PT501964843"));
        (await Store.MessagesAsync(50, to: "keeper@site.example", stop: Stop)).Count.ShouldBe(2, "once as they came, once as they answered");
        var listed = await owner.AskAsync("GET", "requests");
        listed.Body.GetProperty("items")[0].GetProperty("answers")[0].GetProperty("words").GetString().ShouldBe("Vane & Sons");
        // Whoever holds the applicant's link decides nothing by it, nor the other way round.
        (await browser.StatusAsync("/account/request?link=" + SecretIn(link))).ShouldBe(HttpStatusCode.Gone);
        (await owner.AskAsync("POST", $"members/{Orla}/approve", new { words = "Welcome." })).Status.ShouldBe(HttpStatusCode.OK);
        var (member, request) = await RequestOfAsync(Orla);
        (member.Status, request.State).ShouldBe((MemberStatus.Active, RequestState.Approved));
        var grant = member.Grants.ShouldHaveSingleItem();
        (grant.Fact, grant.Source.ToString(), grant.Until).ShouldBe(("group:traders", "form:trade", null));
        (await browser.StatusAsync(link)).ShouldBe(HttpStatusCode.Gone, "it was decided");
        foreach (var again in new[] { "approve", "decline", "ask-back" })
        {
            await owner.RefusedAsync(HttpStatusCode.Conflict, "request-decided", "POST", $"members/{Orla}/{again}", new { words = "x" });
        }
    }

    [Fact]
    public async Task Who_is_a_member_at_once_gets_what_needs_a_yes_only_with_the_yes()
    {
        using var browser = site.NewBrowser();
        await SendAsync(browser, "shop", "a@vane.example", ("f.company", "Vane"));
        var (member, request) = await RequestOfAsync("a@vane.example");
        (member.Status, request.State).ShouldBe((MemberStatus.Active, RequestState.Waiting));
        member.Grants.Select(g => g.Fact).ShouldBe(["group:proved"]);
        (await owner.AskAsync("POST", "members/a@vane.example/decline", new { })).Status.ShouldBe(HttpStatusCode.OK);
        (member, request) = await RequestOfAsync("a@vane.example");
        (member.Status, request.State, member.Grants.Count).ShouldBe((MemberStatus.Active, RequestState.Declined, 1));
        await SendAsync(browser, "shop", "b@vane.example", ("f.company", "Vane"));
        await browser.FillAsync("/account/password/forgotten", "/account/password/forgotten", ("name", "b@vane.example"));
        (await owner.AskAsync("POST", "members/b@vane.example/approve", new { })).Status.ShouldBe(HttpStatusCode.OK);
        (await RequestOfAsync("b@vane.example")).Member.Grants.Select(g => g.Fact).ShouldBe(["group:proved", "group:traders"]);
        (await Store.LinksOfAsync((await RequestOfAsync("b@vane.example")).Member.Id, 10, Stop)).ShouldContain(
            l => l.Purpose == LinkPurpose.SetPassword && l.ClosedAt == null, "a decision ends no link about something else");
        await SendAsync(browser, "shop", "c@vane.example");
        (await RequestOfAsync("c@vane.example")).Request.State.ShouldBe(RequestState.Approved, "nothing of it needs a yes");
    }

    [Theory]
    [InlineData("ines@known.example", "", MemberStatus.Active)]
    [InlineData("ines@sub.known.example", "", MemberStatus.Pending)]
    [InlineData("ines@unknown.example", "spring", MemberStatus.Active)]
    [InlineData("ines@unknown.example", "autumn", MemberStatus.Pending)]
    public async Task A_domain_or_a_code_lets_in_without_staff_once_the_address_is_proved(string email, string code, MemberStatus status)
    {
        using var browser = site.NewBrowser();
        (await browser.PageAsync("/account/register/trade")).ShouldNotContain("SPRING", Case.Insensitive);
        await SendAsync(browser, "trade", email, ("f.company", "Vane"), ("f.resale", "no"), ("f.code", code));
        (await RequestOfAsync(email)).Member.Status.ShouldBe(MemberStatus.Unverified);
        await ProveAsync(browser, email);
        (await RequestOfAsync(email)).Member.Status.ShouldBe(status);
    }

    [Fact]
    public async Task A_file_is_what_it_says_and_only_staff_have_it()
    {
        using var browser = site.NewBrowser();
        (await UploadAsync(browser, "proof.pdf", "MZ\u0090")).ShouldContain("none of these");
        (await UploadAsync(browser, "proof.pdf", "%PDF-" + new string('x', 5000))).ShouldContain("too large");
        (await UploadAsync(browser, "../../etc/proof.txt", "plain words")).ShouldContain("Thank you");
        var (member, request) = await RequestOfAsync(Orla);
        request.Grants.Select(g => g.Fact).ShouldBe(["group:traders", "group:proved"]);
        var answers = await owner.AskAsync("GET", $"members/{Orla}/answers");
        var file = answers.Body.GetProperty("items").EnumerateArray().First(a => a.GetProperty("field").GetString() == "proof");
        file.GetProperty("words").GetString().ShouldBe("proof.txt");
        var path = $"members/{Orla}/files/{file.GetProperty("file").GetProperty("id").GetString()}";
        using var http = new HttpClient { BaseAddress = new Uri(site.Admin + "/api/v1/") };
        (await http.GetAsync(path, Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", site.Token);
        using var got = await http.GetAsync(path, Stop);
        (await got.Content.ReadAsStringAsync(Stop), got.Content.Headers.ContentDisposition!.DispositionType).ShouldBe(("plain words", "attachment"));
        (await http.GetAsync(path.Replace(Orla, "nell@orchard-optics.example", StringComparison.Ordinal), Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_form_that_changes_meanwhile_keeps_what_was_typed_and_asks_for_what_is_new()
    {
        using var browser = site.NewBrowser();
        var page = await browser.PageAsync("/account/register/shop");
        await ApplyAsync(Site.Replace("fields: [{field: company}]", "fields: [{field: company}, {field: code, required: true}]", StringComparison.Ordinal));
        clock.Advance(TimeSpan.FromSeconds(20));
        var answer = await TextAsync(await browser.PostAsync(
            "/account/register/shop", ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name",
                "Orla"),
            ("email", Orla), ("password", Password), ("f.company", "Vane")));
        answer.ShouldContain("value=\"Vane\"");
        answer.ShouldContain("This has to be filled in.");
    }

    [Fact]
    public async Task Bots_read_what_everybody_reads_and_staff_see_why_they_are_held()
    {
        using var browser = site.NewBrowser();
        for (var n = 0; n < 6; n++)
        {
            (await TextAsync(await SendAsync(browser, "shop", $"bot{n}@lucky.example", TimeSpan.FromSeconds(20), ("website", "https://lucky.example"))))
                .ShouldContain("Thank you");
        }

        var held = await owner.AskAsync("GET", "requests?state=held");
        held.Body.GetProperty("items").GetArrayLength().ShouldBe(6);
        held.Body.GetProperty("items")[0].GetProperty("signs")[0].GetProperty("words").GetString()!.ShouldContain("people do not see");
        (await Store.MessagesAsync(100, stop: Stop)).ShouldNotContain(m => m.To.EndsWith("@lucky.example", StringComparison.Ordinal));
        (await owner.AskAsync("GET", "requests/bot0@lucky.example/nearby")).Body.GetProperty("items").GetArrayLength().ShouldBe(5);
        // One that was none is let go on, the others go.
        (await owner.AskAsync("POST", "members/bot0@lucky.example/let-go")).Status.ShouldBe(HttpStatusCode.OK);
        (await RequestOfAsync("bot0@lucky.example")).Member.Status.ShouldBe(MemberStatus.Active);
        var gone = await owner.AskAsync(
            "POST", "requests/decide", new { members = Enumerable.Range(0, 6).Select(n => $"bot{n}@lucky.example"), decision = "sham" });
        (gone.Body.GetProperty("done").GetInt32(), gone.Body.GetProperty("failed").GetArrayLength()).ShouldBe((5, 1));
        (await Store.MemberByNameAsync("bot1@lucky.example", Stop)).ShouldBeNull();
        await owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "POST", "requests/decide", new
        {
            members = new[] { Orla },
            decision = "erase"
        });
    }

    [Fact]
    public async Task A_form_counts_once_and_not_at_all_with_a_seal_that_is_none_and_waits_without_scripts()
    {
        using var browser = site.NewBrowser();
        var page = await browser.PageAsync("/account/register/shop");
        Task<HttpResponseMessage> PostAsync(string email, string seal) => browser.PostAsync(
            "/account/register/shop", ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", seal), ("name", "Orla"), ("email",
                email),
            ("password", Password));
        (await TextAsync(await PostAsync("a@vane.example", Value(page, "seal")))).ShouldContain("send it again in");
        clock.Advance(TimeSpan.FromSeconds(20));
        (await PostAsync("a@vane.example", "not-a-seal")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await PostAsync("a@vane.example", "")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await PostAsync("a@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await PostAsync("b@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await Store.MemberByNameAsync("b@vane.example", Stop)).ShouldBeNull();
        page = await browser.PageAsync("/account/register/shop");
        clock.Advance(TimeSpan.FromHours(13));
        (await PostAsync("c@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.BadRequest, "it has grown old");
    }

    [Fact]
    public async Task Forms_and_fields_are_changed_over_the_API_and_what_would_break_is_refused()
    {
        await owner.RefusedAsync(HttpStatusCode.Conflict, "field-used", "DELETE", "fields/vat");
        await owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "field-kind-fixed", "PUT", "fields/vat", new { label = "VAT", kind = "number" });
        await owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "standing-unknown", "PUT", "forms/x", new
        {
            title = "X",
            grants = new[] { new { grant = "group:nobody" } }
        });
        await owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "form-grant-staff", "PUT", "forms/x", new
        {
            title = "X",
            grants = new[] { new { grant = "role:owner" } }
        });
        await owner.RefusedAsync(HttpStatusCode.NotFound, "form-unknown", "GET", "forms/x");
        var shown = await owner.AskAsync("GET", "forms/trade");
        await owner.RefusedAsync(HttpStatusCode.PreconditionFailed, "stale", "PUT", "forms/trade", new { title = "T" }, "\"7\"");
        (await owner.AskAsync("PUT", "forms/trade", shown.Body.GetProperty("form"), shown.Tag)).Status.ShouldBe(HttpStatusCode.OK);
        var tried = await owner.AskAsync("POST", "forms/trade/try", new
        {
            answers = new
            {
                company = new[] { "V" }, resale = new[] { "yes" },
                vat = new[] { "x" }
            }
        });
        tried.Body.GetProperty("faults")[0].GetProperty("field").GetString().ShouldBe("vat");
        // A group that a form gives is not removed from under it, and keeps its name in it.
        await owner.RefusedAsync(HttpStatusCode.Conflict, "standing-in-form", "DELETE", "groups/traders");
        (await owner.AskAsync("POST", "groups/traders/rename", new { to = "dealers" })).Status.ShouldBe(HttpStatusCode.OK);
        (await owner.AskAsync("GET", "forms/trade")).Body.ToString().ShouldContain("group:dealers");
        (await owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await owner.AskAsync("DELETE", "fields/vat")).Status.ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task Answers_are_changed_by_staff_and_stay_when_their_field_goes_until_they_are_erased()
    {
        const string Nell = "nell@orchard-optics.example";
        (await owner.AskAsync("PUT", $"members/{Nell}/answers", new { answers = new { company = new[] { "Orchard" }, vat = new[] { "PT501964843" } } })).Status
            .ShouldBe(HttpStatusCode.OK);
        using var http = new HttpClient { BaseAddress = new Uri(site.Admin), DefaultRequestHeaders = { Authorization = new("Bearer", site.Token) } };
        var file = await http.GetStringAsync("/api/v1/members.csv?search=nell", Stop);
        file.ShouldContain("answer.company");
        file.ShouldContain("PT501964843");
        (await owner.AskAsync("GET", $"members/{Nell}/data")).Body.GetProperty("answers").GetArrayLength().ShouldBe(2);
        var wrong = await owner.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "answer-vat", "PUT", $"members/{Nell}/answers", new { answers = new { vat = new[] { "PT1" } } });
        wrong.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("answers.vat");
        (await owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await owner.AskAsync("DELETE", "fields/vat")).Status.ShouldBe(HttpStatusCode.NoContent);
        var kept = await owner.AskAsync("GET", $"members/{Nell}/answers");
        kept.Body.GetProperty("items").EnumerateArray().Select(a => a.GetProperty("words").GetString()).ShouldBe(["Orchard", "PT501964843"]);
        (await owner.AskAsync("DELETE", "fields/vat/answers")).Body.GetProperty("answers").GetInt32().ShouldBe(1);
        (await owner.AskAsync("GET", $"members/{Nell}/answers")).Body.GetProperty("items").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task Members_change_of_themselves_what_is_left_to_them_and_nothing_else()
    {
        const string Nell = "nell@orchard-optics.example";
        await ApplyAsync("""
            fields:
              - {key: company, label: Company, profile: shown}
              - {key: vat, label: VAT number, format: vat, profile: editable}
              - {key: rating, label: Rating}
            """);
        (await owner.AskAsync("PUT", $"members/{Nell}/answers", new { answers = new { company = new[] { "Orchard" }, rating = new[] { "good" } } })).Status
            .ShouldBe(HttpStatusCode.OK);
        using var browser = site.NewBrowser();
        (await browser.StatusAsync("/account/profile")).ShouldBe(HttpStatusCode.Unauthorized);
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        var page = await browser.PageAsync("/account/profile");
        page.ShouldContain("Orchard");
        page.ShouldNotContain("good");
        (await TextAsync(await browser.FillAsync("/account/profile", "/account/profile", ("name", "Nell"), ("f.vat", "PT1")))).ShouldContain("no VAT number");
        (await browser.FillAsync("/account/profile", "/account/profile", ("name", "‮"), ("f.vat", ""))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await browser.FillAsync(
            "/account/profile", "/account/profile", ("name", "Nell <Orchard>"), ("f.vat", "PT501964843"), ("f.company", "Mine"), ("f.rating",
                "best"))).StatusCode
            .ShouldBe(HttpStatusCode.OK);
        var member = (await Store.MemberByNameAsync(Nell, Stop)).ShouldNotBeNull();
        member.Name.ShouldBe("Nell <Orchard>");
        (await Store.AnswersAsync(member.Id, Stop)).Select(a => $"{a.Field}={a.Values[0]}").ShouldBe(["company=Orchard", "rating=good", "vat=PT501964843"]);
        (await browser.FillAsync("/account/profile", "/account/profile", ("name", "Nell"), ("f.vat", ""))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Store.AnswersAsync(member.Id, Stop)).Count.ShouldBe(2, "taken back");
    }

    [Theory]
    [InlineData("sections: [{fields: [{field: company, shownIf: {fild: x}}]}]", 4, "fild")]
    [InlineData("sections: [{fields: [{field: nobody}]}]", 4, "nobody")]
    [InlineData("steps: perhaps", 4, "steps")]
    [InlineData("sections: [{fields: [{field: company, shownIf: {field: company, given: true}}]}]", 4, "in a ring")]
    [InlineData("grants: [{grant: 'role:owner'}]", 4, "staff")]
    public async Task A_fault_in_a_form_of_a_site_file_is_told_with_its_line(string wrong, int line, string what)
    {
        var answer = await ApplyTextAsync($"forms:\n  - key: x\n    title: X\n    {wrong}\n");
        answer.ShouldContain($"\"line\":{line}");
        answer.ShouldContain(what);
        (await owner.AskAsync("GET", "forms")).Body.GetProperty("items").GetArrayLength().ShouldBe(2);
    }

    [Fact]
    public async Task A_site_file_brings_out_what_it_took_in()
    {
        using var http = new HttpClient { BaseAddress = new Uri(site.Admin), DefaultRequestHeaders = { Authorization = new("Bearer", site.Token) } };
        var text = await http.GetStringAsync("/api/v1/site.yaml", Stop);
        text.ShouldContain("shownIf");
        (await ApplyTextAsync(text)).ShouldContain("\"changed\":0");
        (await owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        await ApplyAsync(text);
        (await http.GetStringAsync("/api/v1/site.yaml", Stop)).ShouldBe(text);
    }

    private async Task<string> UploadAsync(Browser browser, string name, string content)
    {
        var page = await browser.PageAsync("/account/register/trade");
        clock.Advance(TimeSpan.FromSeconds(20));
        using var form = new MultipartFormDataContent();
        foreach (var (key, value) in new[]
        {
            ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name", "Orla"), ("email", Orla),
            ("password", Password), ("f.company", "Vane"), ("f.resale", "yes"), ("f.vat", "PT501964843"),
        })
        {
            form.Add(new StringContent(value), key);
        }

        form.Add(new ByteArrayContent(Encoding.Latin1.GetBytes(content)), "f.proof", name);
        using var request = new HttpRequestMessage(HttpMethod.Post, "/account/register/trade") { Content = form };
        return await TextAsync(await browser.SendAsync(request));
    }

    private Task<HttpResponseMessage> SendAsync(Browser browser, string form, string email, params (string, string)[] more) =>
        SendAsync(browser, form, email, TimeSpan.FromSeconds(20), more);

    private async Task<HttpResponseMessage> SendAsync(Browser browser, string form, string email, TimeSpan looked, params (string, string)[] more)
    {
        var page = await browser.PageAsync("/account/register/" + form);
        clock.Advance(looked);
        return await browser.PostAsync("/account/register/" + form,
            [
                ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name", "Orla Vane"), ("email",
                    email),
                ("password", Password), .. more,
            ]);
    }

    private async Task ProveAsync(Browser browser, string email)
    {
        var link = LinkIn(await LetterAsync(email, "confirm"));
        (await browser.FillAsync(link, "/account/confirm", ("link", SecretIn(link)))).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    private async Task<(Member Member, JoinRequest Request)> RequestOfAsync(string email)
    {
        var member = (await Store.MemberByNameAsync(email, Stop)).ShouldNotBeNull();
        return (member, (await Store.RequestAsync(member.Id, Stop)).ShouldNotBeNull());
    }

    private async Task<string> LetterAsync(string to, string kind)
    {
        var wanted = (await Store.MessagesAsync(20, to: to, stop: Stop)).First(l => l.Kind == kind);
        IReadOnlyList<WaitingMessage> taken =
        [
            .. await Store.TakeMessagesAsync(true, 100, clock.GetUtcNow(), "test", Stop), .. await Store.TakeMessagesAsync(false, 100, clock.GetUtcNow(),
                "test", Stop),
        ];
        return site.Services.GetRequiredService<Envelopes>().Open(taken.First(t => t.Id == wanted.Id).Body).Text;
    }

    private async Task ApplyAsync(string yaml) => (await ApplyTextAsync(yaml)).ShouldContain("\"faults\":[]");

    private async Task<string> ApplyTextAsync(string yaml)
    {
        using var http = new HttpClient { BaseAddress = new Uri(site.Admin), DefaultRequestHeaders = { Authorization = new("Bearer", site.Token) } };
        using var body = new StringContent(yaml, Encoding.UTF8, "application/yaml");
        return await TextAsync(await http.PostAsync("/api/v1/apply", body, Stop));
    }

    private static async Task<string> TextAsync(HttpResponseMessage answer) => await answer.Content.ReadAsStringAsync(Stop);

    private static string LinkIn(string text) => new Uri(Links().Match(text).Value).PathAndQuery;

    private static string SecretIn(string link) => link.Split("link=")[1];

    private static string Value(string page, string name) => Regex.Match(page, $"name=\"{name}\" value=\"([^\"]+)\"").Groups[1].Value;

    /// <summary>The opening tag around a field.</summary>
    private static string Field(string page, string key) => Regex.Match(page, $"<div [^>]*data-field=\"{key}\"[^>]*>").Value;

    [GeneratedRegex(@"https?://\S+link=[\w-]+")]
    private static partial Regex Links();
}
