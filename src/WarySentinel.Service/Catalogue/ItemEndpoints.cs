using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Catalogue;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using Fault = WarySentinel.Core.Fault;
using Rules = WarySentinel.Core.Catalogue;
using Wire = WarySentinel.Contract.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>Items: list, show, add, change, remove, import.</summary>
public static class ItemEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapItems(this RouteGroupBuilder api)
    {
        var items = api.MapGroup("/items").WithTags("Items");
        items.MapGet("/", List).Requires("read");
        items.MapPost("/", Add).Requires("write");
        items.MapPost("/import", Import).Requires("write").Takes(long.MaxValue).Accepts<string>("text/csv", "application/yaml")
            .Produces<ImportLine>(200, "application/x-ndjson");
        items.MapGet("/{id}", Show).Requires("read");
        items.MapPut("/{id}", Set).Requires("write");
        items.MapGet("/{id}/removal", Removal).Requires("read");
        items.MapDelete("/{id}", Remove).Requires("write");
        return api;
    }

    private static Results<Ok<PageOf<ItemView>>, ProblemHttpResult> List(
        string? cursor, int? limit, string? kind, string? beneath, string? search, PolicyHolder policies)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var policy = policies.Current;
        var wanted = Wanted(policy, kind, beneath, search);
        if (wanted.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var start = ItemId.TryParse(after.Value, out var from);
        var found = wanted.Value.Order(Comparer<Item>.Create((a, b) => a.Id.CompareTo(b.Id))).Where(i => !start || i.Id > from).Take(size + 1)
            .Select(i => i.ToWire(policy)).ToList();
        return TypedResults.Ok(Paging.Cut(found, size, i => i.Id));
    }

    private static Outcome<List<Item>> Wanted(Policy policy, string? kind, string? beneath, string? search)
    {
        var place = beneath is null ? CatalogueGraph.Root : ItemId.TryParse(beneath, out var above) ? policy.Graph.PlaceOf(above) : -1;
        if (place < 0)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", beneath);
        }

        var wanted = (ItemKind?)null;
        if (kind is not null)
        {
            if (!ItemId.TryKind(kind, out var named))
            {
                return Problem.In("kind", "not-one-of", kind, string.Join(", ", Enum.GetValues<ItemKind>().Select(ItemId.NameOf)));
            }

            wanted = named;
        }

        var hits = string.IsNullOrWhiteSpace(search) ? null : policy.Graph.Search(search).ToHashSet();
        var places = beneath is null ? Enumerable.Range(0, policy.Graph.Items.Count) : policy.Graph.Branch(place).Skip(1);
        return places.Where(p => hits?.Contains(p) != false).Select(p => policy.Graph.Items[p]).Where(i => wanted is null || i.Id.Kind == wanted).ToList();
    }

    private static Results<Ok<ItemView>, ProblemHttpResult> Show(string id, HttpContext http, PolicyHolder policies)
    {
        var policy = policies.Current;
        if (!ItemId.TryParse(id, out var name) || policy.Graph.Find(name) is not { } item)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(item.Version);
        return TypedResults.Ok(item.ToWire(policy));
    }

    private static async Task<Results<Created<ItemView>, ProblemHttpResult>> Add(
        Wire.ItemDraft draft, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => ItemCommands.Add(policy.Graph, draft.ToCore(), options.Reserved), Caller.Of(http).Name, stop))
            .Match<Results<Created<ItemView>, ProblemHttpResult>>(
                added => TypedResults.Created($"/api/v1/items/{added.Id}", added.ToWire(policies.Current)), problem => problem.ToHttp());

    private static async Task<Results<Ok<ItemView>, ProblemHttpResult>> Set(
        string id, Wire.ItemDraft draft, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop)
    {
        if (!ItemId.TryParse(id, out var name))
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id).ToHttp();
        }

        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing
            : await policies.ChangeAsync(
                policy => ItemCommands.Set(policy.Graph, name, draft.ToCore(), version.Value, options.Reserved), Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(changed.Value.ToWire(policies.Current));
    }

    /// <summary>What removing an item would open, and to whom.</summary>
    private static Results<Ok<RemovalView>, ProblemHttpResult> Removal(string id, HttpContext http, PolicyHolder policies, TimeProvider time)
    {
        var policy = policies.Current;
        if (!ItemId.TryParse(id, out var name))
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id).ToHttp();
        }

        var removed = ItemCommands.Remove(policy.Graph, name, null, policy.GateNaming, policy.Holding);
        if (removed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var after = policy.TryAfter(removed.Value.ToStore);
        if (after.Problem is { } misfit)
        {
            return misfit.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(removed.Value.Value.Version);
        var opens = Opening.By(policy, after.Value, removed.Value.Value, time.GetUtcNow());
        return TypedResults.Ok(new RemovalView(
            removed.Value.Value.ToWire(policy),
            [.. opens.Select(o => new OpeningView(o.What, o.ForWhom, SightNames.NameOf(o.Before), SightNames.NameOf(o.After)))]));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string id, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        if (!ItemId.TryParse(id, out var name))
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id).ToHttp();
        }

        var version = Paging.VersionIn(http.Request);
        return (version.Problem is { } missing ? missing
            : await policies.ChangeAsync(
                policy => ItemCommands.Remove(policy.Graph, name, version.Value, policy.GateNaming, policy.Holding), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
    }

    /// <summary>Takes CSV or YAML and answers line by line how far it is; the last line says what came of it.</summary>
    private static async Task Import(HttpContext http, PolicyHolder policies, ReadYamlItems yamlItems, ServiceOptions options, bool? keepGood, bool? dryRun)
    {
        var caller = Caller.Of(http);
        var yaml = http.Request.ContentType?.Contains("yaml", StringComparison.OrdinalIgnoreCase) == true;
        await using var body = await Spool.ReadAsync(http, options.Data, options.ImportMaxBytes);
        if (body is null)
        {
            await Admission.TooLarge(options.ImportMaxBytes).ToHttp().ExecuteAsync(http);
            return;
        }

        await Lines.StreamAsync<ImportLine>(
            http, (tell, stop) => RunAsync(body, yaml, keepGood == true, dryRun == true, caller.Name, policies, yamlItems, options, tell, stop), detail =>
            new ImportLine("failed", 0, 0, null, detail));
    }

    private static async Task RunAsync(
        Stream body, bool yaml, bool keepGood, bool dryRun, string by, PolicyHolder policies, ReadYamlItems yamlItems, ServiceOptions options,
        Action<ImportLine> tell, CancellationToken stop)
    {
        tell(new ImportLine("reading", 0, 0));
        if (await ImportText.CheckAsync(body, stop) is { } unreadable)
        {
            tell(new ImportLine("failed", 0, 0, new Wire.ImportResult(0, 0, 0, unreadable.Faults.ToReader(), 0, false), unreadable.Detail.ToReader()));
            return;
        }

        void Reading(int rows) => tell(new ImportLine("reading", rows, 0));
        var (rows, faults) = yaml ? yamlItems(ImportText.ReaderOf(body), Reading, stop) : await CsvAsync(body, Reading, stop);
        tell(new ImportLine("checking", 0, rows.Count));
        Rules.ImportResult? result = null;
        var total = 0;
        var progress = new Telling(done => tell(new ImportLine("storing", done, total)));
        var stored = await policies.ChangeAsync<Rules.ImportResult>(
            policy =>
            {
                var (found, edit) = ItemCommands.Import(policy.Graph, rows, faults, keepGood, options.Reserved);
                result = dryRun ? found with { Stored = false } : found;
                total = found.Added + found.Changed;
                return Task.FromResult<Outcome<Edit<Rules.ImportResult>>>(
                    new Edit<Rules.ImportResult>(dryRun || edit is null ? new Edit("item.import", "", []) : edit, result));
            },
            by, stop, progress);
        tell(stored.Match(
            done => new ImportLine("done", total, total, done.ToWire()),
            problem => new ImportLine("failed", 0, 0, result?.ToWire(), problem.Detail.ToReader())));
    }

    private static async Task<(IReadOnlyList<Rules.ItemDraft> Rows, IReadOnlyList<Fault> Faults)> CsvAsync(
        Stream body, Action<int> reading, CancellationToken stop)
    {
        var from = body.Position;
        var first = await ImportText.ReaderOf(body).ReadLineAsync(stop) ?? "";
        body.Position = from;
        return CsvRows.Read(ImportText.ReaderOf(body), first, reading, stop);
    }
}
