using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Pages;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>Gives the refused what their gate's answer says, as a page or, to machines, as a problem (RFC 9457).</summary>
public sealed class Refusals(PolicyHolder policies, IAntiforgery antiforgery, Previews previews, ServiceOptions options, TimeProvider time)
{
    /// <summary>Answers a refused request at the address where it was made.</summary>
    public async Task RespondAsync(HttpContext http, RequestIdentity identity, Policy policy, Decision decision, RequestPath path)
    {
        var refusal = decision.Refusal!;
        PageLanguage.Speak(http, policy);
        PageDress.Wear(http, previews, policy);
        http.Features.Set(new Decided(identity.Visitor, ReturnTo.OrElse(path.SentWithQuery, "/"), (decision, path)));
        var challenge = BasicCredentials.ChallengeOf(http.Request, refusal, policy.Settings.SiteName);
        if (challenge is not null)
        {
            http.Response.Headers.WWWAuthenticate = challenge;
        }

        if (WantsJson(http.Request))
        {
            await JsonAsync(http, refusal);
            return;
        }

        if (challenge is not null && !BasicCredentials.IsBrowser(http.Request))
        {
            await AskToolAsync(http, refusal);
            return;
        }

        var back = ReturnTo.OrElse(path.SentWithQuery, "/");
        if (identity.Owing is { } owing && (refusal.Answer != Answer.NotFound
            || policy.Decide(owing, path, Acts.Open, identity.At ?? time.GetUtcNow()).Allowed))
        {
            AskToAgree(http, back);
            return;
        }

        if (Destination.OfRefusal(policy, identity.Visitor, refusal, back, identity.At ?? time.GetUtcNow()) is { } elsewhere)
        {
            PageRequests.See(http, elsewhere);
            return;
        }

        switch (refusal.Answer)
        {
            case Answer.SignIn:
                // A scheme that no browser knows: none shows its grey box (RFC 9110 §11.6.1).
                http.Response.Headers.WWWAuthenticate = challenge
                    ?? $"Cookie realm=\"{Quoted(policy.Settings.SiteName)}\", form-action=\"{options.AccountPrefix}/sign-in\"";
                await SignInAsync(http, identity, back, null, true, null, StatusCodes.Status401Unauthorized);
                break;
            case Answer.Register:
                PageRequests.See(http, $"{options.AccountPrefix}/register?return_to={Uri.EscapeDataString(back)}");
                break;
            case Answer.Password:
                http.Response.Headers.WWWAuthenticate = challenge
                    ?? $"Cookie realm=\"{Quoted(policy.Settings.SiteName)}\", form-action=\"{options.AccountPrefix}/unlock\"";
                await UnlockAsync(http, identity, refusal.Gate, back, null, StatusCodes.Status401Unauthorized);
                break;
            case Answer.Redirect:
                GuardedHeaders.Set(http.Response.Headers);
                http.Response.StatusCode = StatusCodes.Status303SeeOther;
                http.Response.Headers.Location = refusal.Gate.RedirectTo;
                break;
            case Answer.NotFound:
                await NotFoundAsync(http);
                break;
            default:
                await ClosedAsync(http, identity, refusal.Gate, decision.Items.Count > 0 ? decision.Items[0] : null, back);
                break;
        }
    }

    /// <summary>The sign-in page.</summary>
    public async Task SignInAsync(HttpContext http, RequestIdentity identity, string? returnTo, string? name, bool keep, PageError? error, int status)
    {
        if (identity.Owing is not null)
        {
            AskToAgree(http, returnTo);
            return;
        }

        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<SignInPage>(http, status, new
        {
            Frame = Frame(identity, returnTo ?? "/"),
            Model = new SignInModel(Kicker(http, identity, returnTo), returnTo, name, keep, options.SessionDays, error, token.FormFieldName,
                token.RequestToken!)
            {
                HasEnded = error is null && identity.Visitor is { IsSignedIn: false, IsViewpoint: false, Unlocks.Count: 0, Grants.Count: 0 }
                    && http.Request.Cookies.ContainsKey(Sessions.SiteCookieOf(options)),
            },
        });
    }

    /// <summary>The prompt for a gate's shared password, or for any where no gate is named.</summary>
    public async Task UnlockAsync(HttpContext http, RequestIdentity identity, Gate? gate, string? returnTo, PageError? error, int status)
    {
        var token = antiforgery.GetAndStoreTokens(http);
        var settings = policies.Current.Settings;
        var offers = gate is not null && !identity.Visitor.IsSignedIn
            && gate.Audience.Atoms().Any(a => a is Audience.Fact or Audience.Plain { Atom: PlainAtom.SignedIn });
        var title = gate is null ? null : ListedTitle(http, identity, returnTo ?? "", gate);
        var own = new PromptWords(
            PageWords.Of("unlock.title"), gate is null ? PageWords.Of("unlock.lead-any", SiteName)
            : PageWords.Of("unlock.lead", SiteName, Page.UnlockTime(gate.UnlockFor)),
            PageWords.Of("unlock.label"), null, PageWords.Of("unlock.button"));
        await Page.WriteAsync<UnlockPage>(http, status, new
        {
            Frame = Frame(identity, returnTo ?? options.AccountPrefix + "/unlock"),
            Model = new UnlockModel(
                gate is null ? null : title is null ? PageWords.Of("unlock.kicker-plain") : PageWords.Of("unlock.kicker", title), MessageOf(gate),
                Said($"gate:{gate?.Key}", gate?.Prompt).Or(Said("site", settings.Prompt)).Or(own),
                LinkOf(gate), gate?.Key, returnTo, offers, error, token.FormFieldName,
                token.RequestToken!),
        });
    }

    /// <summary>The page for somebody signed in whom the gate does not admit.</summary>
    public async Task ClosedAsync(HttpContext http, RequestIdentity identity, Gate? gate, ItemId? item, string returnTo)
    {
        if (identity.Owing is not null)
        {
            AskToAgree(http, returnTo);
            return;
        }

        var visitor = identity.Visitor;
        var lines = new List<string>();
        if (MessageOf(gate) is { } own)
        {
            lines.Add(own);
        }
        else
        {
            lines.Add(visitor.IsSignedIn
                ? PageWords.Of("closed.lead", visitor.Name ?? identity.Viewpoint?.Title ?? "", SiteName)
                : PageWords.Of("closed.lead-guest"));
        }

        var token = identity.IsMember ? antiforgery.GetAndStoreTokens(http) : null;
        var title = item is null || gate is null ? null : ListedTitle(http, identity, returnTo, gate);
        await Page.WriteAsync<MessagePage>(http, StatusCodes.Status403Forbidden, new
        {
            Frame = Frame(identity, returnTo),
            Model = new MessageModel(PageWords.Of("closed.title"), lines)
            {
                Links = LinkOf(gate) is { } link ? [link] : [],
                Kicker = title is null ? null : PageWords.Of("closed.kicker", title, GateWords.OfAudience(gate!.Audience, policies.Current, Reader.Book)),
                TokenField = token?.FormFieldName ?? "",
                SignOutToken = token?.RequestToken,
                SignOutWords = PageWords.Of("closed.other"),
                SignOutTo = returnTo,
                SignIn = !visitor.IsSignedIn,
            },
        });
    }

    /// <summary>What a program reads that is to send a name and password, in a few lines of text.</summary>
    private Task AskToolAsync(HttpContext http, Refusal refusal)
    {
        var refused = http.Features.Get<BasicRefused>();
        var isSlowed = refused is { Wait.Ticks: > 0 };
        Page.Guard(http);
        http.Response.StatusCode = isSlowed ? StatusCodes.Status429TooManyRequests : StatusCodes.Status401Unauthorized;
        http.Response.ContentType = "text/plain; charset=utf-8";
        if (isSlowed)
        {
            http.Response.Headers.RetryAfter = Math.Ceiling(refused!.Wait.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
        }

        List<string?> lines =
        [
            PageWords.Of("basic.title", refusal.Gate.Presence == Presence.Hidden ? SiteName
                : PageWords.Own($"gate:{refusal.Gate.Key}.title", refusal.Gate.Title)),
            isSlowed ? PageWords.Of("error.wait-more", PageWords.Duration(refused!.Wait)) : refused?.Words
                ?? (refused is null ? null : PageWords.Of("error.wrong")),
            MessageOf(refusal.Gate), LinkOf(refusal.Gate) is { } link ? $"{link.Words}: {InFull(link.Address)}" : null,
            PageWords.Of("basic.page", InFull(options.AccountPrefix + "/sign-in")),
        ];
        return http.Response.WriteAsync(string.Join('\n', lines.OfType<string>()) + "\n", http.RequestAborted);
    }

    private string InFull(string address) => address.StartsWith('/') ? options.SiteUrl.TrimEnd('/') + address : address;

    private void AskToAgree(HttpContext http, string? back) => PageRequests.See(http, AgreePages.AddressOf(options.AccountPrefix, back));

    /// <summary>Status 404.</summary>
    public Task NotFoundAsync(HttpContext http) => MessageAsync(http, 404, "not-found.title", "not-found.lead");

    /// <summary>Status 400: the address has two readings.</summary>
    public Task AmbiguousAsync(HttpContext http) => MessageAsync(http, 400, "ambiguous.title", "ambiguous.lead");

    /// <summary>Status 503: no origin is set.</summary>
    public Task NoOriginAsync(HttpContext http) => MessageAsync(http, 503, "origin.none-title", "origin.none-lead");

    /// <summary>What was sent cannot be taken (4xx), or something broke here (5xx).</summary>
    public Task FailedAsync(HttpContext http, int status) => status switch
    {
        408 => MessageAsync(http, 408, "slow.title", "slow.lead"),
        413 => MessageAsync(http, 413, "too-large.title", "too-large.lead"),
        507 => MessageAsync(http, 507, "full.title", "full.lead"),
        < 500 => MessageAsync(http, status, "unreadable.title", "unreadable.lead"),
        _ => MessageAsync(http, status, "broken.title", "broken.lead"),
    };

    /// <summary>The origin is dead (502), slow (504), or would not take what was sent.</summary>
    public Task OriginFailedAsync(HttpContext http, int status) => status switch
    {
        400 or 408 or 413 => FailedAsync(http, status),
        504 => MessageAsync(http, 504, "origin.slow-title", "origin.lead"),
        _ => MessageAsync(http, status, "origin.title", "origin.lead"),
    };

    /// <summary>A page with a title and one line.</summary>
    public async Task MessageAsync(HttpContext http, int status, string title, string line)
    {
        PageLanguage.Speak(http, policies.Current);
        if (WantsJson(http.Request))
        {
            await ProblemAsync(http, status, title.Split('.')[0], PageWords.Of(line));
            return;
        }

        await Page.WriteAsync<MessagePage>(http, status, new
        {
            Frame = FrameOf(null),
            Model = new MessageModel(PageWords.Of(title), [PageWords.Of(line)]),
        });
    }

    /// <summary>The frame of a page, with the viewpoint's strip where one is looked through.</summary>
    public PageFrame Frame(RequestIdentity identity, string here) =>
        FrameOf(identity.Viewpoint is { } view ? ViewpointBanner.For(view, options, here, Reader.Book) : null);

    /// <summary>The frame of a page that many get; it bears nobody's strip.</summary>
    internal PageFrame Frame() => FrameOf(null);

    /// <summary>What the site is called in the reader's language.</summary>
    public string SiteName => PageWords.Own("site.name", policies.Current.Settings.SiteName);

    private PageFrame FrameOf(byte[]? banner)
    {
        var (policy, settings) = (policies.Current, policies.Current.Settings);
        var site = PageDress.Tried ?? settings.Look;
        var look = site with { Links = [.. site.Links.Select(l => l with { Words = PageWords.Own("site.link:" + l.Address, l.Words) })] };
        return new PageFrame(settings with { SiteName = SiteName, Look = look }, options.AccountPrefix, banner, options.AdminUrl, PageLanguage.Choices(policy))
        {
            Pages = PageBook.Of(policy),
        };
    }

    /// <summary>
    /// The gate that keeps the visitor from an address, and the answer it gives; null when it is open. Decided once for a request, however many of its
    /// parts ask.
    /// </summary>
    public (Decision Decision, RequestPath Path)? DecisionAt(HttpContext http, RequestIdentity identity, string? returnTo)
    {
        if (http.Features.Get<Decided>() is { } known && ReferenceEquals(known.Visitor, identity.Visitor) && known.Address == returnTo)
        {
            return known.Found;
        }

        (Decision, RequestPath)? found =
            ReturnTo.IsOnThisSite(returnTo) && RequestPath.TryNormalise(returnTo!.Split('#')[0], policies.Current.Settings.Paths, out var path, out _)
            ? (policies.Current.Decide(identity.Visitor, path, Acts.Open, identity.At ?? time.GetUtcNow()), path)
            : null;
        http.Features.Set(new Decided(identity.Visitor, returnTo, found));
        return found;
    }

    /// <summary>What was decided about an address in this request.</summary>
    private sealed record Decided(Visitor Visitor, string? Address, (Decision, RequestPath)? Found);

    private string? Kicker(HttpContext http, RequestIdentity identity, string? returnTo)
    {
        if (DecisionAt(http, identity, returnTo) is not ({ Refusal: { } refusal }, _))
        {
            return null;
        }

        return ListedTitle(http, identity, returnTo!, refusal.Gate) is { } title
            ? PageWords.Of("sign-in.kicker", title, GateWords.OfAudience(refusal.Gate.Audience, policies.Current, Reader.Book))
            : PageWords.Of("sign-in.kicker-hidden");
    }

    /// <summary>The title of what stands at an address, unless the visitor must not know of it.</summary>
    private string? ListedTitle(HttpContext http, RequestIdentity identity, string returnTo, Gate gate)
    {
        if (DecisionAt(http, identity, returnTo) is not ({ } decision, _) || decision.Items.Count == 0)
        {
            return gate.Presence == Presence.Hidden ? null : PageWords.Own($"gate:{gate.Key}.title", gate.Title);
        }

        var policy = policies.Current;
        return policy.Graph.Find(decision.Items[0]) is { } item && policy.Allows(identity.Visitor, item.Id, Acts.List, identity.At ?? time.GetUtcNow())
            ? PageWords.Own(TextCatalogue.TitleKey(item.Id), item.Title) : null;
    }

    /// <summary>
    /// Whether a program asks rather than somebody who reads: it says so, or the browser says of it that it fetches for a script (Fetch Metadata §2.2; the
    /// older header is by convention). Whoever asks for HTML by name gets a page.
    /// </summary>
    private static bool WantsJson(HttpRequest request)
    {
        var accept = request.Headers.Accept.ToString();
        return !accept.Contains("text/html", StringComparison.OrdinalIgnoreCase) && (accept.Contains("json", StringComparison.OrdinalIgnoreCase)
            || request.Headers["Sec-Fetch-Dest"] == "empty"
            || string.Equals(request.Headers["X-Requested-With"], "XMLHttpRequest", StringComparison.OrdinalIgnoreCase));
    }

    private static Task JsonAsync(HttpContext http, Refusal refusal)
    {
        var (status, code) = refusal.Answer switch
        {
            Answer.SignIn or Answer.Register => (401, "sign-in-required"),
            Answer.Password => (401, "password-required"),
            Answer.NotFound => (404, "not-found"),
            _ => (403, "closed"),
        };
        var text = refusal.Answer == Answer.NotFound ? PageWords.Of("not-found.lead") : MessageOf(refusal.Gate) ?? PageWords.Of("closed.lead-guest");
        return ProblemAsync(http, status, code, text, refusal.Answer == Answer.NotFound ? null : refusal.Gate.Link);
    }

    private static Task ProblemAsync(HttpContext http, int status, string code, string detail, SiteLink? link = null)
    {
        Page.Guard(http);
        http.Response.StatusCode = status;
        return http.Response.WriteAsJsonAsync(
            new { type = "urn:wary-sentinel:problem:" + code, title = code, status, detail, code, link = link?.Address }, options: null,
            contentType: "application/problem+json", http.RequestAborted);
    }

    private static string? MessageOf(Gate? gate) => gate?.Message is { } own ? PageWords.Own($"gate:{gate.Key}.message", own) : null;

    private static SiteLink? LinkOf(Gate? gate) => gate?.Link is { } link ? link with { Words = PageWords.Own($"gate:{gate.Key}.link", link.Words) } : null;

    /// <summary>The owner's words on a prompt, each in the reader's language where they have it.</summary>
    private static PromptWords Said(string name, PromptWords? words)
    {
        string? In(string field, string? text) => text is null ? null : PageWords.Own($"{name}.prompt.{field}", text);
        return new PromptWords(
            In("heading", words?.Heading), In("text", words?.Text), In("label", words?.Label), In("placeholder", words?.Placeholder),
            In("button", words?.Button));
    }

    private static string Quoted(string text) => new([.. text.Where(c => c is >= ' ' and <= '~' and not ('"' or '\\'))]);
}
