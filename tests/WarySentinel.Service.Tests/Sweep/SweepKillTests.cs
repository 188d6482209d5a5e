using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Sweep;
using WarySentinel.Service.Tests.Nodes;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Sweep;

/// <summary>A machine dies in the middle of a sweep: another one, or itself when it is back, goes on with it and finds the same.</summary>
public sealed class SweepKillTests
{
    private const int Pages = 60;
    private int asked;
    private TimeSpan pause;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Policy => "items:\n  - { id: site, title: Hill, addresses: [/] }\n" + string.Concat(Enumerable.Range(0, Pages).Select(
        n => $"  - {{ id: \"page:p{n}\", title: \"Number {n} of all\", addresses: [{(n % 5 == 0 ? "/members" : "/open")}/{n}] }}\n"))
        + "gates:\n  - { key: members, title: Members, covers: [\"path:/members/**\"], audience: signed-in }\n";

    /// <summary>A site whose every sixth page says what the guarded one before it says.</summary>
    private async Task<WebApplication> OriginAsync()
    {
        var app = SmallSite.At();
        app.Run(async http =>
        {
            Interlocked.Increment(ref asked);
            await Task.Delay(pause, http.RequestAborted);
            var isPage = http.Request.Path.Value!.Split('/') is ["", "members" or "open", var said] && int.TryParse(said, out var n) && n < Pages;
            var of = isPage ? int.Parse(http.Request.Path.Value!.Split('/')[2], null) : 0;
            http.Response.StatusCode = isPage ? 200 : 404;
            http.Response.ContentType = "text/html";
            of -= of % 5 == 1 ? 1 : 0;
            var prose = isPage ? string.Join(' ', Enumerable.Range(0, 60).Select(w => $"w{of}x{w}")) : "";
            await http.Response.WriteAsync($"<!doctype html><html><body><p>{prose}</p>", Stop);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private static string[] Told(SweepReport report) => [.. report.Findings.Select(f => $"{f.Kind} {f.Address} {f.As} {f.Via}")];

    private static async Task<SweepReport> SweepAsync(SentinelClient client, SweepDraft draft)
    {
        var last = await client.SweepAsync(draft, Stop).LastAsync(Stop);
        return last.Report.ShouldNotBeNull(last.Detail);
    }

    [Fact]
    public Task Another_machine_goes_on_where_one_died_on_either_database() =>
        Task.WhenAll(new SweepKillTests().GoOnAsync("sqlite"), new SweepKillTests().GoOnAsync("postgres"));

    private async Task GoOnAsync(string provider)
    {
        await using var origin = await OriginAsync();
        await using var mortal = await MortalService.OnAsync(provider);
        var draft = new SweepDraft(["signed-in"], null, null, null, null) { Draw = 0, AtOnce = 3 };
        string[] settings = [$"--Wary:Origin={origin.Urls.First()}", "--Wary:SweepBrowser=none"];
        var first = await mortal.StartAsync(settings);
        await using var dying = first;
        var token = await MortalService.OwnedAsync(first);
        using var one = new SentinelClient(new Uri(first.Admin), token);
        await foreach (var line in one.ApplyAsync(new MemoryStream(Encoding.UTF8.GetBytes(Policy)), false, false, null, Stop))
        {
            (line.Difference?.Faults ?? []).ShouldBeEmpty();
        }

        var whole = await SweepAsync(one, draft);
        whole.Findings.Count(f => f.Kind == "copied").ShouldBe(Pages / 5);
        var once = asked;
        // Slow enough that it is not over when what it notes, every few seconds, is kept for the first time.
        pause = TimeSpan.FromMilliseconds(60);
        var sweeping = one.SweepAsync(draft, Stop).CountAsync(Stop).AsTask();
        while (await one.UnfinishedSweepAsync(Stop) is not { Notes: > 10 })
        {
            await Task.Delay(100, Stop);
        }

        await first.KillAsync();
        await Should.ThrowAsync<Exception>(async () => await sweeping);
        pause = TimeSpan.Zero;
        await using var second = await mortal.StartAsync(settings);
        using var other = new SentinelClient(new Uri(second.Admin), token);
        SweepUnfinished left;
        while ((left = (await other.UnfinishedSweepAsync(Stop)).ShouldNotBeNull()).IsRunning)
        {
            // For as long as the lease of the dead one lasts, nobody goes on.
            await Task.Delay(500, Stop);
        }

        left.ShouldSatisfyAllConditions(l => l.CanResume.ShouldBeTrue(), l => l.Notes.ShouldBeGreaterThan(10));
        asked = 0;
        var rest = await SweepAsync(other, new SweepDraft(null, null, null, null, null) { Resume = true });
        Told(rest).ShouldBe(Told(whole), ignoreOrder: true);
        asked.ShouldBeLessThan(once - 20, "what was noted is not asked for again");
        (await other.UnfinishedSweepAsync(Stop)).ShouldBeNull();
    }
}
