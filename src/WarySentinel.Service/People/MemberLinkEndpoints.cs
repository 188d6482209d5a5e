using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People;

namespace WarySentinel.Service.People;

/// <summary>Invitations, and links in letters: sent, sent again, taken back; a password made up for somebody.</summary>
public static class MemberLinkEndpoints
{
    private const int MostAtOnce = 500;
    private const int MostShown = 50;
    private static readonly string[] States = ["open", "used", "late", "replaced", "withdrawn"];

    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapLinks(this RouteGroupBuilder members)
    {
        members.MapPost("/invitations", Invite).Requires("people");
        members.MapGet("/{member}/links", List).Requires("read");
        members.MapPost("/{member}/links", Send).Requires("people");
        members.MapDelete("/{member}/links", Withdraw).Requires("people");
        members.MapPost("/{member}/password", Generate).Requires("people");
        members.MapPut("/{member}/letters", SetLetters).Requires("people");
    }

    /// <summary>Adds people and writes to each; whoever is there already and has not come yet is written to again.</summary>
    private static async Task<Results<Ok<PageOf<InvitedView>>, ProblemHttpResult>> Invite(
        InvitationsDraft draft, HttpContext http, Invitations invitations, PolicyHolder policies, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (!caller.IsOwner && (draft.Roles ?? []).Any(r => StaffRights.IsStaffRole(policies.Current, r)))
        {
            return Problem.Of(ProblemKind.Forbidden, "staff-role").ToHttp();
        }

        var people = (draft.People ?? []).Select(p => p?.Trim() ?? "").Where(p => p.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        if (people.Count is 0 or > MostAtOnce)
        {
            return Problem.In("people", "invite-many", MostAtOnce).ToHttp();
        }

        var terms = invitations.Read(draft);
        if (terms.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        var told = new List<InvitedView>();
        foreach (var person in people)
        {
            told.Add(await invitations.InviteAsync(person, terms.Value, caller, stop));
        }

        return TypedResults.Ok(new PageOf<InvitedView>(told, null));
    }

    private static async Task<Results<Ok<PageOf<LinkView>>, ProblemHttpResult>> List(
        string member, MemberService members, Store store, TimeProvider time, CancellationToken stop) => await members.FindAsync(member, stop) is { } found
        ? TypedResults.Ok(new PageOf<LinkView>([.. (await store.LinksOfAsync(found.Id, MostShown, stop)).Select(l => ToWire(l, time.GetUtcNow()))], null))
        : Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();

    private static async Task<Results<Ok<LinkView>, ProblemHttpResult>> Send(
        string member, LinkDraft draft, HttpContext http, MemberService members, MemberLinks links, CallerReader callers, Store store, TimeProvider time,
        CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        if (found.Problem is { } unknown)
        {
            return unknown.ToHttp();
        }

        var purpose = draft.Purpose switch
        {
            null => found.Value.Status == MemberStatus.Unverified ? LinkPurpose.Confirm
                : AccountLinks.InPlaceOfPassword(found.Value) ?? LinkPurpose.SetPassword,
            "invitation" => LinkPurpose.Invitation,
            "set-password" => LinkPurpose.SetPassword,
            "confirm" => LinkPurpose.Confirm,
            _ => (LinkPurpose?)null,
        };
        if (purpose is null)
        {
            return Problem.In("purpose", "not-one-of", draft.Purpose, "invitation, set-password, confirm").ToHttp();
        }

        var from = caller.Member is { } id ? (await store.MemberAsync(id, stop))?.Name : null;
        var again = (await store.LinksOfAsync(found.Value.Id, MostShown, stop)).Any(l => l.Purpose == purpose);
        var sent = await links.SendAsync(
            found.Value.Id, purpose.Value, new LinkTerms(caller.Name, PlainText.OrNull(draft.Words), From: from, Again: again), stop);
        return sent.Match<Results<Ok<LinkView>, ProblemHttpResult>>(
            link => TypedResults.Ok(ToWire(link, time.GetUtcNow())), problem => problem.ToHttp());
    }

    /// <summary>Maps what is about links of all.</summary>
    public static void MapSentLinks(this RouteGroupBuilder api)
    {
        var links = api.MapGroup("/links").WithTags("Members");
        links.MapGet("/", ListAll).Requires("read");
        links.MapDelete("/{id:guid}", WithdrawOne).Requires("people");
    }

    private static async Task<Results<Ok<PageOf<SentLinkView>>, ProblemHttpResult>> ListAll(
        string? q, string? purpose, string? state, string? cursor, int? limit, Store store, TimeProvider time, CancellationToken stop)
    {
        var (faults, after) = (new Faults(), Paging.Read(cursor));
        var purposes = Enum.GetValues<LinkPurpose>().ToDictionary(AccountLinks.NameOf, p => (LinkPurpose?)p, StringComparer.Ordinal);
        faults.Unless(string.IsNullOrEmpty(purpose) || purposes.ContainsKey(purpose), "purpose", "not-one-of", purpose, string.Join(", ", purposes.Keys));
        faults.Unless(string.IsNullOrEmpty(state) || States.Contains(state), "state", "not-one-of", state, string.Join(", ", States));
        if (faults.Any || after.Problem is not null)
        {
            return (after.Problem ?? faults.ToProblem()).ToHttp();
        }

        var (size, now) = (Paging.SizeOf(limit), time.GetUtcNow());
        var query = new LinkQuery(
            string.IsNullOrEmpty(purpose) ? null : purposes[purpose], string.IsNullOrEmpty(state) ? null : state, q,
            Guid.TryParse(after.Value, out var last) ? last : null);
        var found = await store.LinksAsync(query, size + 1, stop);
        return TypedResults.Ok(Paging.Cut([.. found.Select(l => ToSent(l, now))], size, l => l.Id.ToString("N")));
    }

    /// <summary>Takes one link back. What went to staff is an owner's, as everything of theirs.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> WithdrawOne(
        Guid id, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, Store store, TimeProvider time, CancellationToken stop)
    {
        if (await store.LinkAsync(id, stop) is not { } link)
        {
            return Problem.Of(ProblemKind.NotFound, "link-unknown").ToHttp();
        }

        var caller = Caller.Of(http);
        if (link.Purpose != LinkPurpose.Organisation
            && await MemberAccountEndpoints.FindAsync(link.Subject.ToString(), caller, members, callers, stop) is { Problem: { } refused })
        {
            return refused.ToHttp();
        }

        if (link.IsOpen(time.GetUtcNow()))
        {
            await people.ChangeAsync(
                new Edit<int>(
                    new Edit("link.withdraw", link.Address, [new LinksClosed(link.Purpose, link.Subject, link.Address, LinkEnd.Withdrawn)]), 0), caller.Name);
        }

        return TypedResults.NoContent();
    }

    private static SentLinkView ToSent(SingleUseLink link, DateTimeOffset now)
    {
        var shown = ToWire(link, now);
        return new SentLinkView(
            link.Id, shown.Purpose, link.Code is null ? "link" : "code", link.Address, link.Purpose == LinkPurpose.Organisation ? null : link.Subject,
            link.CreatedAt, link.Until, shown.State, link.ClosedAt);
    }

    /// <summary>Takes back every link that the member was sent and did not use.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Withdraw(
        string member, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        if (found.Problem is { } unknown)
        {
            return unknown.ToHttp();
        }

        await people.ChangeAsync(
            new Edit<int>(
                new Edit("link.withdraw", found.Value.Email, [new LinksClosed(null, found.Value.Id, null, LinkEnd.Withdrawn)]), 0), caller.Name);
        return TypedResults.NoContent();
    }

    /// <summary>Makes up a password and tells it, once. Staff's is only an owner's to change.</summary>
    private static async Task<Results<Ok<GeneratedPasswordView>, ProblemHttpResult>> Generate(
        string member, HttpContext http, MemberService members, MemberLinks links, CallerReader callers, PolicyHolder policies, TimeProvider time,
        CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        if (found.Problem is { } unknown)
        {
            return unknown.ToHttp();
        }

        var made = await links.GenerateAsync(found.Value.Id, caller.Name, stop);
        return made.Match<Results<Ok<GeneratedPasswordView>, ProblemHttpResult>>(
            done => TypedResults.Ok(new GeneratedPasswordView(
                new SecretText(done.Password), Passphrase.Bits, done.Member.ToWire(time.GetUtcNow(), policies.Current))),
            problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> SetLetters(
        string member, LetterWish draft, HttpContext http, MemberService members, PeopleLane people, TimeProvider time, CancellationToken stop)
    {
        var changed = await people.ChangeAsync(
            async () =>
            {
                var found = await members.FindAsync(member, stop);
                return AccountCommands.SetLetters(
                    found, draft.Language is null ? found?.Language : PlainText.OrNull(draft.Language), draft.Unsubscribed ?? found?.IsUnsubscribed == true);
            },
            Caller.Of(http).Name);
        return MemberEndpoints.Changed(changed, http, time);
    }

    private static LinkView ToWire(SingleUseLink link, DateTimeOffset now) => new(
        AccountLinks.NameOf(link.Purpose), link.Address, link.CreatedAt, link.Until,
        link.ClosedBy is { } by ? by.ToString().ToLowerInvariant() : link.Until <= now ? "late" : "open", link.ClosedAt);
}

/// <summary>What all of some invitations are given.</summary>
public sealed record InvitationTerms(IReadOnlyList<(FactKind Kind, string Key)> Facts, DateTimeOffset? From, DateTimeOffset? Until, string? Words,
    string? Language, string? Form = null);

/// <summary>Makes accounts for people and writes to them: account, link and letter are stored together, or none of them.</summary>
public sealed class Invitations(Store store, PolicyHolder policies, PeopleLane people, MemberLinks links, TimeProvider time)
{
    /// <summary>Reads what they are given.</summary>
    public Outcome<InvitationTerms> Read(InvitationsDraft draft)
    {
        var (policy, faults) = (policies.Current, new Faults());
        var (from, until) = SiteDates.ReadBoth(
            policy.Settings.TimeZone, draft.From, draft.Until, (field, code, values) => faults.Bad(field, code, values));
        // The same check as for any new member; the address is one that fits.
        var read = MemberCommands.Read(
            policy, new Rules.MemberDraft
            {
                Email = "somebody@site.example", Name = "Somebody", Roles = draft.Roles, Groups = draft.Groups, Plans = draft.Plans, Language = draft.Language,
            }, Guid.Empty, time.GetUtcNow());
        if (read.Problem is { } odd)
        {
            faults.Take(odd);
        }

        var form = PlainText.OrNull(draft.Form);
        faults.Unless(form is null || FormBook.Of(policy).Find(form) is not null, "form", "form-unknown", form);
        return faults.Any ? faults.ToProblem()
            : new InvitationTerms(
                [.. read.Value.Grants.Select(g => (g.Kind, g.Key))], from, until, PlainText.OrNull(draft.Words), read.Value.Language, form);
    }

    /// <summary>Invites one person; who was invited before, and has not come, is written to again.</summary>
    /// <param name="person">An address, with a name before it where it is known.</param>
    /// <param name="terms">What they are given.</param>
    /// <param name="caller">Who invites.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<InvitedView> InviteAsync(string person, InvitationTerms terms, Caller caller, CancellationToken stop)
    {
        var (name, address) = Apart(person);
        var from = caller.Member is { } id ? (await store.MemberAsync(id, stop))?.Name : null;
        var linkTerms = new LinkTerms(caller.Name, terms.Words, From: from);
        var there = EmailAddress.Normalise(address) is { } email ? await store.MemberByNameAsync(email, stop) : null;
        Outcome<SingleUseLink> sent;
        if (there is { Status: MemberStatus.Invited })
        {
            sent = await links.SendAsync(there.Id, LinkPurpose.Invitation, linkTerms with { Again = true }, stop);
        }
        else
        {
            sent = await people.ChangeAsync(() => FreshAsync(name, address, terms, linkTerms, stop), caller.Name);
        }

        return new InvitedView(address, sent.IsGood, sent.Problem?.Detail.ToReader());
    }

    private async Task<Outcome<Edit<SingleUseLink>>> FreshAsync(
        string name, string address, InvitationTerms terms, LinkTerms linkTerms, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var draft = new Rules.MemberDraft { Email = address, Name = name, Language = terms.Language };
        var read = MemberCommands.Read(policies.Current, draft, Guid.CreateVersion7(), now);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var fresh = read.Value with
        {
            Grants = [.. terms.Facts.Select(f => new Grant(f.Kind, f.Key, terms.From, terms.Until) { Id = Guid.CreateVersion7(),
                Source = GrantSource.Invitation })],
        };
        var made = await links.MakeAsync(fresh, LinkPurpose.Invitation, linkTerms, now, stop);
        if (made.Problem is { } refused)
        {
            return refused;
        }

        var added = MemberCommands.Add(fresh).ToStore;
        return new Edit<SingleUseLink>(
            added with
            {
                Action = "member.invite",
                Changes =
                [
                    .. added.Changes, .. made.Value.ToStore.Changes,
                    .. terms.Form is null ? Array.Empty<Change>()
                        : [new RequestAdded(new JoinRequest(Guid.CreateVersion7(), fresh.Id, terms.Form, now, RequestState.Invited))],
                ],
            },
            made.Value.Value);
    }

    /// <summary>Name and address of <c>Ada Quill &lt;ada@quill.example&gt;</c> (RFC 5322 §3.4); the name is made from the address where there is
    /// none.</summary>
    private static (string Name, string Address) Apart(string person)
    {
        var open = person.LastIndexOf('<');
        if (open > 0 && person.EndsWith('>'))
        {
            var name = person[..open].Trim().Trim('"').Trim();
            return (name, person[(open + 1)..^1].Trim());
        }

        var bare = person.Trim('<', '>');
        return (bare.Split('@')[0] is { Length: > 0 } local ? local : bare, bare);
    }
}
