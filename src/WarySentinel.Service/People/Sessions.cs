using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.People;

/// <summary>Begins, finds and ends sessions; the cookie holds a signed ticket and nothing else.</summary>
public sealed class Sessions(
    Store store, SessionCache cache, IPasses passes, Hearsay hearsay, PolicyHolder policies, Secrets secrets, ServiceOptions options, TimeProvider time)
{
    private static readonly TimeSpan ViewLasts = TimeSpan.FromHours(4);

    // By purpose; with the __Host- prefix under TLS (RFC 6265bis §4.1.3.2).
    private readonly string[] cookies =
    [
        SiteCookieOf(options),
        options.AdminIsTls ? "__Host-wary-console" : "wary-console",
        options.SiteIsTls ? "__Host-wary-view" : "wary-view",
        options.SiteIsTls ? "__Host-wary-here" : "wary-here",
    ];

    /// <summary>The name of the cookie of a purpose.</summary>
    public string CookieOf(SessionPurpose purpose) => cookies[(int)purpose];

    /// <summary>The cookie of a visitor's session.</summary>
    public static string SiteCookieOf(ServiceOptions options) => options.SiteIsTls ? "__Host-wary" : "wary";

    /// <summary>Whether a cookie is one of ours.</summary>
    public bool IsOurs(ReadOnlySpan<char> cookie)
    {
        foreach (var name in cookies)
        {
            if (cookie.SequenceEqual(name))
            {
                return true;
            }
        }

        return cookie.SequenceEqual(AntiforgeryCookie.Name) || cookie.SequenceEqual("wary-known") || cookie.SequenceEqual("__Host-wary-known");
    }

    /// <summary>The session that the request's cookie stands for, or null. On the path of every request: no allocation for a session lately seen.</summary>
    public ValueTask<LiveSession?> FindAsync(HttpContext http, SessionPurpose purpose)
    {
        if (!CookieHeader.TryFind(http.Request.Headers.Cookie, cookies[(int)purpose], out var ticket))
        {
            return ValueTask.FromResult<LiveSession?>(null);
        }

        return cache.TryGet(ticket, out var live)
            ? ValueTask.FromResult(live.Stored.Until > time.GetUtcNow() ? live : null)
            : LoadAsync(ticket.ToString(), purpose, http.RequestAborted);
    }

    /// <summary>Begins a session and sets its cookie. What an older session of the same browser had unlocked comes along; the older one ends.</summary>
    /// <param name="http">The request.</param>
    /// <param name="purpose">What it is for.</param>
    /// <param name="member">Who signed in, or null.</param>
    /// <param name="keep">Whether the cookie outlives the browser.</param>
    /// <param name="view">The viewpoint's name, for <see cref="SessionPurpose.View"/>.</param>
    /// <param name="pass">The pass that somebody came by; whoever is signed in stays so, and a pass of before stays where none is given.</param>
    public async Task<StoredSession> BeginAsync(
        HttpContext http, SessionPurpose purpose, Guid? member, bool keep, string? view = null, (Guid Id, DateTimeOffset? Until)? pass = null)
    {
        var now = time.GetUtcNow();
        var old = await FindAsync(http, purpose);
        var lasts = purpose == SessionPurpose.View ? ViewLasts : keep ? TimeSpan.FromDays(options.SessionDays) : TimeSpan.FromHours(12);
        var agent = http.Request.Headers.UserAgent.ToString();
        var unlocks = old?.Stored.Unlocks ?? [];
        var until = unlocks.Select(u => u.Until).Append(now + lasts).Max();
        if (pass is not null && member is null && old?.Stored.Member is { } there)
        {
            // Nobody stays signed in any longer for having come by a pass.
            (member, lasts) = (there, old.Stored.Until - now < lasts ? old.Stored.Until - now : lasts);
        }

        var (passId, passUntil) = pass is var (id, end) ? (id, end < now + lasts ? end : now + lasts) : (old?.Stored.Pass, old?.Stored.PassUntil);
        var session = new StoredSession(
            Guid.NewGuid(), purpose, member, view, now, now, member is null && purpose == SessionPurpose.Site ? until : now + lasts,
            http.Connection.RemoteIpAddress?.ToString(), agent.Length > 200 ? agent[..200] : agent, unlocks)
        { Pass = passId, PassUntil = passUntil };
        await store.BeginSessionAsync(session, null, CancellationToken.None);
        if (old is not null)
        {
            await EndAsync(old.Stored.Id);
        }

        SetCookie(http, session, keep);
        return session;
    }

    /// <summary>Begins a session that looks through a viewpoint, for our own requests; gives its id and the cookie to send.</summary>
    public async Task<(Guid Id, string Cookie)> BeginViewAsync(string view, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var session = new StoredSession(Guid.NewGuid(), SessionPurpose.View, null, view, now, now, now + ViewLasts, null, "wary-sweep", []);
        await store.BeginSessionAsync(session, null, stop);
        return (session.Id, $"{CookieOf(SessionPurpose.View)}={secrets.TicketOf(session.Id, (byte)SessionPurpose.View)}");
    }

    /// <summary>Keeps what a shared password unlocked, in the browser's session or, where the gate says so, until the browser is closed.</summary>
    public async Task UnlockAsync(HttpContext http, IReadOnlyList<Opened> opened)
    {
        foreach (var passing in opened.GroupBy(o => o.Gate.UnlockFor == TimeSpan.Zero))
        {
            var (purpose, unlocks) = (passing.Key ? SessionPurpose.Passing : SessionPurpose.Site, passing.Select(o => o.Unlock).ToList());
            var live = await FindAsync(http, purpose);
            var session = live?.Stored ?? await BeginAsync(http, purpose, null, !passing.Key);
            var until = unlocks.Select(u => u.Until).Append(session.Until).Max();
            // A member stays signed in no longer for having typed a shared password.
            var sessionUntil = session.Member is null ? until : session.Until;
            hearsay.Tell(await store.UnlockAsync(session.Id, unlocks, sessionUntil, CancellationToken.None));
            SetCookie(http, session with { Until = sessionUntil }, !passing.Key);
        }
    }

    /// <summary>Ends the browser's session and takes its cookie away.</summary>
    public async Task EndAsync(HttpContext http, SessionPurpose purpose)
    {
        if (await FindAsync(http, purpose) is { } live)
        {
            await EndAsync(live.Stored.Id);
        }

        http.Response.Cookies.Delete(CookieOf(purpose), CookieFor(purpose));
    }

    /// <summary>Ends a session wherever it is; false when there is none.</summary>
    public async Task<bool> EndAsync(Guid id)
    {
        var news = await store.EndSessionAsync(id);
        hearsay.Tell(news);
        return news.Count > 0;
    }

    /// <summary>Until when what somebody made lasts at most: as long as the console session or the token that made it. Null where that is over.</summary>
    /// <param name="made">What was made.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="seen">Told the member who made it, before they are read.</param>
    public async Task<DateTimeOffset?> MakerUntilAsync(StoredSession made, CancellationToken stop, Seen? seen = null)
    {
        var now = time.GetUtcNow();
        var (until, maker) = (DateTimeOffset.MaxValue, (Guid?)null);
        if (made.MadeBySession is { } sessionId)
        {
            if (await store.SessionAsync(sessionId, stop) is not { } session || session.Until <= now)
            {
                return null;
            }

            (until, maker) = (session.Until, session.Member);
        }
        else if (made.MadeByToken is { } tokenId)
        {
            if (await store.TokenByIdAsync(tokenId, stop) is not { } token || token.Until <= now)
            {
                return null;
            }

            (until, maker) = (token.Until ?? until, token.Member);
        }

        if (maker is { } who)
        {
            seen?.On(Told.Member, who.ToString("N"));
        }

        // Whoever is no longer staff has nothing to look at.
        return maker is { } id && !(await store.MemberAsync(id, stop) is { } member && StaffRights.Of(policies.Current, member, now) != StaffRight.None)
            ? null : until;
    }

    /// <summary>Gives the browser the cookie of a viewpoint's session.</summary>
    public void SetViewCookie(HttpContext http, StoredSession session) => SetCookie(http, session, false);

    private void SetCookie(HttpContext http, StoredSession session, bool keep)
    {
        var cookie = CookieFor(session.Purpose);
        cookie.Expires = keep ? session.Until : null;
        http.Response.Cookies.Append(CookieOf(session.Purpose), secrets.TicketOf(session.Id, (byte)session.Purpose), cookie);
    }

    private CookieOptions CookieFor(SessionPurpose purpose) => new()
    {
        HttpOnly = true,
        IsEssential = true,
        Path = "/",
        SameSite = purpose == SessionPurpose.Console ? SameSiteMode.Strict : SameSiteMode.Lax,
        Secure = purpose == SessionPurpose.Console ? options.AdminIsTls : options.SiteIsTls,
    };

    private async ValueTask<LiveSession?> LoadAsync(string ticket, SessionPurpose purpose, CancellationToken stop)
    {
        if (!secrets.TryReadTicket(ticket, (byte)purpose, out var id))
        {
            return null;
        }

        var seen = cache.Look();
        seen.On(Told.Session, id.ToString("N"));
        if (await store.SessionAsync(id, stop) is not { IsTicket: false } stored || stored.Purpose != purpose || stored.Until <= time.GetUtcNow()
            || (purpose == SessionPurpose.View && await MakerUntilAsync(stored, stop, seen) is null))
        {
            return null;
        }

        var (visitor, said) = (Visitor.Guest, (IReadOnlyList<Consented>)[]);
        if (stored.Member is { } memberId)
        {
            seen.On(Told.Member, memberId.ToString("N"));
            if (await store.MemberAsync(memberId, stop) is not { Status: MemberStatus.Active } member)
            {
                return null;
            }

            (visitor, said) = (member.AsVisitor(), member.Said);
        }

        if (stored.Pass is { } passId && stored.PassUntil is { } passUntil)
        {
            seen.On(Told.Pass, passId.ToString("N"));
            visitor = await passes.FindAsync(passId, stop) is { Grant: var grant }
                ? visitor.Holding(grant.Until <= passUntil ? grant : grant with { Until = passUntil }) : visitor;
        }

        visitor = visitor.Having([.. stored.Unlocks.Select(u => new Unlock(u.Gate, u.Until))]);
        var live = new LiveSession(stored, visitor, stored.Member, seen) { Said = said };
        if (seen.OnUnlocks(stored.Unlocks))
        {
            cache.Keep(ticket, live);
        }

        return live;
    }
}
