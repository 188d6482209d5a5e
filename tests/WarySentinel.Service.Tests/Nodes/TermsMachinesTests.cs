using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>Terms at two machines: published at one they keep out at the other, and agreed to at the other they let in at the one.</summary>
public sealed class TermsMachinesTests(TwoMachines machines) : IClassFixture<TwoMachines>
{
    private const string Email = "tern@shoal.example";
    private const string Password = "a-ladder-in-the-orchard";
    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(10);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task What_is_published_at_one_machine_keeps_out_at_the_other_until_it_is_agreed_to_at_either()
    {
        await machines.First.Client.AddMemberAsync(Email, "Tern", null, Password, ["dealer"], [], [], Stop);
        using var browser = new Browser(machines.First.Site);
        var entered = await browser.SignInAsync(Email, Password);
        var cookie = entered.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
        string[] both = [machines.First.Site, machines.Second];
        await UntilAsync(both, cookie, HttpStatusCode.NoContent);

        using var owner = new Caller(machines.First, machines.First.Token);
        for (var number = 1; number <= 3; number++)
        {
            (await owner.AskAsync("PUT", "terms/use", new
            {
                title = "Use", text = "Text " + number,
                audience = "role:dealer"
            })).Status.ShouldBe(HttpStatusCode.OK);
            await UntilAsync(both, cookie, HttpStatusCode.Unauthorized);
            // The session is the same at both; it agrees now here, now there, and at both at once.
            var at = number == 1 ? [machines.Second] : number == 2 ? [machines.First.Site] : both;
            var answers = await Task.WhenAll(at.SelectMany(s => new[] { s, s }).Select(s => AgreeAsync(s, cookie, number)));
            answers.ShouldContain(HttpStatusCode.SeeOther);
            await UntilAsync(both, cookie, HttpStatusCode.NoContent);
        }

        var consents = (await owner.AskAsync("GET",
            $"members/{Email}/consents")).Body.GetProperty("items").EnumerateArray().Select(c => c.GetProperty("number").GetInt32());
        consents.ShouldBe([3, 2, 1], "each was agreed to once, however often it was said");
    }

    private static async Task<HttpStatusCode> AgreeAsync(string site, string cookie, int number)
    {
        using var client = NewClient(site, cookie);
        using var body = new FormUrlEncodedContent(new Dictionary<string, string>
        {
            ["seen.use"] = $"{number}", ["agree.use"] = "yes", ["answer"] = "agree",
        });
        // A form of our own page, as a browser says it is.
        using var request = new HttpRequestMessage(HttpMethod.Post, "/account/agree")
        {
            Content = body, Headers = { { "Sec-Fetch-Site", "same-origin" }, { "Origin", site } },
        };
        return (await client.SendAsync(request, Stop)).StatusCode;
    }

    private static async Task UntilAsync(IEnumerable<string> sites, string cookie, HttpStatusCode wanted)
    {
        foreach (var site in sites)
        {
            using var client = NewClient(site, cookie);
            var until = DateTimeOffset.UtcNow + Soon;
            HttpStatusCode found;
            do
            {
                using var request = new HttpRequestMessage(HttpMethod.Get, "/sentinel/check") { Headers = { { "X-Original-URI", "/shop/dealer-stock" } } };
                found = (await client.SendAsync(request, Stop)).StatusCode;
            }
            while (found != wanted && DateTimeOffset.UtcNow < until);
            found.ShouldBe(wanted, site);
        }
    }

    private static HttpClient NewClient(string site, string cookie) => new(new SocketsHttpHandler
    {
        UseCookies = false, AllowAutoRedirect = false,
        UseProxy = false
    })
    {
        BaseAddress = new Uri(site), DefaultRequestHeaders = { { "Cookie", cookie }, { "Accept", "text/html" } },
    };
}
