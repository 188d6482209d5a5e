using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Who makes a request, found out once.</summary>
/// <param name="Visitor">The facts that decide.</param>
/// <param name="Viewpoint">The viewpoint looked through, if one is.</param>
/// <param name="At">The time it is looked at, where that is not now.</param>
public sealed record RequestIdentity(Visitor Visitor, SeenAs? Viewpoint, DateTimeOffset? At = null)
{
    private string? member;

    /// <summary>What the origin was told of them last: the same until a grant begins or ends, or the owner chooses anew.</summary>
    internal ToldFacts? Told { get; set; }

    /// <summary>Who they would be, once they agree to what they are asked to; they are a guest until then. Null where nothing keeps them out.</summary>
    public Visitor? Owing { get; init; }

    /// <summary>A member who is made up, to whom a page is shown that staff look at; null where somebody real looks.</summary>
    public Member? Sample { get; init; }

    /// <summary>Whether somebody looks who is a member, with their own eyes.</summary>
    public bool IsMember => Visitor is { IsSignedIn: true, IsViewpoint: false };

    /// <summary>Whether the pages of members show something: to a member, or to staff who look at them with the eyes of one who is made up.</summary>
    public bool SeesMembersPages => IsMember || (Sample is not null && Visitor.IsSignedIn);

    /// <summary>The member's e-mail address as a header may carry it; null for whoever is none.</summary>
    public string? MemberHeader => Visitor is { IsSignedIn: true, Email: { } email } ? member ??= GuardedHeaders.Ascii(email) : null;
}

/// <summary>Finds out who makes a request from its cookies and its address.</summary>
public sealed class VisitorReader(Sessions sessions, PolicyHolder policies, Viewpoints viewpoints, Crawlers crawlers, TimeProvider time)
{
    private const int MostGuests = 1024;
    private readonly RequestIdentity?[] guests = new RequestIdentity?[MostGuests];

    /// <summary>The identity of a request; found once and kept with it.</summary>
    public ValueTask<RequestIdentity> ReadAsync(HttpContext http)
    {
        if (http.Features.Get<RequestIdentity>() is { } known)
        {
            return ValueTask.FromResult(known);
        }

        var found = FindAsync(http);
        if (!found.IsCompletedSuccessfully)
        {
            return KeptAsync(http, found);
        }

        var identity = found.Result;
        http.Features.Set(identity);
        return ValueTask.FromResult(identity);
    }

    private static async ValueTask<RequestIdentity> KeptAsync(HttpContext http, ValueTask<RequestIdentity> finding)
    {
        var identity = await finding;
        http.Features.Set(identity);
        return identity;
    }

    /// <summary>The identity of a request that asks for it once only.</summary>
    public ValueTask<RequestIdentity> FindAsync(HttpContext http)
    {
        if (http.Request.Headers.Cookie.Count == 0)
        {
            return OutsiderAsync(http);
        }

        var view = sessions.FindAsync(http, SessionPurpose.View);
        var site = sessions.FindAsync(http, SessionPurpose.Site);
        var passing = sessions.FindAsync(http, SessionPurpose.Passing);
        // Somebody signed in, with nothing else to look up: the usual case.
        return view is { IsCompletedSuccessfully: true, Result: null } && passing is { IsCompletedSuccessfully: true, Result: null }
            && site is { IsCompletedSuccessfully: true, Result: { Visitor.IsSignedIn: true } live } && !KeepsOut(live)
            ? ValueTask.FromResult(live.From(http.Connection.RemoteIpAddress))
            : TogetherAsync(http, view, site, passing);
    }

    private async ValueTask<RequestIdentity> TogetherAsync(
        HttpContext http, ValueTask<LiveSession?> view, ValueTask<LiveSession?> site, ValueTask<LiveSession?> passing)
    {
        var (viewed, own, here) = (await view, await site, await passing);
        var address = http.Connection.RemoteIpAddress;
        if (viewed is { Stored.View: { } packed } && await viewpoints.UnpackAsync(packed, policies.Current, http.RequestAborted) is var (seen, at))
        {
            return new RequestIdentity(seen.Visitor.From(address), seen, at);
        }

        var visitor = own?.Visitor ?? Visitor.Guest;
        var owing = own is { Visitor.IsSignedIn: true } && KeepsOut(own) ? own.Visitor.From(address) : null;
        visitor = owing is null ? visitor : Visitor.Guest.Having(visitor.Unlocks);
        if (here is not null)
        {
            visitor = visitor.Having([.. visitor.Unlocks, .. here.Visitor.Unlocks]);
        }

        return visitor is { IsSignedIn: false, Unlocks.Count: 0, Grants.Count: 0 } && owing is null ? await OutsiderAsync(http)
            : new RequestIdentity(visitor.From(address), null) { Owing = owing };
    }

    private bool KeepsOut(LiveSession live) => live.IsKeptOut(TermsBook.Of(policies.Current), time.GetUtcNow());

    /// <summary>A guest from an address; who lately came from there is the same.</summary>
    private RequestIdentity GuestFrom(System.Net.IPAddress? address)
    {
        ref var kept = ref guests[(address?.GetHashCode() ?? 0) & (MostGuests - 1)];
        return kept is { } known && Equals(known.Visitor.Address, address) ? known : kept = new RequestIdentity(Visitor.Guest.From(address), null);
    }

    private ValueTask<RequestIdentity> OutsiderAsync(HttpContext http)
    {
        var welcome = crawlers.IsWelcomeAsync(http);
        var address = http.Connection.RemoteIpAddress;
        if (welcome.IsCompletedSuccessfully)
        {
            return ValueTask.FromResult(
                welcome.Result ? new RequestIdentity(new Visitor { Address = address, IsCrawler = true }, null) : GuestFrom(address));
        }

        return AwaitedAsync(welcome, address);
    }

    private static async ValueTask<RequestIdentity> AwaitedAsync(ValueTask<bool> welcome, System.Net.IPAddress? address) =>
        new(await welcome ? new Visitor { Address = address, IsCrawler = true } : Visitor.Guest.From(address), null);
}
