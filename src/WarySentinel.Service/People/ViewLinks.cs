using WarySentinel.Core;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Links that open the live site through somebody else's eyes. Each is good for one use within two minutes; what it opens lasts for hours at most,
/// and ends with the console session or the token that made it. Making and using one stand in the history.
/// </summary>
public sealed class ViewLinks(Store store, Sessions sessions, Secrets secrets, ServiceOptions options, TimeProvider time)
{
    /// <summary>The purpose of a link's ticket; no cookie is ever of it.</summary>
    private const byte TicketPurpose = 100;

    private static readonly TimeSpan Waits = TimeSpan.FromMinutes(2);
    private static readonly TimeSpan Lasts = TimeSpan.FromHours(4);

    /// <summary>Makes a link.</summary>
    /// <param name="seen">Through whose eyes.</param>
    /// <param name="at">The time to look at; null for now.</param>
    /// <param name="back">The page to begin at.</param>
    /// <param name="caller">Who makes it, and with what it ends.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<string> MakeAsync(SeenAs seen, DateTimeOffset? at, string back, Caller caller, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var link = new StoredSession(Guid.NewGuid(), SessionPurpose.View, null, Viewpoints.Pack(seen.Key, at), now, now, now + Waits, null, null, [])
        {
            IsTicket = true, MadeBySession = caller.Session, MadeByToken = caller.Token,
        };
        await store.BeginSessionAsync(link, new AuditNote(caller.Name, "view.link", seen.Key, SubjectOf(link)), stop);
        var ticket = secrets.TicketOf(link.Id, TicketPurpose);
        return $"{options.SiteUrl.TrimEnd('/')}{options.MachinePrefix}/view?ticket={ticket}&return_to={Uri.EscapeDataString(back)}";
    }

    /// <summary>Uses a link: the browser looks through those eyes from then on. False where it is none, was used, is over, or its maker is gone.</summary>
    public async Task<bool> EnterAsync(HttpContext http, string ticket)
    {
        var now = time.GetUtcNow();
        if (!secrets.TryReadTicket(ticket, TicketPurpose, out var id) || await store.SessionAsync(id, http.RequestAborted) is not { IsTicket: true } link
            || await sessions.MakerUntilAsync(link, http.RequestAborted) is not { } makerUntil)
        {
            return false;
        }

        var until = makerUntil < now + Lasts ? makerUntil : now + Lasts;
        var agent = http.Request.Headers.UserAgent.ToString();
        var entered = await store.RedeemAsync(
            id, until, http.Connection.RemoteIpAddress?.ToString(), agent.Length > 200 ? agent[..200] : agent,
            new AuditNote(http.Connection.RemoteIpAddress?.ToString() ?? "", "view.enter", link.View!.Split(';')[0], SubjectOf(link)), http.RequestAborted);
        if (entered is null)
        {
            return false;
        }

        sessions.SetViewCookie(http, entered);
        return true;
    }

    private static string SubjectOf(StoredSession link) => Words.Of("history.view", link.Id.ToString("N")[..8]);
}
