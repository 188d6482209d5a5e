using System.Collections.Concurrent;
using WarySentinel.Core;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>
/// Where payment processors and shops tell of orders: <c>POST /sentinel/hooks/KEY</c>. What is not signed as it should be is refused, logged, and changes
/// nothing. Whoever tells faster than it can be stored is told to come again (429), and nothing that was answered with 2xx is lost.
/// </summary>
public sealed class HookEndpoint(OrderIntake intake, PolicyHolder policies, Store store, TimeProvider time, ILogger<HookEndpoint> log)
{
    private const int MostAtOnce = 256;
    private static readonly TimeSpan NotedEvery = TimeSpan.FromMinutes(1);
    private readonly ConcurrentDictionary<(string, HookVerdict), DateTimeOffset> noted = new();
    private int under;

    /// <summary>Maps it.</summary>
    public void Map(IEndpointRouteBuilder endpoints, string prefix) =>
        endpoints.MapPost(prefix + "/hooks/{key}", (string key, HttpContext http) => InvokeAsync(key, http)).Takes(OrderIntake.MostBytes);

    private async Task<IResult> InvokeAsync(string key, HttpContext http)
    {
        http.Response.Headers.CacheControl = "no-store";
        if (OrderSourceBook.Of(policies.Current).Find(key) is not { } source)
        {
            return Problem.Of(ProblemKind.NotFound, "source-unknown", key).ToHttp();
        }

        if (Interlocked.Increment(ref under) > MostAtOnce)
        {
            Interlocked.Decrement(ref under);
            http.Response.Headers.RetryAfter = "1";
            return Problem.Of(ProblemKind.TooMany, "hook-many").ToHttp();
        }

        try
        {
            return await TakeAsync(source, http);
        }
        finally
        {
            Interlocked.Decrement(ref under);
        }
    }

    private async Task<IResult> TakeAsync(OrderSource source, HttpContext http)
    {
        var (body, stop) = (await BodyAsync(http), http.RequestAborted);
        if (body is null)
        {
            return Problem.Of(ProblemKind.TooLarge, "hook-large", OrderIntake.MostBytes / 1024).ToHttp();
        }

        var verdict = HookSignature.Look(source.Scheme, intake.SecretsOf(source), name => http.Request.Headers[name] is [var one] ? one : null, body,
            time.GetUtcNow());
        if (verdict != HookVerdict.Good)
        {
            await RefusedAsync(source, verdict, stop);
            return Problem.Of(ProblemKind.Forbidden, "hook-" + verdict.ToString().ToLowerInvariant(), HookSignature.Tolerance.TotalMinutes).ToHttp();
        }

        var isForm = http.Request.HasFormContentType;
        var message = http.Request.Headers["webhook-id"] is [var id] ? id : null;
        foreach (var kept in intake.ReadAll(source, body, isForm, message))
        {
            await intake.KeepAsync(kept, source.Key, stop);
        }

        // Whoever tells has done their part, also where we cannot read it yet.
        return Results.StatusCode(StatusCodes.Status202Accepted);
    }

    /// <summary>The body; null where it is larger than is taken.</summary>
    private static async Task<byte[]?> BodyAsync(HttpContext http)
    {
        if (http.Request.ContentLength > OrderIntake.MostBytes)
        {
            return null;
        }

        using var body = new MemoryStream();
        var buffer = new byte[16 * 1024];
        for (int read; (read = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0;)
        {
            body.Write(buffer, 0, read);
            if (body.Length > OrderIntake.MostBytes)
            {
                return null;
            }
        }

        return body.ToArray();
    }

    /// <summary>Each sort of refusal stands in the trail once a minute, however often it happens.</summary>
    private async Task RefusedAsync(OrderSource source, HookVerdict verdict, CancellationToken stop)
    {
        var (now, said) = (time.GetUtcNow(), verdict.ToString().ToLowerInvariant());
        log.LogWarning("A web hook of {Source} was refused: {Verdict}", source.Key, said);
        if (!noted.TryGetValue((source.Key, verdict), out var last) || now - last > NotedEvery)
        {
            noted[(source.Key, verdict)] = now;
            await store.NoteAsync(new AuditNote(source.Key, "hook.refused", source.Key, said), stop);
        }
    }
}
