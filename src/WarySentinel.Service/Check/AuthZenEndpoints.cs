using System.Text.Json;
using System.Text.Json.Serialization;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Check;

/// <summary>The OpenID AuthZEN Authorization API 1.0: evaluation, evaluations, search, metadata.</summary>
public sealed partial class AuthZenEndpoints(PolicyHolder policies, Questions questions, Store store, ServiceOptions options, TimeProvider time)
{
    /// <summary>Where the metadata stands (Authorization API 1.0 §9).</summary>
    public const string WellKnown = "/.well-known/authzen-configuration";

    /// <summary>What every endpoint begins with.</summary>
    public const string Prefix = "/access/v1";

    private const int MostEvaluations = 10_000;

    /// <summary>They pass every gate, where the settings say so.</summary>
    private static readonly IReadOnlyList<(FactKind, string)> Staff = [.. Visitor.StaffRoles.Select(r => (FactKind.Role, r))];
    private const int UsualPage = 100;
    private const int MostPage = 1000;
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower,
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private sealed record Said(string En);

    private sealed record ErrorSaid(int Status, string Message);

    private sealed record Reasons(Said? ReasonUser, Said? ReasonAdmin, string? Answer, string? Gate, string? Location, ErrorSaid? Error)
    {
        public PriceTold? Price { get; init; }
    }

    /// <summary>What it costs them, where they may know its price.</summary>
    private sealed record PriceTold(string Amount, string Currency, string? Usual, string List);

    private sealed record Evaluated(bool Decision, Reasons? Context);

    private sealed record PageSaid(string NextToken, int Count);

    /// <summary>What one call asks with, and the visitors that it has found so far.</summary>
    private sealed record Run(Policy Policy, DateTimeOffset Now, Dictionary<string, Outcome<SeenAs>> Known);

    /// <summary>Maps the endpoints.</summary>
    public void Map(IEndpointRouteBuilder to)
    {
        to.MapGet(WellKnown, Metadata);
        var api = to.MapGroup(Prefix).Requires("decide");
        api.MapPost("/evaluation", Asks(async (body, stop) => await EvaluateAsync(new AuthZenRequest(body), NewRun(), stop)));
        api.MapPost("/evaluations", Asks(EvaluationsAsync));
        api.MapPost("/search/resource", Asks(SearchResourcesAsync));
        api.MapPost("/search/subject", Asks(SearchSubjectsAsync));
        api.MapPost("/search/action", Asks(SearchActionsAsync));
    }

    private static RequestDelegate Asks(Func<JsonElement, CancellationToken, Task<object>> answer)
    {
        return AnsweringAsync;
        Task AnsweringAsync(HttpContext http) => AnswerAsync(http, body => answer(body, http.RequestAborted));
    }

    /// <summary>Whether a request belongs here.</summary>
    public static bool IsAsked(string path) => path == WellKnown || path.StartsWith(Prefix + "/", StringComparison.Ordinal);

    private IResult Metadata(HttpContext http)
    {
        var here = $"{http.Request.Scheme}://{http.Request.Host}";
        return Results.Json(
            new
            {
                policy_decision_point = here,
                access_evaluation_endpoint = here + Prefix + "/evaluation",
                access_evaluations_endpoint = here + Prefix + "/evaluations",
                search_subject_endpoint = here + Prefix + "/search/subject",
                search_resource_endpoint = here + Prefix + "/search/resource",
                search_action_endpoint = here + Prefix + "/search/action",
            });
    }

    private static async Task AnswerAsync(HttpContext http, Func<JsonElement, Task<object>> answer)
    {
        if (http.Request.Headers["X-Request-ID"].ToString() is { Length: > 0 and <= 200 } id && id.All(c => c is > ' ' and <= '~'))
        {
            http.Response.Headers["X-Request-ID"] = id;
        }

        http.Response.Headers.CacheControl = "no-store";
        try
        {
            if (!http.Request.HasJsonContentType())
            {
                throw new AuthZenException(Words.Of("authzen.json"));
            }

            using var body = await ReadAsync(http);
            await Results.Json(await answer(body.RootElement), Written).ExecuteAsync(http);
        }
        catch (Exception fault) when (fault is AuthZenException or JsonException)
        {
            await Results.Problem(fault is AuthZenException ? fault.Message
                : Words.Of("authzen.json"), statusCode: 400, title: "Bad request", type: "urn:wary-sentinel:problem:bad-request").ExecuteAsync(http);
        }
    }

    private static async Task<JsonDocument> ReadAsync(HttpContext http)
    {
        // Its size is bounded before it is read, as of every body of the API.
        return await JsonDocument.ParseAsync(http.Request.Body, new JsonDocumentOptions { MaxDepth = 32 }, http.RequestAborted);
    }

    private Run NewRun() => new(policies.Current, time.GetUtcNow(), new Dictionary<string, Outcome<SeenAs>>(StringComparer.Ordinal));

    private async Task<Evaluated> EvaluateAsync(AuthZenRequest asked, Run run, CancellationToken stop)
    {
        var policy = run.Policy;
        var now = asked.Time(policy) ?? run.Now;
        var act = asked.Act();
        var (item, path) = asked.Resource();
        var found = await VisitorAsync(asked, run, stop);
        if (found.Problem is { } unknown)
        {
            return Refused(unknown.Detail.ToString());
        }

        var (visitor, who) = (found.Value.Visitor, found.Value.Who);
        var decided = path is not null ? DecideOn(path, policy, visitor, act, now) : DecideOn(item!.Value, policy, visitor, act, now);
        if (decided.Problem is { } odd)
        {
            return Refused(odd.Detail.ToString());
        }

        var (decision, what) = decided.Value;
        return decision.Allowed ? new Evaluated(true, PriceOf(asked, policy, visitor, act, item, now))
            : Refused(decision.Refusal!, Explanation.Of(policy, decision, visitor, who, what, act, now));
    }

    /// <summary>The price that the visitor's pages show, for whoever asks about the price or about buying.</summary>
    private static Reasons? PriceOf(AuthZenRequest asked, Policy policy, Visitor visitor, Acts act, ItemId? item, DateTimeOffset now)
    {
        if (act is not (Acts.Price or Acts.Buy) || item is not { } of || !policy.Allows(visitor, of, Acts.Price, now))
        {
            return null;
        }

        var (quantity, currency) = asked.Cart();
        var price = PriceBook.Of(policy).For(policy.Graph, of, quantity, currency, now, l => l.Audience.Admits(visitor, "", now));
        return price is null ? null : new Reasons(null, null, null, null, null, null)
        {
            Price = new PriceTold(price.Unit.Amount, price.Unit.Currency, price.Usual?.Amount, price.List),
        };
    }

    private Outcome<(Decision Decision, string What)> DecideOn(string path, Policy policy, Visitor visitor, Acts act, DateTimeOffset now)
    {
        var normal = questions.PathOf(path, policy);
        if (normal.Problem is { } odd)
        {
            return odd;
        }

        var decision = policy.Decide(visitor, normal.Value, act, now);
        return (decision, decision.Items.Count > 0 ? policy.Graph.Find(decision.Items[0])!.Title : path);
    }

    private static Outcome<(Decision Decision, string What)> DecideOn(ItemId item, Policy policy, Visitor visitor, Acts act, DateTimeOffset now)
    {
        var decided = policy.Decide(visitor, item, act, now);
        return decided.Problem is { } missing ? missing
            : (decided.Value, item == ItemId.Site ? policy.Settings.SiteName : policy.Graph.Find(item)!.Title);
    }

    private Evaluated Refused(Refusal refusal, Explanation told)
    {
        var location = refusal.Answer switch
        {
            Answer.SignIn => options.AccountPrefix + "/sign-in",
            Answer.Register => options.AccountPrefix + "/register",
            Answer.Password => $"{options.AccountPrefix}/unlock?gate={refusal.Gate.Key}",
            Answer.Redirect => refusal.Gate.RedirectTo,
            _ => null,
        };
        return new Evaluated(false, new Reasons(
            new Said(refusal.Gate.Message ?? told.Headline),
            new Said(string.Join(" ", told.Steps.Where(s => s.Admitted == false).Select(s => $"{s.Title} {s.Way}. {s.Verdict}"))),
            AnswerNames.NameOf(refusal.Answer), refusal.Gate.Key, location, null));
    }

    private async Task<object> EvaluationsAsync(JsonElement body, CancellationToken stop)
    {
        var run = NewRun();
        if (body.ValueKind != JsonValueKind.Object)
        {
            throw new AuthZenException(Words.Of("authzen.object", "request"));
        }

        if (!body.TryGetProperty("evaluations", out var all) || (all.ValueKind == JsonValueKind.Array && all.GetArrayLength() == 0))
        {
            // Without a list it is a single evaluation (Authorization API 1.0 §7.1).
            return await EvaluateAsync(new AuthZenRequest(body), run, stop);
        }

        if (all.ValueKind != JsonValueKind.Array || all.GetArrayLength() > MostEvaluations)
        {
            throw new AuthZenException(Words.Of("authzen.evaluations", MostEvaluations));
        }

        var endsOn = EndsOn(body);
        var answers = new List<Evaluated>();
        foreach (var one in all.EnumerateArray())
        {
            answers.Add(await OneOfManyAsync(one, body, run, stop));
            if (answers[^1].Decision == endsOn)
            {
                break;
            }
        }

        return new { evaluations = answers };
    }

    /// <summary>The decision after which no further one is taken, if any.</summary>
    private static bool? EndsOn(JsonElement body)
    {
        var semantic = "execute_all";
        if (body.TryGetProperty("options", out var said))
        {
            if (said.ValueKind != JsonValueKind.Object)
            {
                throw new AuthZenException(Words.Of("authzen.object", "options"));
            }

            semantic = !said.TryGetProperty("evaluations_semantic", out var named) ? semantic : named.ValueKind == JsonValueKind.String ? named.GetString()!
                : named.GetRawText();
        }

        return semantic switch
        {
            "execute_all" => null,
            "deny_on_first_deny" => false,
            "permit_on_first_permit" => true,
            _ => throw new AuthZenException(Words.Of("authzen.semantic", semantic)),
        };
    }

    private async Task<Evaluated> OneOfManyAsync(JsonElement one, JsonElement body, Run run, CancellationToken stop)
    {
        try
        {
            return await EvaluateAsync(new AuthZenRequest(one, body), run, stop);
        }
        catch (AuthZenException fault)
        {
            return new Evaluated(false, new Reasons(null, null, null, null, null, new ErrorSaid(400, fault.Message)));
        }
    }

    private async Task<Outcome<SeenAs>> VisitorAsync(AuthZenRequest asked, Run run, CancellationToken stop)
    {
        var (name, address, unlocked) = asked.Subject();
        if (unlocked.FirstOrDefault(g => run.Policy.FindGate(g) is null) is { } unknown)
        {
            throw new AuthZenException(Words.Of("problem.gate-unknown", unknown));
        }

        var found = await questions.VisitorAsync(name, run.Policy, run.Known, stop);
        if (found.Problem is { } problem)
        {
            return problem;
        }

        var seen = found.Value.Visitor;
        var visitor = seen.Having([.. seen.Unlocks, .. unlocked.Select(g => new Unlock(g, DateTimeOffset.MaxValue))]).From(address);
        return found.Value with { Visitor = visitor };
    }

    private static Evaluated Refused(string why) => new(false, new Reasons(null, new Said(why), null, null, null, null));
}
