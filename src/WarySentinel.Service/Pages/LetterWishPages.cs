using System.Globalization;
using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Pages;

/// <summary>
/// In which language somebody is written to, and whether they get more than the letters that have to be: for whoever is signed in, and for who followed
/// the address at the head of a letter (RFC 8058), where a mail program may end such letters by itself.
/// </summary>
public sealed class LetterWishPages(
    VisitorReader visitors, Refusals refusals, Unsubscribing unsubscribing, ILetters letters, PeopleLane people, Store store, IAntiforgery antiforgery)
{
    /// <summary>Maps the page.</summary>
    public void Map(RouteGroupBuilder account)
    {
        account.MapGet("/letters", ShowAsync);
        account.MapPost("/letters", SaveAsync);
    }

    private async Task ShowAsync(HttpContext http)
    {
        var identity = await visitors.ReadAsync(http);
        await WriteAsync(http, identity, await OfAsync(http, identity, http.Request.Query["who"]), false, null, 200);
    }

    private async Task SaveAsync(HttpContext http)
    {
        var who = http.Request.Query["who"].ToString();
        if (who.Length > 0)
        {
            await OneClickAsync(http, who);
            return;
        }

        var identity = await visitors.ReadAsync(http);
        if (await antiforgery.FormAsync(http) is not { } form)
        {
            await WriteAsync(http, identity, await OfAsync(http, identity, null), false, PageRequests.Stale(), 400);
            return;
        }

        if (await OfAsync(http, identity, form["who"]) is not { } asked)
        {
            await WriteAsync(http, identity, null, false, null, 200);
            return;
        }

        var saved = await KeepAsync(asked.Member.Id, _ => (PlainText.OrNull(form["language"].ToString()), form["more"] != "yes"), http.RequestAborted);
        var error = saved.Problem is { } problem ? PasswordPages.ErrorOf(problem) : null;
        await WriteAsync(http, identity, error is null ? (saved.Value, asked.Who) : asked, error is null, error, error is null ? 200 : 422);
    }

    /// <summary>A mail program asks in its reader's name: without cookies, with the address at the letter's head alone (RFC 8058 §3.2).</summary>
    private async Task OneClickAsync(HttpContext http, string who)
    {
        if (unsubscribing.AddressIn(who) is not { } address || await store.MemberByNameAsync(address, http.RequestAborted) is not { } member)
        {
            await refusals.MessageAsync(http, 404, "letters.unknown-title", "letters.unknown-lead");
            return;
        }

        await KeepAsync(member.Id, known => (known.Language, true), http.RequestAborted);
        await refusals.MessageAsync(http, 200, "letters.title", "letters.saved-off");
    }

    private Task<Outcome<Member>> KeepAsync(Guid member, Func<Member, (string? Language, bool Unsubscribed)> wish,
        CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var known = await store.MemberAsync(member, stop);
            var (language, unsubscribed) = known is null ? default : wish(known);
            return AccountCommands.SetLetters(known, language, unsubscribed);
        },
        "member");

    /// <summary>Whose wish it is: of the address in a letter, or of whoever is signed in; never of somebody through whose eyes another looks.</summary>
    private async Task<(Member Member, string? Who)?> OfAsync(HttpContext http, RequestIdentity identity, string? who)
    {
        if (identity.SeesMembersPages && identity.Sample is { } sample)
        {
            return (sample, null);
        }

        var isFromLetter = !string.IsNullOrEmpty(who);
        var address = isFromLetter ? unsubscribing.AddressIn(who)
            : identity.IsMember ? identity.Visitor.Email : null;
        return address is not null && await store.MemberByNameAsync(address, http.RequestAborted) is { } member ? (member, isFromLetter ? who : null) : null;
    }

    private async Task WriteAsync(
        HttpContext http, RequestIdentity identity, (Member Member, string? Who)? asked, bool saved, PageError? error, int status)
    {
        if (asked is not var (member, who))
        {
            if (http.Request.Query["who"].Count > 0)
            {
                await refusals.MessageAsync(http, 404, "letters.unknown-title", "letters.unknown-lead");
                return;
            }

            await refusals.SignInAsync(http, identity, $"{http.Request.PathBase}{http.Request.Path}", null, true, null, 401);
            return;
        }

        var model = new LetterWishModel(
            member.Email, who, [.. letters.Languages.Select(l => (l, NameOf(l)))], member.Language, member.IsUnsubscribed, saved, error);
        await LetterWishPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, model, status);
    }

    private static string NameOf(string tag)
    {
        try
        {
            return CultureInfo.GetCultureInfo(tag).NativeName;
        }
        catch (CultureNotFoundException)
        {
            return tag;
        }
    }
}
