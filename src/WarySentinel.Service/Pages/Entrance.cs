using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>
/// Lets somebody in whom a letter has proved, under a new session: one that was there before, whoever made it, ends. They land where redirects say, else
/// on their account page.
/// </summary>
public sealed class Entrance(Sessions sessions, KnownBrowsers browsers, PolicyHolder policies, TermsAsked terms, ServiceOptions options, TimeProvider time)
{
    /// <summary>Begins the session and sends the browser on.</summary>
    public async Task EnterAsync(HttpContext http, Member member, RedirectOn on)
    {
        await sessions.BeginAsync(http, SessionPurpose.Site, member.Id, true);
        browsers.Note(http, SessionPurpose.Site, member.Id);
        var visitor = member.AsVisitor().From(http.Connection.RemoteIpAddress);
        var landing = Destination.Of(policies.Current, new Lander(on, visitor), time.GetUtcNow()).To ?? options.AccountPrefix + "/";
        PageRequests.See(http, terms.Via(member, landing));
    }
}
