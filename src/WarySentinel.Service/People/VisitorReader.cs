using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Who makes a request, found out once.</summary>
/// <param name="Visitor">The facts that decide.</param>
/// <param name="Viewpoint">The viewpoint looked through, if one is.</param>
public sealed record Arrival(Visitor Visitor, Viewpoint? Viewpoint);

/// <summary>Finds out who makes a request from its cookies and its address.</summary>
public sealed class VisitorReader(Sessions sessions, PolicyHolder policies)
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
            return new Arrival(Visitor.Guest.From(address), null);
        }

        if (await sessions.FindAsync(http, SessionPurpose.View) is { Stored.View: { } view })
        {
            var found = Viewpoint.Find(policies.Current, view);
            if (found.IsGood)
            {
                return new Arrival(found.Value.Visitor.From(address), found.Value);
            }
        }

        var live = await sessions.FindAsync(http, SessionPurpose.Site);
        return new Arrival((live?.Visitor ?? Visitor.Guest).From(address), null);
    }
}
