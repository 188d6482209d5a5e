using System.Net;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Requests to join, over HTTP: decided, asked back and mended; who comes in without staff, and who is held back.</summary>
public sealed class RequestTests : JoiningSite
{
    private const string Orla = "orla@vane.example";

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("approval", true);
        await ApplyAsync(JoinFormTests.Site);
    }

    [Fact]
    public async Task A_request_is_asked_back_mended_and_approved_and_gives_what_the_answers_call_for()
    {
        using var browser = Running.NewBrowser();
        await SendAsync(browser, "trade", Orla, ("f.company", "Vane"), ("f.resale", "yes"), ("f.vat", "PT 501.964.843"));
        (await RequestOfAsync(Orla)).Request.State.ShouldBe(RequestState.Unproved);
        await Owner.RefusedAsync(HttpStatusCode.Conflict, "request-unproved", "POST", $"members/{Orla}/ask-back", new { words = "Who are you?" });
        await ProveAsync(browser, Orla);
        (await RequestOfAsync(Orla)).Request.State.ShouldBe(RequestState.Waiting);
        var notice = await LetterAsync("keeper@site.example", "notice-request");
        notice.ShouldContain("VAT number: PT501964843");
        await Owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "request-question", "POST", $"members/{Orla}/ask-back", new { });
        (await Owner.AskAsync("POST", $"members/{Orla}/ask-back", new { words = "Is Vane the <whole> name?" })).Status.ShouldBe(HttpStatusCode.OK);
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
        var listed = await Owner.AskAsync("GET", "requests");
        listed.Body.GetProperty("items")[0].GetProperty("answers")[0].GetProperty("words").GetString().ShouldBe("Vane & Sons");
        // Whoever holds the applicant's link decides nothing by it, nor the other way round.
        (await browser.StatusAsync("/account/request?link=" + SecretIn(link))).ShouldBe(HttpStatusCode.Gone);
        (await Owner.AskAsync("POST", $"members/{Orla}/approve", new { words = "Welcome." })).Status.ShouldBe(HttpStatusCode.OK);
        var (member, request) = await RequestOfAsync(Orla);
        (member.Status, request.State).ShouldBe((MemberStatus.Active, RequestState.Approved));
        var grant = member.Grants.ShouldHaveSingleItem();
        (grant.Fact, grant.Source.ToString(), grant.Until).ShouldBe(("group:traders", "form:trade", null));
        (await browser.StatusAsync(link)).ShouldBe(HttpStatusCode.Gone, "it was decided");
        foreach (var again in new[] { "approve", "decline", "ask-back" })
        {
            await Owner.RefusedAsync(HttpStatusCode.Conflict, "request-decided", "POST", $"members/{Orla}/{again}", new { words = "x" });
        }
    }

    [Fact]
    public async Task Who_is_a_member_at_once_gets_what_needs_a_yes_only_with_the_yes()
    {
        using var browser = Running.NewBrowser();
        await SendAsync(browser, "shop", "a@vane.example", ("f.company", "Vane"));
        var (member, request) = await RequestOfAsync("a@vane.example");
        (member.Status, request.State).ShouldBe((MemberStatus.Active, RequestState.Waiting));
        member.Grants.Select(g => g.Fact).ShouldBe(["group:proved"]);
        (await Owner.AskAsync("POST", "members/a@vane.example/decline", new { })).Status.ShouldBe(HttpStatusCode.OK);
        (member, request) = await RequestOfAsync("a@vane.example");
        (member.Status, request.State, member.Grants.Count).ShouldBe((MemberStatus.Active, RequestState.Declined, 1));
        await SendAsync(browser, "shop", "b@vane.example", ("f.company", "Vane"));
        await browser.FillAsync("/account/password/forgotten", "/account/password/forgotten", ("name", "b@vane.example"));
        (await Owner.AskAsync("POST", "members/b@vane.example/approve", new { })).Status.ShouldBe(HttpStatusCode.OK);
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
        using var browser = Running.NewBrowser();
        (await browser.PageAsync("/account/register/trade")).ShouldNotContain("SPRING", Case.Insensitive);
        await SendAsync(browser, "trade", email, ("f.company", "Vane"), ("f.resale", "no"), ("f.code", code));
        (await RequestOfAsync(email)).Member.Status.ShouldBe(MemberStatus.Unverified);
        await ProveAsync(browser, email);
        (await RequestOfAsync(email)).Member.Status.ShouldBe(status);
    }

    [Fact]
    public async Task Bots_read_what_everybody_reads_and_staff_see_why_they_are_held()
    {
        using var browser = Running.NewBrowser();
        for (var n = 0; n < 6; n++)
        {
            (await TextAsync(await SendAsync(browser, "shop", $"bot{n}@lucky.example", TimeSpan.FromSeconds(20), ("website", "https://lucky.example"))))
                .ShouldContain("Thank you");
        }

        var held = await Owner.AskAsync("GET", "requests?state=held");
        held.Body.GetProperty("items").GetArrayLength().ShouldBe(6);
        held.Body.GetProperty("items")[0].GetProperty("signs")[0].GetProperty("words").GetString()!.ShouldContain("people do not see");
        (await Store.MessagesAsync(100, stop: Stop)).ShouldNotContain(m => m.To.EndsWith("@lucky.example", StringComparison.Ordinal));
        (await Owner.AskAsync("GET", "requests/bot0@lucky.example/nearby")).Body.GetProperty("items").GetArrayLength().ShouldBe(5);
        // One that was none is let go on, the others go.
        (await Owner.AskAsync("POST", "members/bot0@lucky.example/let-go")).Status.ShouldBe(HttpStatusCode.OK);
        (await RequestOfAsync("bot0@lucky.example")).Member.Status.ShouldBe(MemberStatus.Active);
        var gone = await Owner.AskAsync(
            "POST", "requests/decide", new { members = Enumerable.Range(0, 6).Select(n => $"bot{n}@lucky.example"), decision = "sham" });
        (gone.Body.GetProperty("done").GetInt32(), gone.Body.GetProperty("failed").GetArrayLength()).ShouldBe((5, 1));
        (await Store.MemberByNameAsync("bot1@lucky.example", Stop)).ShouldBeNull();
        await Owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "POST", "requests/decide", new
        {
            members = new[] { Orla },
            decision = "erase"
        });
    }

    [Fact]
    public async Task A_form_counts_once_and_not_at_all_with_a_seal_that_is_none_and_waits_without_scripts()
    {
        using var browser = Running.NewBrowser();
        var page = await browser.PageAsync("/account/register/shop");
        Task<HttpResponseMessage> PostAsync(string email, string seal) => browser.PostAsync(
            "/account/register/shop", ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", seal), ("name", "Orla"), ("email",
                email),
            ("password", Password));
        (await TextAsync(await PostAsync("a@vane.example", Value(page, "seal")))).ShouldContain("send it again in");
        Clock.Advance(TimeSpan.FromSeconds(20));
        (await PostAsync("a@vane.example", "not-a-seal")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await PostAsync("a@vane.example", "")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await PostAsync("a@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await PostAsync("b@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await Store.MemberByNameAsync("b@vane.example", Stop)).ShouldBeNull();
        page = await browser.PageAsync("/account/register/shop");
        Clock.Advance(TimeSpan.FromHours(13));
        (await PostAsync("c@vane.example", Value(page, "seal"))).StatusCode.ShouldBe(HttpStatusCode.BadRequest, "it has grown old");
    }

    [Fact]
    public async Task Who_was_told_no_asks_again_from_the_letter_and_staff_see_what_was_asked_before()
    {
        using var browser = new Browser(Running.Site);
        await SendAsync(browser, "trade", Orla, ("f.company", "Vane"), ("f.resale", "no"));
        await ProveAsync(browser, Orla);
        var (member, first) = await RequestOfAsync(Orla);
        (await Owner.AskAsync("POST", $"members/{member.Id}/decline", new { words = "Only for resale." })).Status.ShouldBe(HttpStatusCode.OK);
        var told = LinkIn(await LetterAsync(Orla, "declined"));

        // Whoever fills in the form with that address reads what everybody reads; the letter goes to the address, and once in a while.
        Clock.Advance(TimeSpan.FromHours(1));
        using var other = new Browser(Running.Site);
        (await TextAsync(await SendAsync(other, "trade", Orla, ("f.company", "Nosy"), ("f.resale", "no")))).ShouldContain("mailbox");
        (await TextAsync(await SendAsync(other, "trade", Orla, ("f.company", "Nosy"), ("f.resale", "no")))).ShouldContain("mailbox");
        (await Store.MessagesAsync(50, to: Orla, stop: Stop)).Count(l => l.Kind == "declined").ShouldBe(2);
        (await StatusOfAsync(Orla)).ShouldBe(MemberStatus.Closed);
        (await browser.GetAsync(told)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        var link = LinkIn(await LetterAsync(Orla, "declined"));
        var page = await browser.PageAsync(link);
        page.ShouldContain("Only for resale.");
        page.ShouldContain("value=\"Vane\"");
        var both = await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => browser.FillAsync(
            link, "/account/application", ("link", SecretIn(link)), ("f.company", "Vane"), ("f.resale", "yes"), ("f.vat", "PT501964843"))));
        // One asks; those beside it are told, and one that comes after it mends what was asked.
        both.ShouldContain(b => b.StatusCode == HttpStatusCode.OK);
        (await Store.MessagesAsync(50, to: Orla, stop: Stop)).Count(l => l.Kind == "request-received").ShouldBe(2, "for the first, and for this one");
        var (again, second) = await RequestOfAsync(Orla);
        (again.Status, second.State, second.Grants.Count > 0).ShouldBe((MemberStatus.Pending, RequestState.Waiting, true));
        second.Id.ShouldNotBe(first.Id);
        var shown = (await Owner.AskAsync("GET", $"members/{Orla}/request")).Body.GetProperty("earlier").EnumerateArray().ToList();
        shown.ShouldHaveSingleItem().GetProperty("words").GetString().ShouldBe("Only for resale.");

        // The same name or VAT number under another address is told, too.
        await SendAsync(browser, "trade", "orla2@vane.example", ("name", "Orla Vane"), ("f.company", "Vane"), ("f.resale", "no"));
        await ProveAsync(browser, "orla2@vane.example");
        await SendAsync(browser, "trade", "somebody@vane.example", ("name", "Ada"), ("f.company", "V"), ("f.resale", "yes"), ("f.vat", "PT501964843"));
        await ProveAsync(browser, "somebody@vane.example");
        async Task<string> SameAsync(string who) => string.Join(",", (await Owner.AskAsync("GET",
            $"members/{who}/request")).Body.GetProperty("earlier").EnumerateArray()
            .Select(e => e.GetProperty("same").GetString()).Distinct());
        (await SameAsync("orla2@vane.example")).ShouldBe("name");
        (await SameAsync("somebody@vane.example")).ShouldBe("VAT number");

        // An account that staff ended is not asked about again.
        (await Owner.AskAsync("POST", $"members/{again.Id}/decline", new { })).Status.ShouldBe(HttpStatusCode.OK);
        (await Owner.AskAsync("PUT", $"members/{again.Id}/status", new { status = "active" })).Status.ShouldBe(HttpStatusCode.OK);
        Clock.Advance(TimeSpan.FromHours(1));
        (await Owner.AskAsync("PUT", $"members/{again.Id}/status", new { status = "closed" })).Status.ShouldBe(HttpStatusCode.OK);
        var before = (await Store.MessagesAsync(50, to: Orla, stop: Stop)).Count;
        await SendAsync(other, "trade", Orla, ("f.company", "Nosy"), ("f.resale", "no"));
        (await Store.MessagesAsync(50, to: Orla, stop: Stop)).Count.ShouldBe(before);
    }

    [Fact]
    public async Task A_letter_says_what_its_reader_answered_and_knows_no_other_names()
    {
        (await Owner.AskAsync("PUT", "letter-templates/request-received/en", new
        {
            subject = "{{ answer.company }} asks",
            html = "<p>{{ answer.company }} {{ answer.resale }} {{ answer.vat | default: 'none' }}{{ answer.gone }}</p><p>{{ link }}</p>",
        }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await Owner.AskAsync("PUT", "letter-templates/set-password/en", new { subject = "{{ answer.company }}", html = "<p>{{ link }}</p>" }, "*")).Status
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Owner.AskAsync("PUT", "letter-templates/approved/en", new { subject = "{{ answers.company }}", html = "<p>{{ link }}</p>" }, "*")).Status
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        var tried = await Owner.AskAsync("POST", "letter-templates/request-received/en/preview", new
        {
            subject = "{{ answer.company }}",
            html = "<p>{{ link }}</p>"
        });
        tried.Body.GetProperty("subject").GetString().ShouldBe("Company");
        using var browser = Running.NewBrowser();
        await SendAsync(browser, "trade", Orla, ("f.company", "Vane <b> {{ site.name }}"), ("f.resale", "no"));
        await ProveAsync(browser, Orla);
        var letter = await LetterAsync(Orla, "request-received");
        letter.ShouldContain("Vane <b> {{ site.name }} No none");
    }
}
