using System.Net;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Service.Letters;
using WarySentinel.Service.People;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>People who ask to join by themselves.</summary>
public sealed partial class RegisterTests : JoiningSite
{
    private const string Wren = "wren@meadow.example";
    [Fact]
    public async Task Nobody_joins_by_themselves_where_the_owner_does_not_want_it()
    {
        using var browser = Running.NewBrowser();
        (await browser.StatusAsync("/account/register")).ShouldBe(HttpStatusCode.NotFound);
        (await RegisterAsync(Wren)).ShouldBe(HttpStatusCode.NotFound);
        (await Store.MemberByNameAsync(Wren, Stop)).ShouldBeNull();
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("/account/register");
    }

    [Fact]
    public async Task Whoever_joins_an_open_site_proves_the_address_and_is_in()
    {
        await SetAsync("open", true);
        (await RegisterAsync(Wren)).ShouldBe(HttpStatusCode.OK);
        (await StatusOfAsync(Wren)).ShouldBe(MemberStatus.Unverified);
        using var browser = Running.NewBrowser();
        (await browser.SignInAsync(Wren, Password)).StatusCode.ShouldBe(HttpStatusCode.Forbidden, "only who knows the password reads why");
        (await browser.SignInAsync(Wren, "another-guess")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        var link = await LinkAsync(Wren);
        (await browser.FillAsync(link, "/account/confirm", ("link", SecretIn(link)))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await StatusOfAsync(Wren)).ShouldBe(MemberStatus.Active);
        (await browser.SignInAsync(Wren, Password)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await Store.MemberByNameAsync(Wren, Stop)).ShouldNotBeNull().Grants.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(true, true)]
    [InlineData(false, true)]
    [InlineData(true, false)]
    public async Task Where_staff_say_yes_first_nobody_is_in_before_by_whatever_way(bool byLink, bool approved)
    {
        await SetAsync("approval", true);
        (await RegisterAsync(Wren)).ShouldBe(HttpStatusCode.OK);
        using var browser = Running.NewBrowser();
        var confirm = await LinkAsync(Wren);
        if (byLink)
        {
            (await browser.FillAsync(confirm, "/account/confirm", ("link", SecretIn(confirm)))).StatusCode.ShouldBe(HttpStatusCode.OK);
        }
        else
        {
            // A forgotten password proves the address as well; it is no way around those who decide.
            Clock.Advance(TimeSpan.FromMinutes(10));
            await browser.FillAsync("/account/password/forgotten", "/account/password/forgotten", ("name", Wren));
            var forgotten = await LinkAsync(Wren);
            await browser.FillAsync(forgotten, "/account/password/set", ("link", SecretIn(forgotten)), ("password", Password));
        }

        (await StatusOfAsync(Wren)).ShouldBe(MemberStatus.Pending);
        (await browser.SignInAsync(Wren, Password)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await browser.PageAsync("/account/")).ShouldContain("You are not signed in.");
        var request = await LinkAsync("keeper@site.example");
        using var keeper = Running.NewBrowser();
        (await keeper.PageAsync(request)).ShouldContain(Wren);
        (await keeper.PageAsync(request)).ShouldContain("Let them in", customMessage: "looking decides nothing");
        (await keeper.FillAsync(request, "/account/request", ("link", SecretIn(request)), ("decision", "perhaps"))).StatusCode
            .ShouldBe(HttpStatusCode.BadRequest);
        (await keeper.FillAsync(request, "/account/request", ("link", SecretIn(request)), ("decision", approved ? "yes" : "no"), ("words", "See <you>.")))
            .StatusCode.ShouldBe(HttpStatusCode.OK);
        (await StatusOfAsync(Wren)).ShouldBe(approved ? MemberStatus.Active : MemberStatus.Closed);
        (await LetterAsync(Wren, approved ? "approved" : "declined")).ShouldContain("See <you>.");
        (await browser.SignInAsync(Wren, Password)).StatusCode.ShouldBe(approved ? HttpStatusCode.SeeOther : HttpStatusCode.Forbidden);
        (await keeper.StatusAsync(request)).ShouldBe(HttpStatusCode.Gone, "it was decided");
    }

    [Fact]
    public async Task The_answer_is_the_same_whether_somebody_has_the_address_and_their_account_is_left_alone()
    {
        await SetAsync("open", true);
        const string Nell = "nell@orchard-optics.example";
        var before = await Store.MemberByNameAsync(Nell, Stop);
        using var one = Running.NewBrowser();
        using var other = Running.NewBrowser();
        var there = await BodyAsync(one, Nell);
        (there == await BodyAsync(other, Wren)).ShouldBeTrue();
        there.ShouldContain("Thank you");
        var after = (await Store.MemberByNameAsync(Nell, Stop)).ShouldNotBeNull();
        (after.Name, after.Status, after.Version, after.PasswordHash!.Reveal()).ShouldBe(
            (before!.Name, before.Status, before.Version, before.PasswordHash!.Reveal()));

        async Task<string> BodyAsync(Browser browser, string email) =>
            Tokens().Replace(await (await SendAsync(browser, "", email)).Content.ReadAsStringAsync(Stop), "");
    }

    [Fact]
    public async Task Many_who_ask_with_one_address_at_once_make_one_account_and_a_decoy_is_held_back()
    {
        await SetAsync("approval", false);
        var answers = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => RegisterAsync(Wren)));
        answers.ShouldAllBe(a => a == HttpStatusCode.OK);
        (await StatusOfAsync(Wren)).ShouldBe(MemberStatus.Pending);
        (await Store.MessagesAsync(100, to: Wren, stop: Stop)).Count(l => l.Kind == "request-received").ShouldBe(1);
        (await RegisterAsync("bot@meadow.example", website: "https://spam.example")).ShouldBe(HttpStatusCode.OK);
        var bot = (await Store.MemberByNameAsync("bot@meadow.example", Stop)).ShouldNotBeNull();
        var held = (await Store.RequestAsync(bot.Id, Stop)).ShouldNotBeNull();
        (held.State, held.Signs[0].Kind).ShouldBe((Core.People.Forms.RequestState.Held, "decoy"));
        (await Store.MessagesAsync(100, to: "bot@meadow.example", stop: Stop)).ShouldBeEmpty("the address may be anybody's");
        (await RegisterAsync("short@meadow.example", password: "short")).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await RegisterAsync("no address")).ShouldBe(HttpStatusCode.UnprocessableEntity);
        // By the API and at once: one decision counts.
        var decided = await Task.WhenAll(Enumerable.Range(0, 6).Select(async n =>
        {
            try
            {
                await (n % 2 == 0 ? Running.Client.ApproveAsync(Wren, null, Stop) : Running.Client.DeclineAsync(Wren, null, Stop));
                return 1;
            }
            catch (Client.SentinelException)
            {
                return 0;
            }
        }));
        decided.Sum().ShouldBe(1);
    }

    [Theory]
    [InlineData("sometimes")]
    [InlineData("2")]
    [InlineData("Open")]
    [InlineData("")]
    public async Task A_way_to_join_that_is_none_is_refused_and_nothing_changes(string way)
    {
        using var caller = new Caller(Running, Running.Token);
        (await caller.AskAsync("PUT", "settings", new { joining = new { way, confirm = true } }, "*")).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        using var browser = Running.NewBrowser();
        (await browser.StatusAsync("/account/register")).ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData("gate")]
    [InlineData("group")]
    public async Task Whom_a_gate_or_a_rule_names_proves_the_address_even_where_nobody_else_has_to(string by)
    {
        await SetAsync("open", false);
        await Running.Client.AddMemberAsync(Wren, "Wren", null, null, [], [], [], Stop);
        using var caller = new Caller(Running, Running.Token);
        (await (by == "gate" ? caller.AskAsync("POST", "gates", new { title = "Named", covers = new[] { "category:books" }, audience = "member:" + Wren })
            : caller.AskAsync("POST", "groups", new { key = "named", title = "Named", rule = "member:" + Wren }))).Status.ShouldBe(HttpStatusCode.Created);
        // As if whoever is named had gone since, by whatever way.
        var gone = (await Store.MemberByNameAsync(Wren, Stop)).ShouldNotBeNull();
        await Store.ApplyAsync(new Core.Edit("test", Wren, [new MemberSet(gone with { Email = "other@meadow.example", Version = 2 }, 1)]), "test", stop: Stop);
        (await RegisterAsync(Wren)).ShouldBe(HttpStatusCode.OK);
        (await RegisterAsync("robin@meadow.example")).ShouldBe(HttpStatusCode.OK);
        (await StatusOfAsync(Wren)).ShouldBe(MemberStatus.Unverified);
        (await StatusOfAsync("robin@meadow.example")).ShouldBe(MemberStatus.Active);
    }

    [Fact]
    public async Task An_address_that_is_never_proved_goes_away_and_what_staff_made_stays()
    {
        await SetAsync("open", true);
        await RegisterAsync(Wren);
        await RegisterAsync("late@meadow.example");
        Clock.Advance(TimeSpan.FromDays(6));
        await RegisterAsync("young@meadow.example");
        var confirm = await LinkAsync("young@meadow.example");
        Clock.Advance(TimeSpan.FromDays(1.5));
        (await Running.Services.GetRequiredService<UnprovedAccounts>().RemoveAsync(Stop)).ShouldBe(2);
        (await Store.MemberByNameAsync(Wren, Stop)).ShouldBeNull();
        using var browser = Running.NewBrowser();
        (await browser.FillAsync(confirm, "/account/confirm", ("link", SecretIn(confirm)))).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    private async Task<HttpStatusCode> RegisterAsync(string email, string password = Password, string website = "")
    {
        using var browser = Running.NewBrowser();
        return (await SendAsync(browser, "", email, ("name", "Wren Meadow"), ("password", password), ("website", website))).StatusCode;
    }

    private async Task<string> LinkAsync(string to) => LinkIn(await LetterAsync(to));

    [GeneratedRegex("value=\"[^\"]{40,}\"")]
    private static partial Regex Tokens();

    [Fact]
    public async Task A_page_may_ask_to_join_first_and_whoever_has_an_account_comes_back_to_it_too()
    {
        await SetAsync("open", false);
        await ApplyAsync("""
            items:
              - {id: "page:almanac", title: Almanac, addresses: [/almanac]}
            gates:
              - {key: almanac, title: Almanac, covers: ["page:almanac"], audience: signed-in, answer: register}
            """);
        using var browser = Running.NewBrowser();
        var led = await browser.GetAsync("/almanac?y=2027");
        led.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        var address = led.Headers.Location!.OriginalString;
        address.ShouldBe("/account/register?return_to=%2Falmanac%3Fy%3D2027");
        var page = await browser.PageAsync(address);
        page.ShouldContain("/account/sign-in?return_to=%2Falmanac%3Fy%3D2027");
        page.ShouldContain("name=\"return_to\" value=\"/almanac?y=2027\"");
        (await browser.PageAsync("/account/register?return_to=https://else.example")).ShouldNotContain("else.example");
        var check = new HttpRequestMessage(HttpMethod.Get, "/sentinel/check") { Headers = { { "X-Original-URI", "/almanac" } } };
        (await browser.SendAsync(check)).Headers.GetValues("X-Wary-Location").ShouldBe(["/account/register?return_to=%2Falmanac"]);
        (await TextAsync(await SendAsync(browser, "", "ada@quill.example", ("return_to", "/almanac")))).ShouldContain("return_to=%2Falmanac");
        await browser.SignInAsync("ada@quill.example", Password);
        (await browser.GetAsync("/almanac")).StatusCode.ShouldBe(HttpStatusCode.NotFound, "the shop has no such page; the gate lets through");
        foreach (var way in new[] { "closed", "invitation" })
        {
            await SetAsync(way, false);
            using var stranger = Running.NewBrowser();
            (await stranger.GetAsync(address)).Headers.Location!.OriginalString.ShouldBe("/account/sign-in?return_to=%2Falmanac%3Fy%3D2027");
        }
    }
}
