using Microsoft.AspNetCore.Antiforgery;
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
/// The page that the link of an invitation leads to. Looking at it uses nothing up: programs that read mail follow every link. Sending its form does.
/// </summary>
public sealed class JoinPages(
    VisitorReader visitors, Refusals refusals, Organisations organisations, Entrance entrance, IAntiforgery antiforgery, ServiceOptions options,
        TimeProvider time)
{
    /// <summary>Maps the page.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/join", ShowAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/join", AcceptAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/join/again", AgainAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    private async Task ShowAsync(HttpContext http)
    {
        var secret = http.Request.Query["link"].ToString();
        var identity = await visitors.ReadAsync(http);
        var followed = identity.Sample is { } sample ? SamplePages.InvitationOf(sample, time.GetUtcNow())
            : await organisations.FollowAsync(secret, http.RequestAborted);
        await WriteAsync(http, identity, secret, followed, null, null, 200);
    }

    private async Task AcceptAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var secret = form?["link"].ToString() ?? http.Request.Query["link"].ToString();
        var followed = await organisations.FollowAsync(secret, http.RequestAborted);
        if (form is null || followed?.IsOpen(time.GetUtcNow()) != true)
        {
            await WriteAsync(http, identity, secret, followed, null, form is null ? PageRequests.Stale() : null, 400);
            return;
        }

        var (name, password) = (form["name"].ToString(), form["password"].ToString());
        var joined = await organisations.AcceptAsync(secret, name, password, http.RequestAborted);
        if (joined.Problem is { } problem)
        {
            var field = problem.Faults.Count > 0 ? problem.Faults[0].Field : null;
            var error = new PageError(PageWords.Of("join.not-yet"), problem.Detail.ToReader(), field is "name" or "password" ? field : null);
            // Between the look and the try somebody else may have been faster: the page is told anew.
            await WriteAsync(
                http, identity, secret, await organisations.FollowAsync(secret, http.RequestAborted), name, error,
                problem.Kind == Core.ProblemKind.TooMany ? 503 : 422);
            return;
        }

        await LandAsync(http, identity, followed, joined.Value);
    }

    /// <summary>Who has set a password is signed in with it; who had one before signs in as ever.</summary>
    private async Task LandAsync(HttpContext http, RequestIdentity identity, FollowedLink followed, Member member)
    {
        var account = options.AccountPrefix + "/";
        if (!followed.NeedsPassword || member.Status != MemberStatus.Active)
        {
            PageRequests.See(http, identity.Visitor.Email == member.Email ? account
                : $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(account)}");
            return;
        }

        await entrance.EnterAsync(http, member, RedirectOn.PasswordSet);
    }

    /// <summary>Another letter in place of one that came too late. The page says the same whatever comes of it.</summary>
    private async Task AgainAsync(HttpContext http)
    {
        if (await antiforgery.FormAsync(http) is { } form)
        {
            await organisations.AskAgainAsync(form["link"].ToString(), http.RequestAborted);
        }

        await refusals.MessageAsync(http, 200, "join.again-title", "join.again-lead");
    }

    private async Task WriteAsync(HttpContext http, RequestIdentity identity, string secret, FollowedLink? followed, string? name, PageError? error, int status)
    {
        var (token, now) = (antiforgery.GetAndStoreTokens(http), time.GetUtcNow());
        if (followed?.IsOpen(now) != true)
        {
            var state = followed?.IsLate(now) == true ? "late" : followed?.Link.ClosedBy == LinkEnd.Used ? "used" : "closed";
            await Page.WriteAsync<ClosedLinkPage>(http, status == 200 ? StatusCodes.Status410Gone : status, new
            {
                Frame = refusals.Frame(identity, "/"),
                Model = new ClosedLinkModel(
                    PageWords.Of("join.closed-title"), PageWords.Of("join." + state), state == "late" ? secret : null,
                    options.AccountPrefix + "/join/again", state == "used", token.FormFieldName,
                    token.RequestToken!),
            });
            return;
        }

        var other = identity.Visitor is { IsSignedIn: true } visitor && visitor.Email != followed.Link.Address ? visitor.Name ?? visitor.Email : null;
        await Page.WriteAsync<JoinPage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new JoinModel(
                followed.Organisation!.Title, followed.Link.Address, followed.NeedsPassword, name ?? followed.There?.Name, other, secret, error,
                token.FormFieldName, token.RequestToken!),
        });
    }
}

/// <summary>What the page of an invitation shows.</summary>
/// <param name="Organisation">What they are asked to join.</param>
/// <param name="Address">Whom the letter went to.</param>
/// <param name="NeedsPassword">Whether they set name and password.</param>
/// <param name="Name">Their name, as far as it is known.</param>
/// <param name="Other">Who is signed in here instead, if anybody.</param>
/// <param name="Secret">What stands in the link.</param>
/// <param name="Error">What is wrong.</param>
/// <param name="TokenField">The name of the anti-forgery field.</param>
/// <param name="Token">The token.</param>
public sealed record JoinModel(
    string Organisation, string Address, bool NeedsPassword, string? Name, string? Other, string Secret, PageError? Error, string TokenField, string Token);

/// <summary>What the page of a link shows that works no longer.</summary>
/// <param name="Title">The heading.</param>
/// <param name="Lead">Why, and what to do.</param>
/// <param name="Again">What stands in the link, where another letter can be sent.</param>
/// <param name="AgainTo">Where that is asked for.</param>
/// <param name="SignIn">Whether signing in is offered.</param>
/// <param name="TokenField">The name of the anti-forgery field.</param>
/// <param name="Token">The token.</param>
public sealed record ClosedLinkModel(string Title, string Lead, string? Again, string AgainTo, bool SignIn, string TokenField, string Token)
{
    /// <summary>Where a new one can be asked for, in place of another letter.</summary>
    public Core.Access.SiteLink? Ask { get; init; }
}
