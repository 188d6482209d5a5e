using System.Diagnostics;
using System.Net;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>How long the origin is waited for, when many wait at once and one after the other.</summary>
public sealed class GatewayWaitTests
{
    private static readonly TimeSpan Wait = TimeSpan.FromSeconds(2);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Nobody_is_told_early_that_it_takes_too_long_and_whoever_waits_for_longer_is_told()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        await using var origin = SmallSite.At(address);
        origin.Map("/begins/{after:int}/ends/{later:int}", async (HttpContext http, int after, int later) =>
        {
            await http.Request.Body.CopyToAsync(Stream.Null, http.RequestAborted);
            await Task.Delay(after, http.RequestAborted);
            http.Response.ContentType = "application/octet-stream";
            await http.Response.Body.WriteAsync("begun "u8.ToArray(), http.RequestAborted);
            await http.Response.Body.FlushAsync(http.RequestAborted);
            await Task.Delay(later, http.RequestAborted);
            await http.Response.Body.WriteAsync("ended"u8.ToArray(), http.RequestAborted);
        });
        await origin.StartAsync(Stop);
        await using var site = await RunningSite.StartAsync(address, [$"--Wary:OriginTimeoutSeconds={Wait.TotalSeconds}"]);
        using var guest = site.NewBrowser();
        var random = new Random(20);

        // Several rounds: what waited in one waits for somebody else in the next.
        for (var round = 0; round < 3; round++)
        {
            await Task.WhenAll(Enumerable.Range(0, 60).Select(async n =>
            {
                var (isLate, hasBody, isLong) = (n % 6 == 0, random.Next(3) == 0, n % 7 == 0);
                var path = $"/begins/{(isLate ? 60_000 : random.Next(30))}/ends/{(isLong && !isLate ? 3_500 : 0)}";
                await Task.Delay(random.Next(400), Stop);
                var begun = Stopwatch.GetTimestamp();
                using var request = new HttpRequestMessage(hasBody ? HttpMethod.Post : HttpMethod.Get, path);
                request.Content = hasBody ? new ByteArrayContent(new byte[random.Next(20_000)]) : null;
                using var answer = await guest.SendAsync(request);
                if (answer.StatusCode == HttpStatusCode.GatewayTimeout)
                {
                    Stopwatch.GetElapsedTime(begun).ShouldBeGreaterThan(Wait - TimeSpan.FromMilliseconds(50), path);
                    return;
                }

                isLate.ShouldBeFalse(path);
                answer.StatusCode.ShouldBe(HttpStatusCode.OK, path);
                (await answer.Content.ReadAsStringAsync(Stop)).ShouldBe("begun ended", path);
            }));
        }
    }

    [Fact]
    public async Task An_origin_that_falls_silent_when_it_is_asked_again_takes_too_long_as_well()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        await using var origin = SmallSite.At(address);
        origin.MapGet("/page", async (HttpContext http) =>
        {
            // A piece is given; the whole, which alone can be looked through, is not.
            await Task.Delay(http.Request.Headers.Range.Count > 0 ? TimeSpan.Zero : TimeSpan.FromMinutes(1), http.RequestAborted);
            (http.Response.StatusCode, http.Response.ContentType) = (StatusCodes.Status206PartialContent, "text/html");
            http.Response.Headers.ContentRange = "bytes 0-3/40";
            await http.Response.WriteAsync("<ul>", http.RequestAborted);
        });
        await origin.StartAsync(Stop);
        await using var site = await RunningSite.StartAsync(address, [$"--Wary:OriginTimeoutSeconds={Wait.TotalSeconds}"]);
        using var guest = site.NewBrowser();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/page") { Headers = { { "Range", "bytes=0-3" } } };
        using var answer = await guest.SendAsync(request);
        answer.StatusCode.ShouldBe(HttpStatusCode.GatewayTimeout);
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain("takes too long");
    }
}
