using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>Those who ask to join by themselves.</summary>
public sealed partial class MemberLinks
{
    /// <summary>What somebody is written, and staff are, whose address is proved or need not be.</summary>
    public IReadOnlyList<Change> Came(Member member) => member.Status switch
    {
        MemberStatus.Active => [letters.Write("welcome", LetterReader.Of(member))],
        MemberStatus.Pending => Asks(member),
        _ => [],
    };

    /// <summary>Tells somebody that their request is there, and staff that it waits, with a link that decides it.</summary>
    private IReadOnlyList<Change> Asks(Member member)
    {
        var received = letters.Write("request-received", LetterReader.Of(member));
        if (policies.Current.Settings.Letters.NoticesTo is not { } to)
        {
            return [received];
        }

        var (secret, now) = (LinkSecret.New(), time.GetUtcNow());
        var link = new SingleUseLink(
            Guid.CreateVersion7(), LinkPurpose.Approval, Secrets.DigestOf(secret), member.Id, to, now, now + AccountLinks.LastsFor(LinkPurpose.Approval));
        var notice = letters.Write("notice-request", new LetterReader(to), ("address", member.Email), ("page", letters.LinkTo("/request", secret)));
        return [received, new LinkAdded(link), notice];
    }

    /// <summary>Says yes to somebody who asked to join, and writes to them.</summary>
    public Task<Outcome<Member>> ApproveAsync(Guid member, string? words, string by, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var done = Joining.Approve(await store.MemberAsync(member, stop), by, time.GetUtcNow());
            return done.Problem is not null ? done : With(
                done.Value, letters.Write("approved", LetterReader.Of(done.Value.Value), ("link", letters.PageAt("/sign-in")), ("words", words)));
        },
        by);

    /// <summary>Says no to somebody who asked to join, and writes to them.</summary>
    public Task<Outcome<Member>> DeclineAsync(Guid member, string? words, string by, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var done = Joining.Decline(await store.MemberAsync(member, stop), words, by, time.GetUtcNow());
            return done.Problem is not null ? done : With(done.Value, letters.Write("declined", LetterReader.Of(done.Value.Value), ("words", words)));
        },
        by);

    /// <summary>
    /// Takes in somebody who asks to join. Who has an account already is written how to get in; the caller answers the same. A fault of what they typed
    /// comes back, before anything is looked up.
    /// </summary>
    public async Task<Problem?> RegisterAsync(MemberDraft draft, CancellationToken stop)
    {
        var (policy, now, id) = (policies.Current, time.GetUtcNow(), Guid.CreateVersion7());
        Secret hash = "";
        if (Joining.Register(policy, draft, hash, id, now, rules).Problem is { } wrong)
        {
            return wrong;
        }

        // The work is the same whether somebody has the address or not.
        var hashed = await passwords.TryHashAsync(draft.Password!.Reveal(), stop);
        if (hashed.Problem is { } busy)
        {
            return busy;
        }

        var done = await people.ChangeAsync<Member>(
            async () =>
            {
                var made = Joining.Register(policies.Current, draft, hashed.Value, id, now, rules);
                if (made.Problem is { } problem || made.Value.Value is not { Status: MemberStatus.Unverified } fresh)
                {
                    return made.Problem is not null ? made : With(made.Value, Came(made.Value.Value));
                }

                var letter = await MakeAsync(fresh, LinkPurpose.Confirm, new LinkTerms(fresh.Email), now, stop);
                return letter.Problem is { } unsent ? unsent : With(made.Value, letter.Value.ToStore.Changes);
            },
            EmailAddress.Normalise(draft.Email) ?? "");
        if (done.Problem is not { } refused)
        {
            return null;
        }

        if (refused.Kind != ProblemKind.Conflict)
        {
            return refused;
        }

        // Somebody has the address already: they are written how to get in, and whoever asked is told the same as ever.
        await ForgottenAsync(draft.Email!, null, stop);
        return null;
    }
}
