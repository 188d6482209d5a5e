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
/// The pages that links of letters lead to: confirming an address, taking another, signing in. Looking at them uses nothing up (programs that read mail
/// follow every link); sending their form does.
/// </summary>
public sealed class LinkPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, MemberLinks links, Sessions sessions, Entrance entrance, CodePages codes,
    IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        Pair(account, "/confirm", LinkPurpose.Confirm, "confirm", ConfirmAsync);
        Pair(account, "/address/confirm", LinkPurpose.NewAddress, "new-address", TakeAddressAsync);
        Pair(account, "/sign-in/link", LinkPurpose.SignIn, "link-sign-in", SignInAsync);
        account.MapPost("/link/again", AgainAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/sign-in/letter", LetterFormAsync);
        account.MapPost("/sign-in/letter", LetterAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/sign-in/code", CodeAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/address", AddressFormAsync);
        account.MapPost("/address", AddressAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    /// <summary>Says that a link works no longer, and how to get another; the same of one that never was.</summary>
    /// <param name="http">The request.</param>
    /// <param name="identity">Who looks.</param>
    /// <param name="link">The link; null where there is none.</param>
    /// <param name="secret">What stands in it.</param>
    /// <param name="ask">The page where another can be asked for; null where there is none.</param>
    public async Task ClosedAsync(HttpContext http, RequestIdentity identity, SingleUseLink? link, string secret, string? ask)
    {
        var isLate = link is { ClosedAt: null };
        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<ClosedLinkPage>(http, StatusCodes.Status410Gone, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new ClosedLinkModel(
                PageWords.Of("join.closed-title"), PageWords.Of(isLate ? "join.late" : link?.ClosedBy == LinkEnd.Used ? "link.used" : "link.closed"),
                isLate && link!.Purpose != LinkPurpose.NewAddress ? secret : null, options.AccountPrefix + "/link/again", link?.ClosedBy == LinkEnd.Used,
                token.FormFieldName, token.RequestToken!)
            { Ask = !isLate && ask is not null ? new SiteLink(options.AccountPrefix + ask, PageWords.Of("link.ask")) : null },
        });
    }

    /// <summary>A page with one button, and what the button does.</summary>
    private void Pair(
        RouteGroupBuilder account, string path, LinkPurpose purpose, string words, Func<HttpContext, RequestIdentity, string, Task<PageError?>> act)
    {
        account.MapGet(path, async http =>
        {
            await WriteAsync(http, await visitors.ReadAsync(http), http.Request.Query["link"].ToString(), null, 200);
        }).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost(path, async http =>
        {
            var identity = await visitors.ReadAsync(http);
            var form = await antiforgery.FormAsync(http);
            var secret = form?["link"].ToString() ?? http.Request.Query["link"].ToString();
            if ((form is null ? PageRequests.Stale() : await act(http, identity, secret)) is { } error)
            {
                await WriteAsync(http, identity, secret, error, form is null ? 400 : 422);
            }
        }).RequireRateLimiting(RateLimits.Proofs);

        async Task WriteAsync(HttpContext http, RequestIdentity identity, string secret, PageError? error, int status)
        {
            var followed = identity.Sample is { } sample ? SamplePages.LinkOf(sample, purpose, time.GetUtcNow())
                : await links.FollowAsync(secret, http.RequestAborted, purpose);
            if (followed?.Member is not { } member || !followed.Link.IsOpen(time.GetUtcNow()))
            {
                await ClosedAsync(http, identity, followed?.Link, secret, purpose == LinkPurpose.SignIn ? "/sign-in/letter" : null);
                return;
            }

            var model = new AskModel(
                PageWords.Of(words + ".title"), PageWords.Of(words + ".lead", followed.Link.Address, refusals.SiteName, member.Email), path,
                null, "link", secret, "", PageWords.Of(words + ".button"), error);
            await AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, model, status);
        }
    }

    private async Task<PageError?> ConfirmAsync(HttpContext http, RequestIdentity identity, string secret)
    {
        var done = await links.ConfirmAsync(secret, http.RequestAborted);
        if (done.Problem is { } problem)
        {
            return PasswordPages.ErrorOf(problem);
        }

        // The letter proves the address; it signs nobody in who has a password of their own.
        var visitor = done.Value.AsVisitor().From(http.Connection.RemoteIpAddress);
        if (Destination.Of(policies.Current, new Lander(RedirectOn.Confirmation, visitor), time.GetUtcNow()).To is { } landing
            && refusals.DecisionAt(http, identity, landing) is null or { Decision.Allowed: true })
        {
            PageRequests.See(http, landing);
            return null;
        }

        await refusals.MessageAsync(
            http, 200, "confirm.done-title", done.Value.Status == MemberStatus.Pending ? "register.done-approval" : "confirm.done-lead");
        return null;
    }

    private async Task<PageError?> TakeAddressAsync(HttpContext http, RequestIdentity identity, string secret)
    {
        var done = await links.TakeAddressAsync(secret, http.RequestAborted);
        if (done.Problem is { } problem)
        {
            return PasswordPages.ErrorOf(problem);
        }

        await refusals.MessageAsync(http, 200, "new-address.done-title", "new-address.done-lead");
        return null;
    }

    private async Task<PageError?> SignInAsync(HttpContext http, RequestIdentity identity, string secret)
    {
        var done = await links.SignInAsync(secret, http.RequestAborted);
        if (done.Problem is { } problem)
        {
            return PasswordPages.ErrorOf(problem);
        }

        await LandAsync(http, done.Value);
        return null;
    }

    private Task LandAsync(HttpContext http, Member member) =>
        entrance.EnterAsync(http, member, member.SeenAt is null ? RedirectOn.FirstSignIn : RedirectOn.SignIn);

    private async Task AgainAsync(HttpContext http)
    {
        if (await antiforgery.FormAsync(http) is { } form)
        {
            await Unhurried.AsEverAsync(() => links.AgainAsync(form["link"].ToString(), http.RequestAborted));
        }

        await refusals.MessageAsync(http, 200, "join.again-title", "link.again-lead");
    }

    private async Task LetterFormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (!policies.Current.Settings.Letters.SignIn)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        await AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, Letter(null, null), 200);
    }

    private async Task LetterAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var settings = policies.Current.Settings.Letters;
        var form = await antiforgery.FormAsync(http);
        var typed = form?["name"].ToString().Trim() ?? "";
        if (!settings.SignIn)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        if (form is null || typed.Length == 0)
        {
            var error = form is null ? PageRequests.Stale() : new PageError(PageWords.Of("error.empty-name"), "", "name");
            await AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, Letter(typed, error), form is null ? 400 : 422);
            return;
        }

        var browser = settings.Codes ? codes.Begin(http) : null;
        await Unhurried.AsEverAsync(() => links.SignInLetterAsync(typed, browser, http.RequestAborted));
        await (settings.Codes ? codes.WriteAsync(http, identity, "/sign-in/code", null, 200)
            : refusals.MessageAsync(http, 200, "forgotten.sent-title", "letter-sign-in.sent"));
    }

    private async Task CodeAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var proved = form is null ? null : await links.FollowCodeAsync(codes.Read(http), form["code"].ToString(), LinkPurpose.SignIn, http.RequestAborted);
        if (proved is null || (await links.SignInAsync(proved, http.RequestAborted)) is not { IsGood: true } done)
        {
            await codes.WriteAsync(http, identity, "/sign-in/code", form is null ? PageRequests.Stale() : CodePages.Wrong(), form is null ? 400 : 422);
            return;
        }

        codes.End(http);
        await LandAsync(http, done.Value);
    }

    private async Task AddressFormAsync(HttpContext http) => await WriteAddressAsync(http, await visitors.ReadAsync(http), null, null, 200);

    private async Task AddressAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        if (form is null || !identity.IsMember
            || await sessions.FindAsync(http, SessionPurpose.Site) is not { Member: { } member })
        {
            await WriteAddressAsync(http, identity, null, form is null ? PageRequests.Stale() : null, 400);
            return;
        }

        var typed = form["email"].ToString();
        Outcome<string> asked = Problem.Of(ProblemKind.NotFound, "member-unknown");
        await Unhurried.AsEverAsync(async () => asked = await links.AskAddressAsync(member, typed, http.RequestAborted));
        if (asked.Problem is { } problem)
        {
            await WriteAddressAsync(http, identity, typed, PasswordPages.ErrorOf(problem), 422);
            return;
        }

        await refusals.MessageAsync(http, 200, "address.sent-title", "address.sent-lead");
    }

    private async Task WriteAddressAsync(HttpContext http, RequestIdentity identity, string? typed, PageError? error, int status)
    {
        if (!identity.SeesMembersPages)
        {
            PageRequests.See(http, $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(options.AccountPrefix + "/address")}");
            return;
        }

        var model = new AskModel(
            PageWords.Of("address.title"), PageWords.Of("address.lead", identity.Visitor.Email ?? ""), "/address", PageWords.Of("address.label"), "email",
                typed, "email",
            PageWords.Of("address.button"), error);
        await AskPage.WriteAsync(http, refusals.Frame(identity, options.AccountPrefix + "/"), antiforgery, model, status);
    }

    private static AskModel Letter(string? typed, PageError? error) => new(
        PageWords.Of("letter-sign-in.title"), PageWords.Of("letter-sign-in.lead"), "/sign-in/letter", PageWords.Of("sign-in.name"), "name", typed, "username",
        PageWords.Of("letter-sign-in.button"), error)
    { Foot = PageWords.Of("letter-sign-in.foot") };
}
