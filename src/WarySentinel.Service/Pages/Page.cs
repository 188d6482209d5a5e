using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>What every visitor page is given.</summary>
/// <param name="Settings">The settings, with the owner's words in the reader's language.</param>
/// <param name="Prefix">Where our pages stand.</param>
/// <param name="Banner">The strip of a viewpoint.</param>
/// <param name="AdminUrl">The console.</param>
/// <param name="Tongues">The languages that the visitor may choose from.</param>
public sealed record PageFrame(SiteSettings Settings, string Prefix, byte[]? Banner, string AdminUrl, IReadOnlyList<Tongue> Tongues)
{
    /// <summary>What the owner set of pages.</summary>
    public required PageBook Pages { get; init; }

    /// <summary>Where a page of ours stands, by its path beneath the account pages.</summary>
    public string To(string path) => Pages.AddressOf(Prefix, path);

    /// <summary>The language of the page (RFC 5646 tag).</summary>
    public string Language { get; } = Reader.Book.Language;

    /// <summary>Which way it reads (HTML §3.2.6.4).</summary>
    public string Direction { get; } = Reader.Book.IsRightToLeft ? "rtl" : "ltr";
}

/// <summary>What is wrong, beside the form.</summary>
/// <param name="Lead">The short of it.</param>
/// <param name="More">What to do.</param>
/// <param name="Field">The field it belongs to, or null for the whole form.</param>
public sealed record PageError(string Lead, string More, string? Field = null);

/// <summary>Renders visitor pages.</summary>
public static class Page
{
    /// <summary>Writes a page with a status; never to be cached.</summary>
    public static async Task WriteAsync<TPage>(HttpContext http, int status, object parameters)
        where TPage : IComponent
    {
        http.Response.StatusCode = status;
        Guard(http);
        if (http.Features.Get<WithinSite>() is not null)
        {
            // Asked for by ourselves, for what the site says: what we would say is of no use.
            return;
        }

        if (HttpMethods.IsHead(http.Request.Method))
        {
            http.Response.ContentType = "text/html; charset=utf-8";
            return;
        }

        if (http.RequestServices.GetRequiredService<SiteSurround>() is var site && site.IsWanted(http)
            && await site.TryWriteAsync<TPage>(http, status, new RouteValueDictionary(parameters)))
        {
            return;
        }

        http.Response.OnStarting(() =>
        {
            http.Response.Headers.Remove("blazor-enhanced-nav");
            return Task.CompletedTask;
        });
        await new RazorComponentResult<TPage>(parameters) { StatusCode = status }.ExecuteAsync(http);
    }

    /// <summary>A moment as visitors read it, in the language of the page.</summary>
    public static string Day(SiteDates dates, DateTimeOffset moment, bool end) => dates.SayIn(SiteCulture.Of(Reader.Book.Language), moment, end);

    /// <summary>How long an unlock lasts, as visitors read it.</summary>
    public static string UnlockTime(TimeSpan time) =>
        time == TimeSpan.Zero ? PageWords.Of("unlock.session") : PageWords.Of("unlock.for", Length(time));

    private static string Length(TimeSpan time) =>
        time.TotalHours < 36 && time.TotalDays != 1 ? PageWords.Count("unlock.hours", (long)Math.Max(1, Math.Round(time.TotalHours)))
        : PageWords.Count("unlock.days", (long)Math.Round(time.TotalDays));

    /// <summary>Headers that every page of ours bears.</summary>
    public static void Guard(HttpContext http) => Guard(http, http.RequestServices.GetRequiredService<ServiceOptions>());

    /// <summary>The same, where the options are at hand.</summary>
    internal static void Guard(HttpContext http, ServiceOptions options)
    {
        var headers = http.Response.Headers;
        GuardedHeaders.Set(headers);
        headers.ContentSecurityPolicy = Policies.GetValue(options, PolicyOf);
        if (headers["Referrer-Policy"] != "no-referrer")
        {
            // A page whose address is a secret said so before.
            headers["Referrer-Policy"] = "same-origin";
        }

        headers.XContentTypeOptions = "nosniff";
    }

    private static readonly System.Runtime.CompilerServices.ConditionalWeakTable<ServiceOptions, string> Policies = [];

    /// <summary>What a page of ours may do (CSP Level 3): nothing from elsewhere, and in no frame but the site's and the console's.</summary>
    private static string PolicyOf(ServiceOptions options) =>
        "default-src 'none'; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; media-src 'self'; script-src 'self'; "
        + $"form-action 'self'; base-uri 'none'; frame-ancestors 'self' {new Uri(options.AdminUrl).GetLeftPart(UriPartial.Authority)}";
}
