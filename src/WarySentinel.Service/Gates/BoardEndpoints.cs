using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Gates;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gates;

/// <summary>The access board, and those to look as.</summary>
public static class BoardEndpoints
{
    private const int MostBoardRows = 400;
    private const int MostBoardColumns = 40;
    private const int MostNamedColumns = 100;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapBoard(this RouteGroupBuilder api)
    {
        api.MapGet("/board", ShowBoard).Requires("read").WithTags("Board");
        api.MapGet("/viewpoints", ListViewpoints).Requires("read").WithTags("Viewpoints");
        return api;
    }

    private static Results<Ok<BoardView>, ProblemHttpResult> ShowBoard(
        string? beneath, string? search, string? at, string? columns, PolicyHolder policies, TimeProvider time)
    {
        var policy = policies.Current;
        var moment = LookTime.Of(at, policy);
        var chosen = ColumnsOf(policy, columns);
        if ((moment.Problem ?? chosen.Problem) is { } odd)
        {
            return odd.ToHttp();
        }

        var graph = policy.Graph;
        var (viewpoints, moreColumns) = chosen.Value;
        var (root, places) = PlacesOf(graph, beneath, search);
        if (root < 0)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", beneath).ToHttp();
        }

        var ranks = graph.RanksIn(policy.Settings.Language);
        var ordered = places.OrderBy(p => p != CatalogueGraph.Root).ThenBy(p => graph.Items[p].Id.Kind).ThenBy(p => ranks[p]).Take(MostBoardRows).ToList();
        var cells = Board.Cells(policy, viewpoints, ordered, moment.Value ?? time.GetUtcNow());
        var rows = ordered.Select((p, row) => RowOf(
            policy, p, cells.Select(column => SightNames.NameOf(column[row].Own) + (column[row].InPart ? "+part" : ""))));
        return TypedResults.Ok(new BoardView(
            [.. viewpoints.Select(ViewOf)], graph.Items[root].Id.ToString(), [.. rows], Math.Max(0, places.Count - MostBoardRows), moreColumns));
    }

    /// <summary>What the board shows: what a search finds, or an item and what stands beneath it. A root below 0 is unknown.</summary>
    private static (int Root, IReadOnlyList<int> Places) PlacesOf(CatalogueGraph graph, string? beneath, string? search)
    {
        if (!string.IsNullOrWhiteSpace(search))
        {
            return (CatalogueGraph.Root, [.. graph.Search(search)]);
        }

        var root = beneath is null ? CatalogueGraph.Root : ItemId.TryParse(beneath, out var id) ? graph.PlaceOf(id) : -1;
        return (root, root < 0 ? [] : beneath is null ? [root, .. graph.ChildrenOf(root)] : graph.ChildrenOf(root));
    }

    private static BoardRowView RowOf(Policy policy, int place, IEnumerable<string> cells)
    {
        var item = policy.Graph.Items[place];
        return new BoardRowView(
            item.Id.ToString(), place == CatalogueGraph.Root ? policy.Settings.SiteName : item.Title, ItemId.NameOf(item.Id.Kind),
            policy.Graph.ChildrenOf(place).Count, [.. cells]);
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

    private static ViewpointView ViewOf(Viewpoint viewpoint) =>
        new(viewpoint.Key, viewpoint.Title, viewpoint.Key.Contains(':', StringComparison.Ordinal) ? viewpoint.Key.Split(':')[0] : "");
}
