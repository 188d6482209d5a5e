using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>The page where members see and change what they have told of themselves, as far as the owner leaves it to them.</summary>
public sealed class ProfilePages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, PeopleLane people, Store store, IAntiforgery antiforgery,
    PendingUploads uploads)
{
    /// <summary>Maps the page.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/profile", ShowAsync);
        account.MapPost("/profile", SaveAsync);
    }

    private async Task ShowAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await MemberAsync(http, identity) is { } member)
        {
            await WriteAsync(http, identity, member, null, null, 200);
        }
    }

    private async Task SaveAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await MemberAsync(http, identity) is not { } member)
        {
            return;
        }

        if (await antiforgery.FormAsync(http) is not { } sent)
        {
            await WriteAsync(http, identity, member, null, PageRequests.Stale(), 400);
            return;
        }

        var form = FormBook.Of(policies.Current).Profile;
        var answers = await FormAnswers.ReadAsync(form, sent, [], uploads, http.RequestAborted);
        var saved = await people.ChangeAsync(
            async () => ProfileCommands.Set(await store.MemberAsync(member.Id, http.RequestAborted), form, answers.Filled, sent["name"]), member.Email);
        if (saved.Problem is { } problem)
        {
            var error = answers.IsBad ? new PageError(PageWords.Of("set.not-yet"), PageWords.Of("register.look")) : PasswordPages.ErrorOf(problem);
            await WriteAsync(http, identity, member with { Name = sent["name"].ToString() }, answers, error, 422);
            return;
        }

        if (MemberDirectory.Of(policies.Current).Audience is not null)
        {
            IReadOnlyList<string>? shown = sent["listed"] == "yes" ? [.. sent["show"].OfType<string>()] : null;
            await people.ChangeAsync(
                async () => DirectoryCommands.List(
                    policies.Current, await store.MemberAsync(member.Id, http.RequestAborted), await store.ListingAsync(member.Id, http.RequestAborted), shown),
                member.Email);
        }

        await WriteAsync(http, identity, saved.Value, null, null, 200, true);
    }

    /// <summary>Whoever is signed in, and never somebody through whose eyes another looks; asks others to sign in.</summary>
    private async Task<Member?> MemberAsync(HttpContext http, RequestIdentity identity)
    {
        var email = identity.IsMember ? identity.Visitor.Email : null;
        var member = identity.SeesMembersPages && identity.Sample is { } sample ? sample
            : email is null ? null : await store.MemberByNameAsync(email, http.RequestAborted);
        if (member is null)
        {
            await refusals.SignInAsync(http, identity, $"{http.Request.PathBase}{http.Request.Path}", null, true, null, 401);
        }

        return member;
    }

    private async Task<OwnListing?> DirectoryAsync(Member member, CancellationToken stop)
    {
        var policy = policies.Current;
        return MemberDirectory.Of(policy) is not { Audience: { } audience } directory ? null : new OwnListing(
            GateWords.OfAudience(audience, policy, Reader.Book),
            [.. directory.FieldsOf(FormBook.Of(policy)).Select(f => (f.Key, f.WordsIn(member.Language).Label ?? f.Key))],
            await store.ListingAsync(member.Id, stop));
    }

    private async Task WriteAsync(
        HttpContext http, RequestIdentity identity, Member member, FormAnswers? typed, PageError? error, int status, bool saved = false)
    {
        var (book, token) = (FormBook.Of(policies.Current), antiforgery.GetAndStoreTokens(http));
        var there = await store.AnswersAsync(member.Id, http.RequestAborted);
        var shown = there.Where(a => book.FindField(a.Field) is { Profile: ProfileUse.Shown, Kind: not FieldKind.File })
            .OrderBy(a => book.FindField(a.Field)!.Draft.Position ?? FormBook.UsualPosition);
        await Page.WriteAsync<ProfilePage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new ProfileModel(member.Name, member.Email, book.Profile, typed ?? FormAnswers.Of(book.Profile, there), saved, error)
            {
                Language = member.Language,
                Directory = await DirectoryAsync(member, http.RequestAborted),
                Shown =
                [
                    .. shown.Select(a => (
                        AnswerWords.LabelOf(book, a.Field, member.Language), AnswerWords.Of(book, a, w => PageWords.Of("answer." + w), member.Language))),
                ],
            },
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }
}

/// <summary>What a member shows of themselves in the directory.</summary>
/// <param name="Who">Who may look at it.</param>
/// <param name="Offered">Key and label of the fields that can be shown.</param>
/// <param name="Shown">The keys of those that are; null where the member does not stand in it.</param>
public sealed record OwnListing(string Who, IReadOnlyList<(string Key, string Label)> Offered, IReadOnlyList<string>? Shown);

/// <summary>What the page of a profile shows.</summary>
/// <param name="Name">The name.</param>
/// <param name="Email">The address.</param>
/// <param name="Form">The fields that they change.</param>
/// <param name="Answers">What they answered or typed.</param>
/// <param name="Saved">Whether it was just saved.</param>
/// <param name="Error">What is wrong.</param>
public sealed record ProfileModel(string Name, string Email, JoinForm Form, FormAnswers Answers, bool Saved, PageError? Error)
{
    /// <summary>The language that they are written to in.</summary>
    public string? Language { get; init; }

    /// <summary>What they show in the directory; null where the site has none.</summary>
    public OwnListing? Directory { get; init; }

    /// <summary>What they read and do not change.</summary>
    public IReadOnlyList<(string Label, string Words)> Shown { get; init; } = [];
}
