using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>Those who ask to join by themselves.</summary>
public sealed partial class MemberLinks
{
    /// <summary>What somebody is written, and staff are, whose address is proved or need not be.</summary>
    /// <param name="member">Who.</param>
    /// <param name="request">What they asked; null where no request is kept.</param>
    /// <param name="answers">What they answered.</param>
    public IReadOnlyList<Change> Came(Member member, JoinRequest? request, IReadOnlyList<FieldAnswer> answers) => member.Status switch
    {
        MemberStatus.Active when request is { State: RequestState.Waiting } => [letters.Write("welcome", LetterReader.Of(member) with { Answers = answers }),
            .. Notice(member, answers)],
        MemberStatus.Active => [letters.Write("welcome", LetterReader.Of(member) with { Answers = answers })],
        MemberStatus.Pending => [.. Application(member, "request-received", null, answers), .. Notice(member, answers)],
        _ => [],
    };

    /// <summary>A letter about somebody's request, with a link to where it stands and how it can be mended.</summary>
    private IReadOnlyList<Change> Application(Member member, string kind, string? words, IReadOnlyList<FieldAnswer> answers)
    {
        var (secret, link) = Anew(LinkPurpose.Application, member, member.Email);
        return
        [
            .. link,
            letters.Write(kind, LetterReader.Of(member) with { Answers = answers }, ("link", letters.LinkTo("/application", secret)), ("words", words)),
        ];
    }

    /// <summary>A link about somebody's request in place of the one before: what stands in it, and what is to be stored.</summary>
    private (string Secret, IReadOnlyList<Change> Changes) Anew(LinkPurpose purpose, Member member, string to)
    {
        var (secret, now) = (LinkSecret.New(), time.GetUtcNow());
        var link = new SingleUseLink(
            Guid.CreateVersion7(), purpose, Secrets.DigestOf(secret), member.Id, to, now, now + AccountLinks.LastsFor(purpose));
        return (secret, [new LinksClosed(purpose, member.Id, null, LinkEnd.Replaced), new LinkAdded(link)]);
    }

    /// <summary>Tells staff that a request waits, with a link that decides it.</summary>
    private IReadOnlyList<Change> Notice(Member member, IReadOnlyList<FieldAnswer> answers)
    {
        if (policies.Current.Settings.Letters.NoticesTo is not { } to)
        {
            return [];
        }

        var book = FormBook.Of(policies.Current);
        var (secret, link) = Anew(LinkPurpose.Approval, member, to);
        var lines = answers.Where(a => book.FindField(a.Field)?.Kind != FieldKind.File)
            .Select(a => $"{AnswerWords.LabelOf(book, a.Field)}: {AnswerWords.Of(book, a, w => PageWords.Of("answer." + w))}");
        return
        [
            .. link, letters.Write(
                "notice-request", new LetterReader(to), ("address", member.Email), ("answers", string.Join('\n', lines)),
                ("page", letters.LinkTo("/request", secret))),
        ];
    }

    /// <summary>
    /// Takes in somebody who asks to join. Who has an account already is written how to get in; the caller answers the same. A fault of what they typed
    /// comes back, before anything is looked up.
    /// </summary>
    public async Task<Outcome<Joined?>> RegisterAsync(JoinAttempt attempt, CancellationToken stop)
    {
        var (policy, now, id) = (policies.Current, time.GetUtcNow(), Guid.CreateVersion7());
        Secret hash = "";
        // The work is the same whether somebody has the address or not. To judge a password takes longer than to hash it: of both, so many at once.
        var hashed = await passwords.TryHashAsync(
            attempt.Person.Password?.Reveal() ?? "", stop, () => Joining.Register(policy, attempt, hash, id, now, rules).Problem);
        if (hashed.Problem is { } wrong)
        {
            return wrong;
        }

        var done = await people.ChangeAsync<Joined>(
            async () =>
            {
                var made = Joining.Register(policies.Current, attempt, hashed.Value, id, now, rules);
                return made.Problem is not null ? made : await WithLettersAsync(made.Value, attempt.Filled.Answers, stop);
            },
            EmailAddress.Normalise(attempt.Person.Email) ?? "");
        if (done.Problem is not { } refused)
        {
            return done.Value;
        }

        if (refused.Kind != ProblemKind.Conflict)
        {
            return refused;
        }

        // Somebody has the address already: they are written how to get in, and whoever asked is told the same as ever.
        if (!await ToAskAgainAsync(attempt.Person.Email!, stop))
        {
            await ForgottenAsync(attempt.Person.Email!, null, stop);
        }

        return (Joined?)null;
    }

    /// <summary>Whom staff invited to a form, by what stands in the link of the letter; null where it works no longer, or is for no form.</summary>
    public async Task<(FollowedAccount Followed, JoinRequest Request)?> InvitedToAsync(string? secret, CancellationToken stop) =>
        await FollowAsync(secret, stop, LinkPurpose.Invitation) is { Member: { Status: MemberStatus.Invited } member } followed
            && followed.Link.IsOpen(time.GetUtcNow()) && await store.RequestAsync(member.Id, stop) is { State: RequestState.Invited } request
            && FormBook.Of(policies.Current).Find(request.Form) is not null ? (followed, request) : null;

    /// <summary>Takes in whom staff invited, by the form that they were asked to fill in.</summary>
    public async Task<Outcome<Joined?>> AcceptAsync(string? secret, JoinAttempt attempt, CancellationToken stop)
    {
        async Task<Outcome<Edit<Joined>>> TryAsync(Secret hash) => await InvitedToAsync(secret, stop) is not var (followed, request) ? Closed
            : Joining.Accept(policies.Current, attempt, (followed.Member!, followed.Link, request), hash, time.GetUtcNow());
        if (await InvitedToAsync(secret, stop) is not var (asked, _))
        {
            return Closed;
        }

        if ((await TryAsync("")).Problem is { } wrong)
        {
            return wrong;
        }

        var hash = await HashAsync(asked.Member!, attempt.Person.Password?.Reveal() ?? "", attempt.Person.Name, stop);
        if (hash.Problem is { } weak)
        {
            return weak;
        }

        var done = await people.ChangeAsync<Joined>(
            async () =>
            {
                var made = await TryAsync(hash.Value);
                return made.Problem is not null ? made : new Edit<Joined>(
                    made.Value.ToStore with
                    {
                        Changes = [.. made.Value.ToStore.Changes, .. Came(made.Value.Value.Member, made.Value.Value.Request, attempt.Filled.Answers)],
                    },
                    made.Value.Value);
            },
            asked.Member!.Email);
        return done.Problem is { } refused ? refused : done.Value;
    }

    /// <summary>Nobody is written to whose request is held back: the address may be anybody's.</summary>
    private async Task<Outcome<Edit<Joined>>> WithLettersAsync(Edit<Joined> made, IReadOnlyList<FieldAnswer> answers, CancellationToken stop)
    {
        var (member, request) = made.Value;
        if (request.State == RequestState.Held)
        {
            return made;
        }

        IReadOnlyList<Change> more = Came(member, request, answers);
        if (member.Status == MemberStatus.Unverified)
        {
            var letter = await MakeAsync(member, LinkPurpose.Confirm, new LinkTerms(member.Email), time.GetUtcNow(), stop);
            if (letter.Problem is { } unsent)
            {
                return unsent;
            }

            more = letter.Value.ToStore.Changes;
        }

        return new Edit<Joined>(made.ToStore with { Changes = [.. made.ToStore.Changes, .. more] }, made.Value);
    }

    /// <summary>The edit that proves an address, with what becomes of the request, and the letters to them and to staff.</summary>
    private async Task<Edit<Member>> ProvedAsync(Edit<Member> proved, JoinRequest? request, Change? otherwise, CancellationToken stop)
    {
        var settled = Joining.WithRequest(policies.Current, proved, request, time.GetUtcNow());
        var after = settled.ToStore.Changes.OfType<RequestSet>().LastOrDefault()?.Request ?? request;
        var told = settled.Value.Status == MemberStatus.Active && otherwise is not null ? [otherwise]
            : Came(settled.Value, after, await store.AnswersAsync(settled.Value.Id, stop));
        return With(settled, told);
    }
}
