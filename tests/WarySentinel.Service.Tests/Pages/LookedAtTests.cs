using System.Net;
using System.Text.Json;
using Shouldly;
using WarySentinel.Core.Redirects;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Pages;

/// <summary>What the console shows of the visitor's pages: those that a guest can look at now, and where each leads when it is done.</summary>
public sealed class LookedAtTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller api = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
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
        shown.Keys.ShouldBe(["sign-in", "forgotten", "unlock", "refused"], ignoreOrder: true);
        (await api.AskAsync("PUT", "settings", new { letters = new { signIn = true, codes = false, hold = false } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "settings", new { joining = new { way = "approval", confirm = true } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "directory", new { audience = "signed-in", fields = Array.Empty<string>() }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "visitor-pages/forgotten", new { off = true }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "visitor-pages/register", new { address = "/come-in" }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        shown = await ShownAsync();
        shown.Keys.ShouldBe(["sign-in", "register", "letter-sign-in", "unlock", "directory", "refused"], ignoreOrder: true);
        shown["register"].ShouldEndWith("/come-in");

        foreach (var gate in new[] { "dealer-stock", "clearance-vault", "observatory-grade", "members-pages" })
        {
            (await api.AskAsync("DELETE", "gates/" + gate, null, "*")).Status.ShouldBe(HttpStatusCode.NoContent);
        }

        (await ShownAsync()).Keys.ShouldNotContain("refused", "nothing is closed");
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
            status.ShouldBeOneOf([HttpStatusCode.OK, HttpStatusCode.Unauthorized, HttpStatusCode.Forbidden], $"{key} at {look}");
        }

        return shown;
    }
}
