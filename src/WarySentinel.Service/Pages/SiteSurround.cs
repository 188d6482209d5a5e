using System.Text;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Components.Web;
using WarySentinel.Core.Access;
using WarySentinel.Core.Markup;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Pages;

/// <summary>A page of the site as a visitor gets it.</summary>
/// <param name="Html">All of it, in UTF-8.</param>
/// <param name="Policy">What it may do, as the site says (CSP); empty where it says nothing.</param>
/// <param name="Cookies">The cookies that the site sets by it.</param>
public sealed record SurroundingPage(byte[] Html, string Policy, IReadOnlyList<string?> Cookies);

/// <summary>Fetches a page of the site as a visitor would get it.</summary>
public interface ISitePages
{
    /// <summary>The page; null where the visitor may not open it, or the site does not give one in time.</summary>
    Task<SurroundingPage?> FetchAsync(HttpContext http, RequestIdentity identity, string address);
}

/// <summary>
/// Puts pages of ours into the page of the site that the owner named: its header, its menu and its footer stand around them, as this visitor sees them. Where
/// that page is closed to a visitor, does not come, or has no such element, ours stand alone.
/// </summary>
public sealed class SiteSurround(PolicyHolder policies, VisitorReader visitors, ISitePages site, ServiceOptions options, TimeProvider time, ILoggerFactory logs)
{
    private static readonly TimeSpan Rests = TimeSpan.FromSeconds(20);
    private static readonly AsyncLocal<bool> Filling = new();
    private readonly ILogger log = logs.CreateLogger<SiteSurround>();
    private long restsUntil;

    /// <summary>Why ours stood alone last, where the owner wants them in a page of the site; null where they do not.</summary>
    public string? Fault { get; private set; }

    /// <summary>Whether what is made in this piece of work is to stand in a page of the site.</summary>
    internal static bool IsFilling => Filling.Value;

    /// <summary>Whether pages are to stand in one of the site.</summary>
    public bool IsWanted(HttpContext http) => policies.Current.Settings.Frame is not null && http.Features.Get<WithinSite>() is null
        && time.GetTimestamp() >= Interlocked.Read(ref restsUntil);

    /// <summary>Writes a component within the site; false where it has to stand alone.</summary>
    internal async Task<bool> TryWriteAsync<TPage>(HttpContext http, int status, IReadOnlyDictionary<string, object?> parameters)
        where TPage : IComponent
    {
        if (!IsWanted(http) || PageDress.Tried is not null || await PageAsync(http) is not var (page, seam, place))
        {
            return false;
        }

        Filling.Value = true;
        try
        {
            await using var renderer = new HtmlRenderer(http.RequestServices, logs);
            var html = await renderer.Dispatcher.InvokeAsync(async () =>
                (await renderer.RenderComponentAsync<TPage>(ParameterView.FromDictionary(parameters.ToDictionary()))).ToHtmlString());
            var (title, content) = Titled(html);
            await WriteAsync(http, status, page, seam, place, title, content);
            return true;
        }
        finally
        {
            Filling.Value = false;
        }
    }

    /// <summary>Writes what is made already within the site; false where it has to stand alone.</summary>
    public async Task<bool> TryWriteAsync(HttpContext http, string title, byte[] content)
    {
        if (!IsWanted(http) || await PageAsync(http) is not var (page, seam, place))
        {
            return false;
        }

        await WriteAsync(http, StatusCodes.Status200OK, page, seam, place, title, Encoding.UTF8.GetString(content));
        return true;
    }

    /// <summary>What a component said of its title, in a comment at its beginning.</summary>
    private static (string Title, string Content) Titled(string html)
    {
        const string opens = "<!--title:", closes = "-->";
        var end = html.StartsWith(opens, StringComparison.Ordinal) ? html.IndexOf(closes, StringComparison.Ordinal) : -1;
        return end < 0 ? ("", html) : (System.Net.WebUtility.HtmlDecode(html[opens.Length..end]), html[(end + closes.Length)..]);
    }

    private async Task<(SurroundingPage Page, PageSeam Seam, SitePlace Place)?> PageAsync(HttpContext http)
    {
        var place = policies.Current.Settings.Frame!;
        var page = await site.FetchAsync(http, await visitors.ReadAsync(http), place.Page);
        var seam = page is null ? null : PageSeam.Find(page.Html, place.Element);
        if (page is not null && seam is not null)
        {
            Fault = null;
            return (page, seam, place);
        }

        if (page is not null)
        {
            // Another visitor would find it no sooner.
            Interlocked.Exchange(ref restsUntil, time.GetTimestamp() + (long)(Rests.TotalSeconds * time.TimestampFrequency));
        }

        if (Fault is null)
        {
            log.LogWarning("The page {Page} of the site {Reason}; ours stand alone", place.Page, page is null ? "did not come" : "has no " + place.Element);
        }

        Fault = page is null ? "page" : "element";
        return null;
    }

    private async Task WriteAsync(HttpContext http, int status, SurroundingPage page, PageSeam seam, SitePlace place, string title, string content)
    {
        var settings = policies.Current.Settings;
        var heads = $"<link rel=\"stylesheet\" href=\"{options.AccountPrefix}/framed.css?{settings.Version}\">"
            + $"<script src=\"{options.AccountPrefix}/assets/account.js\" defer></script>";
        var body = seam.With(page.Html, content, $"{title} · {settings.SiteName}", place.Page, heads);
        http.Response.StatusCode = status;
        Page.Guard(http, options);
        // It is the site's page as well: what it may do is the site's to say.
        http.Response.Headers.ContentSecurityPolicy = page.Policy;
        http.Response.Headers["X-Robots-Tag"] = "noindex";
        foreach (var cookie in page.Cookies)
        {
            http.Response.Headers.Append("Set-Cookie", cookie);
        }

        http.Response.ContentType = "text/html; charset=utf-8";
        http.Response.ContentLength = body.Length;
        await http.Response.Body.WriteAsync(body, http.RequestAborted);
    }
}

/// <summary>Marks a request of our own for a page of the site: nothing of it is put into another.</summary>
public sealed class WithinSite
{
    /// <summary>The one mark.</summary>
    public static readonly WithinSite Mark = new();
}
