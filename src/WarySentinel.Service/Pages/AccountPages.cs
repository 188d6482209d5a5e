using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>The pages under <c>/account</c>: sign-in, sign-out, the password prompt, the account itself.</summary>
public sealed class AccountPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, SignIn signIn, Sessions sessions, IPasses passes,
    ViewLinks viewLinks, KnownBrowsers browsers, AccountOverview overview, JoinPages join, OrganisationPages organisations,
    PasswordPages passwords, LinkPages links, LetterWishPages wishes, RegisterPages register, RequestPages requests, ProfilePages profile,
    TermsPages terms, AgreePages agreeing, DirectoryPages directory, TermsAsked agree, ILetters letters, PeopleLane people,
    IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    /// <summary>Maps the pages and what they need.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapGet("/language", Choose);
        account.MapGet("/", AccountAsync);
        account.MapGet("/sign-in", SignInFormAsync);
        account.MapPost("/sign-in", SignInAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/sign-out", SignOutFormAsync);
        account.MapPost("/sign-out", SignOutAsync);
        account.MapGet("/closed", ClosedAsync);
        account.MapGet("/failure", FailureAsync);
        account.MapGet("/framed.css", StyleAsync);
        overview.Map(account);
        join.Map(account);
        passwords.Map(account);
        links.Map(account);
        wishes.Map(account);
        register.Map(account);
        requests.Map(account);
        profile.Map(account);
        terms.Map(account);
        agreeing.Map(account);
        directory.Map(account);
        organisations.Map(account);
        account.MapFallback(refusals.NotFoundAsync);
        site.MapGet(options.MachinePrefix + "/view", ViewAsync);
        site.MapGet(options.MachinePrefix + "/parts.js", PageAssets.Script);
        site.MapFallback(options.MachinePrefix + "/{**rest}", refusals.NotFoundAsync);
    }

    /// <summary>The style of pages that stand within one of the site.</summary>
    private Task StyleAsync(HttpContext http)
    {
        http.Response.Headers.CacheControl = "public, max-age=3600";
        http.Response.Headers.XContentTypeOptions = "nosniff";
        http.Response.ContentType = "text/css; charset=utf-8";
        return http.Response.WriteAsync(FramedStyle.Of(policies.Current.Settings.Look), http.RequestAborted);
    }

    private async Task AccountAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (identity.Owing is not null)
        {
            PageRequests.See(http, AgreePages.AddressOf(options.AccountPrefix, options.AccountPrefix + "/"));
            return;
        }

        if (await overview.WriteAsync(http, identity))
        {
            return;
        }

        var (visitor, policy, now) = (identity.Visitor, policies.Current, time.GetUtcNow());
        var dates = new SiteDates(policy.Settings.TimeZone);
        var lines = new List<string>
        {
            visitor.IsSignedIn ? PageWords.Of("account.lead", visitor.Name ?? visitor.Email)
                : PageWords.Of(visitor.Grants.Count > 0 ? "account.pass" : "account.guest"),
        };
        // The end of the pass, not when this browser has to sign in again.
        var own = (await sessions.FindAsync(http, SessionPurpose.Site))?.Stored.Pass is { } id ? await passes.FindAsync(id, http.RequestAborted) : null;
        lines.AddRange(visitor.Grants.Where(g => g.Kind == FactKind.Pass && g.IsInForce(now)).Select(g => own?.Grant.Key == g.Key ? own.Grant : g).Select(
            g => (policy.FindDefinition(FactKind.Pass, g.Key)?.Title ?? g.Key)
                + (g.Until is { } end ? " – " + PageWords.Of("account.until", Page.Day(dates, end, true)) : "")));
        var held = policy.Definitions.Where(s => s.Kind != FactKind.Pass && visitor.Has(s.Kind, s.Key, now)).Select(s => s.Title).ToList();
        if (held.Count > 0)
        {
            lines.Add(PageWords.Of("account.roles", string.Join(", ", held)));
        }

        var unlocked = policy.Gates.Where(g => visitor.HasUnlocked(g.Key, now)).Select(g => g.Title).ToList();
        if (unlocked.Count > 0)
        {
            lines.Add(PageWords.Of("account.unlocked", string.Join(", ", unlocked)));
        }

        var opened = policy.Gates.Where(g => g is { IsExemption: false } && g.IsInForce(now) && visitor.Grants.Any(p => p.Kind == FactKind.Pass
            && p.IsInForce(now) && g.Audience.FactsAsked().Any(f => f.Kind == FactKind.Pass && f.Key == p.Key)) && g.Admits(visitor, now));
        var links = opened.Select(g => Landing.Of(policy, g, visitor, now) is { } landing
            ? new Core.Access.SiteLink(landing, PageWords.Own($"gate:{g.Key}.title", g.Title)) : null).OfType<Core.Access.SiteLink>()
                .DistinctBy(l => l.Address);
        var token = visitor.IsSignedIn || unlocked.Count > 0 || visitor.Grants.Count > 0 ? antiforgery.GetAndStoreTokens(http) : null;
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(identity, options.AccountPrefix + "/"),
            Model = new MessageModel(PageWords.Of("account.title"), lines)
            {
                TokenField = token?.FormFieldName ?? "", SignOutToken = token?.RequestToken, SignOutWords = PageWords.Of("account.sign-out"),
                SignIn = !visitor.IsSignedIn && visitor.Grants.Count == 0,
                Links = [.. links],
            },
        });
    }

    /// <summary>Keeps the language that somebody chose, and goes back to the page where they did.</summary>
    private void Choose(HttpContext http)
    {
        PageLanguage.Choose(http, policies.Current, http.Request.Query["to"], options.SiteIsTls);
        var from = http.Request.GetTypedHeaders().Referer;
        var isOurs = from is { IsAbsoluteUri: true } && string.Equals(from.Authority, http.Request.Host.Value, StringComparison.OrdinalIgnoreCase);
        PageRequests.See(http, ReturnTo.OrElse(isOurs ? from!.PathAndQuery : null, options.AccountPrefix + "/"));
    }

    private async Task SignInFormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var back = PageRequests.BackOf(http.Request.Query["return_to"]);
        if (identity.IsMember)
        {
            PageRequests.See(http, refusals.DecisionAt(http, identity, back) is { Decision.Allowed: false }
                ? $"{options.AccountPrefix}/closed?return_to={Uri.EscapeDataString(back!)}" : back ?? options.AccountPrefix + "/");
            return;
        }

        await refusals.SignInAsync(http, identity, back, null, true, null, 200);
    }

    private async Task SignInAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await antiforgery.FormAsync(http) is not { } form)
        {
            await refusals.SignInAsync(http, identity, null, null, true, PageRequests.Stale(), 400);
            return;
        }

        var back = PageRequests.BackOf(form["return_to"]);
        var (name, password, keep) = (form["name"].ToString().Trim(), form["password"].ToString(), form["keep"] == "yes");
        if (name.Length == 0 || password.Length == 0)
        {
            var error = name.Length == 0
                ? new PageError(PageWords.Of("error.empty-name"), "", "name")
                : new PageError(PageWords.Of("error.empty-password"), "", "password");
            await refusals.SignInAsync(http, identity, back, name, keep, error, 422);
            return;
        }

        var tried = await signIn.TryAsync(name, password, new TryFrom(Networks.Of(http), browsers.Read(http, SessionPurpose.Site)), http.RequestAborted, true);
        if (tried.Pass is { } pass)
        {
            await sessions.BeginAsync(http, SessionPurpose.Site, null, keep, null, (pass.Id, Earlier(pass.Grant.Until, tried.PassUntil)));
            PageRequests.See(http, AfterPass(http, identity.Visitor.Holding(pass.Grant), pass, back));
            return;
        }

        if (tried.Member is not { } member)
        {
            await refusals.SignInAsync(http, identity, back, name, keep, Wrong(http, tried, "error.wrong", "error.wrong-more"),
                http.Response.StatusCode == 200 ? 401 : http.Response.StatusCode);
            return;
        }

        await sessions.BeginAsync(http, SessionPurpose.Site, member.Id, keep);
        await TellOfNewDeviceAsync(http, member);
        browsers.Note(http, SessionPurpose.Site, member.Id);
        PageRequests.See(http, agree.Via(member, AfterSignIn(http, member, back, PageRequests.BackOf(form["to"]))));
    }

    private static DateTimeOffset? Earlier(DateTimeOffset? one, DateTimeOffset? other) => one is null || other < one ? other : one;

    /// <summary>Where somebody lands who came by a pass: where they wanted to, where that is open now; else where the first gate leads that it opens.</summary>
    private string AfterPass(HttpContext http, Visitor visitor, HeldPass pass, string? wanted)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        if (wanted is not null)
        {
            return refusals.DecisionAt(http, new RequestIdentity(visitor, null), wanted) is { Decision.Allowed: false }
                ? $"{options.AccountPrefix}/closed?return_to={Uri.EscapeDataString(wanted)}" : wanted;
        }

        var opens = policy.Gates.Where(g => g is { IsExemption: false, Enabled: true } && g.Audience.FactsAsked().Any(
            f => f.Kind == FactKind.Pass && f.Key == pass.Grant.Key) && g.Admits(visitor, now)).ToList();
        return Destination.Of(policy, new Lander(RedirectOn.SignIn, visitor, null), now) is { Why: DestinationWhy.Rule, To: { } to } ? to
            : opens.Count == 1 && Landing.Of(policy, opens[0], visitor, now) is { } landing ? landing : options.AccountPrefix + "/";
    }

    /// <summary>Tells a member that their account is used with a browser that it was never used with; not at their very first sign-in.</summary>
    private async Task TellOfNewDeviceAsync(HttpContext http, Member member)
    {
        if (member.SeenAt is null || browsers.Read(http, SessionPurpose.Site).Knows(member.Id))
        {
            return;
        }

        var letter = letters.Write(
            "new-device", LetterReader.Of(member), ("device", Browsers.NameOf(http.Request.Headers.UserAgent) ?? PageWords.Of("account.some-browser")),
            ("at", letters.Day(time.GetUtcNow(), member.Language)), ("link", letters.PageAt("/password/forgotten")));
        await people.ChangeAsync(new Core.Edit<int>(new Core.Edit("member.device", member.Email, [letter]), 0), member.Email);
    }

    /// <summary>Where somebody lands who signed in. Who wanted a page that stays closed to them reads why, unless a rule leads them elsewhere.</summary>
    private string AfterSignIn(HttpContext http, Member member, string? wanted, string? form)
    {
        var (visitor, policy) = (member.AsVisitor().From(http.Connection.RemoteIpAddress), policies.Current);
        var on = member.SeenAt is null ? RedirectOn.FirstSignIn : RedirectOn.SignIn;
        var found = Destination.Of(policy, new Lander(on, visitor, wanted, form), time.GetUtcNow());
        return found.To is { } to && !(found.Why == DestinationWhy.Home && wanted is not null) ? to
            : wanted is null ? "/" : $"{options.AccountPrefix}/closed?return_to={Uri.EscapeDataString(wanted)}";
    }

    private async Task SignOutFormAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(identity, options.AccountPrefix + "/"),
            Model = new MessageModel(PageWords.Of("sign-out.title"), [])
            { TokenField = token.FormFieldName, SignOutToken = token.RequestToken, SignOutWords = PageWords.Of("account.sign-out") },
        });
    }

    private async Task SignOutAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await antiforgery.FormAsync(http) is not { } form)
        {
            await SignOutFormAsync(http);
            return;
        }

        await sessions.EndAsync(http, SessionPurpose.Site);
        await sessions.EndAsync(http, SessionPurpose.Passing);
        // The browser forgets pages it kept for "back" as well (Clear Site Data §3.1).
        http.Response.Headers["Clear-Site-Data"] = "\"cache\"";
        if (PageRequests.BackOf(form["return_to"]) is { } back)
        {
            PageRequests.See(http, $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(back)}");
            return;
        }

        if (Destination.Of(policies.Current, new Lander(RedirectOn.SignOut, Visitor.Guest) { Whose = identity.Visitor }, time.GetUtcNow()).To is { } landing)
        {
            PageRequests.See(http, landing);
            return;
        }

        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new MessageModel(PageWords.Of("signed-out.title"), [PageWords.Of("signed-out.lead")]) { SignIn = true },
        });
    }

    private async Task ClosedAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var back = PageRequests.BackOf(http.Request.Query["return_to"]);
        if (back is null || refusals.DecisionAt(http, identity, back) is not ({ } decision, _))
        {
            await refusals.NotFoundAsync(http);
        }
        else if (decision.Refusal is { } refusal)
        {
            await refusals.ClosedAsync(http, identity, refusal.Gate, decision.Items.Count > 0 ? decision.Items[0] : null, back);
        }
        else
        {
            PageRequests.See(http, back);
        }
    }

    /// <summary>What visitors read when the site behind does not answer; here for staff to look at it.</summary>
    private async Task FailureAsync(HttpContext http) =>
        await ((await visitors.ReadAsync(http)).Sample is null ? refusals.NotFoundAsync(http) : refusals.OriginFailedAsync(http, 502));

    private async Task ViewAsync(HttpContext http)
    {
        var back = PageRequests.BackOf(http.Request.Query["return_to"]) ?? "/";
        GuardedHeaders.Set(http.Response.Headers);
        if (http.Request.Query["leave"] == "1")
        {
            await sessions.EndAsync(http, SessionPurpose.View);
            PageRequests.See(http, back);
            return;
        }

        if (await viewLinks.EnterAsync(http, http.Request.Query["ticket"].ToString()))
        {
            PageRequests.See(http, back);
            return;
        }

        await refusals.MessageAsync(http, 403, "view.expired-title", "view.expired-lead");
    }

    /// <summary>What is said of a wrong try; sets the status where it is more than wrong.</summary>
    internal static PageError Wrong(HttpContext http, SignInResult tried, string lead, string more)
    {
        if (tried.Words is { } words)
        {
            http.Response.StatusCode = StatusCodes.Status403Forbidden;
            return new PageError(PageWords.Of("error.kept-out"), words);
        }

        if (tried.Busy)
        {
            http.Response.StatusCode = 503;
            http.Response.Headers.RetryAfter = "3";
            return new PageError(PageWords.Of("error.busy"), PageWords.Of("error.busy-more"));
        }

        if (tried.Wait > TimeSpan.Zero)
        {
            http.Response.StatusCode = 429;
            http.Response.Headers.RetryAfter = Math.Ceiling(tried.Wait.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
            return new PageError(PageWords.Of("error.wait"), PageWords.Of("error.wait-more", PageWords.Duration(tried.Wait)), "password");
        }

        var left = tried.Left switch
        {
            > 3 or <= 0 => "",
            var n => " " + PageWords.Count("error.left", n),
        };
        return new PageError(PageWords.Of(lead), PageWords.Of(more) + left, "password");
    }
}
