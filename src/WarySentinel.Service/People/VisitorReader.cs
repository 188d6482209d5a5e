using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Who makes a request, found out once.</summary>
/// <param name="Visitor">The facts that decide.</param>
/// <param name="Viewpoint">The viewpoint looked through, if one is.</param>
/// <param name="At">The time it is looked at, where that is not now.</param>
public sealed record Arrival(Visitor Visitor, SeenAs? Viewpoint, DateTimeOffset? At = null);

/// <summary>Finds out who makes a request from its cookies and its address.</summary>
public sealed class VisitorReader(Sessions sessions, PolicyHolder policies, Viewpoints viewpoints, Crawlers crawlers)
{
    /// <summary>The arrival of a request; found once and kept with it.</summary>
    public async ValueTask<Arrival> ReadAsync(HttpContext http)
    {
        if (http.Features.Get<Arrival>() is { } known)
        {
            return known;
        }

        var arrival = await FindAsync(http);
        http.Features.Set(arrival);
        return arrival;
    }

    private async ValueTask<Arrival> FindAsync(HttpContext http)
    {
        var address = http.Connection.RemoteIpAddress;
        if (!http.Request.Headers.ContainsKey("Cookie"))
        {
            return new Arrival(await OutsiderAsync(http), null);
        }

        if (await sessions.FindAsync(http, SessionPurpose.View) is { Stored.View: { } view })
        {
            if (await viewpoints.UnpackAsync(view, policies.Current, http.RequestAborted) is var (seen, at))
            {
                return new Arrival(seen.Visitor.From(address), seen, at);
            }
        }

        var visitor = (await sessions.FindAsync(http, SessionPurpose.Site))?.Visitor ?? Visitor.Guest;
        if (await sessions.FindAsync(http, SessionPurpose.Passing) is { } passing)
        {
            visitor = visitor.Having([.. visitor.Unlocks, .. passing.Visitor.Unlocks]);
        }

        return new Arrival(visitor is { IsSignedIn: false, Unlocks.Count: 0 } ? await OutsiderAsync(http) : visitor.From(address), null);
    }

    private async ValueTask<Visitor> OutsiderAsync(HttpContext http)
    {
        var address = http.Connection.RemoteIpAddress;
        return await crawlers.IsWelcomeAsync(http) ? new Visitor { Address = address, IsCrawler = true } : Visitor.Guest.From(address);
    }
}
