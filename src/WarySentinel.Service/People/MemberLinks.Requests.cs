using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Service.People;

/// <summary>Requests to join: decided, asked back, mended.</summary>
public sealed partial class MemberLinks
{
    /// <summary>Says yes to somebody who asked to join, and writes to them.</summary>
    public Task<Outcome<Member>> ApproveAsync(Guid member, string? words, string by, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var found = await store.MemberAsync(member, stop);
            var done = RequestCommands.Approve(policies.Current, found, await store.RequestAsync(member, stop), words, by, time.GetUtcNow());
            return done.Problem is not null ? done : done.Value.Value.Status == MemberStatus.Unverified ? await ToProveAsync(done.Value, stop)
                : With(done.Value, letters.Write(
                    "approved", LetterReader.Of(done.Value.Value) with { Answers = await store.AnswersAsync(member, stop) },
                    ("link", letters.PageAt("/sign-in")), ("words", words)));
        },
        by);

    /// <summary>Says no to somebody who asked to join, and writes to them; not to who was held back, as the address may be anybody's.</summary>
    public Task<Outcome<Member>> DeclineAsync(Guid member, string? words, string by, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var request = await store.RequestAsync(member, stop);
            var done = RequestCommands.Decline(await store.MemberAsync(member, stop), request, words, by, time.GetUtcNow());
            return done.Problem is not null || request is { State: RequestState.Held or RequestState.Unproved } ? done
                : With(done.Value, done.Value.Value.Status == MemberStatus.Closed ? [.. Application(done.Value.Value, "declined", words,
                    await store.AnswersAsync(member, stop))]
                    : [letters.Write(
                        "declined", LetterReader.Of(done.Value.Value) with { Answers = await store.AnswersAsync(member, stop) }, ("words", words))]);
        },
        by);

    /// <summary>Asks somebody back who asked to join; their letter leads to where they mend their answers.</summary>
    public Task<Outcome<Member>> AskBackAsync(Guid member, string? words, string by, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var done = RequestCommands.Ask(await store.MemberAsync(member, stop), await store.RequestAsync(member, stop), words, by, time.GetUtcNow());
            return done.Problem is not null ? done : With(done.Value,
                [.. Application(done.Value.Value, "request-asked", words, await store.AnswersAsync(member, stop))]);
        },
        by);

    /// <summary>Lets a request go its way that was held back.</summary>
    public async Task<Outcome<Member>> LetGoAsync(Guid member, string by, CancellationToken stop)
    {
        var done = await people.ChangeAsync<Joined>(
            async () =>
            {
                var freed = RequestCommands.LetGo(
                    policies.Current, await store.MemberAsync(member, stop), await store.RequestAsync(member, stop), by, time.GetUtcNow());
                return freed.Problem is not null ? freed : await WithLettersAsync(freed.Value, await store.AnswersAsync(member, stop), stop);
            },
            by);
        return done.Problem is { } problem ? problem : done.Value.Member;
    }

    /// <summary>Takes the answers that an applicant mended, and tells staff.</summary>
    public Task<Outcome<Member>> MendAsync(Guid member, FilledForm filled, IReadOnlyList<AnswerFile> files, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var (found, request) = (await store.MemberAsync(member, stop), await store.RequestAsync(member, stop));
            var form = request is null ? null : FormBook.Of(policies.Current).Find(request.Form);
            var done = RequestCommands.Mend(found, request, form, filled, files);
            // Staff are told what they asked for; who changes their mind meanwhile fills nobody's mailbox.
            return done.Problem is not null || request!.State != RequestState.Asked ? done : With(done.Value, [.. Notice(done.Value.Value, filled.Answers)]);
        },
        "applicant");

    /// <summary>Takes the request of somebody who asks again after a no, and tells staff.</summary>
    public Task<Outcome<Member>> AskAgainAsync(Guid member, FilledForm filled, IReadOnlyList<AnswerFile> files, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var (found, request) = (await store.MemberAsync(member, stop), await store.RequestAsync(member, stop));
            var form = request is null ? null : FormBook.Of(policies.Current).Find(request.Form);
            var done = RequestCommands.AskAgain(found, request, form, filled, files, time.GetUtcNow());
            return done.Problem is not null ? done
                : With(done.Value, [.. Application(done.Value.Value, "request-received", null, filled.Answers), .. Notice(done.Value.Value, filled.Answers)]);
        },
        "applicant");

    /// <summary>Writes to somebody who was told no and fills in a form again, once in a while: they ask again from there, as only they read it.</summary>
    private async Task<bool> ToAskAgainAsync(string email, CancellationToken stop)
    {
        if (await FindAsync(email, stop) is not { Status: MemberStatus.Closed } member || await store.RequestAsync(member.Id, stop) is not { } request
            || !RequestCommands.MayAskAgain(member, request))
        {
            return false;
        }

        await people.ChangeAsync(
            new Edit<int>(
                new Edit(
                    "link.application", member.Email,
                    [
                        new NoLinkSince(LinkPurpose.Application, member.Id, time.GetUtcNow() - AccountLinks.Pace),
                        .. Application(member, "declined", request.Words, await store.AnswersAsync(member.Id, stop)),
                    ]),
                0),
            member.Email);
        return true;
    }

    private async Task<Outcome<Edit<Member>>> ToProveAsync(Edit<Member> approved, CancellationToken stop)
    {
        var letter = await MakeAsync(approved.Value, LinkPurpose.Confirm, new LinkTerms(approved.Value.Email), time.GetUtcNow(), stop);
        return letter.Problem is { } unsent ? unsent : With(approved, [.. letter.Value.ToStore.Changes]);
    }
}
