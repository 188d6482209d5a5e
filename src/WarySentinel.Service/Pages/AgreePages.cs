using System.Globalization;
using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>The page where somebody who is signed in agrees to terms, or does not (docs/how-to/terms.md).</summary>
public sealed class AgreePages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, Sessions sessions, PeopleLane people, Store store, IAntiforgery antiforgery,
    ServiceOptions options, TimeProvider time)
{
    /// <summary>Maps the page.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/agree", ShowAsync);
        account.MapPost("/agree", AnswerAsync);
    }

    /// <summary>The address of the page, that leads on to another.</summary>
    public static string AddressOf(string prefix, string? back) =>
        prefix + "/agree" + (back is null ? "" : "?return_to=" + Uri.EscapeDataString(back));

    /// <summary>What was said in a form: for each terms by key the version that was seen, and whether its box is ticked.</summary>
    internal static Dictionary<string, (int Number, bool Agreed)> SaidIn(IFormCollection form) => form.Keys
        .Where(k => k.StartsWith("seen.", StringComparison.Ordinal)).Take(TermsCommands.Most).Select(k => k["seen.".Length..])
        .ToDictionary(k => k, k => (
            int.TryParse(form["seen." + k], NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0, form["agree." + k] == "yes"));

    private async Task ShowAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        var back = PageRequests.BackOf(http.Request.Query["return_to"]);
        if (await MemberAsync(http, identity) is not { } member)
        {
            return;
        }

        if (DueOf(member) is { Count: > 0 } due)
        {
            await WriteAsync(http, identity, due, back, [], null, 200);
            return;
        }

        PageRequests.See(http, back ?? options.AccountPrefix + "/");
    }

    private async Task AnswerAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        if (await MemberAsync(http, identity) is not { } member)
        {
            return;
        }

        if (await antiforgery.FormAsync(http) is not { } form)
        {
            await WriteAsync(http, identity, DueOf(member), null, [], PageRequests.Stale(), 400);
            return;
        }

        var (back, refuses) = (PageRequests.BackOf(form["return_to"]), form["answer"] == "refuse");
        var (due, said) = (DueOf(member), SaidIn(form));
        HashSet<string> ticked = [.. said.Where(s => s.Value.Agreed).Select(s => s.Key)];
        if (!refuses && due.FirstOrDefault(d => !d.Terms.IsOptional && !ticked.Contains(d.Terms.Key)) is { } missing)
        {
            var title = missing.Text.WordsIn(PageLanguage.Spoken(http)).Words.Title!;
            await WriteAsync(
                http, identity, due, back, ticked, new PageError(PageWords.Of("set.not-yet"), PageWords.Of("agree.needed", title), missing.Terms.Key), 422);
            return;
        }

        var answers = refuses ? said.ToDictionary(s => s.Key, s => (s.Value.Number, due.Any(d => d.Terms.Key == s.Key && d.Terms.IsOptional) && s.Value.Agreed))
            : said;
        var done = await people.ChangeAsync(
            async () => await store.MemberAsync(member.Id, http.RequestAborted) is var now && now is null ? Problem.Of(ProblemKind.NotFound, "member-unknown")
                : ConsentCommands.Answer(now, DueOf(now), answers, (PageLanguage.Spoken(http), policies.Current.Settings.Language), time.GetUtcNow()),
            member.Email);
        if (done.Problem is { } problem)
        {
            await WriteAsync(http, identity, DueOf(member), back, ticked, PasswordPages.ErrorOf(problem), 422);
            return;
        }

        if (refuses && DueOf(done.Value) is { Count: > 0 } left)
        {
            await sessions.EndAsync(http, SessionPurpose.Site);
            await RefusedAsync(http, left);
            return;
        }

        PageRequests.See(http, back ?? options.AccountPrefix + "/");
    }

    /// <summary>What becomes of somebody who says no: they are signed out, their account stays, and they may say yes at any time.</summary>
    private Task RefusedAsync(HttpContext http, IReadOnlyList<TermsDue> left) => Page.WriteAsync<MessagePage>(http, 200, new
    {
        Frame = refusals.Frame(new RequestIdentity(Core.Facts.Visitor.Guest, null), "/"),
        Model = new MessageModel(PageWords.Of("agree.refused-title"), [PageWords.Of("agree.refused-lead"), PageWords.Of("agree.refused-more")])
        {
            SignIn = true,
            Links = [.. left.Select(d => new Core.Access.SiteLink($"{options.AccountPrefix}/terms/{d.Terms.Key}",
                d.Text.WordsIn(PageLanguage.Spoken(http)).Words.Title!))],
        },
    });

    private IReadOnlyList<TermsDue> DueOf(Member member) => TermsBook.Of(policies.Current).DueFor(member.AsVisitor(), member.Said, time.GetUtcNow());

    /// <summary>Whoever signed in with this browser, and never somebody through whose eyes another looks.</summary>
    private async Task<Member?> MemberAsync(HttpContext http, RequestIdentity identity)
    {
        var live = identity.Viewpoint is null ? await sessions.FindAsync(http, SessionPurpose.Site) : null;
        var member = live?.Member is { } id ? await store.MemberAsync(id, http.RequestAborted) : null;
        if (member is null)
        {
            await refusals.SignInAsync(http, identity with { Owing = null }, PageRequests.BackOf(http.Request.Query["return_to"]), null, true, null, 401);
        }

        return member;
    }

    private async Task WriteAsync(
        HttpContext http, RequestIdentity identity, IReadOnlyList<TermsDue> due, string? back, HashSet<string> ticked, PageError? error, int status)
    {
        var (token, language, settings) = (antiforgery.GetAndStoreTokens(http), PageLanguage.Spoken(http), policies.Current.Settings);
        await Page.WriteAsync<AgreePage>(http, status, new
        {
            Frame = refusals.Frame(identity, "/"),
            Model = new AgreeModel(due, [.. due.Select(d => TermsModel.Of(d.Terms, d.Text, language, settings, time.GetUtcNow()))], back, error)
            {
                Language = language, Ticked = ticked,
            },
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }
}

/// <summary>What the page shows where somebody agrees to terms.</summary>
/// <param name="Due">What they are asked.</param>
/// <param name="Texts">The texts of that, in the same order.</param>
/// <param name="Back">Where they go on to.</param>
/// <param name="Error">What is wrong.</param>
public sealed record AgreeModel(IReadOnlyList<TermsDue> Due, IReadOnlyList<TermsModel> Texts, string? Back, PageError? Error)
{
    /// <summary>The language that the browser asks for.</summary>
    public string? Language { get; init; }

    /// <summary>The keys of what is ticked.</summary>
    public IReadOnlySet<string> Ticked { get; init; } = new HashSet<string>();

    /// <summary>Whether they have to say yes to go on.</summary>
    public bool MustAgree => Due.Any(d => !d.Terms.IsOptional);

    /// <summary>Whether they agreed to an older version.</summary>
    public bool IsNews => Due.Any(d => d.Last?.Agreed == true);
}
