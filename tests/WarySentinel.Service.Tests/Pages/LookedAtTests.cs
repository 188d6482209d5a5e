using System.Net;
using System.Text.Json;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.Redirects;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Pages;

/// <summary>What the console shows of the visitor's pages: each that can be looked at now, and where each leads when it is done.</summary>
public sealed class LookedAtTests : IAsyncLifetime
{
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller api = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        api = new Caller(site);
    }

    public async ValueTask DisposeAsync()
    {
        api.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task Each_page_that_is_shown_is_there_and_what_is_not_there_is_not_shown()
    {
        var shown = await ShownAsync();
        string[] always = ["sign-in", "set-password", "confirm", "join", "unlock", "thanks", "account", "profile", "application", "change-password", "address",
            "letters", "sign-out", "refused", "failure"];
        shown.Keys.ShouldBe([.. always, "forgotten"], ignoreOrder: true);
        (await api.AskAsync("PUT", "settings", new { letters = new { signIn = true, codes = false, hold = false } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "settings", new { joining = new { way = "approval", confirm = true } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "directory", new { audience = "signed-in", fields = Array.Empty<string>() }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "visitor-pages/forgotten", new { off = true }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "visitor-pages/register", new { address = "/come-in" }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        shown = await ShownAsync();
        shown.Keys.ShouldBe([.. always, "register", "letter-sign-in", "directory"], ignoreOrder: true);
        new Uri(shown["register"]).AbsolutePath.ShouldBe("/come-in");

        foreach (var gate in new[] { "dealer-stock", "clearance-vault", "observatory-grade", "members-pages" })
        {
            (await api.AskAsync("DELETE", "gates/" + gate, null, "*")).Status.ShouldBe(HttpStatusCode.NoContent);
        }

        (await ShownAsync()).Keys.ShouldNotContain("refused", "nothing is closed");
    }

    [Fact]
    public async Task The_pages_of_members_are_shown_with_somebody_made_up_and_to_staff_alone()
    {
        var shown = await ShownAsync();
        using var guest = site.NewBrowser();
        var account = await guest.PageAsync(PathOf(shown["account"]));
        account.ShouldContain("Ada Quill");
        account.ShouldContain("Dealer", customMessage: "the site's first role");
        (await guest.PageAsync(PathOf(shown["profile"]))).ShouldContain("Ada Quill");
        (await guest.PageAsync(PathOf(shown["change-password"]))).ShouldContain("ada@quill.example");
        (await guest.PageAsync(PathOf(shown["set-password"]))).ShouldContain("ada@quill.example");
        (await guest.PageAsync(PathOf(shown["join"]))).ShouldContain("Hillcrest School");
        (await guest.PageAsync(PathOf(shown["thanks"]))).ShouldContain("FO-2031");

        // Whoever signed in is shown what others see, and not sent on.
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/account/sign-in")).ShouldBe(HttpStatusCode.SeeOther);
        (await nell.StatusAsync(PathOf(shown["sign-in"]))).ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync(PathOf(shown["account"]))).ShouldContain("Ada Quill");
        (await nell.PageAsync("/account/")).ShouldNotContain("Ada Quill");
    }

    [Fact]
    public async Task A_ticket_opens_nothing_but_the_pages_that_are_looked_at()
    {
        var ticket = new Uri((await ShownAsync())["account"]).Query;
        using var guest = site.NewBrowser();
        foreach (var path in new[] { "/products/vault-7", "/members/", "/account/organisation/x", "/account/request", "/account/agree", "/account/register/x",
            "/account/files/x/", "/account/sign-in/link", "/account/address/confirm", "/account/directory/" + Guid.Empty })
        {
            using var with = await guest.GetAsync(path + ticket);
            using var without = await guest.GetAsync(path);
            with.StatusCode.ShouldBe(without.StatusCode, path);
            (await with.Content.ReadAsStringAsync()).ShouldNotContain("Ada Quill", Case.Sensitive, path);
        }

        // Looking is all it is for.
        foreach (var path in new[] { "/account/profile", "/account/password", "/account/address", "/account/letters", "/account/devices", "/account/begin" })
        {
            using var sent = await guest.PostAsync(path + ticket, ("name", "Mallory"), ("email", "mallory@x.example"));
            (await sent.Content.ReadAsStringAsync()).ShouldNotContain("quill", Case.Insensitive, path);
        }

        var bytes = ticket[(ticket.IndexOf('=', StringComparison.Ordinal) + 1)..];
        foreach (var wrong in new[] { "", "x", bytes[..^1], bytes + "A", "B" + bytes[1..], bytes[..30] + (bytes[30] == 'A' ? 'B' : 'A') + bytes[31..] })
        {
            (await guest.StatusAsync("/account/profile?sample=" + wrong)).ShouldBe(HttpStatusCode.Unauthorized, wrong);
        }

        (await guest.StatusAsync($"/account/profile?sample={bytes}&sample={bytes}")).ShouldBe(HttpStatusCode.Unauthorized);
        (await guest.StatusAsync("/account/profile" + ticket)).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromMinutes(30) - TimeSpan.FromSeconds(1));
        (await guest.StatusAsync("/account/profile" + ticket)).ShouldBe(HttpStatusCode.OK, "it is good for half an hour at least");
        clock.Advance(TimeSpan.FromMinutes(31));
        (await guest.StatusAsync("/account/profile" + ticket)).ShouldBe(HttpStatusCode.Unauthorized, "and for an hour at most");
    }

    [Fact]
    public async Task What_is_done_on_a_page_is_an_occasion_of_redirects()
    {
        var pages = (await api.AskAsync("GET", "visitor-pages")).Body.GetProperty("items").EnumerateArray().ToList();
        var done = pages.Select(p => p.GetProperty("done")).Where(d => d.ValueKind == JsonValueKind.String).Select(d => d.GetString()!).ToList();
        done.ShouldContain("sign-in");
        done.ShouldAllBe(d => RedirectDraft.Occasions.Contains(d));
        done.ShouldBeUnique();
    }

    private static string PathOf(string look) => new Uri(look).PathAndQuery;

    /// <summary>The pages with an address at which the console shows them; each is asked for by somebody who was never here.</summary>
    private async Task<Dictionary<string, string>> ShownAsync()
    {
        var shown = (await api.AskAsync("GET", "visitor-pages")).Body.GetProperty("items").EnumerateArray()
            .Where(p => p.GetProperty("look").ValueKind == JsonValueKind.String)
            .ToDictionary(p => p.GetProperty("key").GetString()!, p => p.GetProperty("look").GetString()!);
        foreach (var (key, look) in shown)
        {
            using var guest = site.NewBrowser();
            var status = await guest.StatusAsync(new Uri(look).PathAndQuery);
            status.ShouldBe(key switch
            {
                "refused" => HttpStatusCode.Unauthorized,
                "failure" => HttpStatusCode.BadGateway,
                _ => HttpStatusCode.OK,
            }, $"{key} at {look}");
        }

        return shown;
    }
}
