using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>What the people of an organisation find of it: who belongs to it; its managers invite, remove and make others managers.</summary>
public sealed class OrganisationPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, Organisations organisations, Sessions sessions,
    IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    private const int MostAtOnce = 50;
    private static readonly char[] Between = [',', ';', ' ', '\t', '\r', '\n'];

    /// <summary>Maps the page.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/organisation/{key}", ShowAsync);
        account.MapPost("/organisation/{key}", ActAsync).RequireRateLimiting(RateLimits.Proofs);
    }

    private async Task ShowAsync(HttpContext http, string key)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteAsync(http, identity, key, null, null, 200);
    }

    /// <summary>Does what the form asks; who may is judged by what is stored at that moment.</summary>
    private async Task ActAsync(HttpContext http, string key)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        if (form is null || await MineAsync(http, identity, key) is not { Me: { } me } mine)
        {
            await WriteAsync(http, identity, key, null, form is null ? PageRequests.Stale() : null, form is null ? 400 : 200);
            return;
        }

        var whom = Guid.TryParse(form["whom"], out var id) ? id : Guid.Empty;
        var (act, actor) = (form["act"].ToString(), new OrganisationActor(me.Email, true));
        var leaves = act == "remove" && whom == me.Id;
        if (!mine.Manages && !leaves)
        {
            await WriteAsync(http, identity, key, null, null, 403);
            return;
        }

        var problem = act switch
        {
            "invite" => await InviteAsync(http, key, form, mine, actor),
            "remind" => (await organisations.RemindAsync(key, whom, me.Email, me.Name, http.RequestAborted)).Problem,
            "withdraw" => (await organisations.ChangeAsync(key, (one, _, _, _) => OrganisationPeople.Withdraw(one, whom), me.Email, http.RequestAborted))
                .Problem,
            "remove" => (await organisations.ChangeAsync(
                key, whom, (one, member, now) => OrganisationPeople.Leave(one, member, actor, now), me.Email, http.RequestAborted)).Problem,
            "manager" or "no-manager" => (await organisations.ChangeAsync(
                key, whom, (one, member, _) => OrganisationPeople.SetManages(one, member, act == "manager", actor), me.Email, http.RequestAborted)).Problem,
            _ => Problem.Of(ProblemKind.NotFound, "organisation-unknown"),
        };
        if (problem is not null)
        {
            await WriteAsync(http, identity, key, form["email"], new PageError(PageWords.Of("organisation.not-done"), problem.Detail.ToReader()), 422);
            return;
        }

        PageRequests.See(http, leaves ? options.AccountPrefix + "/" : $"{options.AccountPrefix}/organisation/{key}");
    }

    /// <summary>Asks one, or many whose addresses stand side by side or one a line.</summary>
    private async Task<Problem?> InviteAsync(HttpContext http, string key, IFormCollection form, Mine mine, OrganisationActor actor)
    {
        var addresses = form["email"].ToString().Split(Between, StringSplitOptions.RemoveEmptyEntries).Distinct().Take(MostAtOnce).ToList();
        if (addresses.Count == 0 || addresses.Find(a => EmailAddress.Normalise(a) is null) is not null)
        {
            // Told before anybody is written to.
            return Problem.In("email", "email-form", addresses.Find(a => EmailAddress.Normalise(a) is null) ?? "");
        }

        if (mine.Organisation.SeatsTaken + addresses.Count > mine.Organisation.Seats)
        {
            return Problem.Of(ProblemKind.Conflict, "organisation-few-seats", mine.Organisation.Seats - mine.Organisation.SeatsTaken, addresses.Count);
        }

        var problems = new List<Problem>();
        foreach (var address in addresses)
        {
            var asked = await organisations.InviteAsync(key, address, form["manages"] == "yes", actor, mine.Me.Name, http.RequestAborted);
            problems.AddRange(asked.Problem is { } problem ? [problem] : []);
        }

        return problems.Count == 0 ? null : problems[0];
    }

    /// <summary>The organisation, where whoever asks belongs to it. Looking through another's eyes is not being them.</summary>
    private async Task<Mine?> MineAsync(HttpContext http, RequestIdentity identity, string key)
    {
        if (!identity.IsMember || await sessions.FindAsync(http, SessionPurpose.Site) is not { Member: { } id }
            || await organisations.FindAsync(key, http.RequestAborted) is not ({ } found, var people) || found.PersonOf(id) is not { } person
            || people.FirstOrDefault(m => m.Id == id) is not { Status: MemberStatus.Active } me)
        {
            return null;
        }

        return new Mine(found, people, me, person.Manages && !found.IsOver(time.GetUtcNow()));
    }

    private async Task WriteAsync(HttpContext http, RequestIdentity identity, string key, string? typed, PageError? error, int status)
    {
        if (!identity.Visitor.IsSignedIn)
        {
            await refusals.SignInAsync(http, identity, $"{options.AccountPrefix}/organisation/{Uri.EscapeDataString(key)}", null, true, null, 401);
            return;
        }

        if (await MineAsync(http, identity, key) is not { } mine)
        {
            await refusals.NotFoundAsync(http);
            return;
        }

        var (token, now, policy) = (antiforgery.GetAndStoreTokens(http), time.GetUtcNow(), policies.Current);
        var dates = new SiteDates(policy.Settings.TimeZone);
        var byId = mine.People.ToDictionary(m => m.Id);
        await Page.WriteAsync<OrganisationPage>(http, status, new
        {
            Frame = refusals.Frame(identity, $"{options.AccountPrefix}/organisation/{key}"),
            Model = new OrganisationModel(
                key, mine.Organisation.Title, mine.Organisation.Seats, mine.Organisation.SeatsTaken, mine.Manages,
                mine.Organisation.Until is { } end
                    ? PageWords.Of(mine.Organisation.IsOver(now) ? "organisation.ended" : "organisation.until", Page.Day(dates, end, true)) : null,
                [.. mine.Organisation.Facts.Where(f => !(f.Until <= now)).Select(f => policy.FindDefinition(f.Kind, f.Key)?.Title ?? f.Key)],
                [
                    .. mine.Organisation.People.Where(p => byId.ContainsKey(p.Member)).Select(p => new Colleague(
                        p.Member, byId[p.Member].Name, byId[p.Member].Email, p.Manages, p.Member == mine.Me.Id)),
                ],
                mine.Manages ? [.. mine.Organisation.Invitations.Select(i => new AskedToJoin(
                    i.Id, i.Email,
                    PageWords.Of(i.Until <= now ? "organisation.asked-late" : "organisation.asked", Page.Day(dates, i.SentAt, false))))] : [],
                typed, error, token.FormFieldName, token.RequestToken!),
        });
    }

    /// <summary>An organisation as one of its people has it before them.</summary>
    private sealed record Mine(Organisation Organisation, IReadOnlyCollection<Member> People, Member Me, bool Manages);
}

/// <summary>What the page of an organisation shows.</summary>
/// <param name="Key">Its name in addresses.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">So many people at most.</param>
/// <param name="Taken">So many of them are taken.</param>
/// <param name="Manages">Whether the reader manages it.</param>
/// <param name="Until">When it ends.</param>
/// <param name="Given">What it is given.</param>
/// <param name="People">Who belongs to it.</param>
/// <param name="Invitations">Who is asked to join.</param>
/// <param name="Typed">What was typed as addresses.</param>
/// <param name="Error">What is wrong.</param>
/// <param name="TokenField">The name of the anti-forgery field.</param>
/// <param name="Token">The token.</param>
public sealed record OrganisationModel(
    string Key, string Title, int Seats, int Taken, bool Manages, string? Until, IReadOnlyList<string> Given, IReadOnlyList<Colleague> People,
    IReadOnlyList<AskedToJoin> Invitations, string? Typed, PageError? Error, string TokenField, string Token);

/// <summary>Somebody who belongs to it.</summary>
public sealed record Colleague(Guid Id, string Name, string Email, bool Manages, bool IsMe);

/// <summary>Somebody who is asked to join.</summary>
public sealed record AskedToJoin(Guid Id, string Email, string Since);
