using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The page where people ask to join, and the one where staff decide from a letter. Whether an address has an account is told by no word and by no time.
/// </summary>
public sealed class RegisterPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, MemberLinks links, LinkPages linkPages, IAntiforgery antiforgery, TimeProvider time)
{
    /// <summary>A field that people do not see: whoever fills it in is none.</summary>
    public const string Decoy = "website";

    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/register", FormAsync);
        account.MapPost("/register", RegisterAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/request", RequestAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/request", DecideAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    private JoinWay Way => policies.Current.Settings.Joining.Way;

    private async Task FormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteAsync(http, identity, null, null, null, 200);
    }

    private async Task RegisterAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var (name, email, password) = (form?["name"].ToString().Trim(), form?["email"].ToString().Trim(), form?["password"].ToString() ?? "");
        if (form is null || Way == JoinWay.Closed)
        {
            await WriteAsync(http, identity, name, email, PageRequests.Stale(), 400);
            return;
        }

        Problem? wrong = null;
        if (form[Decoy].ToString().Length == 0)
        {
            await Unhurried.AsEverAsync(
                async () => wrong = await links.RegisterAsync(new MemberDraft { Name = name, Email = email, Password = password }, http.RequestAborted));
        }

        if (wrong is not null)
        {
            await WriteAsync(http, identity, name, email, PasswordPages.ErrorOf(wrong), wrong.Kind == ProblemKind.TooMany ? 503 : 422);
            return;
        }

        var confirm = policies.Current.Settings.Joining.Confirm;
        await refusals.MessageAsync(
            http, 200, "register.done-title", confirm ? "register.done-confirm" : Way == JoinWay.Open ? "register.done-open" : "register.done-approval");
    }

    private async Task WriteAsync(HttpContext http, RequestIdentity identity, string? name, string? email, PageError? error, int status)
    {
        if (Way == JoinWay.Closed)
        {
            await refusals.MessageAsync(http, 404, "register.closed-title", "register.closed-lead");
            return;
        }

        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<RegisterPage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new RegisterModel(name, email, Way == JoinWay.Approval, error),
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }

    private async Task RequestAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteRequestAsync(http, identity, http.Request.Query["link"].ToString(), null, 200);
    }

    private async Task DecideAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var secret = form?["link"].ToString() ?? http.Request.Query["link"].ToString();
        var followed = await links.FollowAsync(secret, http.RequestAborted, LinkPurpose.Approval);
        if (form is null || followed?.Member is not { } member || !followed.Link.IsOpen(time.GetUtcNow())
            || form["decision"] is not [("yes" or "no") and var said])
        {
            await WriteRequestAsync(http, identity, secret, form is null ? PageRequests.Stale() : null, 400);
            return;
        }

        var words = PlainText.OrNull(form["words"].ToString());
        var done = said == "yes" ? await links.ApproveAsync(member.Id, words, followed.Link.Address, http.RequestAborted)
            : await links.DeclineAsync(member.Id, words, followed.Link.Address, http.RequestAborted);
        if (done.Problem is { } problem)
        {
            await WriteRequestAsync(http, identity, secret, PasswordPages.ErrorOf(problem), 422);
            return;
        }

        await refusals.MessageAsync(http, 200, "request.done-title", said == "yes" ? "request.done-yes" : "request.done-no");
    }

    private async Task WriteRequestAsync(HttpContext http, RequestIdentity identity, string secret, PageError? error, int status)
    {
        var followed = await links.FollowAsync(secret, http.RequestAborted, LinkPurpose.Approval);
        if (followed?.Member is not { } member || !followed.Link.IsOpen(time.GetUtcNow()))
        {
            await linkPages.ClosedAsync(http, identity, followed?.Link, secret, null);
            return;
        }

        var token = antiforgery.GetAndStoreTokens(http);
        var since = new Core.Facts.SiteDates(policies.Current.Settings.TimeZone).Say(member.CreatedAt, false);
        await Page.WriteAsync<RequestPage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new RequestModel(member.Name, member.Email, since, secret, error),
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }
}

/// <summary>What the page shows where people ask to join.</summary>
/// <param name="Name">The name typed so far.</param>
/// <param name="Email">The address typed so far.</param>
/// <param name="NeedsApproval">Whether staff say yes first.</param>
/// <param name="Error">What is wrong.</param>
public sealed record RegisterModel(string? Name, string? Email, bool NeedsApproval, PageError? Error);

/// <summary>What staff see of a request.</summary>
/// <param name="Name">Who asks.</param>
/// <param name="Email">Their address.</param>
/// <param name="Since">Since when.</param>
/// <param name="Secret">What stands in the link.</param>
/// <param name="Error">What is wrong.</param>
public sealed record RequestModel(string Name, string Email, string Since, string Secret, PageError? Error);
