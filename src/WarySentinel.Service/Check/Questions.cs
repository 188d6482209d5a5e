using WarySentinel.Contract.Check;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Check;

/// <summary>A question that was asked, with its answer.</summary>
/// <param name="Decision">The decision.</param>
/// <param name="Visitor">About whom.</param>
/// <param name="Who">What a sentence calls them.</param>
/// <param name="What">What a sentence calls the item or address.</param>
/// <param name="Act">The act.</param>
/// <param name="At">The time.</param>
public sealed record Answered(Decision Decision, Visitor Visitor, string Who, string What, Acts Act, DateTimeOffset At);

/// <summary>Reads questions and answers them: one way for the API, its bulk form and the decision protocol.</summary>
public sealed class Questions(Viewpoints viewpoints, ServiceOptions options, TimeProvider time)
{
    private const int MostOffered = 20_000;

    /// <summary>Answers a question, or says what of it is not understood.</summary>
    /// <param name="question">The question.</param>
    /// <param name="policy">The policy that decides.</param>
    /// <param name="known">Visitors that were found for the same policy already; added to.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<Answered>> AskAsync(Question question, Policy policy, Dictionary<string, Outcome<SeenAs>> known, CancellationToken stop)
    {
        var found = await VisitorAsync(string.IsNullOrWhiteSpace(question.Visitor) ? "guest" : question.Visitor, policy, known, stop);
        if (found.Problem is { } unknown)
        {
            return unknown;
        }

        var act = Acts.Open;
        if (!string.IsNullOrWhiteSpace(question.Act) && !ActNames.TryParse(question.Act.Trim(), out act))
        {
            return Problem.In("act", "act-unknown", question.Act);
        }

        var at = LookTime.Of(question.At, policy);
        return at.Problem is { } odd ? odd : Decide(question, policy, found.Value, act, at.Value ?? time.GetUtcNow());
    }

    /// <summary>The visitor of that name, looked up once for each run.</summary>
    public async Task<Outcome<SeenAs>> VisitorAsync(string name, Policy policy, Dictionary<string, Outcome<SeenAs>> known, CancellationToken stop)
    {
        if (!known.TryGetValue(name, out var found))
        {
            found = await viewpoints.FindAsync(name, policy, true, stop);
            known[name] = found;
        }

        return found;
    }

    /// <summary>
    /// An address on the site as people write it, in normal form: <c>/shop</c>, <c>shop/filters</c>, or whole, with the host that visitors
    /// type or that is guarded.
    /// </summary>
    public Outcome<RequestPath> PathOf(string text, Policy policy)
    {
        text = text.Split('#')[0].Trim();
        if (text.StartsWith("http://", StringComparison.OrdinalIgnoreCase) || text.StartsWith("https://", StringComparison.OrdinalIgnoreCase))
        {
            if (!Uri.TryCreate(text, UriKind.Absolute, out var url) || !options.IsSite(url))
            {
                return Problem.In("path", "path-elsewhere", text, options.SiteUrl);
            }
        }
        else if (text.Length == 0 || text[0] != '/')
        {
            text = "/" + text;
        }

        return RequestPath.TryNormalise(text, policy.Settings.Paths, out var path, out _) ? path : Problem.In("path", "path-ambiguous");
    }

    private Outcome<Answered> Decide(Question question, Policy policy, SeenAs seen, Acts act, DateTimeOffset now)
    {
        var text = string.IsNullOrWhiteSpace(question.Path) ? question.Item?.Trim() ?? "" : null;
        if (text is not null && ItemId.TryParse(text, out var id) && policy.Graph.Find(id) is { } item)
        {
            return new Answered(policy.Decide(seen.Visitor, id, act, now).Value, seen.Visitor, seen.Who, id == ItemId.Site ? policy.Settings.SiteName
                : item.Title, act, now);
        }

        if (text is not null && !text.Contains('/', StringComparison.Ordinal))
        {
            var near = Nearest.To(text, policy.Graph.Items.Take(MostOffered).Select(i => i.Id.ToString()));
            return near is null ? Problem.Of(ProblemKind.NotFound, "item-unknown", text) : Problem.Of(ProblemKind.NotFound, "item-unknown-near", text, near);
        }

        var path = PathOf(text ?? question.Path!, policy);
        if (path.Problem is { } odd)
        {
            return odd;
        }

        var decision = policy.Decide(seen.Visitor, path.Value, act, now);
        return new Answered(decision, seen.Visitor, seen.Who, decision.Items.Count > 0 ? policy.Graph.Find(decision.Items[0])!.Title
            : text ?? question.Path!, act, now);
    }
}
