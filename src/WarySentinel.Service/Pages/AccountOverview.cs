using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>Knows where a plan is bought.</summary>
public interface IPlanSales
{
    /// <summary>The address on this site that leads to paying for a plan; null where it is not sold.</summary>
    string? AddressOf(string plan);
}

/// <summary>What a member finds on the account page: what they have and until when, where their roles lead, where they are signed in.</summary>
public sealed class AccountOverview(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, Sessions sessions, Store store, IPlanSales sales, IFolders folders, IShows shows,
    IOffers offers, IIdlePlans idle, IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    private const int MostDevices = 50;
    private const int MostDownloads = 50;

    /// <summary>Maps what the page needs.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapPost("/devices", EndAsync);
        account.MapPost("/begin", BeginAsync);
    }

    /// <summary>Writes the page of somebody who is signed in; false where nobody is, or where somebody looks through another's eyes.</summary>
    public async Task<bool> WriteAsync(HttpContext http, RequestIdentity identity)
    {
        if (!identity.SeesMembersPages)
        {
            return false;
        }

        var visitor = identity.Visitor;
        var (policy, now, token) = (policies.Current, time.GetUtcNow(), antiforgery.GetAndStoreTokens(http));
        var live = identity.Sample is null ? await sessions.FindAsync(http, SessionPurpose.Site) : null;
        var dates = new SiteDates(policy.Settings.TimeZone);
        var held = AccountMenu.HeldBy(policy, visitor, now, Reader.Book)
            .Select(h => (h.Title, h.Until is { } end ? PageWords.Of("account.until", Page.Day(dates, end, true)) : WaitsForUse(policy, visitor, h)
                ? PageWords.Of("account.first-use") : "",
                h is { Kind: FactKind.Plan, Until: not null } ? sales.AddressOf(h.Key) : null))
            .Concat(policy.Gates.Where(g => visitor.HasUnlocked(g.Key, now))
                .Select(g => (PageWords.Own($"gate:{g.Key}.title", g.Title), PageWords.Of("account.by-password"), (string?)null)));
        var links = AccountMenu.LinksOf(policy, visitor, now, Reader.Book).Select(l => new SiteLink(l.Address, l.Words));
        await Page.WriteAsync<AccountPage>(http, 200, new
        {
            Frame = refusals.Frame(identity, options.AccountPrefix + "/"),
            Model = new AccountModel(
                visitor.Name ?? visitor.Email ?? "", [.. links], [.. held], await OrganisationsAsync(live, http.RequestAborted),
                identity.Sample is null ? await DevicesAsync(live, dates, http.RequestAborted)
                    : [new Device(Guid.Empty, NameOf(http.Request.Headers.UserAgent), PageWords.Of("account.since", Page.Day(dates, now, false)), true)],
                token.FormFieldName,
                token.RequestToken!)
            {
                Downloads = [.. AccountMenu.DownloadsOf(policy, visitor, now, Reader.Book, MostDownloads).Select(l => new SiteLink(l.Address, l.Words))],
                Folders = [.. folders.For(policy, visitor, now).Select(f => new SiteLink(options.AccountPrefix + f.Path, f.Title))],
                Shows = shows.For(policy, visitor, now),
                Idle = live?.Member is { } whose ? await IdleAsync(policy, whose, dates, http.RequestAborted) : [],
                Offers = live?.Member is { } of ? await OffersAsync(policy, visitor, of, dates, now, http.RequestAborted) : [],
                Orders = await OrdersAsync(policy, identity, live, dates, http.RequestAborted),
                HasDirectory = MemberDirectory.Of(policy).Audience?.Admits(visitor, "", now) == true,
                HasTerms = TermsBook.Of(policy).All.Any(t => t.InForce(now) is not null),
            },
        });
        return true;
    }

    /// <summary>Whether something is open that they bought, and its time counts from its first use.</summary>
    private static bool WaitsForUse(Policy policy, Visitor visitor, HeldTitle held) => visitor.MayStart && held.Kind == FactKind.Plan
        && policy.FindDefinition(FactKind.Plan, held.Key) is { Starts: PlanStart.OnUse, Length: not null }
        && visitor.Grants.Any(g => g is { Kind: FactKind.Plan, Until: null, Source.Kind: "order" } && g.Key == held.Key);

    private async Task<IReadOnlyList<(OfferLine, string)>> OffersAsync(
        Policy policy, Visitor visitor, Guid member, SiteDates dates, DateTimeOffset now, CancellationToken stop) =>
        [.. (await offers.ForAsync(policy, visitor, member, now, stop)).Select(o => (o, o.Until is { } end
            ? PageWords.Of("account.until", Page.Day(dates, end, true)) : ""))];

    private async Task<IReadOnlyList<(BoughtLine, string)>> OrdersAsync(
        Policy policy, RequestIdentity identity, LiveSession? live, SiteDates dates, CancellationToken stop)
    {
        var orders = live?.Member is { } buyer ? await idle.OrdersAsync(policy, buyer, stop) : [];
        var now = time.GetUtcNow();
        if (identity.Sample is not null)
        {
            var plan = AccountMenu.HeldBy(policy, identity.Visitor, now, Reader.Book).FirstOrDefault(h => h.Kind == FactKind.Plan)?.Title;
            orders = [new BoughtLine(SamplePerson.Order, plan ?? "", now, PageWords.Of("account.order-paid"))];
        }

        return [.. orders.Select(o => (o, Page.Day(dates, dates.StartOf(dates.DayOf(o.At)), false)))];
    }

    private async Task<IReadOnlyList<(IdlePlan, string)>> IdleAsync(Policy policy, Guid member, SiteDates dates, CancellationToken stop) =>
        [.. (await idle.OfAsync(policy, member, stop)).Select(p => (p, p.RestsSince is { } since
            ? PageWords.Of("account.rests", Page.Day(dates, since, false)) : PageWords.Of("account.not-begun")))];

    /// <summary>Begins what they bought and waits for that.</summary>
    private async Task BeginAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await antiforgery.FormAsync(http) is { } form && identity.IsMember
            && await sessions.FindAsync(http, SessionPurpose.Site) is { Member: { } member } && Guid.TryParse(form["order"], out var order))
        {
            await idle.BeginAsync(member, order, http.RequestAborted);
        }

        PageRequests.See(http, options.AccountPrefix + "/");
    }

    private async Task<IReadOnlyList<(SiteLink Link, bool Manages)>> OrganisationsAsync(LiveSession? live, CancellationToken stop) =>
        live?.Member is not { } member ? [] :
        [
            .. (await store.OrganisationsOfAsync(member, stop)).Select(o => (
                new SiteLink($"{options.AccountPrefix}/organisation/{o.Key}", o.Title), o.PersonOf(member)?.Manages == true)),
        ];

    private static string NameOf(string? agent) => Browsers.NameOf(agent) ?? PageWords.Of("account.some-browser");

    private async Task<IReadOnlyList<Device>> DevicesAsync(LiveSession? live, SiteDates dates, CancellationToken stop)
    {
        if (live?.Member is not { } member)
        {
            return [];
        }

        var there = (await store.SessionsAsync(member, MostDevices, stop)).Where(s => s.Purpose == SessionPurpose.Site);
        return
        [
            .. there.OrderByDescending(s => s.Id == live.Stored.Id).ThenByDescending(s => s.CreatedAt).Select(s => new Device(
                s.Id, NameOf(s.Agent), PageWords.Of("account.since", Page.Day(dates, s.CreatedAt, false)),
                s.Id == live.Stored.Id)),
        ];
    }

    /// <summary>Signs one device out, or all others. Only their own.</summary>
    private async Task EndAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await antiforgery.FormAsync(http) is { } form && identity.IsMember
            && await sessions.FindAsync(http, SessionPurpose.Site) is { Member: { } member } live)
        {
            var others = (await store.SessionsAsync(member, MostDevices, http.RequestAborted))
                .Where(s => s.Purpose == SessionPurpose.Site && s.Id != live.Stored.Id);
            foreach (var session in others.Where(s => form["end"] == "others" || (Guid.TryParse(form["end"], out var id) && s.Id == id)))
            {
                await sessions.EndAsync(session.Id);
            }
        }

        PageRequests.See(http, options.AccountPrefix + "/");
    }
}
