using System.Globalization;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Check;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using Wire = WarySentinel.Contract.Access;

namespace WarySentinel.Service.Check;

/// <summary>Decisions, and the catalogue through other eyes.</summary>
public static class DecisionEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapDecisions(this RouteGroupBuilder api)
    {
        api.MapPost("/decisions/may", May).Requires("decide").WithTags("Decisions");
        api.MapPost("/decisions/why", Why).Requires("decide").WithTags("Decisions");
        api.MapGet("/seen", Seen).Requires("read").WithTags("Viewpoints");
        api.MapPost("/decisions/bulk", (HttpContext http, BulkEndpoint bulk) => bulk.InvokeAsync(http)).Requires("decide").Takes(long.MaxValue)
            .WithTags("Decisions")
            .Accepts<string>("application/x-ndjson", "text/csv").Produces<BulkLine>(200, "application/x-ndjson");
        api.MapPost("/viewpoints/open", OpenView).Requires("view").WithTags("Viewpoints");
        return api;
    }

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
            decision.Allowed, who, what, ActNames.NameOf(act), told.Headline,
            [.. told.Steps.Select(s => new Wire.ExplanationStep(s.Gate, s.Title, s.Way, s.Sentence, s.Verdict, s.Admitted))], told.Opens, told.Meets,
            AnswerOf(decision), decision.Refusal?.Gate.Key));
    }

    private static async Task<Results<Ok<SeenView>, ProblemHttpResult>> Seen(
        string? @as, string? at, string? cursor, int? limit, PolicyHolder policies, Viewpoints viewpoints, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        var found = await viewpoints.FindAsync(@as ?? "guest", policy, false, stop);
        var after = Paging.Read(cursor);
        var moment = LookTime.Of(at, policy);
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
                item.Id.ToString(), item.Title, ItemId.NameOf(item.Id.Kind), SightNames.NameOf(sight),
                [.. item.Parents.Select(p => graph.Find(p)?.Title ?? p.ToString())], item.Addresses.FirstOrDefault(a => !a.IsPattern)?.Text));
        }

        return TypedResults.Ok(new SeenView(found.Value.Who, counts[0], counts[1], counts[2], seen, next));
    }

    private static async Task<Results<Ok<OpenViewView>, ProblemHttpResult>> OpenView(
        OpenViewDraft draft, HttpContext http, PolicyHolder policies, Viewpoints viewpoints, ViewLinks links, CancellationToken stop)
    {
        var policy = policies.Current;
        var found = await viewpoints.FindAsync(draft.As ?? "guest", policy, false, stop);
        var moment = LookTime.Of(draft.At, policy);
        return (found.Problem ?? moment.Problem) is { } problem ? problem.ToHttp()
            : TypedResults.Ok(new OpenViewView(await links.MakeAsync(found.Value, moment.Value, ReturnTo.OrElse(draft.Path, "/"), Caller.Of(http), stop)));
    }

    private static string? AnswerOf(Decision decision) => decision.Refusal is { } refusal ? AnswerNames.NameOf(refusal.Answer) : null;
}
