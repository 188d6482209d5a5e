using System.Globalization;
using System.Runtime.CompilerServices;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>A language that a page is there in.</summary>
/// <param name="Tag">The language (RFC 5646 tag).</param>
/// <param name="Name">Its own name for itself.</param>
public sealed record Tongue(string Tag, string Name);

/// <summary>
/// The language that a visitor's pages are in: the one that they chose in this browser, else the one of their account, else the first that the browser asks
/// for (RFC 9110 §12.5.4) and the owner offers, else the site's.
/// </summary>
public sealed class PageLanguage
{
    /// <summary>The cookie that keeps what a visitor chose.</summary>
    public const string Cookie = "wary-language";

    private const int MostAsked = 20;
    private const int MostKept = 2000;
    private const int LongestKept = 200;
    private static readonly ConditionalWeakTable<Policy, Known> ByPolicy = [];

    /// <summary>The languages that a policy offers, and what was chosen lately of what visitors said.</summary>
    private sealed record Known(IReadOnlyList<string> Offered)
    {
        public Recent<Wordbook> Chosen { get; } = new(MostKept);
    }

    private PageLanguage(Wordbook book) => Book = book;

    /// <summary>The sentences of it.</summary>
    public Wordbook Book { get; }

    /// <summary>The language of a request; chosen once for it.</summary>
    public static Wordbook Of(HttpContext http, Policy policy)
    {
        if (http.Features.Get<PageLanguage>() is { } known)
        {
            return known.Book;
        }

        var book = Find(http, policy);
        http.Features.Set(new PageLanguage(book));
        return book;
    }

    /// <summary>The language of a request, where nothing is said in it yet.</summary>
    internal static string TagOf(HttpContext http, Policy policy) => (http.Features.Get<PageLanguage>()?.Book ?? Find(http, policy)).Language;

    /// <summary>On the path of every page that is written here: most visitors say the same of their languages as some did lately.</summary>
    private static Wordbook Find(HttpContext http, Policy policy)
    {
        var (chosen, own, accepted) = (ChosenIn(http), OwnOf(http), http.Request.Headers.AcceptLanguage.ToString());
        var known = ByPolicy.GetValue(policy, static p => new Known(Offered(p)));
        if (http.Request.QueryString.HasValue || (chosen?.Length ?? 0) + (own?.Length ?? 0) + accepted.Length > LongestKept)
        {
            return Choose(http, policy, known.Offered);
        }

        var said = string.Concat(chosen, "\n", own, "\n", accepted);
        if (!known.Chosen.TryGet(said, out var book))
        {
            known.Chosen.Keep(said, book = Choose(http, policy, known.Offered));
        }

        return book;
    }

    private static Wordbook Choose(HttpContext http, Policy policy, IReadOnlyList<string> offered) => TextBook.Of(policy).SpokenIn(
        Wished(http).Select(t => Nearest(t, offered)).FirstOrDefault(t => t is not null) ?? policy.Settings.Language, policy.Settings.Language);

    /// <summary>The same, and what is said in this piece of work from here on is said in it.</summary>
    public static void Speak(HttpContext http, Policy policy) => Reader.Speak(Of(http, policy));

    /// <summary>The language of a request that <see cref="Of"/> chose.</summary>
    public static string Spoken(HttpContext http) => http.Features.Get<PageLanguage>()?.Book.Language ?? Reader.Book.Language;

    /// <summary>The language that whoever asks would read first, whether or not it is offered; null where nobody says.</summary>
    public static string? Wish(HttpContext http) => Wished(http).FirstOrDefault(Spelling.IsLanguage);

    /// <summary>The languages that the owner offers, the site's first; all that anything is said in where they name none.</summary>
    public static IReadOnlyList<string> OfferedBy(Policy policy) => ByPolicy.GetValue(policy, static p => new Known(Offered(p))).Offered;

    private static string[] Offered(Policy policy)
    {
        var (settings, forms) = (policy.Settings, FormBook.Of(policy));
        var all = settings.Languages.Count > 0 ? settings.Languages
            : Wordbook.Languages.Concat(TextBook.Of(policy).All.Select(t => t.Language))
                .Concat(forms.Forms.SelectMany(f => (f.Draft.In ?? new Dictionary<string, FormWords>()).Keys));
        return [.. all.Prepend(settings.Language).Distinct(StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>The languages that a visitor may choose from, by their own names; none where there is but one.</summary>
    public static IReadOnlyList<Tongue> Choices(Policy policy) =>
        OfferedBy(policy) is { Count: > 1 } offered ? [.. offered.Select(t => new Tongue(t, NameOf(t)))] : [];

    /// <summary>The name that a language has for itself.</summary>
    public static string NameOf(string tag)
    {
        var culture = SiteCulture.Of(tag);
        return culture.Name.Length == 0 ? tag : culture.TextInfo.ToTitleCase(culture.NativeName[..1]) + culture.NativeName[1..];
    }

    /// <summary>Keeps what somebody chose, where it is offered.</summary>
    public static void Choose(HttpContext http, Policy policy, string? tag, bool secure)
    {
        if (tag is not null && Nearest(tag, OfferedBy(policy)) is { } chosen)
        {
            http.Response.Cookies.Append(Cookie, chosen, new CookieOptions
            {
                Path = "/", HttpOnly = true, IsEssential = true, SameSite = SameSiteMode.Lax, Secure = secure, MaxAge = TimeSpan.FromDays(365),
            });
        }
    }

    private static IEnumerable<string> Wished(HttpContext http)
    {
        // What is looked at in a language, as in the console, is not chosen for longer than that.
        if (http.Request.Query["language"].ToString() is { Length: > 0 } looked)
        {
            yield return looked;
        }

        if (ChosenIn(http) is { Length: > 0 } chosen)
        {
            yield return chosen;
        }

        if (OwnOf(http) is { } own)
        {
            yield return own;
        }

        foreach (var asked in http.Request.GetTypedHeaders().AcceptLanguage.Take(MostAsked).Where(l => l.Quality is null or > 0)
            .OrderByDescending(l => l.Quality ?? 1))
        {
            yield return asked.Value.ToString();
        }
    }

    /// <summary>What was chosen in this browser; cookies are taken apart only where one of ours may be among them.</summary>
    private static string? ChosenIn(HttpContext http) =>
        http.Request.Headers.Cookie.ToString().Contains(Cookie, StringComparison.Ordinal) ? http.Request.Cookies[Cookie] : null;

    /// <summary>The language of the account of whoever asks.</summary>
    private static string? OwnOf(HttpContext http) =>
        http.Features.Get<RequestIdentity>() is { } identity ? (identity.Owing ?? identity.Visitor).Language : null;

    /// <summary>The one that is offered and nearest to a wish: that very one, else without what follows the language (RFC 4647 §3.4).</summary>
    private static string? Nearest(string wished, IReadOnlyList<string> offered)
    {
        for (var at = Spelling.IsLanguage(wished) ? wished : ""; at.Length > 0; at = at.Contains('-') ? at[..at.LastIndexOf('-')] : "")
        {
            if (offered.FirstOrDefault(o => string.Equals(o, at, StringComparison.OrdinalIgnoreCase)) is { } found)
            {
                return found;
            }
        }

        return null;
    }
}
