using System.Buffers;
using System.Text;
using System.Text.Json;
using System.Threading.RateLimiting;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Access;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>A place of a page and the parts that may stand in it.</summary>
/// <param name="In">Address of the part for those whom its gates admit.</param>
/// <param name="Else">Address of the part for the others.</param>
public sealed record PartRequest(string? In, string? Else);

/// <summary>What a page's script asks in one call.</summary>
/// <param name="Parts">Places to be filled.</param>
/// <param name="Links">Addresses of menu links.</param>
/// <param name="Forms">Names of forms.</param>
/// <param name="Page">The page that asks.</param>
/// <param name="To">Where each form leads when it is done, where its place says so.</param>
/// <param name="Prices">Places where a price stands.</param>
public sealed record PartsRequest(
    IReadOnlyList<PartRequest>? Parts, IReadOnlyList<string>? Links, IReadOnlyList<string>? Forms, string? Page, IReadOnlyList<string?>? To = null,
    IReadOnlyList<PricePlace>? Prices = null);

/// <summary>A place where a price stands.</summary>
/// <param name="Item">The name of the item.</param>
/// <param name="Quantity">From how many on, as it is written; one unless said.</param>
/// <param name="Currency">In which currency; the usual one unless said.</param>
public sealed record PricePlace(string? Item, string? Quantity, string? Currency);

/// <summary>What a place is filled with. <paramref name="Which"/> is <c>in</c>, <c>else</c> or <c>none</c>.</summary>
public sealed record PartGiven(string Which, string Html);

/// <summary>
/// The answer to a page's script. Links are <c>open</c>, <c>listed</c> or <c>hidden</c>, in the order asked; a price is null where the page's own stays.
/// </summary>
public sealed record PartsGiven(
    IReadOnlyList<PartGiven> Parts, IReadOnlyList<string> Links, IReadOnlyList<string> Forms, string Mark, IReadOnlyList<PriceSaid?> Prices);

/// <summary>
/// For sites that are not behind the gateway: the permitted variants of page parts, menu decisions and forms in one call.
/// A part that the visitor may not have is never read, so it cannot travel.
/// </summary>
public sealed class PartsEndpoint(
    PolicyHolder policies, VisitorReader visitors, IHttpClientFactory clients, ServiceOptions options, OriginConnection origin,
    TimeProvider time, ILogger<PartsEndpoint> log)
    : IDisposable
{
    private const int MostParts = 100;
    private const int MostLinks = 1000;
    private const int MostPartBytes = 512 * 1024;
    private const int AtOnceForOne = 4;
    private const int AtOnceForAll = 32;
    /// <summary>The largest question taken, in bytes.</summary>
    public const int MostBodyBytes = 256 * 1024;

    private readonly SemaphoreSlim fetching = new(AtOnceForAll, AtOnceForAll);

    /// <summary>A page's call can have a hundred parts read from the origin: so many parts a network may ask for, and so many more a second.</summary>
    private readonly PartitionedRateLimiter<string> byNetwork = PartitionedRateLimiter.Create<string, string>(
        network => RateLimitPartition.GetTokenBucketLimiter(network, _ => RateLimits.BucketOf(options.PartsBurst, options.PartsPerSecond)));

    /// <summary>Answers one page.</summary>
    public async Task InvokeAsync(HttpContext context)
    {
        if (await AskedAsync(context) is not { } asked)
        {
            context.Response.StatusCode = StatusCodes.Status400BadRequest;
            return;
        }

        var identity = await visitors.ReadAsync(context);
        var (policy, now) = (policies.Current, identity.At ?? time.GetUtcNow());
        var wanted = asked.Parts ?? [];
        using var lease = wanted.Count == 0 || identity.Visitor.IsSignedIn ? null
            : byNetwork.AttemptAcquire(Networks.Of(context), Math.Min(wanted.Count, options.PartsBurst));
        if (lease is { IsAcquired: false })
        {
            context.Response.Headers.RetryAfter = "1";
            context.Response.StatusCode = StatusCodes.Status429TooManyRequests;
            return;
        }

        var parts = new PartGiven[wanted.Count];
        await Parallel.ForAsync(
            0, wanted.Count, new ParallelOptions { MaxDegreeOfParallelism = AtOnceForOne, CancellationToken = context.RequestAborted },
            async (n, _) => parts[n] = await FillAsync(context, identity, policy, wanted[n], now));

        var (back, book) = (PageRequests.BackOf(asked.Page) ?? "/", PageLanguage.Of(context, policy));
        GuardedHeaders.Set(context.Response.Headers);
        context.Response.Headers.XContentTypeOptions = "nosniff";
        await context.Response.WriteAsJsonAsync(
            new PartsGiven(
                parts, [.. (asked.Links ?? []).Select(l => SightOf(policy, identity.Visitor, l, now))],
                [.. (asked.Forms ?? []).Select((f, i) => PageForms.Of(
                    f, identity.Visitor, options, back, PageRequests.BackOf(asked.To?.ElementAtOrDefault(i)),
                        () => AccountMenu.LinksOf(policy, identity.Visitor, now, book), book, PageBook.Of(policy)))],
                Encoding.UTF8.GetString(PageDecider.MarkOf(book)), PricesOf(context, identity, policy, asked.Prices ?? [], back, now)),
            context.RequestAborted);
    }

    private List<PriceSaid?> PricesOf(
        HttpContext context, RequestIdentity identity, Policy policy, IReadOnlyList<PricePlace> places, string page, DateTimeOffset now)
    {
        if (places.Count == 0 || !RequestPath.TryNormalise(page.Split('#')[0], policy.Settings.Paths, out var path, out _))
        {
            return [.. places.Select(_ => PriceSaid.Nothing)];
        }

        var decider = new PageDecider(new ProxiedRequest(policy, identity, path, true, true, now), context.Request, options, now, false);
        return [.. places.Select(p => decider.PriceOf(p.Item ?? "", p.Quantity, p.Currency))];
    }

    /// <summary>What a page asks for; null where that cannot be read, or is too much.</summary>
    private static async Task<PartsRequest?> AskedAsync(HttpContext context)
    {
        if (context.Request.ContentLength is not (> 0 and <= MostBodyBytes) || !context.Request.HasJsonContentType())
        {
            return null;
        }

        try
        {
            var asked = await context.Request.ReadFromJsonAsync<PartsRequest>(context.RequestAborted);
            // JSON lets nothing stand where something is meant.
            return asked is null || asked.Parts?.Any(p => p is null) == true || asked.Links?.Any(l => l is null) == true
                || asked.Forms?.Any(f => f is null) == true || asked.Prices?.Any(p => p is null) == true
                || asked.Prices?.Count > MostLinks || asked.Parts?.Count > MostParts || asked.Links?.Count > MostLinks
                || asked.Forms?.Count > MostParts ? null : asked;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        fetching.Dispose();
        byNetwork.Dispose();
    }

    private async Task<PartGiven> FillAsync(HttpContext context, RequestIdentity identity, Policy policy, PartRequest part, DateTimeOffset now)
    {
        foreach (var (which, address) in new[] { ("in", part.In), ("else", part.Else) })
        {
            if (string.IsNullOrEmpty(address) || !RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _)
                || RequestPath.IsUnder(path.Key, options.AccountPrefix)
                || RequestPath.IsUnder(path.Key, options.MachinePrefix) || !policy.Judge(identity.Visitor, path, now).Allowed)
            {
                continue;
            }

            var kept = ArrayPool<byte>.Shared.Rent(MostPartBytes);
            try
            {
                if (await FetchAsync(path, kept, context.RequestAborted) is >= 0 and var length)
                {
                    var passage = new ProxiedRequest(policy, identity, path, true, true, now);
                    var filter = MarkupFilter.OfHtml(new PageDecider(passage, context.Request, options, now, false));
                    var clean = new ArrayBufferWriter<byte>(Math.Max(256, length));
                    filter.Write(kept.AsSpan(0, length), true, clean);
                    return new PartGiven(which, Encoding.UTF8.GetString(clean.WrittenSpan));
                }
            }
            finally
            {
                ArrayPool<byte>.Shared.Return(kept);
            }
        }

        return new PartGiven("none", "");
    }

    /// <summary>Reads a part into a buffer and gives its length; -1 where there is none to be had.</summary>
    private async Task<int> FetchAsync(RequestPath path, byte[] kept, CancellationToken stop)
    {
        if (options.Origin.Length == 0)
        {
            return -1;
        }

        await fetching.WaitAsync(stop);
        try
        {
            var url = new Uri(origin.Address + path.SentWithQuery, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });
            using var http = clients.CreateClient(OwnRequests.Parts);
            using var response = await http.GetAsync(url, HttpCompletionOption.ResponseHeadersRead, stop);
            if (!response.IsSuccessStatusCode || response.Content.Headers.ContentType?.MediaType is not ("text/html" or "text/plain")
                || response.Content.Headers.ContentLength > MostPartBytes)
            {
                return -1;
            }

            await using var body = await response.Content.ReadAsStreamAsync(stop);
            var read = await body.ReadAtLeastAsync(kept.AsMemory(0, MostPartBytes), MostPartBytes, false, stop);
            return read == MostPartBytes ? -1 : read;
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException || (fault is TaskCanceledException && !stop.IsCancellationRequested))
        {
            log.LogWarning("The part {Path} could not be read: {Reason}", path.Sent, fault.Message);
            return -1;
        }
        finally
        {
            fetching.Release();
        }
    }

    private static string SightOf(Policy policy, Visitor visitor, string link, DateTimeOffset now) =>
        !link.StartsWith('/') || link.StartsWith("//", StringComparison.Ordinal)
            || !RequestPath.TryNormalise(link.Split('#')[0], policy.Settings.Paths, out var path, out _) ? "open"
            : !policy.Allows(visitor, path, Acts.List, now) ? "hidden" : policy.Judge(visitor, path, now).Allowed ? "open" : "listed";
}
