using System.Net;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Joining an organisation by the link of a letter, and managing one without being staff.</summary>
public sealed partial class JoinTests : IAsyncLifetime
{
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=500"], time: clock);
        await site.Client.AddOrganisationAsync(
            new OrganisationDraft("orchard", "Orchard Optics", 4, null, [new OrganisationFactDraft("role:dealer")]), Stop);
    }

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task Who_is_new_sets_a_password_and_is_in_and_out_again_with_the_organisation()
    {
        await site.Client.InviteAsync("orchard", "Counter@Orchard.example", false, Stop);
        var link = await LinkAsync("counter@orchard.example");
        using var counter = site.NewBrowser();
        // Programs that read mail look at every link, and use nothing up.
        foreach (var _ in Enumerable.Range(0, 3))
        {
            (await counter.PageAsync(link)).ShouldContain("Set password and join");
        }

        (await JoinAsync(counter, link, "Counter", "short")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await JoinAsync(counter, link, "", "counter-lens-cloth")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await JoinAsync(counter, link, "Counter", "counter-lens-cloth")).Headers.Location!.ToString().ShouldBe("/account/");
        (await counter.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await counter.PageAsync("/account/")).ShouldContain("Orchard Optics");
        using var again = site.NewBrowser();
        (await again.SignInAsync("counter@orchard.example", "counter-lens-cloth")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);

        using var other = site.NewBrowser();
        var used = await other.GetAsync(link);
        (used.StatusCode, (await used.Content.ReadAsStringAsync()).Contains("used already", StringComparison.Ordinal)).ShouldBe((HttpStatusCode.Gone, true));

        await site.Client.EndOrganisationAsync("orchard", Stop);
        await ClosedAsync(counter);
        (await counter.PageAsync("/account/")).ShouldContain("Counter", customMessage: "the account stays");
    }

    [Fact]
    public async Task Who_has_an_account_joins_with_it_and_is_signed_in_by_no_link()
    {
        await site.Client.InviteAsync("orchard", "pia@lanternlane.example", false, Stop);
        var link = await LinkAsync("pia@lanternlane.example");
        using var somebody = site.NewBrowser();
        var page = await somebody.PageAsync(link);
        page.ShouldNotContain("type=\"password\"");
        (await JoinAsync(somebody, link, null, null)).Headers.Location!.ToString().ShouldStartWith("/account/sign-in");
        (await somebody.PageAsync("/account/")).ShouldContain("You are not signed in.");
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await pia.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        // She may go by herself, and loses what came with it.
        var me = (await site.Client.MemberAsync("pia@lanternlane.example", Stop)).Value.Id;
        (await pia.FillAsync("/account/organisation/orchard", "/account/organisation/orchard", ("act", "remove"), ("whom", me.ToString())))
            .Headers.Location!.ToString().ShouldBe("/account/");
        await ClosedAsync(pia);
    }

    [Theory]
    [InlineData("")]
    [InlineData("x")]
    [InlineData("AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA")]
    [InlineData("AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA%00")]
    [InlineData("<script>alert(1)</script>AAAAAAAAAAAAAAAAAA")]
    public async Task A_link_that_was_never_sent_leads_nowhere(string secret)
    {
        using var browser = site.NewBrowser();
        var answer = await browser.GetAsync("/account/join?link=" + secret);
        answer.StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await answer.Content.ReadAsStringAsync()).ShouldNotContain("<script>alert");
        (await browser.FillAsync("/account/sign-in", "/account/join", ("link", secret), ("name", "X"), ("password", "long-enough-here")))
            .StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task What_came_too_late_is_sent_anew_and_what_was_taken_back_is_not()
    {
        var asked = await site.Client.InviteAsync("orchard", "late@orchard.example", false, Stop);
        var link = await LinkAsync("late@orchard.example");
        using var late = site.NewBrowser();
        clock.Advance(TimeSpan.FromDays(15));
        (await late.PageAsync(link)).ShouldContain("Send me a new letter");
        (await JoinAsync(late, link, "Late", "better-late-than")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await AgainAsync(late, link)).ShouldContain("Look into your mailbox");
        var newer = await LinkAsync("late@orchard.example");
        newer.ShouldNotBe(link);
        (await late.PageAsync(link)).ShouldContain("replaced by a newer one");
        // Said again at once, nobody is written to; the page says the same.
        (await AgainAsync(late, link)).ShouldContain("Look into your mailbox");
        (await LettersAsync("late@orchard.example")).ShouldBe(0);

        await site.Client.WithdrawAsync("orchard", asked.Id, Stop);
        (await late.PageAsync(newer)).ShouldContain("taken back");
        (await JoinAsync(late, newer, "Late", "better-late-than")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await site.Client.OrganisationAsync("orchard", Stop)).Value.Taken.ShouldBe(0);
    }

    [Fact]
    public async Task A_manager_manages_their_own_and_nobody_elses()
    {
        await site.Client.JoinOrganisationAsync("orchard", "nell@orchard-optics.example", true, Stop);
        var other = await site.Client.AddOrganisationAsync(new OrganisationDraft("other", "Other", 3), Stop);
        await site.Client.JoinOrganisationAsync(other.Key, "pia@lanternlane.example", false, Stop);
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        Task<HttpResponseMessage> Act(Browser who, string key, params (string, string)[] fields) =>
            who.FillAsync("/account/sign-out", "/account/organisation/" + key, fields);

        (await Act(nell, "orchard", ("act", "invite"), ("email", "one@orchard.example two@orchard.example")))
            .StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        var found = (await site.Client.OrganisationAsync("orchard", Stop)).Value;
        found.Invitations!.Select(i => (i.Email, i.By)).ShouldBe(
            [("one@orchard.example", "nell@orchard-optics.example"), ("two@orchard.example", "nell@orchard-optics.example")]);
        // All or none: four seats, three taken, and one address that is none.
        (await Act(nell, "orchard", ("act", "invite"), ("email", "three@orchard.example four@orchard.example")))
            .StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Act(nell, "orchard", ("act", "invite"), ("email", "three@orchard.example; odd")))
            .StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await site.Client.OrganisationAsync("orchard", Stop)).Value.Taken.ShouldBe(3);
        var me = found.People!.Single().Member;
        (await Act(nell, "orchard", ("act", "no-manager"), ("whom", me.ToString()))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Act(nell, "orchard", ("act", "remove"), ("whom", me.ToString()))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);

        (await Act(nell, "other", ("act", "invite"), ("email", "spy@orchard.example"))).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await nell.StatusAsync("/account/organisation/other")).ShouldBe(HttpStatusCode.NotFound);
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await pia.PageAsync("/account/organisation/other")).ShouldNotContain("Invite colleagues");
        (await Act(pia, "other", ("act", "invite"), ("email", "spy@orchard.example"))).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        var mine = (await site.Client.MemberAsync("pia@lanternlane.example", Stop)).Value.Id;
        (await Act(pia, "other", ("act", "manager"), ("whom", mine.ToString()))).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/account/organisation/other")).ShouldBe(HttpStatusCode.Unauthorized);
        (await site.Client.OrganisationAsync("other", Stop)).Value.Invitations.ShouldBeEmpty();

        // Who manages no longer, or is kept out, does so no longer from that moment.
        await site.Client.SetStatusAsync("nell@orchard-optics.example", "suspended", null, Stop);
        (await Act(nell, "orchard", ("act", "invite"), ("email", "five@orchard.example"))).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Inviting_and_taking_back_again_and_again_is_no_way_to_write_to_strangers()
    {
        await site.Client.AddOrganisationAsync(new OrganisationDraft("loud", "Loud", 1), Stop);
        using var api = new Caller(site);
        for (var i = 0; i < 23; i++)
        {
            var asked = await site.Client.InviteAsync("loud", $"stranger{i}@loud.example", false, Stop);
            await site.Client.WithdrawAsync("loud", asked.Id, Stop);
        }

        await api.RefusedAsync(HttpStatusCode.TooManyRequests, "organisation-letters", "POST", "organisations/loud/invitations",
            new { email = "x@loud.example" });
        clock.Advance(TimeSpan.FromHours(25));
        await site.Client.InviteAsync("loud", "x@loud.example", false, Stop);
    }

    [Fact]
    public async Task What_comes_through_an_organisation_is_taken_there_and_nowhere_else()
    {
        await site.Client.JoinOrganisationAsync("orchard", "pia@lanternlane.example", false, Stop);
        using var api = new Caller(site);
        var grant = (await site.Client.MemberAsync("pia@lanternlane.example", Stop)).Value.Grants.Single(g => g.Source == "organisation:orchard").Id;
        await api.RefusedAsync(HttpStatusCode.Conflict, "grant-organisation", "DELETE", $"members/pia@lanternlane.example/grants/{grant}");
        await api.RefusedAsync(
            HttpStatusCode.Conflict, "grant-organisation", "PUT", $"members/pia@lanternlane.example/grants/{grant}", new { until = "2090-01-01" });
        await api.RefusedAsync(
            HttpStatusCode.Conflict, "grant-organisation", "PUT", "members/pia@lanternlane.example/roles", new { roles = Array.Empty<string>() }, "*");
        await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "source-form", "POST", "members/pia@lanternlane.example/grants",
            new { fact = "plan:patron", source = "organisation:orchard" });
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-in-organisation", "DELETE", "roles/dealer");
        foreach (var (body, code) in new (object, string)[]
        {
            (new { key = "x y", title = "X", seats = 1 }, "key-form"), (new { key = "x", title = "", seats = 1 }, "title-length"),
            (new { key = "x", title = "X", seats = 0 }, "organisation-seats"), (new { key = "x", title = "X", seats = 1001 }, "organisation-seats"),
            (new { key = "x", title = "X", seats = 1, facts = new[] { new { fact = "role:owner" } } }, "organisation-staff"),
            (new { key = "x", title = "X", seats = 1, facts = new[] { new { fact = "role:deler" } } }, "standing-unknown-near"),
            (new { key = "x", title = "X", seats = 1, until = "soon" }, "time-form"),
            (new { key = "x", title = "X", seats = 1, facts = new object?[] { null } }, "fact-form"),
        })
        {
            await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, code, "POST", "organisations", body);
        }

        await api.RefusedAsync(HttpStatusCode.Conflict, "organisation-exists", "POST", "organisations", new { key = "orchard", title = "Again", seats = 1 });
        await api.RefusedAsync(HttpStatusCode.NotFound, "organisation-unknown", "GET", "organisations/none%20such");
    }

    private static async Task ClosedAsync(Browser who) => (await who.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);

    private static Task<HttpResponseMessage> JoinAsync(Browser who, string link, string? name, string? password)
    {
        var secret = link.Split('=')[1];
        return who.FillAsync("/account/sign-out", "/account/join", ("link", secret), ("name", name ?? ""), ("password", password ?? ""));
    }

    private static async Task<string> AgainAsync(Browser who, string link) =>
        await (await who.FillAsync("/account/sign-out", "/account/join/again", ("link", link.Split('=')[1]))).Content.ReadAsStringAsync();

    /// <summary>The link of the last letter that waits for somebody.</summary>
    private async Task<string> LinkAsync(string to)
    {
        var (store, envelopes) = (site.Services.GetRequiredService<Store>(), site.Services.GetRequiredService<Envelopes>());
        string? found = null;
        while (await store.TakeMessageAsync(clock.GetUtcNow().AddDays(100), Stop) is { } letter)
        {
            found = letter.To == to ? Link().Match(envelopes.Open(letter.Body).Text).Value : found;
        }

        return found.ShouldNotBeNull();
    }

    private async Task<int> LettersAsync(string to)
    {
        var store = site.Services.GetRequiredService<Store>();
        var there = 0;
        while (await store.TakeMessageAsync(clock.GetUtcNow().AddDays(100), Stop) is { } letter)
        {
            there += letter.To == to ? 1 : 0;
        }

        return there;
    }

    [GeneratedRegex("/account/join\\?link=[A-Za-z0-9_-]+")]
    private static partial Regex Link();
}
