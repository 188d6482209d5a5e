using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>
/// Forgotten password, set password, change password. Whether anybody has an address is told by no word and by no time: asking answers the same, and not
/// before the same while has passed.
/// </summary>
public sealed class PasswordPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, MemberLinks links, SignIn signIn, Sessions sessions, KnownBrowsers browsers,
    CodePages codes, LinkPages linkPages, Entrance entrance, Store store, IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/password/forgotten", ForgottenFormAsync);
        account.MapPost("/password/forgotten", ForgottenAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/password/code", CodeAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/password/set", SetFormAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/password/set", SetAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/password", ChangeFormAsync);
        account.MapPost("/password", ChangeAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    private async Task ForgottenFormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, Ask(identity.Visitor.Email, null), 200);
    }

    private async Task ForgottenAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var typed = form?["name"].ToString().Trim() ?? "";
        if (form is null || typed.Length == 0)
        {
            var error = form is null ? PageRequests.Stale() : new PageError(PageWords.Of("error.empty-name"), "", "name");
            await AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, Ask(typed, error), form is null ? 400 : 422);
            return;
        }

        var isCode = policies.Current.Settings.Letters.Codes;
        var browser = isCode ? codes.Begin(http) : null;
        await Unhurried.AsEverAsync(() => links.ForgottenAsync(typed, browser, http.RequestAborted));
        if (isCode)
        {
            await codes.WriteAsync(http, identity, "/password/code", null, 200);
            return;
        }

        await refusals.MessageAsync(http, 200, "forgotten.sent-title", "forgotten.sent-lead");
    }

    /// <summary>A code in place of a link: who types it right goes on to set a password.</summary>
    private async Task CodeAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var proved = form is null ? null
            : await links.FollowCodeAsync(codes.Read(http), form["code"].ToString(), LinkPurpose.SetPassword, http.RequestAborted);
        if (proved is null || (await links.InPlaceOfCodeAsync(proved)) is not { IsGood: true } next)
        {
            await codes.WriteAsync(http, identity, "/password/code", form is null ? PageRequests.Stale() : CodePages.Wrong(), form is null ? 400 : 422);
            return;
        }

        codes.End(http);
        PageRequests.See(http, $"{options.AccountPrefix}/password/set?link={next.Value}");
    }

    private async Task SetFormAsync(HttpContext http)
    {
        var secret = http.Request.Query["link"].ToString();
        if (!await ToFormAsync(http, secret))
        {
            await WriteSetAsync(http, await visitors.ReadAsync(http), secret, null, null, 200);
        }
    }

    /// <summary>Whoever was invited to a form fills that in, and nothing less.</summary>
    private async Task<bool> ToFormAsync(HttpContext http, string secret)
    {
        if (await links.InvitedToAsync(secret, http.RequestAborted) is not var (_, request))
        {
            return false;
        }

        PageRequests.See(http, $"{options.AccountPrefix}/register/{Uri.EscapeDataString(request.Form)}?invitation={Uri.EscapeDataString(secret)}");
        return true;
    }

    private async Task SetAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var secret = form?["link"].ToString() ?? http.Request.Query["link"].ToString();
        if (form is null)
        {
            await WriteSetAsync(http, identity, secret, null, PageRequests.Stale(), 400);
            return;
        }

        if (await ToFormAsync(http, secret))
        {
            return;
        }

        var name = form.ContainsKey("name") ? form["name"].ToString() : null;
        var device = Browsers.NameOf(http.Request.Headers.UserAgent);
        var set = await links.SetPasswordAsync(secret, name, form["password"].ToString(), device, http.RequestAborted);
        if (set.Problem is { } problem)
        {
            await WriteSetAsync(http, identity, secret, name, ErrorOf(problem), problem.Kind == ProblemKind.TooMany ? 503 : 422);
            return;
        }

        if (set.Value.Status != MemberStatus.Active)
        {
            await refusals.MessageAsync(http, 200, "confirm.done-title", "register.done-approval");
            return;
        }

        await entrance.EnterAsync(http, set.Value, RedirectOn.PasswordSet);
    }

    private async Task WriteSetAsync(HttpContext http, RequestIdentity identity, string secret, string? name, PageError? error, int status)
    {
        var followed = identity.Sample is { } sample ? SamplePages.LinkOf(sample, LinkPurpose.SetPassword, time.GetUtcNow())
            : await links.FollowAsync(secret, http.RequestAborted, LinkPurpose.SetPassword, LinkPurpose.Invitation);
        if (followed?.Member is not { } member || !followed.Link.IsOpen(time.GetUtcNow()))
        {
            await linkPages.ClosedAsync(http, identity, followed?.Link, secret, "/password/forgotten");
            return;
        }

        var isNew = followed.Link.Purpose == LinkPurpose.Invitation;
        await PasswordPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, new PasswordModel(
            PageWords.Of(isNew ? "set.title-new" : "set.title"),
                PageWords.Of(isNew ? "set.lead-new" : "set.lead", member.Email, refusals.SiteName),
            "/password/set", member.Email)
        {
            Secret = secret, AsksName = isNew, Name = name ?? member.Name, Error = error, Button = PageWords.Of(isNew ? "set.button-new" : "set.button"),
        }, status);
    }

    private async Task ChangeFormAsync(HttpContext http) => await WriteChangeAsync(http, await visitors.ReadAsync(http), null, 200);

    private async Task ChangeAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        if (form is null || !identity.IsMember
            || await sessions.FindAsync(http, SessionPurpose.Site) is not { Member: { } id } live
            || await store.MemberAsync(id, http.RequestAborted) is not { } member)
        {
            await WriteChangeAsync(http, identity, form is null ? PageRequests.Stale() : null, 400);
            return;
        }

        // The password they have is asked for, as at a sign-in: an unguarded screen is not enough.
        var from = new TryFrom(Networks.Of(http), browsers.Read(http, SessionPurpose.Site));
        var tried = await signIn.TryAsync(member.Email, form["current"].ToString(), from, http.RequestAborted);
        if (tried.Member is null)
        {
            var error = AccountPages.Wrong(http, tried, "change.wrong", "change.wrong-more") with { Field = "current" };
            await WriteChangeAsync(http, identity, error, http.Response.StatusCode == 200 ? 422 : http.Response.StatusCode);
            return;
        }

        var device = Browsers.NameOf(http.Request.Headers.UserAgent);
        var changed = await links.ChangePasswordAsync(member.Id, form["password"].ToString(), live.Stored.Id, device, http.RequestAborted);
        if (changed.Problem is { } problem)
        {
            await WriteChangeAsync(http, identity, ErrorOf(problem), problem.Kind == ProblemKind.TooMany ? 503 : 422);
            return;
        }

        // This browser goes on under a new session: an old cookie, whoever has it, is worth nothing.
        await sessions.BeginAsync(http, SessionPurpose.Site, member.Id, true);
        var visitor = changed.Value.AsVisitor().From(http.Connection.RemoteIpAddress);
        if (Destination.Of(policies.Current, new Lander(RedirectOn.PasswordSet, visitor), time.GetUtcNow()).To is { } landing)
        {
            PageRequests.See(http, landing);
            return;
        }

        await refusals.MessageAsync(http, 200, "change.done-title", "change.done-lead");
    }

    private async Task WriteChangeAsync(HttpContext http, RequestIdentity identity, PageError? error, int status)
    {
        if (!identity.SeesMembersPages)
        {
            PageRequests.See(http, $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(options.AccountPrefix + "/password")}");
            return;
        }

        await PasswordPage.WriteAsync(http, refusals.Frame(identity, options.AccountPrefix + "/"), antiforgery, new PasswordModel(
            PageWords.Of("change.title"), PageWords.Of("change.lead"), "/password", identity.Visitor.Email ?? "")
        { AsksCurrent = true, Error = error, Button = PageWords.Of("change.button") }, status);
    }

    internal static PageError ErrorOf(Problem problem)
    {
        var field = problem.Faults.Count > 0 ? problem.Faults[0].Field : null;
        return new PageError(PageWords.Of("set.not-yet"), problem.Detail.ToReader(), field is "name" or "password" or "email" ? field : null);
    }

    private static AskModel Ask(string? typed, PageError? error) => new(
        PageWords.Of("forgotten.title"), PageWords.Of("forgotten.lead"), "/password/forgotten", PageWords.Of("sign-in.name"), "name", typed, "username",
        PageWords.Of("forgotten.button"), error);
}

/// <summary>Answers no sooner than after a while that covers whatever was done, so that the time tells nothing.</summary>
internal static class Unhurried
{
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(400);

    /// <summary>For so long before the beat it is waited for without a timer.</summary>
    private static readonly TimeSpan Sharp = TimeSpan.FromMilliseconds(2);

    /// <summary>Does something, and comes back at the next beat after it was begun.</summary>
    public static async Task AsEverAsync(Func<Task> work)
    {
        var from = TimeProvider.System.GetTimestamp();
        try
        {
            await work();
        }
        finally
        {
            var spent = TimeProvider.System.GetElapsedTime(from);
            var due = Math.Ceiling(spent / Beat) * Beat;
            var rest = due - spent - Sharp;
            await Task.Delay(rest > TimeSpan.Zero ? rest : TimeSpan.Zero);
            // A timer counts whole milliseconds: what it leaves over would tell of what was spent.
            while (TimeProvider.System.GetElapsedTime(from) < due)
            {
                Thread.Sleep(0);
            }
        }
    }
}
