using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Sweep;

/// <summary>A sweep that is broken off somewhere and gone on with finds what one in a single run finds, and asks for nothing twice.</summary>
public sealed class SweepResumeTests
{
    private const int Pages = 90;
    private int asked;
    private int holdsAfter = int.MaxValue;
    private TaskCompletionSource holding = new();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>A site of many pages; every tenth is guarded, every thirtieth of the others has a copy of one that is.</summary>
    private async Task<WebApplication> OriginAsync()
    {
        var app = SmallSite.At();
        app.Run(async http =>
        {
            if (Interlocked.Increment(ref asked) > holdsAfter)
            {
                holding.TrySetResult();
                await Task.Delay(Timeout.Infinite, http.RequestAborted);
            }

            var number = http.Request.Path.Value!.Split('/') is ["", "members" or "open", var said] && int.TryParse(said, out var n) && n < Pages ? n : -1;
            http.Response.StatusCode = number >= 0 ? 200 : 404;
            http.Response.ContentType = "text/html";
            var of = number % 30 == 7 ? number - 7 : number;
            var prose = string.Join(' ', Enumerable.Range(0, 60).Select(w => $"w{of}x{w}"));
            await http.Response.WriteAsync(number < 0 ? "" : $"<!doctype html><html><body><main><p>{prose}</p></main></body></html>", Stop);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private static async Task<SentinelClient> OwnedAsync(RunningSite site)
    {
        var policy = new StringBuilder("items:\n  - { id: site, title: Hill, addresses: [/] }\n");
        for (var n = 0; n < Pages; n++)
        {
            policy.Append(null, $"  - {{ id: \"page:p{n}\", title: \"Number {n} of all\", addresses: [{(n % 10 == 0 ? "/members" : "/open")}/{n}] }}\n");
        }

        policy.Append("gates:\n  - { key: members, title: Members, covers: [\"path:/members/**\"], audience: signed-in }\n");
        return await site.OwnAsync(policy.ToString(), Stop);
    }

    private static async Task<SweepReport> WholeAsync(SentinelClient client, SweepDraft draft)
    {
        var last = await client.SweepAsync(draft, Stop).LastAsync(Stop);
        return last.Report.ShouldNotBeNull(last.Detail);
    }

    private static string[] Told(SweepReport report) => [.. report.Findings.Select(f => $"{f.Kind} {f.Address} {f.As} {f.Via} {f.Gate}")];

    [Fact]
    public async Task Wherever_it_is_broken_off_it_goes_on_from_there()
    {
        await using var origin = await OriginAsync();
        await using var site = await RunningSite.StartAsync(origin.Urls.First(), empty: true);
        var client = await OwnedAsync(site);
        var draft = new SweepDraft(["signed-in"], null, null, null, null) { Draw = 0, AtOnce = 2 };
        var goOn = new SweepDraft(null, null, null, null, null) { Resume = true };
        (await client.UnfinishedSweepAsync(Stop)).ShouldBeNull();
        asked = 0;
        var whole = await WholeAsync(client, draft);
        whole.Findings.Count(f => f.Kind == "copied").ShouldBe(Pages / 30);
        var once = asked;
        (await client.UnfinishedSweepAsync(Stop)).ShouldBeNull();
        foreach (var steps in (int[])[5, 300])
        {
            await BreakOffAsync(client, draft, steps);
            var left = (await client.UnfinishedSweepAsync(Stop)).ShouldNotBeNull();
            left.ShouldSatisfyAllConditions(l => l.CanResume.ShouldBeTrue(), l => l.IsRunning.ShouldBeFalse(), l => l.Notes.ShouldBeGreaterThan(steps / 8));
            var rest = await WholeAsync(client, goOn);
            Told(rest).ShouldBe(Told(whole), $"after {steps}");
            (rest.Addresses, rest.Guarded, rest.As.Count).ShouldBe((whole.Addresses, whole.Guarded, 2));
            rest.StartedAt.ShouldBe(left.StartedAt, TimeSpan.FromMilliseconds(1));
            // What was under way when it broke off is asked for again, and nothing else.
            asked.ShouldBeLessThan(once + 60, $"after {steps}");
        }

        await BreakOffAsync(client, draft, 20);
        using var caller = new Caller(site);
        await caller.AskAsync("POST", "items", new { id = "page:new", title = "New" });
        (await client.UnfinishedSweepAsync(Stop)).ShouldNotBeNull().CanResume.ShouldBeFalse();
        (await client.SweepAsync(goOn, Stop).LastAsync(Stop)).Detail.ShouldNotBeNull().ShouldContain("changed");
        Told(await WholeAsync(client, draft)).Length.ShouldBe(Told(whole).Length);
        (await client.SweepAsync(goOn, Stop).LastAsync(Stop)).Detail.ShouldNotBeNull().ShouldContain("broken off");
    }

    /// <summary>Leaves when the site was asked so often, and waits until the service has noticed.</summary>
    private async Task BreakOffAsync(SentinelClient client, SweepDraft draft, int requests)
    {
        (holding, asked, holdsAfter) = (new TaskCompletionSource(), 0, requests);
        using (var leaving = CancellationTokenSource.CreateLinkedTokenSource(Stop))
        {
            var reading = client.SweepAsync(draft, leaving.Token).CountAsync(leaving.Token);
            await holding.Task.WaitAsync(Stop);
            await leaving.CancelAsync();
            await Should.ThrowAsync<OperationCanceledException>(async () => await reading);
        }

        holdsAfter = int.MaxValue;
        while ((await client.UnfinishedSweepAsync(Stop)).ShouldNotBeNull().IsRunning)
        {
            await Task.Delay(50, Stop);
        }
    }
}
