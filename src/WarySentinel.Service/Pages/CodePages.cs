using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.People;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>
/// The page that asks for a code of six digits. A code alone is worth nothing: the browser that asked for it holds the other half, in a cookie that no script
/// reads, so that nobody who has talked somebody into reading their code aloud can use it.
/// </summary>
public sealed class CodePages(Refusals refusals, IAntiforgery antiforgery, ServiceOptions options)
{
    private string Cookie => options.SiteIsTls ? "__Secure-wary-code" : "wary-code";

    /// <summary>
    /// Gives the browser its half, whether or not a letter goes out. Who asks again keeps it and counts on, so that the code of the letter before still
    /// works where no other was sent.
    /// </summary>
    public string Begin(HttpContext http)
    {
        var half = BrowserHalf.Next(Read(http));
        http.Response.Cookies.Append(Cookie, half, With(AccountLinks.CodeLasts));
        return half;
    }

    /// <summary>The browser's half; null where it has none.</summary>
    public string? Read(HttpContext http) => http.Request.Cookies[Cookie];

    /// <summary>Takes the browser's half away.</summary>
    public void End(HttpContext http) => http.Response.Cookies.Delete(Cookie, With(null));

    /// <summary>Writes the page.</summary>
    public Task WriteAsync(HttpContext http, RequestIdentity identity, string to, PageError? error, int status)
    {
        var model = new AskModel(
            PageWords.Of("code.title"), PageWords.Of("code.lead", AccountLinks.CodeLasts.TotalMinutes), to, PageWords.Of("code.label"), "code", null,
            "one-time-code", PageWords.Of("code.button"), error)
        { IsCode = true, Foot = PageWords.Of("code.foot") };
        return AskPage.WriteAsync(http, refusals.Frame(identity, "/"), antiforgery, model, status);
    }

    /// <summary>What is said of a wrong code; the same for one that is used up, late, or was never sent.</summary>
    public static PageError Wrong() => new(PageWords.Of("code.wrong"), PageWords.Of("code.wrong-more", AccountLinks.MostTries), "code");

    private CookieOptions With(TimeSpan? lasts) => new()
    {
        HttpOnly = true, IsEssential = true, Path = options.AccountPrefix, SameSite = SameSiteMode.Strict, Secure = options.SiteIsTls, MaxAge = lasts,
    };
}
