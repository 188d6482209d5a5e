using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Service.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>What costs a slow hash is limited by network before it costs one; everything else goes on.</summary>
public sealed class RateLimitTests
{
    [Fact]
    public async Task One_network_has_only_so_many_passwords_proved()
    {
        await using var site = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=6", "--Wary:ProofsPerSecond=1"]);
        var hashing = site.Services.GetRequiredService<PasswordHashing>();
        var before = hashing.Proved;
        using var http = new HttpClient();
        http.DefaultRequestHeaders.Add("X-Wary-Console", "1");
        var begun = Stopwatch.GetTimestamp();
        var answers = await Task.WhenAll(Enumerable.Range(0, 30).Select(n =>
            http.PostAsJsonAsync(site.Admin + "/api/v1/sign-in", new { name = $"somebody-{n}@x.example", password = "wrong-wrong-wrong" })));
        var limited = answers.Where(a => a.StatusCode == HttpStatusCode.TooManyRequests).ToList();
        var most = 6 + 1 + (int)Stopwatch.GetElapsedTime(begun).TotalSeconds;
        (hashing.Proved - before).ShouldBeLessThanOrEqualTo(most);
        limited.Count.ShouldBeGreaterThanOrEqualTo(Math.Max(1, 30 - most));
        limited.ShouldAllBe(a => a.Headers.RetryAfter != null && a.Headers.CacheControl!.NoStore);
        (await limited[^1].Content.ReadFromJsonAsync<JsonElement>()).GetProperty("code").GetString().ShouldBe("too-many-tries");

        (await http.GetAsync(site.Admin + "/api/v1/set-up")).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await http.GetAsync(site.Site + "/account/sign-in")).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await http.GetAsync(site.Site + "/")).StatusCode.ShouldBe(HttpStatusCode.OK);
        // The prompt of shared passwords draws on the same purse.
        var prompts = await Task.WhenAll(Enumerable.Range(0, 20).Select(_ =>
            http.PostAsync(site.Site + "/account/unlock", new FormUrlEncodedContent([new("password", "x")]))));
        var turnedAway = prompts.Where(p => p.StatusCode == HttpStatusCode.TooManyRequests).ToList();
        turnedAway.ShouldNotBeEmpty();
        (await turnedAway[0].Content.ReadAsStringAsync()).ShouldContain("then try again");
    }

    [Fact]
    public async Task Pages_have_their_files_with_validators_and_nothing_else_is_there()
    {
        await using var site = await RunningSite.StartAsync();
        using var http = new HttpClient();
        foreach (var (name, type) in new[]
            { ("account.css", "text/css"), ("account.js", "text/javascript"), ("icon.svg", "image/svg+xml"), ("newsreader.woff2", "font/woff2") })
        {
            using var first = await http.GetAsync($"{site.Site}/account/assets/{name}");
            (first.StatusCode, first.Content.Headers.ContentType!.MediaType).ShouldBe((HttpStatusCode.OK, type));
            using var again = new HttpRequestMessage(HttpMethod.Get, $"{site.Site}/account/assets/{name}");
            again.Headers.IfNoneMatch.Add(first.Headers.ETag.ShouldNotBeNull());
            (await http.SendAsync(again)).StatusCode.ShouldBe(HttpStatusCode.NotModified);
        }

        foreach (var odd in new[] { "", "nothing.css", "%2e%2e/words.en.json", "words.en.json", "account.css/x", "..%5caccount.css" })
        {
            ((int)(await http.GetAsync($"{site.Site}/account/assets/{odd}")).StatusCode).ShouldBeInRange(400, 404, odd);
        }
    }
}
