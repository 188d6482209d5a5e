using System.Net;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.Extensions.Primitives;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Access;
using WarySentinel.Service.Entries;
using WarySentinel.Service.Pages;
using WarySentinel.Service.Hosted;
using WarySentinel.Service.People;
using WarySentinel.Service.Prices;
using WarySentinel.Service.Web;
using Yarp.ReverseProxy.Forwarder;

namespace WarySentinel.Service.Gateway;

/// <summary>Stands in front of the site: decides on the one normal form of a path, sends just that on, and filters what comes back.</summary>
public sealed class GatewayProxy : IDisposable
{
    private readonly PolicyHolder policies;
    private readonly VisitorReader visitors;
    private readonly BasicCredentials basic;
    private readonly Refusals refusals;
    private readonly IHttpForwarder forwarder;
    private readonly ServiceOptions options;
    private readonly HostedPages hosted;
    private readonly CartGuard carts;
    private readonly IFirstUse uses;
    private readonly SiteFaults faults;
    private readonly TimeProvider time;
    private readonly ILogger<GatewayProxy> log;
    private readonly GatewayTransformer transformer;
    private readonly PageMemory memory = new();
    private readonly ForwarderRequestConfig patience;

    /// <summary>How long a body or a connection may be silent that has begun: events and talks come when they come.</summary>
    private static readonly TimeSpan LongestPause = TimeSpan.FromHours(12);
    private readonly OriginWaits waits;
    private readonly HttpMessageInvoker invoker;
    private readonly string origin;
    private readonly bool turns;

    /// <summary>Makes the gateway.</summary>
    public GatewayProxy(
        PolicyHolder policies, VisitorReader visitors, BasicCredentials basic, Refusals refusals, IHttpForwarder forwarder, ServiceOptions options,
        Sessions sessions, OriginKnowledge knowledge, OriginConnection connection, HostedPages hosted, CartGuard carts,
        IFirstUse uses, SiteFaults faults, TimeProvider time, ILogger<GatewayProxy> log)
    {
        (this.policies, this.visitors, this.basic, this.refusals, this.forwarder, this.options) = (policies, visitors, basic, refusals, forwarder, options);
        (this.hosted, this.carts, this.uses, this.faults, this.time, this.log) = (hosted, carts, uses, faults, time, log);
        transformer = new GatewayTransformer(options, sessions, memory, new CommonPages(), knowledge, log);
        invoker = new HttpMessageInvoker(connection.NewHandler(DecompressionMethods.None));
        waits = new OriginWaits(TimeSpan.FromSeconds(options.OriginTimeoutSeconds));
        (origin, turns) = (connection.Address, options.TurnedAuthorities.Count > 0);
        patience = new ForwarderRequestConfig { ActivityTimeout = LongestPause };
    }

    /// <summary>
    /// Serves one request of a visitor. On the path of every request: what waits for the origin waits here and nowhere above, and what breaks is caught here.
    /// </summary>
    public async Task InvokeAsync(HttpContext http)
    {
        try
        {
            if (await AdmittedAsync(http) is not { } passage)
            {
                return;
            }

            var (error, isLate) = (ForwarderError.None, false);
            for (var isAgain = false; ; isAgain = true)
            {
                var begins = Begin(http, passage);
                try
                {
                    error = await forwarder.SendAsync(http, origin, invoker, patience, new Passing(transformer, passage), begins.Token);
                    isLate = error != ForwarderError.None && !passage.HasBegun && begins.IsOver && !http.RequestAborted.IsCancellationRequested;
                }
                finally
                {
                    End(http, passage, begins);
                }

                if (isAgain || !(passage.IsWhole || passage.ForgetsPage) || http.Response.HasStarted)
                {
                    break;
                }

                http.Response.Clear();
            }

            if (!http.Response.HasStarted && (passage.CannotBeJudged || passage.HiddenTarget is not null || error != ForwarderError.None))
            {
                await RefuseAsync(http, passage, error, isLate);
            }
        }
        catch (Exception fault)
        {
            await faults.AnswerAsync(http, fault);
        }
    }

    /// <summary>What is to be asked of the origin; null where the request is answered already.</summary>
    private async ValueTask<ProxiedRequest?> AdmittedAsync(HttpContext http)
    {
        var policy = policies.Current;
        var target = http.Features.Get<IHttpRequestFeature>()!.RawTarget;
        var identity = await visitors.ReadAsync(http);
        var now = identity.At ?? time.GetUtcNow();
        if (!policy.TryResolve(target, now, out var request, out var fault) || request.Path.Query.AsSpan().IndexOfAnyExceptInRange('!', '~') >= 0)
        {
            log.LogInformation("Refused a target with two readings: {Fault}", fault);
            await refusals.AmbiguousAsync(http);
            return null;
        }

        var path = request.Path;
        var verdict = policy.Judge(identity.Visitor, request, now);
        if (!verdict.Allowed && await basic.ReadAsync(http, identity, policy, path, now) is { } proved)
        {
            (identity, verdict) = (proved, policy.Judge(proved.Visitor, request, now));
        }

        if (!verdict.Allowed)
        {
            await refusals.RespondAsync(http, identity, policy, policy.Decide(identity.Visitor, path, Acts.Open, now), path);
            return null;
        }

        if (verdict.Guarded && identity.Visitor.MayStart)
        {
            await uses.OpenedAsync(identity, policy, v => policy.Judge(v, request, now).Allowed, now);
        }

        if (await hosted.ServeAsync(http, identity, policy, path, now))
        {
            return null;
        }

        if (CartBook.Of(policy).For(path, policy.Settings.Paths) is { } cart && await carts.RefusesAsync(http, identity, policy, path, cart, now))
        {
            return null;
        }

        if (options.Origin.Length == 0)
        {
            await refusals.NoOriginAsync(http);
            return null;
        }

        var filtered = policy.GuardsAnything(now) || identity.Viewpoint is not null;
        return new ProxiedRequest(policy, identity, path, verdict.Guarded, filtered, now)
        {
            Turns = turns && !filtered, Body = http.Features.Get<IHttpRequestBodyDetectionFeature>()?.CanHaveBody == false ? null : http.Request.Body,
        };
    }

    /// <summary>
    /// The origin has so long to begin its answer, counted from the last that it was sent; then it may take its time. The forwarder watches for the visitor who
    /// leaves by itself.
    /// </summary>
    private OriginWait Begin(HttpContext http, ProxiedRequest passage)
    {
        // A wait that a body may still hold on to serves nobody else.
        var begins = waits.Begin(isAlone: passage.Body is not null);
        passage.Await(begins);
        if (passage.Body is { } body)
        {
            http.Request.Body = Watched(body, passage, begins);
        }

        return begins;
    }

    /// <summary>While its body is sent, the origin is not waited for.</summary>
    private static WatchedBody Watched(Stream body, ProxiedRequest passage, OriginWait begins) => new(body, () =>
    {
        if (!passage.HasBegun)
        {
            begins.Again();
        }
    });

    private void End(HttpContext http, ProxiedRequest passage, OriginWait begins)
    {
        passage.Leave();
        waits.End(begins, isAlone: passage.Body is not null);
        if (passage.Body is { } body)
        {
            http.Request.Body = body;
        }
    }

    /// <summary>Answers in place of the origin, whose answer did not come, cannot be judged, or would say what the visitor may not know.</summary>
    private async Task RefuseAsync(HttpContext http, ProxiedRequest passage, ForwarderError error, bool isLate)
    {
        if (passage.CannotBeJudged)
        {
            http.Response.Clear();
            await refusals.OriginFailedAsync(http, StatusCodes.Status502BadGateway);
        }
        else if (passage.HiddenTarget is { } hidden)
        {
            http.Response.Clear();
            var (identity, policy) = (passage.RequestIdentity, passage.Policy);
            await refusals.RespondAsync(http, identity, policy, policy.Decide(identity.Visitor, hidden, Acts.Open, passage.Now), hidden);
        }
        else if (!http.RequestAborted.IsCancellationRequested)
        {
            var status = isLate ? StatusCodes.Status504GatewayTimeout
                : StatusOf(error, http.Response.StatusCode, http.Features.Get<IForwarderErrorFeature>()?.Exception);
            log.LogWarning("The origin did not answer {Path}: {Error}", passage.Path.Sent, error);
            await refusals.OriginFailedAsync(http, status);
        }
    }

    /// <summary>Whose fault it is: the visitor's body was too large (413), too slow (408) or broken (400), or the origin is slow (504) or dead (502).</summary>
    private static int StatusOf(ForwarderError error, int status, Exception? fault)
    {
        for (var at = fault; at is not null; at = at.InnerException)
        {
            if (at is BadHttpRequestException { StatusCode: 413 or 408 or 400 } bad)
            {
                return bad.StatusCode;
            }
        }

        return error is ForwarderError.RequestTimedOut or ForwarderError.UpgradeActivityTimeout ? 504 : status is 413 or 408 or 400 ? status : 502;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        invoker.Dispose();
        waits.Dispose();
        memory.Dispose();
    }
}

/// <summary>What the origin said beside a page.</summary>
/// <param name="Tag">Its tag.</param>
/// <param name="IsForAnybody">Whether it says that the page is the same for whoever asks.</param>
/// <param name="Headers">All that stays as long as the page does.</param>
internal sealed record OriginSaid(string Tag, bool IsForAnybody, IReadOnlyList<KeyValuePair<string, StringValues>> Headers);

/// <summary>What the gateway found out about a request, for the way back.</summary>
public sealed record ProxiedRequest(
    Policy Policy, RequestIdentity RequestIdentity, RequestPath Path, bool Guarded, bool Filtered, DateTimeOffset Now)
    : PageRequest(Policy, RequestIdentity, Path)
{
    /// <summary>The body that came with it; null where none can have come.</summary>
    internal Stream? Body { get; init; }

    /// <summary>Whether it may be a page that is the same for everybody.</summary>
    public bool MayBeCommon => !Guarded && RequestIdentity.Viewpoint is null;

    /// <summary>Whether a piece was asked for of what is a page: it is asked for as a whole.</summary>
    public bool IsWhole { get; set; }

    /// <summary>Whether nothing is hidden from anybody yet, and the origin's own address is turned all the same.</summary>
    public bool Turns { get; init; }

    /// <summary>What the owner taught of this address.</summary>
    public IReadOnlyList<EntryRule> Rules { get; } = Filtered ? EntryBook.Of(Policy).For(Path, Policy.Settings.Paths) : [];

    /// <summary>What is remembered of this page, while the origin is asked whether it still is so.</summary>
    internal PageMemory.Page? Remembered { get; set; }

    /// <summary>Whether the page is asked for whatever is remembered of it.</summary>
    public bool ForgetsPage { get; set; }

    /// <summary>Whether the origin was asked if what the browser has is still so: it is the same for everybody.</summary>
    public bool MayBeUnchanged { get; set; }

    /// <summary>What the browser has of this page, by the tags that it got.</summary>
    public StringValues AskedTags { get; set; }

    /// <summary>What tells the origin one visitor from another: cookies, credentials, and what we say; empty for nothing.</summary>
    public string WhoForOrigin { get; set; } = "";

    /// <summary>Whether the origin was told who asks.</summary>
    public bool IsTold { get; set; }

    /// <summary>What the origin said beside the page, where it has a tag.</summary>
    internal OriginSaid? Origin { get; set; }

    /// <summary>The origin's tag for the page; null where it has none.</summary>
    public string? Tag { get; set; }

    /// <summary>What the origin says of how long the page may be kept, where it may turn out to be the same for everybody.</summary>
    internal IReadOnlyList<KeyValuePair<string, StringValues>>? Said { get; set; }

    /// <summary>The wait for the answer to begin.</summary>
    internal OriginWait? Begins { get; private set; }

    /// <summary>Whether the answer has begun.</summary>
    public bool HasBegun { get; private set; }

    /// <summary>It is asked for, once more perhaps: its answer is waited for.</summary>
    internal void Await(OriginWait begins) => (Begins, HasBegun) = (begins, false);

    /// <summary>The wait serves somebody else from here on.</summary>
    internal void Leave() => Begins = null;

    /// <summary>The answer has begun: nobody waits for that any more.</summary>
    public void Begin()
    {
        HasBegun = true;
        Begins?.Rest();
    }

    /// <summary>Whether what came cannot be read, so that nobody knows what it names: it is closed.</summary>
    public bool CannotBeJudged { get; set; }

    /// <summary>Where the origin sends to, where the visitor may not know of it.</summary>
    public RequestPath? HiddenTarget { get; set; }
}
