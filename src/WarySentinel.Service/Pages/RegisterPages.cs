using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Forms;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The pages where people ask to join, a form each. Whether an address has an account is told by no word and by no time.
/// </summary>
public sealed class RegisterPages(
    PolicyHolder policies, VisitorReader visitors, Refusals refusals, JoinDesk desk, MemberLinks links, Entrance entrance, FormSeals seals,
    Previews previews, PendingUploads uploads, IAntiforgery antiforgery, ServiceOptions options, TimeProvider time)
{
    /// <summary>A field that people do not see: whoever fills it in is none.</summary>
    public const string Decoy = "website";

    /// <summary>Maps the pages.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/register/{form?}", FormAsync);
        account.MapPost("/register/{form?}", RegisterAsync).RequireRateLimiting(RateLimits.Proofs).Takes(FormAnswers.MostBytes);
    }

    private async Task FormAsync(HttpContext http, string? form)
    {
        var identity = await visitors.ReadAsync(http);
        var preview = previews.Find<JoinForm>(http.Request.Query["preview"]);
        var (isGone, invited) = await InvitedAsync(http, form, http.Request.Query["invitation"]);
        if (!isGone && (preview ?? await FindAsync(http, form, invited is not null)) is { } found)
        {
            var typed = new RegisterTyped(invited?.Name, invited?.Address, FormAnswers.Of(found, []), null)
            {
                Invitation = invited?.Secret, Back = PageRequests.BackOf(http.Request.Query["return_to"]),
            };
            await WriteAsync(http, identity, found, typed, 200);
        }
    }

    private async Task RegisterAsync(HttpContext http, string? form)
    {
        var identity = await visitors.ReadAsync(http);
        var sent = await antiforgery.FormAsync(http);
        var secret = sent?["invitation"].ToString() ?? http.Request.Query["invitation"].ToString();
        var (isGone, invited) = await InvitedAsync(http, form, secret);
        if (isGone || await FindAsync(http, form, invited is not null) is not { } found)
        {
            return;
        }

        if (sent is null)
        {
            await WriteAsync(http, identity, found, new RegisterTyped(null, null, FormAnswers.Of(found, []), PageRequests.Stale()), 400);
            return;
        }

        var answers = await FormAnswers.ReadAsync(found, sent, [], uploads, http.RequestAborted);
        var (name, email) = (sent["name"].ToString().Trim(), sent["email"].ToString().Trim());
        var person = new MemberDraft { Name = name, Email = email, Password = sent["password"].ToString(), Language = PageLanguage.Wish(http) };
        var said = AgreePages.SaidIn(sent);
        Outcome<Joined?> done = Problem.Of(ProblemKind.Invalid, "answers");
        if (!answers.IsBad)
        {
            var attempt = new JoinAttempt(person, found, answers.Filled) { Files = answers.Files, Said = said, Language = PageLanguage.Spoken(http) };
            var post = new FormPost(sent["seal"], sent["work"].ToString(), sent[Decoy].ToString(), Networks.Of(http));
            await Unhurried.AsEverAsync(async () => done = invited is not null ? await links.AcceptAsync(invited.Secret, attempt, http.RequestAborted)
                : await desk.TakeAsync(attempt, post, http.RequestAborted));
        }

        if (done.Problem is { } wrong)
        {
            var error = wrong.Code == "form-stale" ? PageRequests.Stale()
                : answers.IsBad ? new PageError(PageWords.Of("set.not-yet"), PageWords.Of("register.look")) : PasswordPages.ErrorOf(wrong);
            await answers.KeepFilesAsync(uploads, Networks.Of(http), http.RequestAborted);
            var status = wrong.Kind switch { ProblemKind.TooMany => 503, ProblemKind.Stale => 400, _ => 422 };
            await WriteAsync(http, identity, found, new RegisterTyped(name, email, answers,
                error)
            {
                Ticked = [.. said.Where(s => s.Value.Agreed).Select(s => s.Key)], Invitation = invited?.Secret,
                Back = PageRequests.BackOf(sent["return_to"])
            }, status);
            return;
        }

        await answers.LetGoAsync(uploads, http.RequestAborted);
        if (invited is not null && done.Value is { Member: { Status: MemberStatus.Active } member })
        {
            await entrance.EnterAsync(http, member, RedirectOn.PasswordSet);
            return;
        }

        await DoneAsync(http, identity, found, PageRequests.BackOf(sent["return_to"]));
    }

    /// <summary>Who was invited to this form, where a link of an invitation is shown; says so where it works no longer.</summary>
    private async Task<(bool IsGone, Invited? By)> InvitedAsync(HttpContext http, string? form, string? secret)
    {
        if (string.IsNullOrEmpty(secret))
        {
            return (false, null);
        }

        if (await links.InvitedToAsync(secret, http.RequestAborted) is var (followed, request) && request.Form == form)
        {
            return (false, new Invited(secret, followed.Link.Address, followed.Member!.Name));
        }

        await refusals.MessageAsync(http, StatusCodes.Status410Gone, "join.closed-title", "join.late");
        return (true, null);
    }

    /// <summary>Says the same to everybody, whatever became of it.</summary>
    private async Task DoneAsync(HttpContext http, RequestIdentity identity, JoinForm form, string? back)
    {
        var joining = form.JoiningOn(policies.Current.Settings);
        var usual = PageWords.Of(joining.Confirm ? "register.done-confirm" : joining.Way == JoinWay.Open ? "register.done-open" : "register.done-approval");
        var own = form.WordsIn(PageLanguage.Spoken(http)).Done;
        IReadOnlyList<string> lines = own is null ? [usual] : [.. own.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries),
            usual];
        var frame = refusals.Frame(identity, "/");
        await Page.WriteAsync<MessagePage>(http, 200, new
        {
            Frame = frame,
            Model = new MessageModel(PageWords.Of("register.done-title"), lines)
            {
                Links = (back ?? form.Draft.LeadsTo) is { } to && joining is { Way: JoinWay.Open, Confirm: false }
                    ? [new SiteLink($"{frame.Prefix}/sign-in?return_to={Uri.EscapeDataString(to)}",
                        PageWords.Of("sign-in.button"))] : [],
            },
        });
    }

    /// <summary>The form at an address, where people may join by it; says so where not.</summary>
    private async Task<JoinForm?> FindAsync(HttpContext http, string? key, bool isInvited)
    {
        var found = FormBook.Of(policies.Current).Find(key);
        var way = found?.JoiningOn(policies.Current.Settings).Way;
        if (found is not null && isInvited && TermsOf(found) is not null)
        {
            return found;
        }

        // Whoever was led here from a closed page, and cannot join, signs in.
        if (way is null or JoinWay.Closed or JoinWay.Invitation && PageRequests.BackOf(http.Request.Query["return_to"]) is { } back)
        {
            PageRequests.See(http, $"{options.AccountPrefix}/sign-in?return_to={Uri.EscapeDataString(back)}");
            return null;
        }

        if (way == JoinWay.Invitation)
        {
            await refusals.MessageAsync(http, 403, "register.invitation-title", "register.invitation-lead");
            return null;
        }

        if (found is null || way is null or JoinWay.Closed || TermsOf(found) is null)
        {
            await refusals.MessageAsync(http, 404, "register.closed-title", "register.closed-lead");
            return null;
        }

        return found;
    }

    private IReadOnlyList<TermsDue>? TermsOf(JoinForm form) => TermsBook.Of(policies.Current).OfForm(form.Draft.Terms, time.GetUtcNow());

    private async Task WriteAsync(HttpContext http, RequestIdentity identity, JoinForm form, RegisterTyped typed, int status)
    {
        var (token, settings) = (antiforgery.GetAndStoreTokens(http), policies.Current.Settings);
        var others = FormBook.Of(policies.Current).Forms.Where(f => f.Key != form.Key && f.Draft.Unlisted != true
            && f.JoiningOn(settings).Way is JoinWay.Approval or JoinWay.Open);
        var (frame, language) = (refusals.Frame(identity, "/"), PageLanguage.Spoken(http));
        await Page.WriteAsync<RegisterPage>(http, status, new
        {
            Frame = frame,
            Model = new RegisterModel(form, form.WordsIn(language), language, typed, form.JoiningOn(settings).Way == JoinWay.Approval, seals.Issue())
            {
                Terms = TermsOf(form) ?? [],
                To = $"{frame.Prefix}/register" + (form == JoinForm.Plain ? "" : "/" + form.Key),
                IsPreview = previews.Find<JoinForm>(http.Request.Query["preview"]) is not null,
                Others = [.. others.Select(f => new SiteLink($"{frame.Prefix}/register/{f.Key}", f.WordsIn(language).Title ?? f.Key))],
            },
            TokenField = token.FormFieldName,
            Token = token.RequestToken!,
        });
    }
}

/// <summary>Somebody whom staff invited to a form.</summary>
/// <param name="Secret">What stands in their link.</param>
/// <param name="Address">Where it was sent.</param>
/// <param name="Name">Their name, as staff know it.</param>
public sealed record Invited(string Secret, string Address, string Name);

/// <summary>What was typed so far.</summary>
/// <param name="Name">The name.</param>
/// <param name="Email">The address.</param>
/// <param name="Answers">The answers.</param>
/// <param name="Error">What is wrong.</param>
public sealed record RegisterTyped(string? Name, string? Email, FormAnswers Answers, PageError? Error)
{
    /// <summary>The page that they wanted, where they were led here from it.</summary>
    public string? Back { get; init; }

    /// <summary>What stands in the link of an invitation; null where whoever comes asks by themselves.</summary>
    public string? Invitation { get; init; }

    /// <summary>The keys of the terms that are agreed to.</summary>
    public IReadOnlyList<string> Ticked { get; init; } = [];
}

/// <summary>What the page shows where people ask to join.</summary>
/// <param name="Form">The form.</param>
/// <param name="Words">Its words.</param>
/// <param name="Language">The language that the browser asks for.</param>
/// <param name="Typed">What was typed so far.</param>
/// <param name="NeedsApproval">Whether staff say yes first.</param>
/// <param name="Seal">The seal that the form is given out with.</param>
public sealed record RegisterModel(JoinForm Form, FormWords Words, string? Language, RegisterTyped Typed, bool NeedsApproval, FormSeal Seal)
{
    /// <summary>The terms that it asks to agree to.</summary>
    public IReadOnlyList<TermsDue> Terms { get; init; } = [];

    /// <summary>Where the form goes.</summary>
    public string To { get; init; } = "";

    /// <summary>Whether it is only looked at.</summary>
    public bool IsPreview { get; init; }

    /// <summary>The other forms.</summary>
    public IReadOnlyList<SiteLink> Others { get; init; } = [];
}
