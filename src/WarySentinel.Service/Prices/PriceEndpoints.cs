using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Prices;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Prices;

/// <summary>Price lists, and what somebody's cart costs.</summary>
public static class PriceEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapPrices(this RouteGroupBuilder api)
    {
        var prices = api.MapGroup("/prices").WithTags("Prices");
        prices.MapGet("/", (PolicyHolder policies) => TypedResults.Ok(new PageOf<PriceListView>(
            [.. PriceBook.Of(policies.Current).All.Select(l => l.ToWire(false))], null))).Requires("read");
        prices.MapGet("/{key}", Show).Requires("read");
        prices.MapPut("/{key}", PutAsync).Requires("write").Takes(PriceCsv.MostBytes);
        prices.MapDelete("/{key}", RemoveAsync).Requires("write");
        prices.MapGet("/{key}/lines.csv", ShowCsv).Requires("read").Produces<string>(200, "text/csv");
        prices.MapPut("/{key}/lines.csv", PutCsvAsync).Requires("write").Takes(PriceCsv.MostBytes).Accepts<string>("text/csv");
        api.MapPost("/quotes", QuoteAsync).WithTags("Prices").Requires("decide");
        return api.MapCoupons().MapCarts();
    }

    private static Results<Ok<PriceListView>, ProblemHttpResult> Show(string key, HttpResponse response, PolicyHolder policies)
    {
        if (PriceBook.Of(policies.Current).Find(key) is not { } list)
        {
            return PriceCommands.Unknown(policies.Current, key).ToHttp();
        }

        response.Headers.ETag = Paging.TagOf(list.Version);
        return TypedResults.Ok(list.ToWire(true));
    }

    private static async Task<Results<Ok<PriceListView>, ProblemHttpResult>> PutAsync(
        string key, PriceListDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var put = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy => PriceCommands.Put(
                policy, draft.ToCore(key), version.Value, await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop)), Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(put.Value.ToWire(true));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => PriceCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static Results<ContentHttpResult, ProblemHttpResult> ShowCsv(string key, HttpResponse response, PolicyHolder policies)
    {
        if (PriceBook.Of(policies.Current).Find(key) is not { } list)
        {
            return PriceCommands.Unknown(policies.Current, key).ToHttp();
        }

        response.Headers.ETag = Paging.TagOf(list.Version);
        response.Headers.ContentDisposition = $"attachment; filename=\"prices-{key}.csv\"";
        return TypedResults.Text(PriceCsv.Write(list), "text/csv", System.Text.Encoding.UTF8);
    }

    /// <summary>Puts the lines of a file in place of those of a list; with <c>dryRun</c> it is only said what would change.</summary>
    private static async Task<Results<Ok<PriceImportView>, ProblemHttpResult>> PutCsvAsync(
        string key, bool? dryRun, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop)
    {
        await using var body = await Spool.ReadAsync(http, options.Data, PriceCsv.MostBytes);
        if ((body is null ? Admission.TooLarge(PriceCsv.MostBytes) : await ImportText.CheckAsync(body, stop)) is { } unreadable)
        {
            return unreadable.ToHttp();
        }

        using var text = ImportText.ReaderOf(body!);
        var read = PriceCsv.Read(text);
        if (read.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        PriceList? before = null;
        async Task<Outcome<Edit<PriceList>>> Command(Core.Access.Policy policy)
        {
            before = PriceBook.Of(policy).Find(key);
            if (before is null)
            {
                return PriceCommands.Unknown(policy, key);
            }

            var draft = PriceDraft.Head(before) with { Lines = [.. read.Value.Select(r => r.Draft)] };
            var put = PriceCommands.Put(policy, draft, null, await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop));
            return put.Problem is { } problem ? PriceCsv.Located(problem, read.Value) : put;
        }

        var after = dryRun == true ? (await Command(policies.Current)).Match<Outcome<PriceList>>(e => e.Value, p => p)
            : await policies.ChangeAsync(Command, Caller.Of(http).Name, stop);
        return after.Match<Results<Ok<PriceImportView>, ProblemHttpResult>>(
            list => TypedResults.Ok(Compared(before!, list, read.Value.Count, dryRun != true)), problem => problem.ToHttp());
    }

    private static PriceImportView Compared(PriceList before, PriceList after, int rows, bool stored)
    {
        var was = before.Lines.ToDictionary(l => (l.Item, l.Quantity));
        var (added, changed) = (after.Lines.Count(l => !was.ContainsKey((l.Item, l.Quantity))),
            after.Lines.Count(l => was.TryGetValue((l.Item, l.Quantity), out var old) && old != l));
        return new PriceImportView(rows, added, changed, was.Count + added - after.Lines.Count, stored, stored ? after.Version : before.Version);
    }

    /// <summary>What a cart costs somebody: what their pages show.</summary>
    private static async Task<Results<Ok<QuoteView>, ProblemHttpResult>> QuoteAsync(
        QuoteQuestion asked, PolicyHolder policies, CouponDesk coupons, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        var faults = new Faults();
        var lines = ReadLines(asked.Lines ?? [], policy.Graph, faults);
        var currency = PlainText.OrNull(asked.Currency)?.Trim();
        faults.Unless(currency is null || Core.Orders.Money.IsCurrency(currency), "currency", "price-currency", asked.Currency);
        if (faults.Any)
        {
            return faults.ToProblem().ToHttp();
        }

        var (at, found) = (LookTime.Of(asked.At, policy), await coupons.UserAsync(asked.Visitor, asked.Person, policy, stop));
        if (at.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        if (found.Problem is { } unknown)
        {
            return unknown.ToHttp();
        }

        var (seen, user) = found.Value;
        var now = at.Value ?? time.GetUtcNow();
        var (coupon, fault) = PlainText.OrNull(asked.Coupon) is not { } code ? (null, null) : await coupons.TypedAsync(code, user, policy, now, stop);
        var quote = Quote.Of(policy, seen.Visitor, lines, currency, coupon, now);
        if (coupon?.Amount is { } off && quote.Currency is { } paid && off.Currency != paid)
        {
            fault = Problem.Of(ProblemKind.Conflict, "coupon-currency", coupon.Code, off.Currency);
        }

        return TypedResults.Ok(quote.ToWire(seen.Who, fault is null ? coupon : null, fault));
    }

    private static List<Core.Prices.CartLine> ReadLines(IReadOnlyList<Contract.Prices.CartLine> asked, CatalogueGraph graph, Faults faults)
    {
        var lines = new List<Core.Prices.CartLine>();
        faults.Unless(asked.Count is > 0 and <= Quote.MostLines, "lines", "quote-lines", Quote.MostLines);
        foreach (var (line, n) in asked.Take(Quote.MostLines).Select((l, n) => (l, n)))
        {
            if (line is null || !ItemId.TryParse(line.Item?.Trim(), out var id))
            {
                faults.Bad($"lines[{n}].item", "price-item", line?.Item);
                continue;
            }

            faults.Unless(graph.PlaceOf(id) >= 0, $"lines[{n}].item", "item-unknown", id);
            faults.Unless(line.Quantity is null or (>= 1 and <= Quote.MostQuantity), $"lines[{n}].quantity", "price-quantity", line.Quantity);
            lines.Add(new Core.Prices.CartLine(id, line.Quantity ?? 1));
        }

        return lines;
    }
}
