using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Access;

/// <summary>The OpenID AuthZEN Authorization API 1.0: evaluation, evaluations, search, metadata.</summary>
public sealed class AuthZenEndpoints(PolicyHolder policies, Viewpoints viewpoints, Store store, ServiceOptions options, TimeProvider time)
{
    /// <summary>Where the metadata stands (Authorization API 1.0 §9).</summary>
    public const string WellKnown = "/.well-known/authzen-configuration";

    /// <summary>What every endpoint begins with.</summary>
    public const string Prefix = "/access/v1";

    private const int MostBodyBytes = 8 << 20;
    private const int MostEvaluations = 10_000;
    private const int UsualPage = 100;
    private const int MostPage = 1000;
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, PropertyNamingPolicy = JsonNamingPolicy.SnakeCaseLower, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private sealed record Said(string En);

    private sealed record ErrorSaid(int Status, string Message);

    private sealed record Reasons(Said? ReasonUser, Said? ReasonAdmin, string? Answer, string? Gate, string? Location, ErrorSaid? Error);

    private sealed record Evaluated(bool Decision, Reasons? Context);

    private sealed record PageSaid(string NextToken, int Count);

    private sealed record Question(AuthZenRequest Asked, Policy Policy, DateTimeOffset Now);

    /// <summary>Maps the endpoints.</summary>
    public void Map(IEndpointRouteBuilder to)
    {
        to.MapGet(WellKnown, Metadata);
        var api = to.MapGroup(Prefix).Requires("decide");
        api.MapPost("/evaluation", Asks(async (body, stop) => await EvaluateAsync(new Question(new AuthZenRequest(body), policies.Current, time.GetUtcNow()), stop)));
        api.MapPost("/evaluations", Asks(EvaluationsAsync));
        api.MapPost("/search/resource", Asks(SearchResourcesAsync));
        api.MapPost("/search/subject", Asks(SearchSubjectsAsync));
        api.MapPost("/search/action", Asks(SearchActionsAsync));
    }

    private static Delegate Asks(Func<JsonElement, CancellationToken, Task<object>> answer) =>
        (HttpContext http, CancellationToken stop) => AnswerAsync(http, body => answer(body, stop));

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
            await Results.Problem(fault is AuthZenException ? fault.Message : Words.Of("authzen.json"), statusCode: 400, title: "Bad request", type: "urn:wary-sentinel:problem:bad-request").ExecuteAsync(http);
        }
    }

    private static async Task<JsonDocument> ReadAsync(HttpContext http)
    {
        if (http.Request.ContentLength > MostBodyBytes)
        {
            throw new AuthZenException(Words.Of("problem.body-too-large", MostBodyBytes >> 20));
        }

        using var kept = new MemoryStream();
        var buffer = new byte[32 * 1024];
        int read;
        while ((read = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0)
        {
            kept.Write(buffer, 0, read);
            if (kept.Length > MostBodyBytes)
            {
                throw new AuthZenException(Words.Of("problem.body-too-large", MostBodyBytes >> 20));
            }
        }

        return JsonDocument.Parse(kept.GetBuffer().AsMemory(0, (int)kept.Length), new JsonDocumentOptions { MaxDepth = 32 });
    }

    private async Task<Evaluated> EvaluateAsync(Question question, CancellationToken stop)
    {
        var (asked, policy, _) = question;
        var now = asked.Time() ?? question.Now;
        var act = asked.Act();
        var (item, path) = asked.Resource();
        var found = await VisitorAsync(asked, policy, stop);
        if (found.Problem is { } unknown)
        {
            return Refused(unknown.Detail);
        }

        var (visitor, who) = (found.Value.Visitor, found.Value.Who);
        Decision decision;
        string what;
        if (path is not null)
        {
            if (!RequestPath.TryNormalise(path, policy.Settings.Paths, out var normal, out _))
            {
                return Refused(Words.Of("problem.path-ambiguous"));
            }

            decision = act == Acts.Open ? policy.DecideRequest(visitor, normal, now) : policy.Decide(visitor, normal, act, now);
            what = decision.Items.Count > 0 ? policy.Graph.Find(decision.Items[0])!.Title : path;
        }
        else
        {
            var decided = policy.Decide(visitor, item!.Value, act, now);
            if (decided.Problem is { } missing)
            {
                return Refused(missing.Detail);
            }

            decision = decided.Value;
            what = item == ItemId.Site ? policy.Settings.SiteName : policy.Graph.Find(item.Value)!.Title;
        }

        if (decision.Allowed)
        {
            return new Evaluated(true, null);
        }

        var told = Explanation.Of(policy, decision, visitor, who, what, act, now);
        var refusal = decision.Refusal!;
        var location = refusal.Answer switch
        {
            Answer.SignIn => options.AccountPrefix + "/sign-in",
            Answer.Password => $"{options.AccountPrefix}/unlock?gate={refusal.Gate.Key}",
            Answer.Redirect => refusal.Gate.RedirectTo,
            _ => null,
        };
        return new Evaluated(false, new Reasons(
            new Said(refusal.Gate.Message ?? told.Headline), new Said(string.Join(" ", told.Steps.Where(s => s.Admitted == false).Select(s => $"{s.Title} {s.Way}. {s.Verdict}"))),
            AnswerNames.NameOf(refusal.Answer), refusal.Gate.Key, location, null));
    }

    private async Task<object> EvaluationsAsync(JsonElement body, CancellationToken stop)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (body.ValueKind != JsonValueKind.Object)
        {
            throw new AuthZenException(Words.Of("authzen.object", "request"));
        }

        if (!body.TryGetProperty("evaluations", out var all) || (all.ValueKind == JsonValueKind.Array && all.GetArrayLength() == 0))
        {
            // Without a list it is a single evaluation (Authorization API 1.0 §7.1).
            return await EvaluateAsync(new Question(new AuthZenRequest(body), policy, now), stop);
        }

        if (all.ValueKind != JsonValueKind.Array || all.GetArrayLength() > MostEvaluations)
        {
            throw new AuthZenException(Words.Of("authzen.evaluations", MostEvaluations));
        }

        var semantic = "execute_all";
        if (body.TryGetProperty("options", out var said) && said.ValueKind == JsonValueKind.Object && said.TryGetProperty("evaluations_semantic", out var named))
        {
            semantic = named.ValueKind == JsonValueKind.String ? named.GetString()! : "";
        }

        bool? endsOn = semantic switch
        {
            "execute_all" => null,
            "deny_on_first_deny" => false,
            "permit_on_first_permit" => true,
            _ => throw new AuthZenException(Words.Of("authzen.semantic", semantic)),
        };
        var answers = new List<Evaluated>();
        foreach (var one in all.EnumerateArray())
        {
            Evaluated answer;
            try
            {
                answer = await EvaluateAsync(new Question(new AuthZenRequest(one, body), policy, now), stop);
            }
            catch (AuthZenException fault)
            {
                answer = new Evaluated(false, new Reasons(null, null, null, null, null, new ErrorSaid(400, fault.Message)));
            }

            answers.Add(answer);
            if (answer.Decision == endsOn)
            {
                break;
            }
        }

        return new { evaluations = answers };
    }

    private async Task<object> SearchResourcesAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var (policy, now) = (policies.Current, asked.Time() ?? time.GetUtcNow());
        var act = asked.Act();
        var type = asked.ResourceType;
        if (!ItemId.TryKind(type, out var kind))
        {
            throw new AuthZenException(Words.Of("authzen.resource-type", type));
        }

        var found = await VisitorAsync(asked, policy, stop);
        var (limit, token) = PageAsked(body);
        var results = new List<object>();
        var next = "";
        var items = policy.Graph.Items;
        for (var place = found.IsGood ? FromToken(token, body) : items.Count; place < items.Count; place++)
        {
            if (items[place].Id.Kind != kind || !policy.Allows(found.Value.Visitor, place, act, now))
            {
                continue;
            }

            if (results.Count == limit)
            {
                next = Token(place, body);
                break;
            }

            results.Add(new { type, id = kind == ItemKind.Site ? "site" : items[place].Id.Key });
        }

        return new { results, page = new PageSaid(next, results.Count) };
    }

    private async Task<object> SearchSubjectsAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var (policy, now) = (policies.Current, asked.Time() ?? time.GetUtcNow());
        var act = asked.Act();
        var (item, path) = asked.Resource();
        RequestPath? normal = null;
        if (path is not null && !RequestPath.TryNormalise(path, policy.Settings.Paths, out normal, out _))
        {
            throw new AuthZenException(Words.Of("problem.path-ambiguous"));
        }

        bool May(Visitor visitor) => item is { } id ? policy.Allows(visitor, id, act, now)
            : act == Acts.Open ? policy.Judge(visitor, normal!, now).Allowed : policy.Allows(visitor, normal!, act, now);
        var type = asked.SubjectType;
        var (limit, token) = PageAsked(body);
        var results = new List<object>();
        var next = "";
        var at = FromToken(token, body);
        if (type is "role" or "group" or "plan")
        {
            var standings = policy.Standings.Where(s => FactNames.NameOf(s.Kind) == type).ToList();
            for (; at < standings.Count; at++)
            {
                if (!May(Visitor.With(new Grant(standings[at].Kind, standings[at].Key))))
                {
                    continue;
                }

                if (results.Count == limit)
                {
                    next = Token(at, body);
                    break;
                }

                results.Add(new { type, id = standings[at].Key });
            }
        }
        else if (type is "member" or "user")
        {
            var after = token is null ? null : AfterToken(token, body);
            while (next.Length == 0)
            {
                var page = await store.MembersAsync(after, MostPage, null, stop);
                foreach (var member in page)
                {
                    if (member.Status == Core.People.MemberStatus.Active && May(member.AsVisitor()))
                    {
                        if (results.Count == limit)
                        {
                            next = Token(after!, body);
                            break;
                        }

                        results.Add(new { type, id = member.Email });
                    }

                    after = member.Email;
                }

                if (page.Count < MostPage)
                {
                    break;
                }
            }
        }
        else if (type is "guest" or "visitor")
        {
            results.AddRange(May(Visitor.Guest) ? [new { type, id = "guest" }] : Array.Empty<object>());
        }
        else
        {
            throw new AuthZenException(Words.Of("authzen.subject-type", type));
        }

        return new { results, page = new PageSaid(next, results.Count) };
    }

    private async Task<object> SearchActionsAsync(JsonElement body, CancellationToken stop)
    {
        var asked = new AuthZenRequest(body);
        var (policy, now) = (policies.Current, asked.Time() ?? time.GetUtcNow());
        var (item, path) = asked.Resource();
        var found = await VisitorAsync(asked, policy, stop);
        RequestPath? normal = null;
        var known = found.IsGood && (item is { } id ? policy.Graph.PlaceOf(id) >= 0 : RequestPath.TryNormalise(path!, policy.Settings.Paths, out normal, out _));
        var acts = known ? ActNames.Each.Where(a => item is { } it ? policy.Allows(found.Value.Visitor, it, a, now) : policy.Allows(found.Value.Visitor, normal!, a, now)) : [];
        var results = acts.Select(a => new { name = ActNames.NameOf(a) }).ToList();
        return new { results, page = new PageSaid("", results.Count) };
    }

    private async Task<Outcome<SeenAs>> VisitorAsync(AuthZenRequest asked, Policy policy, CancellationToken stop)
    {
        var (name, address, unlocked) = asked.Subject();
        var found = await viewpoints.FindAsync(name, policy, true, stop);
        if (found.Problem is { } problem)
        {
            return problem;
        }

        var visitor = found.Value.Visitor.Having([.. unlocked.Where(g => policy.FindGate(g) is not null).Select(g => new Unlock(g, DateTimeOffset.MaxValue))]).From(address);
        return found.Value with { Visitor = visitor };
    }

    private static Evaluated Refused(string why) => new(false, new Reasons(null, new Said(why), null, null, null, null));

    private static (int Limit, string? Token) PageAsked(JsonElement body)
    {
        if (!body.TryGetProperty("page", out var page) || page.ValueKind != JsonValueKind.Object)
        {
            return (UsualPage, null);
        }

        var limit = page.TryGetProperty("limit", out var most) && most.ValueKind == JsonValueKind.Number && most.TryGetInt32(out var said) ? Math.Clamp(said, 1, MostPage) : UsualPage;
        var token = page.TryGetProperty("token", out var text) && text.ValueKind == JsonValueKind.String ? text.GetString() : null;
        return (limit, string.IsNullOrEmpty(token) ? null : token);
    }

    // A token is good for the very search that it was given for (Authorization API 1.0 §8.1).
    private static string Token(object at, JsonElement body) => System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes($"{Mark(body)}:{at}"));

    private static string AfterToken(string token, JsonElement body)
    {
        try
        {
            var text = Encoding.UTF8.GetString(System.Buffers.Text.Base64Url.DecodeFromChars(token));
            var mark = Mark(body) + ":";
            return text.StartsWith(mark, StringComparison.Ordinal) ? text[mark.Length..] : throw new AuthZenException(Words.Of("problem.cursor"));
        }
        catch (FormatException)
        {
            throw new AuthZenException(Words.Of("problem.cursor"));
        }
    }

    private static int FromToken(string? token, JsonElement body) =>
        token is null ? 0 : int.TryParse(AfterToken(token, body), out var at) && at >= 0 ? at : 0;

    private static string Mark(JsonElement body)
    {
        var asked = string.Join('\n', body.EnumerateObject().Where(p => p.Name != "page").OrderBy(p => p.Name, StringComparer.Ordinal).Select(p => p.Name + p.Value.GetRawText()));
        return Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(asked)).AsSpan(0, 8));
    }
}
