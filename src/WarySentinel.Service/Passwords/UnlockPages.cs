using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Passwords;

/// <summary>The password prompt: of one gate, or one page for all of them; and what was opened.</summary>
public sealed class UnlockPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, SharedPasswords shared, Sessions sessions, IAntiforgery antiforgery,
    ServiceOptions options, TimeProvider time)
{
    /// <summary>Maps the pages.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapGet("/unlock", FormAsync);
        account.MapPost("/unlock", TryAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/opened", OpenedAsync);
    }

    private async Task FormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var back = PageRequests.BackOf(http.Request.Query["return_to"]);
        var gate = GateAsked(http, http.Request.Query["gate"], identity, back);
        if (gate is null && !AnyPrompt())
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (gate is not null && identity.Visitor.HasUnlocked(gate.Key, time.GetUtcNow()))
        {
            PageRequests.See(http, back ?? Landing.Of(policies.Current, gate, identity.Visitor, time.GetUtcNow()) ?? "/");
            return;
        }

        await refusals.UnlockAsync(http, identity, gate, back, null, 200);
    }

    private async Task TryAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var back = PageRequests.BackOf(form?["return_to"]);
        var gate = GateAsked(http, form?["gate"], identity, back);
        if (gate is null && !AnyPrompt())
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (form is null)
        {
            await refusals.UnlockAsync(http, identity, gate, back, PageRequests.Stale(), 400);
            return;
        }

        var typed = form["password"].ToString();
        if (typed.Trim().Length == 0)
        {
            await refusals.UnlockAsync(http, identity, gate, back, new PageError(PageWords.Of("error.empty-shared"), "", "password"), 422);
            return;
        }

        var (opened, tried) = await shared.TryAsync(typed, identity.Visitor, Networks.Of(http), http.RequestAborted);
        if (opened.Count == 0)
        {
            var error = AccountPages.Wrong(http, tried, "unlock.wrong", "unlock.wrong-more");
            await refusals.UnlockAsync(http, identity, gate, back, error, http.Response.StatusCode == 200 ? 401 : http.Response.StatusCode);
            return;
        }

        await sessions.UnlockAsync(http, opened);
        PageRequests.See(http, WhereTo(http, identity, opened, back));
    }

    /// <summary>Back, where that is open now; else where the one gate leads; else the list of what is open.</summary>
    private string WhereTo(HttpContext http, RequestIdentity identity, IReadOnlyList<Opened> opened, string? back)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var visitor = identity.Visitor.Having([.. identity.Visitor.Unlocks, .. opened.Select(o => new Unlock(o.Gate.Key, o.Unlock.Until))]);
        var found = Destination.Of(policy, new Lander(RedirectOn.Unlock, visitor, back), now);
        if (found.Why == DestinationWhy.Insists)
        {
            return found.To!;
        }

        // Also where something else is missing still: the page itself asks for it, such as signing in.
        if (back is not null && refusals.DecisionAt(http, identity with { Visitor = visitor }, back) is ({ } decision, _)
            && decision.Refusal?.Answer != Answer.Password)
        {
            return back;
        }

        if (found.Why == DestinationWhy.Rule)
        {
            return found.To!;
        }

        var list = options.AccountPrefix + "/opened";
        return opened.Count == 1 ? Landing.Of(policy, opened[0].Gate, visitor, now) ?? list : list;
    }

    private async Task OpenedAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var (policy, visitor, now) = (policies.Current, identity.Visitor, time.GetUtcNow());
        var links = policy.Gates.Where(g => visitor.HasUnlocked(g.Key, now))
            .Select(g => new SiteLink(Landing.Of(policy, g, visitor, now) ?? "/", g.Title)).ToList();
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(identity, options.AccountPrefix + "/opened"),
            Model = new MessageModel(PageWords.Of(links.Count > 0 ? "opened.title" : "opened.nothing"), links.Count > 0 ? [PageWords.Of("opened.lead")] : [])
            { Links = links },
        });
    }

    private bool AnyPrompt() => policies.Current.Gates.Any(g => !g.IsExemption && g.Audience.AsksForPassword && g.IsInForce(time.GetUtcNow()));

    private Gate? GateAsked(HttpContext http, string? key, RequestIdentity identity, string? back)
    {
        var named = policies.Current.FindGate(key ?? "");
        named = named is { IsExemption: false } && named.Audience.AsksForPassword ? named : null;
        return named ?? (refusals.DecisionAt(http, identity, back) is ({ Refusal: { Answer: Answer.Password } refusal }, _) ? refusal.Gate : null);
    }
}
