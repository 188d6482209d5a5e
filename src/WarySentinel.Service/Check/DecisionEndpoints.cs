using System.Globalization;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Check;

/// <summary>The outcome of a question.</summary>
public sealed record DecisionView(bool Allowed, IReadOnlyList<string> Items, string? Answer, string? Gate);

/// <summary>The outcome of a question, told as a person would.</summary>
public sealed record WhyView(
    bool Allowed, string Who, string What, string Act, string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets,
    string? Answer, string? Gate);

/// <summary>A column of the board.</summary>
public sealed record ViewpointView(string Key, string Title, string Kind);

/// <summary>A row of the board. Cells stand in the order of the columns: <c>open</c>, <c>listed</c>, <c>hidden</c>, or the same with <c>+part</c>.</summary>
public sealed record BoardRowView(string Item, string Title, string Kind, int Children, IReadOnlyList<string> Cells);

/// <summary>A piece of the board: the items right beneath one, or those found.</summary>
/// <param name="Columns">The columns.</param>
/// <param name="Beneath">The item that the rows stand beneath.</param>
/// <param name="Rows">The rows.</param>
/// <param name="More">How many rows were left out.</param>
/// <param name="MoreColumns">How many columns were left out; name those to see.</param>
public sealed record BoardView(IReadOnlyList<ViewpointView> Columns, string Beneath, IReadOnlyList<BoardRowView> Rows, int More, int MoreColumns);

/// <summary>An item as a viewpoint sees it.</summary>
public sealed record SeenItem(string Item, string Title, string Kind, string Sight, IReadOnlyList<string> Parents, string? Address);

/// <summary>The catalogue as a viewpoint sees it; hidden items are only counted.</summary>
public sealed record SeenView(string Who, int Open, int Listed, int Hidden, IReadOnlyList<SeenItem> Items, string? Next);

/// <summary>A viewpoint to be opened on the live site.</summary>
/// <param name="As">The viewpoint; a guest unless said.</param>
/// <param name="Path">The page to begin at.</param>
/// <param name="At">The time to look at; now unless said.</param>
public sealed record OpenViewDraft(string? As, string? Path, string? At);

/// <summary>The address at which the live site is seen so; good for one use within two minutes.</summary>
public sealed record OpenViewView(string Url);

/// <summary>Decisions, the access board, viewpoints.</summary>
public static class DecisionEndpoints
{
    private const int MostBoardRows = 400;
    private const int MostBoardColumns = 40;
    private const int MostNamedColumns = 100;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapDecisions(this RouteGroupBuilder api)
    {
        api.MapPost("/decisions/may", May).Requires("decide").WithTags("Decisions");
        api.MapPost("/decisions/why", Why).Requires("decide").WithTags("Decisions");
        api.MapGet("/board", ShowBoard).Requires("read").WithTags("Board");
        api.MapGet("/viewpoints", ListViewpoints).Requires("read").WithTags("Viewpoints");
        api.MapGet("/seen", Seen).Requires("read").WithTags("Viewpoints");
        api.MapPost("/decisions/bulk", (HttpContext http, BulkEndpoint bulk) => bulk.InvokeAsync(http)).Requires("decide").Takes(long.MaxValue)
            .WithTags("Decisions")
            .Accepts<string>("application/x-ndjson", "text/csv").Produces<BulkLine>(200, "application/x-ndjson");
        api.MapPost("/viewpoints/open", OpenView).Requires("view").WithTags("Viewpoints");
        return api;
    }

    /// <summary>The name of a sight as it is written.</summary>
    public static string NameOf(Sight sight) => sight switch { Sight.Open => "open", Sight.Listed => "listed", _ => "hidden" };

    private static async Task<Results<Ok<DecisionView>, ProblemHttpResult>> May(
        Question question, PolicyHolder policies, Questions questions, CancellationToken stop)
    {
        var asked = await questions.AskAsync(question, policies.Current, [], stop);
        return asked.Match<Results<Ok<DecisionView>, ProblemHttpResult>>(
            a => TypedResults.Ok(new DecisionView(
                a.Decision.Allowed, [.. a.Decision.Items.Select(i => i.ToString())], AnswerOf(a.Decision), a.Decision.Refusal?.Gate.Key)),
            problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<WhyView>, ProblemHttpResult>> Why(
        Question question, PolicyHolder policies, Questions questions, CancellationToken stop)
    {
        var policy = policies.Current;
        var asked = await questions.AskAsync(question, policy, [], stop);
        if (asked.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var (decision, visitor, who, what, act, at) = asked.Value;
        var told = Explanation.Of(policy, decision, visitor, who, what, act, at);
        return TypedResults.Ok(new WhyView(
            decision.Allowed, who, what, ActNames.NameOf(act), told.Headline, told.Steps, told.Opens, told.Meets, AnswerOf(decision),
            decision.Refusal?.Gate.Key));
    }

    private static Results<Ok<BoardView>, ProblemHttpResult> ShowBoard(
        string? beneath, string? search, string? at, string? columns, PolicyHolder policies, TimeProvider time)
    {
        var policy = policies.Current;
        var moment = Questions.TimeOf(at, policy);
        var chosen = ColumnsOf(policy, columns);
        if ((moment.Problem ?? chosen.Problem) is { } odd)
        {
            return odd.ToHttp();
        }

        var graph = policy.Graph;
        var (viewpoints, moreColumns) = chosen.Value;
        IReadOnlyList<int> places;
        var root = CatalogueGraph.Root;
        if (!string.IsNullOrWhiteSpace(search))
        {
            places = [.. Enumerable.Range(0, graph.Items.Count)
                .Where(p => graph.Items[p].Title.Contains(search, StringComparison.OrdinalIgnoreCase)
                || graph.Items[p].Id.ToString().Contains(search, StringComparison.OrdinalIgnoreCase))];
        }
        else
        {
            if (beneath is not null)
            {
                root = ItemId.TryParse(beneath, out var id) ? graph.PlaceOf(id) : -1;
                if (root < 0)
                {
                    return Problem.Of(ProblemKind.NotFound, "item-unknown", beneath).ToHttp();
                }
            }

            places = beneath is null ? [root, .. graph.ChildrenOf(root)] : graph.ChildrenOf(root);
        }

        var ordered = places.OrderBy(p => p != CatalogueGraph.Root).ThenBy(p => graph.Items[p].Id.Kind).ThenBy(p => p).Take(MostBoardRows).ToList();
        var cells = Board.Cells(policy, viewpoints, ordered, moment.Value ?? time.GetUtcNow());
        return TypedResults.Ok(new BoardView(
            [.. viewpoints.Select(ViewOf)], graph.Items[root].Id.ToString(),
            [.. ordered.Select((p, row) => new BoardRowView(
                graph.Items[p].Id.ToString(), p == CatalogueGraph.Root ? policy.Settings.SiteName
                : graph.Items[p].Title, ItemId.NameOf(graph.Items[p].Id.Kind), graph.ChildrenOf(p).Count,
                [.. cells.Select(column => NameOf(column[row].Own) + (column[row].InPart ? "+part" : ""))]))],
            Math.Max(0, places.Count - MostBoardRows), moreColumns));
    }

    /// <summary>The columns of the board: the first of them, and those that are named; and how many are left out.</summary>
    private static Outcome<(IReadOnlyList<Viewpoint> Columns, int More)> ColumnsOf(Policy policy, string? named)
    {
        var all = Viewpoint.All(policy);
        var columns = all.Take(MostBoardColumns).ToList();
        foreach (var key in (named ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Take(MostNamedColumns))
        {
            var found = Viewpoint.Find(policy, key);
            if (found.Problem is { } unknown)
            {
                return unknown;
            }

            // Named ones stand where they are seen at once, after guest and member.
            columns.RemoveAll(c => c.Key == found.Value.Key);
            columns.Insert(Math.Min(2, columns.Count), found.Value);
        }

        return (columns, all.Count - columns.Count);
    }

    private static Ok<IReadOnlyList<ViewpointView>> ListViewpoints(PolicyHolder policies)
    {
        var policy = policies.Current;
        return TypedResults.Ok<IReadOnlyList<ViewpointView>>([
            .. Viewpoint.All(policy).Select(ViewOf),
            .. policy.Gates.Where(g => !g.IsExemption && g.Audience.AsksForPassword)
            .Select(g => new ViewpointView("password:" + g.Key, Words.Of("viewpoint.holder", g.Title), "password")),
        ]);
    }

    private static async Task<Results<Ok<SeenView>, ProblemHttpResult>> Seen(
        string? @as, string? at, string? cursor, int? limit, PolicyHolder policies, Viewpoints viewpoints, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        var found = await viewpoints.FindAsync(@as ?? "guest", policy, false, stop);
        var after = Paging.Read(cursor);
        var moment = Questions.TimeOf(at, policy);
        if ((found.Problem ?? after.Problem ?? moment.Problem) is { } problem)
        {
            return problem.ToHttp();
        }

        var (graph, now, size) = (policy.Graph, moment.Value ?? time.GetUtcNow(), Paging.SizeOf(limit));
        var counts = new int[3];
        var seen = new List<SeenItem>();
        var start = int.TryParse(after.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var offset) ? offset : 0;
        string? next = null;
        for (var place = 1; place < graph.Items.Count; place++)
        {
            var sight = policy.SightOf(found.Value.Visitor, place, now);
            counts[(int)sight]++;
            if (sight == Sight.Hidden || place < start)
            {
                continue;
            }

            if (seen.Count == size)
            {
                next ??= Paging.CursorAfter(place.ToString(CultureInfo.InvariantCulture));
                continue;
            }

            var item = graph.Items[place];
            seen.Add(new SeenItem(
                item.Id.ToString(), item.Title, ItemId.NameOf(item.Id.Kind), NameOf(sight),
                [.. item.Parents.Select(p => graph.Find(p)?.Title ?? p.ToString())], item.Addresses.FirstOrDefault(a => !a.IsPattern)?.Text));
        }

        return TypedResults.Ok(new SeenView(found.Value.Who, counts[0], counts[1], counts[2], seen, next));
    }

    private static async Task<Results<Ok<OpenViewView>, ProblemHttpResult>> OpenView(
        OpenViewDraft draft, HttpContext http, PolicyHolder policies, Viewpoints viewpoints, ViewLinks links, CancellationToken stop)
    {
        var policy = policies.Current;
        var found = await viewpoints.FindAsync(draft.As ?? "guest", policy, false, stop);
        var moment = Questions.TimeOf(draft.At, policy);
        return (found.Problem ?? moment.Problem) is { } problem ? problem.ToHttp()
            : TypedResults.Ok(new OpenViewView(await links.MakeAsync(found.Value, moment.Value, ReturnTo.OrElse(draft.Path, "/"), Caller.Of(http), stop)));
    }

    private static ViewpointView ViewOf(Viewpoint viewpoint) =>
        new(viewpoint.Key, viewpoint.Title, viewpoint.Key.Contains(':', StringComparison.Ordinal) ? viewpoint.Key.Split(':')[0] : "");

    private static string? AnswerOf(Decision decision) => decision.Refusal is { } refusal ? AnswerNames.NameOf(refusal.Answer) : null;
}
