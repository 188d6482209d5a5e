using System.Globalization;
using System.Security.Cryptography;
using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>What the thank-you page shows.</summary>
/// <param name="Title">The heading.</param>
/// <param name="Lines">What it says.</param>
public sealed record ThanksModel(string Title, IReadOnlyList<string> Lines)
{
    /// <summary>What the browser brought back from paying.</summary>
    public string Order { get; init; } = "";

    /// <summary>What was just done.</summary>
    public string? Note { get; init; }

    /// <summary>What is wrong.</summary>
    public PageError? Error { get; init; }

    /// <summary>What was typed.</summary>
    public string? Typed { get; init; }

    /// <summary>Whether the address can be put right.</summary>
    public bool CanMend { get; init; }

    /// <summary>Whether that is the first thing to do.</summary>
    public bool MendFirst { get; init; }

    /// <summary>Whether the letter can be sent again.</summary>
    public bool CanAgain { get; init; }

    /// <summary>Whether this browser paid, and may go in by that.</summary>
    public bool CanEnter { get; init; }

    /// <summary>Folders to download from, for the browser that paid.</summary>
    public IReadOnlyList<SiteLink> Folders { get; init; } = [];

    /// <summary>Whether the page looks again by itself.</summary>
    public bool Looks { get; init; }
}

/// <summary>
/// Where buyers go to pay, and where they come back. The page holds no secret: whoever else opens it reads a masked address. What the browser brings back
/// from paying lets its bearer put the address right, once and for an hour; only the browser that went to pay goes in by it, and only into an account that
/// the order made (docs/explanation/orders.md).
/// </summary>
public sealed class ThanksPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, OrderIntake intake, OrderDesk desk, MemberLinks links, PeopleLane people, Store store,
    ILetters letters, IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    private const int QuickLooks = 15;
    private const int MostLooks = 40;
    private static readonly TimeSpan Kept = TimeSpan.FromDays(1);
    private static readonly TimeSpan Mendable = TimeSpan.FromHours(1);

    private string Cookie => options.SiteIsTls ? "__Secure-wary-paying" : "wary-paying";

    /// <summary>Maps the pages.</summary>
    public void Map(IEndpointRouteBuilder site)
    {
        var account = site.MapGroup(options.AccountPrefix);
        account.MapGet("/pay", PayAsync);
        account.MapGet("/thanks", ShowAsync);
        account.MapPost("/thanks/again", AgainAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/thanks/mend", MendAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/thanks/enter", EnterAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    /// <summary>Sends a buyer to the page for paying, with something to bring back.</summary>
    private async Task PayAsync(HttpContext http)
    {
        var (code, wanted) = (http.Request.Query["code"].ToString(), http.Request.Query["at"].ToString());
        var book = OrderSourceBook.Of(policies.Current).All;
        var source = book.FirstOrDefault(s => s.Checkout is not null && (wanted.Length == 0 || s.Key == wanted));
        if (source?.Checkout is not { } checkout || code.Length is 0 or > FulfilmentDraft.LongestCode || !PlainText.IsClean(code))
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        var token = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        http.Response.Cookies.Append(Cookie, token, new CookieOptions
        {
            HttpOnly = true, SameSite = SameSiteMode.Lax, Secure = options.SiteIsTls, MaxAge = Kept, Path = options.AccountPrefix, IsEssential = true,
        });
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Redirect(checkout.Replace("{code}", Uri.EscapeDataString(code), StringComparison.Ordinal)
            .Replace("{token}", token, StringComparison.Ordinal)
            .Replace("{return}", Uri.EscapeDataString($"{letters.PageAt("/thanks")}?order={token}"), StringComparison.Ordinal));
    }

    private async Task ShowAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (identity.Sample is { } sample)
        {
            IReadOnlyList<string> lines = [PageWords.Of("thanks.paid", SamplePerson.Order), PageWords.Of("thanks.letter", Masked(sample.Email))];
            await WriteAsync(http, identity, null, new ThanksModel(PageWords.Of("thanks.title"), lines) { CanMend = true, CanAgain = true }, 200);
            return;
        }

        var token = TokenOf(http, http.Request.Query["order"]);
        await WriteAsync(http, identity, token, await ModelAsync(http, token, identity), 200);
    }

    /// <summary>What the page says to whoever brings that back.</summary>
    private async Task<ThanksModel> ModelAsync(HttpContext http, string? token, RequestIdentity identity)
    {
        if (token is null)
        {
            return new ThanksModel(PageWords.Of("thanks.title"), [PageWords.Of("thanks.generic")]);
        }

        if (await store.OrderByTokenAsync(EventReading.DigestOf(token), http.RequestAborted) is not { Handling: not OrderHandling.Open } order)
        {
            return await WaitingAsync(http, token);
        }

        var masked = Masked(order.Email);
        var model = new ThanksModel(PageWords.Of("thanks.title"), []) { Order = token, CanMend = await IsMendableAsync(order, http.RequestAborted) };
        if (order.Standing is OrderStanding.Refunded or OrderStanding.ChargedBack or OrderStanding.Ended)
        {
            return model with { Title = PageWords.Of("thanks.over-title"), Lines = [PageWords.Of("thanks.over")], CanMend = false };
        }

        if (order.Handling == OrderHandling.Due)
        {
            return model with
            {
                Lines = [PageWords.Of("thanks.paid", order.Key),
                PageWords.Of("thanks.due", masked, letters.Day(order.DueAt!.Value, CultureInfo.CurrentUICulture.Name))]
            };
        }

        if (order.WaitsFor is "address")
        {
            return model with { Lines = [PageWords.Of("thanks.paid", order.Key), PageWords.Of("thanks.address")], MendFirst = true };
        }

        var given = order.Promises.Any(p => p.IsTold) ? [PageWords.Of("thanks.letter", masked)] : Array.Empty<string>();
        var seen = order.Handling == OrderHandling.Waiting ? [PageWords.Of("thanks.seeing", masked)] : Array.Empty<string>();
        var isTheirs = identity.Visitor is { IsSignedIn: true, Email: { } mine } && mine == order.Email;
        return model with
        {
            Lines = [PageWords.Of("thanks.paid", order.Key), .. given, .. seen, .. isTheirs ? [PageWords.Of("thanks.theirs")] : Array.Empty<string>()],
            CanAgain = given.Length > 0,
            Folders = IsDoorOf(http, order, token)
                ? [.. desk.FoldersOf(order).Select(f => new SiteLink(options.AccountPrefix + f.Path, f.Title))] : [],
            CanEnter = !isTheirs && await MemberToEnterAsync(http, order, token) is not null,
        };
    }

    /// <summary>Nobody has told of it yet: the page looks again by itself, for some minutes, and says then that nothing is lost.</summary>
    private async Task<ThanksModel> WaitingAsync(HttpContext http, string token)
    {
        var failed = await store.OrderByTokenAsync(EventReading.DigestOf(token), http.RequestAborted) is { Standing: OrderStanding.Failed };
        if (failed)
        {
            return new ThanksModel(PageWords.Of("thanks.failed-title"), [PageWords.Of("thanks.failed")]) { Order = token };
        }

        var looks = int.TryParse(http.Request.Query["n"], NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? Math.Min(n, MostLooks) : 0;
        if (looks < MostLooks)
        {
            var seconds = looks < QuickLooks ? 2 : 10;
            http.Response.Headers["Refresh"] = $"{seconds}; url={letters.PageAt("/thanks")}?order={token}&n={looks + 1}";
        }

        return looks < QuickLooks
            ? new ThanksModel(PageWords.Of("thanks.waiting-title"), [PageWords.Of("thanks.waiting")]) { Order = token, Looks = true }
            : new ThanksModel(PageWords.Of("thanks.late-title"), [PageWords.Of("thanks.late")]) { Order = token, Looks = looks < MostLooks };
    }

    private async Task AgainAsync(HttpContext http)
    {
        var (identity, form, token, found) = await AskedAsync(http);
        if (form is null || found is not { } order)
        {
            await StaleAsync(http, identity, token, 400);
            return;
        }

        var sent = await desk.SendAgainAsync(order, http.RequestAborted);
        var model = await ModelAsync(http, token, identity);
        await WriteAsync(http, identity, token, sent ? model with { Note = PageWords.Of("thanks.again-done") }
            : model with { Error = new PageError(PageWords.Of("thanks.again-wait"), "") }, sent ? 200 : 429);
    }

    private async Task MendAsync(HttpContext http)
    {
        var (identity, form, token, order) = await AskedAsync(http);
        if (form is null || order is null || !await IsMendableAsync(order, http.RequestAborted))
        {
            await StaleAsync(http, identity, token, 400);
            return;
        }

        var typed = form["email"].ToString();
        if (EmailAddress.Normalise(typed) is not { } address || address == order.Email)
        {
            var error = new PageError(PageWords.Of(EmailAddress.Normalise(typed) is null ? "thanks.mend-bad" : "thanks.mend-same"), "", "email");
            await WriteAsync(http, identity, token, (await ModelAsync(http, token, identity)) with { Error = error, Typed = typed }, 422);
            return;
        }

        // One name for it: twice at once is once.
        var (now, name) = (intake.Now, $"mended {order.Id:N}");
        var told = new OrderEvent { Id = name, Order = order.Key, Kind = OrderEventKind.Mended, At = now, Buyer = new OrderBuyer(address) };
        await intake.KeepAsync(
            new KeptEvent(Guid.CreateVersion7(), order.Source, name, now, OrderEventState.Waiting, told), "buyer", http.RequestAborted);
        await desk.TakeUpAsync(order.Source, order.Key, "buyer", http.RequestAborted);
        await WriteAsync(
            http, identity, token, (await ModelAsync(http, token, identity)) with { Note = PageWords.Of("thanks.mend-done", Masked(address)) }, 200);
    }

    /// <summary>The browser that went to pay sets the first password of the account that its order made.</summary>
    private async Task EnterAsync(HttpContext http)
    {
        var (identity, form, token, order) = await AskedAsync(http);
        if (form is null || order is null || await MemberToEnterAsync(http, order, token!) is not { } member)
        {
            await StaleAsync(http, identity, token, 400);
            return;
        }

        var made = await people.ChangeAsync<string>(
            async () =>
            {
                var minted = await links.MintAsync(member, LinkPurpose.Invitation, time.GetUtcNow(), http.RequestAborted);
                return minted.Problem is { } problem ? problem : new Edit<string>(minted.Value.Edit.ToStore, minted.Value.Secret);
            },
            "buyer");
        if (made.Problem is not null)
        {
            await StaleAsync(http, identity, token, 429);
            return;
        }

        PageRequests.See(http, $"{options.AccountPrefix}/password/set?link={made.Value}");
    }

    /// <summary>What a form of the page is about: the form itself, unless it has grown old, and the order that its bearer brings back.</summary>
    private async Task<(RequestIdentity Identity, IFormCollection? Form, string? Token, Order? Order)> AskedAsync(HttpContext http)
    {
        var (identity, form) = (await visitors.ReadAsync(http), await antiforgery.FormAsync(http));
        var token = TokenOf(http, form?["order"]);
        return (identity, form, token, token is null ? null : await store.OrderByTokenAsync(EventReading.DigestOf(token), http.RequestAborted));
    }

    private async Task StaleAsync(HttpContext http, RequestIdentity identity, string? token, int status) =>
        await WriteAsync(http, identity, token, (await ModelAsync(http, token, identity)) with { Error = PageRequests.Stale() }, status);

    /// <summary>
    /// Whom this browser may go in as: an account that this order made and nobody has entered yet, where the owner lets the browser in that paid. Paying for
    /// somebody's account opens nobody's account.
    /// </summary>
    private async Task<Member?> MemberToEnterAsync(HttpContext http, Order order, string token) =>
        IsDoorOf(http, order, token) && order.Member is { } id
        && await store.MemberAsync(id, http.RequestAborted) is { Status: MemberStatus.Invited } member && member.Email == order.Email
        && member.Grants.All(order.Gave) ? member : null;

    /// <summary>Whether this browser paid, and the owner lets the browser in that did.</summary>
    private bool IsDoorOf(HttpContext http, Order order, string token) => http.Request.Cookies[Cookie] == token
        && order is { Handling: OrderHandling.Done, Standing: OrderStanding.Paid }
        && OrderSourceBook.Of(policies.Current).Find(order.Source) is { OpensDoor: true };

    private async Task<bool> IsMendableAsync(Order order, CancellationToken stop)
    {
        var events = await store.OrderEventsAsync(order.Source, order.Key, stop);
        return events.Count > 0 && time.GetUtcNow() - events[0].ReceivedAt < Mendable && events.All(e => e.Event?.Kind != OrderEventKind.Mended);
    }

    /// <summary>What the browser brings back; what it was sent off with where its address says nothing.</summary>
    private string? TokenOf(HttpContext http, string? said)
    {
        var token = string.IsNullOrEmpty(said) ? http.Request.Cookies[Cookie] : said;
        return token is { Length: >= 16 and <= 200 } && token.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.') ? token : null;
    }

    /// <summary>An address of which only its owner knows which it is.</summary>
    private static string Masked(string address) => address.LastIndexOf('@') is > 0 and var at ? $"{address[0]}{Secret.Shown}{address[at..]}" : Secret.Shown;

    private Task WriteAsync(HttpContext http, RequestIdentity identity, string? token, ThanksModel model, int status)
    {
        // Its address may hold what the browser brings back.
        http.Response.Headers["Referrer-Policy"] = "no-referrer";
        return ThanksPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, token is null ? model : model with { Order = token }, status);
    }
}
