using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>
/// Orders of before, from a file: looked through first, then taken in. Run again it goes on where it broke off, as what is known changes nothing. Who bought
/// something long ago is written no letter.
/// </summary>
public sealed class OrderImport(OrderIntake intake, PolicyHolder policies, Store store, ServiceOptions options)
{
    /// <summary>The source of such orders.</summary>
    public const string Source = "import";

    private const int MostBytes = 64 << 20;
    private const int MostFaults = 50;
    private const int MostCodes = 200;
    private const int AtOnce = 8;

    /// <summary>Maps it.</summary>
    public void Map(RouteGroupBuilder api) =>
        api.MapPost("/orders/import", (HttpContext http, bool? dryRun) => InvokeAsync(http, dryRun ?? false)).Requires("people").WithTags("Orders")
            .Accepts<string>("text/csv").Takes(MostBytes);

    private async Task<Results<Ok<OrderImportView>, ProblemHttpResult>> InvokeAsync(HttpContext http, bool dryRun)
    {
        await using var file = await Spool.ReadAsync(http, options.Data, MostBytes);
        if (file is null)
        {
            return Problem.Of(ProblemKind.TooLarge, "hook-large", MostBytes / 1024).ToHttp();
        }

        using var text = new StreamReader(file, new UTF8Encoding(false), true);
        var read = OrderCsv.Read(text, new SiteDates(policies.Current.Settings.TimeZone), intake.Now);
        if (read.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var (fresh, known) = await TakeAsync(read.Value, dryRun, Caller.Of(http).Name, http.RequestAborted);
        return TypedResults.Ok(View(read.Value, !dryRun, fresh, known));
    }

    private async Task<(int Fresh, int Known)> TakeAsync(OrderCsv file, bool dryRun, string by, CancellationToken stop)
    {
        var (fresh, known) = (0, 0);
        await Parallel.ForEachAsync(
            file.Events, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop },
            async (one, token) =>
            {
                var isNew = dryRun ? await store.OrderEventAsync(Source, one.Event.Id, token) is null
                    : (await intake.KeepAsync(
                        new KeptEvent(Guid.CreateVersion7(), Source, one.Event.Id, intake.Now, OrderEventState.Waiting, one.Event, one.Raw), by, token)).IsNew;
                Interlocked.Add(ref isNew ? ref fresh : ref known, 1);
            });
        return (fresh, known);
    }

    private OrderImportView View(OrderCsv file, bool stored, int fresh, int known)
    {
        var (policy, book) = (policies.Current, FulfilmentBook.Of(policies.Current));
        var codes = file.Events.SelectMany(e => e.Event.Lines.Select(l => (Line: l, e.Event.Order))).GroupBy(l => l.Line.Name)
            .Select(g => new ImportedCodeView(
                g.Key, g.Select(l => l.Order).Distinct().Count(), book.For(g.First().Line) is { } rule ? OrderSentences.Of(rule, policy, Reader.Book) : null))
            .OrderByDescending(c => c.Orders).ThenBy(c => c.Code, StringComparer.Ordinal).Take(MostCodes);
        return new OrderImportView(
            stored, file.Rows, file.Events.Select(e => e.Event.Order).Distinct().Count(), fresh, known, file.Columns, [.. codes],
            [.. file.Faults.OrderBy(f => f.Line).Take(MostFaults).Select(f => new OrderRowFault(f.Line, f.Fault.Field, f.Fault.Message.ToReader()))],
            file.Faults.Select(f => f.Line).Distinct().Count());
    }
}
