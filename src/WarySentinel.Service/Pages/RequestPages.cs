using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The pages that letters about a request lead to: staff decide on one; the applicant sees where it stands on the other, and mends their answers. Looking
/// changes nothing on either.
/// </summary>
public sealed class RequestPages(
    Store store, PolicyHolder policies, VisitorReader visitors, Refusals refusals, MemberLinks links, LinkPages linkPages, IAntiforgery antiforgery,
    PendingUploads uploads, TimeProvider time)
{
    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/request", RequestAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/request", DecideAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapGet("/application", ApplicationAsync).RequireRateLimiting(RateLimits.Proofs);
        account.MapPost("/application", MendAsync).RequireRateLimiting(RateLimits.Proofs).Takes(FormAnswers.MostBytes);
    }

    private async Task RequestAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteRequestAsync(http, identity, http.Request.Query["link"].ToString(), null, 200);
    }

    private async Task DecideAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var form = await antiforgery.FormAsync(http);
        var secret = form?["link"].ToString() ?? http.Request.Query["link"].ToString();
        var followed = await OpenAsync(secret, LinkPurpose.Approval, http.RequestAborted);
        if (form is null || followed?.Member is not { } member || form["decision"] is not [("yes" or "no" or "ask") and var said])
        {
            await WriteRequestAsync(http, identity, secret, form is null ? PageRequests.Stale() : null, 400);
            return;
        }

        var (words, by) = (PlainText.OrNull(form["words"].ToString()), followed.Link.Address);
        var done = await (said switch
        {
            "yes" => links.ApproveAsync(member.Id, words, by, http.RequestAborted),
            "no" => links.DeclineAsync(member.Id, words, by, http.RequestAborted),
            _ => links.AskBackAsync(member.Id, words, by, http.RequestAborted),
        });
        if (done.Problem is { } problem)
        {
            await WriteRequestAsync(http, identity, secret, PasswordPages.ErrorOf(problem), 422);
            return;
        }

        await refusals.MessageAsync(http, 200, "request.done-title", "request.done-" + said);
    }

    private async Task WriteRequestAsync(HttpContext http, RequestIdentity identity, string secret, PageError? error, int status)
    {
        if (await OpenAsync(secret, LinkPurpose.Approval, http.RequestAborted) is not { Member: { } member })
        {
            await ClosedAsync(http, identity, secret, LinkPurpose.Approval);
            return;
        }

        var token = antiforgery.GetAndStoreTokens(http);
        await Page.WriteAsync<RequestPage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new RequestModel(member.Name, member.Email, Day(member.CreatedAt), secret, error)
            {
                Answers = await LinesAsync(member, http.RequestAborted),
                Grants = [.. ((await store.RequestAsync(member.Id, http.RequestAborted))?.Grants ?? []).Select(TitleOf)],
            },
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }

    private async Task ApplicationAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteApplicationAsync(http, identity, http.Request.Query["link"].ToString(), null, null, 200);
    }

    private async Task MendAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var sent = await antiforgery.FormAsync(http);
        var secret = sent?["link"].ToString() ?? http.Request.Query["link"].ToString();
        var followed = await OpenAsync(secret, LinkPurpose.Application, http.RequestAborted);
        var request = followed?.Member is { } member ? await store.RequestAsync(member.Id, http.RequestAborted) : null;
        var (form, isAgain) = (FormOf(request), RequestCommands.MayAskAgain(followed?.Member, request));
        if (sent is null || form is null)
        {
            await WriteApplicationAsync(http, identity, secret, null, sent is null ? PageRequests.Stale() : null, 400);
            return;
        }

        var before = await store.AnswersAsync(followed!.Member!.Id, http.RequestAborted);
        var answers = await FormAnswers.ReadAsync(form, sent, before, uploads, http.RequestAborted);
        var done = answers.IsBad ? Problem.Of(ProblemKind.Invalid, "answers")
            : isAgain ? await links.AskAgainAsync(followed.Member.Id, answers.Filled, answers.Files, http.RequestAborted)
            : await links.MendAsync(followed.Member.Id, answers.Filled, answers.Files, http.RequestAborted);
        if (done.Problem is { } problem)
        {
            await answers.KeepFilesAsync(uploads, Networks.Of(http), http.RequestAborted);
            var error = answers.IsBad ? new PageError(PageWords.Of("set.not-yet"), PageWords.Of("register.look")) : PasswordPages.ErrorOf(problem);
            await WriteApplicationAsync(http, identity, secret, answers, error, 422);
            return;
        }

        await answers.LetGoAsync(uploads, http.RequestAborted);
        await refusals.MessageAsync(http, 200, "application.done-title", "application.done-lead");
    }

    private async Task WriteApplicationAsync(
        HttpContext http, RequestIdentity identity, string secret, FormAnswers? typed, PageError? error, int status)
    {
        var member = identity.Sample ?? (await OpenAsync(secret, LinkPurpose.Application, http.RequestAborted))?.Member;
        var request = identity.Sample is { } sample ? SamplePages.RequestOf(sample, policies.Current, time.GetUtcNow())
            : member is null ? null : await store.RequestAsync(member.Id, http.RequestAborted);
        if (member is null || request is null)
        {
            await ClosedAsync(http, identity, secret, LinkPurpose.Application);
            return;
        }

        var form = FormOf(request);
        var (token, language, isAgain) = (antiforgery.GetAndStoreTokens(http), member.Language, RequestCommands.MayAskAgain(member, request));
        await Page.WriteAsync<ApplicationPage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new ApplicationModel(member.Name, Day(request.At), request.State == RequestState.Asked || isAgain ? request.Words : null, secret, error)
            {
                Form = form, Language = language, IsAsked = request.State == RequestState.Asked, IsAgain = isAgain,
                Answers = form is null ? null : typed ?? FormAnswers.Of(form, await store.AnswersAsync(member.Id, http.RequestAborted)),
            },
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }

    /// <summary>The form that somebody came by, where there is something to mend in it.</summary>
    private JoinForm? FormOf(JoinRequest? request) =>
        request is not null && FormBook.Of(policies.Current).Find(request.Form) is { } form && (form.Placed.Count > 0 || request.IsOver) ? form : null;

    private async Task<FollowedAccount?> OpenAsync(string secret, LinkPurpose purpose, CancellationToken stop) =>
        await links.FollowAsync(secret, stop, purpose) is { Member: not null } followed && followed.Link.IsOpen(time.GetUtcNow()) ? followed : null;

    private async Task ClosedAsync(HttpContext http, RequestIdentity identity, string secret, LinkPurpose purpose) =>
        await linkPages.ClosedAsync(http, identity, (await links.FollowAsync(secret, http.RequestAborted, purpose))?.Link, secret, null);

    private async Task<IReadOnlyList<(string Label, string Words)>> LinesAsync(Member member, CancellationToken stop)
    {
        var (book, files) = (FormBook.Of(policies.Current), await store.FilesAsync(member.Id, stop));
        return
        [
            .. (await store.AnswersAsync(member.Id, stop)).Select(a => (AnswerWords.LabelOf(book, a.Field), book.FindField(a.Field)?.Kind == FieldKind.File
                ? string.Join(", ", files.Where(f => f.Field == a.Field).Select(f => f.Name)) : AnswerWords.Of(book, a, w => PageWords.Of("answer." + w)))),
        ];
    }

    private string TitleOf(RequestGrant grant) => policies.Current.FindDefinition(grant.Kind, grant.Key)?.Title ?? grant.Fact;

    private string Day(DateTimeOffset at) => Page.Day(new SiteDates(policies.Current.Settings.TimeZone), at, false);
}

/// <summary>What staff see of a request.</summary>
/// <param name="Name">Who asks.</param>
/// <param name="Email">Their address.</param>
/// <param name="Since">Since when.</param>
/// <param name="Secret">What stands in the link.</param>
/// <param name="Error">What is wrong.</param>
public sealed record RequestModel(string Name, string Email, string Since, string Secret, PageError? Error)
{
    /// <summary>What they answered.</summary>
    public IReadOnlyList<(string Label, string Words)> Answers { get; init; } = [];

    /// <summary>What a yes gives.</summary>
    public IReadOnlyList<string> Grants { get; init; } = [];
}

/// <summary>What an applicant sees of their request.</summary>
/// <param name="Name">Who they are.</param>
/// <param name="Since">Since when it waits.</param>
/// <param name="Words">What staff asked back.</param>
/// <param name="Secret">What stands in the link.</param>
/// <param name="Error">What is wrong.</param>
public sealed record ApplicationModel(string Name, string Since, string? Words, string Secret, PageError? Error)
{
    /// <summary>The form, where there is something to mend.</summary>
    public JoinForm? Form { get; init; }

    /// <summary>The language that they are written to in.</summary>
    public string? Language { get; init; }

    /// <summary>Whether they were told no and may ask again.</summary>
    public bool IsAgain { get; init; }

    /// <summary>Whether staff wait for their answer.</summary>
    public bool IsAsked { get; init; }

    /// <summary>Their answers.</summary>
    public FormAnswers? Answers { get; init; }
}
