using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>What orders came to: figures from the orders alone, on the screen and as CSV (RFC 4180).</summary>
public sealed class FiguresEndpoints(Store store, PolicyHolder policies, TimeProvider time)
{
    private const int AtOnce = 500;
    private const int MostEnds = 100_000;
    private const int UsualDays = 30;
    private const int MostDays = 366;
    private static readonly string[] Columns =
    [
        "month", "what", "title", "currency", "sales", "sales-amount", "renewals", "renewals-amount", "refunds", "refunds-amount", "lapses",
    ];

    /// <summary>Maps the endpoints.</summary>
    public void Map(RouteGroupBuilder api)
    {
        api.MapGet("/orders/figures", ShowAsync).Requires("read").WithTags("Orders");
        api.MapGet("/orders/figures.csv", FileAsync).Requires("read").Produces<string>(200, "text/csv").WithTags("Orders");
    }

    private async Task<Results<Ok<OrderFiguresView>, ProblemHttpResult>> ShowAsync(string? from, string? until, int? days, CancellationToken stop)
    {
        var (faults, ahead) = (new Faults(), Math.Clamp(days ?? UsualDays, 1, MostDays));
        var (first, last) = (MonthOf("from", from, faults), MonthOf("until", until, faults));
        return faults.Any ? faults.ToProblem().ToHttp()
            : TypedResults.Ok(new OrderFiguresView(await RowsAsync(first, last, stop), ahead, await SoonAsync(TimeSpan.FromDays(ahead), stop)));
    }

    private async Task<IResult> FileAsync(string? from, string? until, HttpResponse response, CancellationToken stop)
    {
        var faults = new Faults();
        var (first, last) = (MonthOf("from", from, faults), MonthOf("until", until, faults));
        if (faults.Any)
        {
            return faults.ToProblem().ToHttp();
        }

        response.ContentType = "text/csv; charset=utf-8";
        response.Headers.ContentDisposition = "attachment; filename=\"figures.csv\"";
        await using var text = new StreamWriter(response.Body, new UTF8Encoding(false));
        // A cell that a spreadsheet would reckon is kept a text (OWASP, “CSV Injection”).
        await using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { InjectionOptions = InjectionOptions.Escape });
        foreach (var column in Columns)
        {
            csv.WriteField(column);
        }

        foreach (var row in await RowsAsync(first, last, stop))
        {
            await csv.NextRecordAsync();
            object?[] cells =
            [
                row.Month, row.What, row.Title, row.Currency, row.Sales, row.SalesAmount, row.Renewals, row.RenewalsAmount, row.Refunds, row.RefundsAmount,
                row.Lapses,
            ];
            foreach (var cell in cells)
            {
                csv.WriteField(Convert.ToString(cell, CultureInfo.InvariantCulture));
            }
        }

        await csv.NextRecordAsync();
        return Results.Empty;
    }

    private async Task<List<OrderFiguresRow>> RowsAsync(DateOnly? from, DateOnly? until, CancellationToken stop)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var figures = new OrderFigures(new SiteDates(policy.Settings.TimeZone));
        Guid? after = null;
        while (await store.ToldOrdersAsync(after, AtOnce, stop) is { Count: > 0 } some)
        {
            after = some[^1].Order.Id;
            foreach (var told in some)
            {
                figures.Add(told);
            }
        }

        await foreach (var (end, told) in EndsAsync(DateTimeOffset.UnixEpoch, now, stop))
        {
            figures.AddLapse(end.Until, "plan:" + end.Plan, told.Story.Total?.Currency);
        }

        string? Said(long units, FigureRow row) => row.Currency.Length == 0 ? null : new Money(units, row.Currency).Amount;
        return
        [
            .. figures.Rows(from, until).Select(r => new OrderFiguresRow(
                r.Month.ToString("yyyy-MM", CultureInfo.InvariantCulture), r.What, TitleOf(policy, r.What), r.Currency.Length == 0 ? null : r.Currency, r.Sales,
                Said(r.SalesUnits, r), r.Renewals, Said(r.RenewalUnits, r), r.Refunds, Said(r.RefundUnits, r), r.Lapses)),
        ];
    }

    private async Task<List<LapsingView>> SoonAsync(TimeSpan ahead, CancellationToken stop)
    {
        var (policy, now, found) = (policies.Current, time.GetUtcNow(), new Dictionary<(string What, string Currency), (int Members, long Units)>());
        await foreach (var (end, told) in EndsAsync(now, now + ahead, stop))
        {
            var what = "plan:" + end.Plan;
            var (paid, key) = (OrderFigures.LastPaid(told, what), (what, OrderFigures.LastPaid(told, what)?.Currency ?? ""));
            var there = found.GetValueOrDefault(key);
            found[key] = (there.Members + 1, there.Units + (paid?.Units ?? 0));
        }

        return
        [
            .. found.OrderByDescending(f => f.Value.Units).ThenBy(f => f.Key.What, StringComparer.Ordinal).Select(f => new LapsingView(
                f.Key.What, TitleOf(policy, f.Key.What), f.Key.Currency.Length == 0 ? null : f.Key.Currency, f.Value.Members,
                f.Key.Currency.Length == 0 ? null : new Money(f.Value.Units, f.Key.Currency).Amount)),
        ];
    }

    /// <summary>Plans that end between two moments as their time is over, each with its order. Where the money went back, nothing lapsed.</summary>
    private async IAsyncEnumerable<(EndedPlan End, ToldOrder Told)> EndsAsync(
        DateTimeOffset from, DateTimeOffset until, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop)
    {
        foreach (var some in (await store.EndsOfPlansAsync(from, until, MostEnds, stop)).Chunk(AtOnce))
        {
            var named = (await store.ToldOrdersAsync([.. some.SelectMany(NamesOf)], stop)).ToLookup(t => (t.Order.Source, t.Order.Key));
            foreach (var end in some)
            {
                if (NamesOf(end).SelectMany(name => named[name]).FirstOrDefault(t => t.Order.PaymentOf(end.Reference) is not null) is { } told
                    && told.Lapses(end.Reference, end.Until))
                {
                    yield return (end, told);
                }
            }
        }
    }

    /// <summary>The orders that a grant's reference may mean: what stands behind a plus may be the number of a payment.</summary>
    private static IEnumerable<(string Source, string Key)> NamesOf(EndedPlan end)
    {
        var (colon, plus) = (end.Reference.IndexOf(':', StringComparison.Ordinal), end.Reference.LastIndexOf('+'));
        if (colon > 0)
        {
            yield return (end.Reference[..colon], end.Reference[(colon + 1)..]);
            if (plus > colon)
            {
                yield return (end.Reference[..colon], end.Reference[(colon + 1)..plus]);
            }
        }
    }

    private static DateOnly? MonthOf(string field, string? said, Faults faults)
    {
        if (string.IsNullOrWhiteSpace(said))
        {
            return null;
        }

        var isMonth = DateOnly.TryParseExact(said.Trim() + "-01", "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out var month);
        faults.Unless(isMonth, field, "month-form", said);
        return isMonth ? month : null;
    }

    private static string TitleOf(Policy policy, string what) => what.StartsWith("code:", StringComparison.Ordinal) ? what["code:".Length..]
        : FulfilmentBook.TryFact(what, out var fact) ? fact.Kind == FactKind.Bought
            ? Core.Catalogue.ItemId.TryParse(fact.Key, out var id) ? policy.Graph.Find(id)?.Title ?? fact.Key : fact.Key
            : policy.FindDefinition(fact.Kind, fact.Key)?.Title ?? fact.Key
        : what;
}
