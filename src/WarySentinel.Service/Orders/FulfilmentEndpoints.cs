using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Orders;

/// <summary>What orders give, and who tells of them.</summary>
public static class FulfilmentEndpoints
{
    private const int MostPointers = 500;
    private const int LongestValue = 200;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapFulfilment(this RouteGroupBuilder api)
    {
        var rules = api.MapGroup("/fulfilment").WithTags("Orders");
        rules.MapGet("/", (PolicyHolder policies) => TypedResults.Ok(new PageOf<FulfilmentView>(
            [.. FulfilmentBook.Of(policies.Current).All.OrderBy(r => r.Code, StringComparer.OrdinalIgnoreCase).Select(r => r.ToWire(policies.Current))], null)))
            .Requires("read");
        rules.MapPut("/{key}", Put).Requires("write");
        rules.MapDelete("/{key}", Remove).Requires("write");
        rules.MapPost("/try", TryAsync).Requires("read");
        var sources = api.MapGroup("/order-sources").WithTags("Orders");
        sources.MapGet("/", (PolicyHolder policies, ServiceOptions options) => TypedResults.Ok(new PageOf<OrderSourceView>(
            [.. OrderSourceBook.Of(policies.Current).All.Select(s => s.ToWire(options))], null))).Requires("read");
        sources.MapPut("/{key}", PutSource).Requires("write");
        sources.MapDelete("/{key}", RemoveSource).Requires("write");
        sources.MapPost("/{key}/secret", Rekey).Requires("write");
        sources.MapPost("/try", TryMapping).Requires("read");
        return api;
    }

    private static async Task<Results<Ok<FulfilmentView>, ProblemHttpResult>> Put(
        string key, Contract.Orders.FulfilmentDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FulfilmentCommands.Put(policy, draft.ToCore(key)), Caller.Of(http).Name, stop))
            .Match<Results<Ok<FulfilmentView>, ProblemHttpResult>>(rule => TypedResults.Ok(rule.ToWire(policies.Current)), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FulfilmentCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    /// <summary>What an order would do, by the rules as they are or with one as it would be. Nothing is stored.</summary>
    private static async Task<Results<Ok<FulfilmentTried>, ProblemHttpResult>> TryAsync(
        FulfilmentTrial asked, PolicyHolder policies, OrderDesk desk, OrderIntake intake, CancellationToken stop)
    {
        var (policy, sentence) = (policies.Current, (string?)null);
        if (asked.Draft is not null)
        {
            var put = FulfilmentCommands.Put(policy, asked.Draft.ToCore(asked.Key ?? "new"));
            if (put.Problem is { } bad)
            {
                return bad.ToHttp();
            }

            var after = policy.TryAfter(put.Value.ToStore);
            if (after.Problem is { } odd)
            {
                return odd.ToHttp();
            }

            (policy, sentence) = (after.Value, OrderSentences.Of(put.Value.Value, after.Value, Reader.Book));
        }

        var draft = new OrderDraft { Email = asked.Email ?? "somebody@new.example", Lines = asked.Lines };
        var read = draft.Read("trial", "order.paid", intake.Now);
        return read.Problem is { } problem ? problem.ToHttp()
            : TypedResults.Ok(new FulfilmentTried(sentence, await desk.WouldAsync(policy, [read.Value], Reader.Book, stop)));
    }

    private static async Task<Results<Ok<OrderSourceView>, ProblemHttpResult>> PutSource(
        string key, Contract.Orders.OrderSourceDraft draft, HttpContext http, PolicyHolder policies, ServiceOptions options, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => OrderSourceCommands.Put(policy, draft.ToCore(key)), Caller.Of(http).Name, stop))
            .Match<Results<Ok<OrderSourceView>, ProblemHttpResult>>(source => TypedResults.Ok(source.ToWire(options)), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveSource(
        string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => OrderSourceCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    /// <summary>Gives a source another secret, and tells it this once.</summary>
    private static async Task<Results<Ok<SourceSecretView>, ProblemHttpResult>> Rekey(
        string key, SourceSecretDraft draft, HttpContext http, PolicyHolder policies, OrderIntake intake, TimeProvider time, CancellationToken stop)
    {
        if (OrderSourceBook.Of(policies.Current).Find(key) is not { } source)
        {
            return Problem.Of(ProblemKind.NotFound, "source-unknown", key).ToHttp();
        }

        var isStandard = source.Scheme.Proof == HookProof.Standard;
        var secret = PlainText.OrNull(draft.Secret) ?? (isStandard ? HookSignature.SecretPrefix
            : "") + Convert.ToBase64String(RandomNumberGenerator.GetBytes(32));
        if (secret.Length > 500 || !PlainText.IsClean(secret) || (isStandard ? !HookSignature.IsStandardSecret(secret) : secret.Length < 16))
        {
            return Problem.In("secret", isStandard ? "source-secret-standard" : "source-secret", 16).ToHttp();
        }

        var done = await policies.ChangeAsync(
            policy => OrderSourceCommands.Rekey(policy, key, intake.Sealed(secret), draft.AtOnce ?? false, time.GetUtcNow()), Caller.Of(http).Name, stop);
        return done.Match<Results<Ok<SourceSecretView>, ProblemHttpResult>>(_ => TypedResults.Ok(new SourceSecretView(secret)), problem => problem.ToHttp());
    }

    /// <summary>What would be read in an example, by a source as it would be. Nothing is stored.</summary>
    private static Results<Ok<MappingTried>, ProblemHttpResult> TryMapping(MappingTrial asked, OrderIntake intake)
    {
        var example = asked.Example ?? "";
        if (example.Length > OrderIntake.MostBytes)
        {
            return Problem.In("example", "hook-large", OrderIntake.MostBytes / 1024).ToHttp();
        }

        var source = (asked.Draft ?? new()).ToCore("trial").Read();
        var isForm = asked.Form ?? !example.TrimStart().StartsWith('{');
        var pointers = OrderIntake.Pointers(example, isForm).Take(MostPointers)
            .Select(p => new PointedAt(p.Pointer, p.Value.Length > LongestValue ? p.Value[..LongestValue] + "…" : p.Value)).ToList();
        if (source.Problem is { } unfit)
        {
            return TypedResults.Ok(new MappingTried(null, new Dictionary<string, string>(),
                [.. unfit.Faults.Select(f => $"{f.Field}: {f.Message.ToReader()}")], pointers));
        }

        var read = OrderIntake.Read(source.Value, example, isForm, "example", intake.Now);
        return TypedResults.Ok(read.Problem is { } problem
            ? new MappingTried(null, new Dictionary<string, string>(), [.. problem.Faults.Select(f => $"{f.Field}: {f.Message.ToReader()}")], pointers)
            : new MappingTried(read.Value is { } told ? OrderEvent.NameOf(told.Kind) : null, Said(read.Value), [], pointers));
    }

    private static Dictionary<string, string> Said(OrderEvent? told)
    {
        var said = new Dictionary<string, string>(StringComparer.Ordinal);
        void Put(string field, object? value)
        {
            if (value?.ToString() is { Length: > 0 } text)
            {
                said[field] = text;
            }
        }

        if (told is not null)
        {
            Put("id", told.Id);
            Put("time", told.At.ToString("u", System.Globalization.CultureInfo.InvariantCulture));
            Put("order", told.Order);
            Put("email", told.Buyer?.Email);
            Put("name", told.Buyer?.Name);
            Put("language", told.Buyer?.Language);
            Put("amount", told.Amount);
            Put("payment", told.Payment);
            Put("lines", string.Join(", ", told.Lines.Select(l => l.Amount is { } amount ? $"{l.Whole} ({amount})" : l.Whole)));
            Put("coupon", told.Coupon);
            Put("gift", told.Gift?.Email);
        }

        return said;
    }
}
