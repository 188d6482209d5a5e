using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Sweep;

/// <summary>Sweeps: run one, read what was found.</summary>
public static class SweepEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSweeps(this RouteGroupBuilder api)
    {
        var sweeps = api.MapGroup("/sweeps").WithTags("Sweeps");
        sweeps.MapPost("/", Run).Requires("write").Accepts<SweepDraft>("application/json").Produces<SweepLine>(200, "application/x-ndjson");
        sweeps.MapGet("/", List).Requires("read");
        sweeps.MapGet("/unfinished", Unfinished).Requires("read");
        sweeps.MapGet("/{id}", Show).Requires("read");
        return api;
    }

    private static Task Run(SweepDraft draft, HttpContext http, SweepRunner runner)
    {
        var by = Caller.Of(http).Name;
        return Lines.StreamAsync<SweepLine>(
            http,
            async (tell, stop) =>
            {
                var outcome = await runner.RunAsync(draft, by, tell, stop);
                tell(outcome.Match(
                    report => new SweepLine("done", report.Addresses, report.Addresses, report.Leaks, report), problem =>
                    new SweepLine("failed", 0, 0, 0, null, problem.Detail.ToReader())));
            },
            detail => new SweepLine("failed", 0, 0, 0, null, detail));
    }

    private static async Task<Ok<PageOf<SweepSummary>>> List(Store store, CancellationToken stop) =>
        TypedResults.Ok(new PageOf<SweepSummary>([.. (await store.SweepsAsync(50, stop)).Select(SummaryOf)], null));

    /// <summary>The sweep that has not ended; 204 where each has.</summary>
    private static async Task<Results<Ok<SweepUnfinished>, NoContent>> Unfinished(SweepRunner runner, CancellationToken stop) =>
        await runner.UnfinishedAsync(stop) is { } left ? TypedResults.Ok(left) : TypedResults.NoContent();

    /// <summary>What a sweep came to, without what it found.</summary>
    private static SweepSummary SummaryOf(StoredSweep kept)
    {
        var figures = JsonSerializer.Deserialize<SweepFigures>(kept.Report, SweepRunner.Written) ?? new SweepFigures(0, 0, []);
        return new SweepSummary(kept.Id, kept.StartedAt, kept.EndedAt, kept.By, kept.Leaks, figures.Addresses, figures.Guarded, figures.As ?? []);
    }

    private sealed record SweepFigures(int Addresses, int Guarded, IReadOnlyList<string>? As);

    /// <summary>One report; <c>latest</c> names the newest.</summary>
    private static async Task<Results<Ok<SweepReport>, ProblemHttpResult>> Show(string id, Store store, CancellationToken stop)
    {
        var all = await store.SweepsAsync(50, stop);
        var found = id == "latest" ? (all.Count > 0 ? all[0] : null) : all.FirstOrDefault(s => s.Id.ToString() == id);
        return found is null
            ? Problem.Of(ProblemKind.NotFound, "sweep-unknown").ToHttp()
            : TypedResults.Ok(JsonSerializer.Deserialize<SweepReport>(found.Report, SweepRunner.Written)!);
    }
}
