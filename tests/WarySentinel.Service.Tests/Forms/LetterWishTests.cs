using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Service.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>In which language somebody is written to, and no more than has to be (RFC 8058).</summary>
public sealed class LetterWishTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private string PageOf(string address) => new Uri(site.Services.GetRequiredService<Unsubscribing>().PageOf(address)).PathAndQuery;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task A_mail_program_ends_letters_in_its_readers_name_with_one_post_and_no_cookies()
    {
        using var http = new HttpClient();
        using var one = new StringContent("List-Unsubscribe=One-Click", null, "application/x-www-form-urlencoded");
        using var answer = await http.PostAsync(site.Site + PageOf(Nell), one, Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await site.Client.MemberAsync(Nell, Stop)).Value.Unsubscribed.ShouldBeTrue();
        var told = await TellAsync("orchard-optics");
        (told.Changed, told.Refused).ShouldBe((0, 1));
        // Its reader turns it on again at the same page.
        using var browser = site.NewBrowser();
        (await browser.FillAsync(PageOf(Nell), "/account/letters", ("who", WhoIn(Nell)), ("language", "de"), ("more", "yes"))).StatusCode
            .ShouldBe(HttpStatusCode.OK);
        var member = (await site.Client.MemberAsync(Nell, Stop)).Value;
        (member.Unsubscribed, member.Language).ShouldBe((false, "de"));
        (await TellAsync("orchard-optics")).Changed.ShouldBe(1);
    }

    [Theory]
    [InlineData("")]
    [InlineData("nonsense")]
    [InlineData("CfDJ8Kx")]
    public async Task An_address_that_is_not_whole_changes_nothing(string who)
    {
        using var http = new HttpClient();
        using var one = new StringContent("List-Unsubscribe=One-Click", null, "application/x-www-form-urlencoded");
        using var answer = await http.PostAsync($"{site.Site}/account/letters?who={who}", one, Stop);
        ((int)answer.StatusCode).ShouldBeGreaterThanOrEqualTo(400);
        using var page = await http.GetAsync($"{site.Site}/account/letters?who={who}", Stop);
        page.StatusCode.ShouldBe(HttpStatusCode.NotFound);
        using var stolen = new FormUrlEncodedContent([new("who", who), new("more", "")]);
        using var forged = await http.PostAsync($"{site.Site}/account/letters", stolen, Stop);
        forged.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await site.Client.MemberAsync(Nell, Stop)).Value.Unsubscribed.ShouldBeFalse();
    }

    [Fact]
    public async Task Whoever_is_signed_in_says_it_for_themselves_and_nobody_for_another()
    {
        using var browser = site.NewBrowser();
        (await browser.StatusAsync("/account/letters")).ShouldBe(HttpStatusCode.Unauthorized);
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        (await browser.PageAsync("/account/")).ShouldContain("/account/letters");
        (await browser.FillAsync("/account/letters", "/account/letters", ("language", ""))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await site.Client.MemberAsync(Nell, Stop)).Value.Unsubscribed.ShouldBeTrue("the box was not ticked");
        (await browser.FillAsync("/account/letters", "/account/letters", ("language", "no language at all"), ("more", "yes"))).StatusCode
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await site.Client.SetLettersAsync(Nell, new LetterWish(Unsubscribed: false), Stop)).Unsubscribed.ShouldBeFalse();
    }

    private string WhoIn(string address) => PageOf(address).Split("who=")[1];

    private async Task<(int Changed, int Refused)> TellAsync(string search)
    {
        MembersChangeLine? last = null;
        await foreach (var line in site.Client.BulkAsync(
            new BulkDraft("tell", Filter: new MemberFilter(Search: search), Subject: "Open dome", Text: "On Friday."), Stop))
        {
            last = line;
        }

        return (last!.Changed, last.Refused);
    }
}
