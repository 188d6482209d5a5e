using System.Globalization;
using System.Security.Cryptography;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>A browser, and the members who have signed in with it.</summary>
/// <param name="Id">Its own name, or empty where nobody has.</param>
/// <param name="Members">The members.</param>
public sealed record KnownBrowser(string Id, IReadOnlyList<Guid> Members)
{
    /// <summary>A browser that nobody has used yet.</summary>
    public static readonly KnownBrowser None = new("", []);

    /// <summary>Whether the member has signed in with it before.</summary>
    public bool Knows(Guid member) => Id.Length > 0 && Members.Contains(member);
}

/// <summary>
/// Remembers in a browser who has signed in with it: a signed cookie that opens nothing. It only spares the browser the brake that others' guesses
/// bring upon its member.
/// </summary>
public sealed class KnownBrowsers(Secrets secrets, ServiceOptions options, TimeProvider time)
{
    private const int MostMembers = 4;
    private static readonly TimeSpan Lasts = TimeSpan.FromDays(180);

    /// <summary>The name of the cookie on the site's side, or the console's.</summary>
    public string CookieOf(SessionPurpose purpose) =>
        purpose == SessionPurpose.Console ? (options.AdminIsTls ? "__Host-wary-console-known" : "wary-console-known") : options.SiteIsTls
        ? "__Host-wary-known" : "wary-known";

    /// <summary>The browser that a request comes from.</summary>
    public KnownBrowser Read(HttpContext http, SessionPurpose purpose)
    {
        if (!http.Request.Cookies.TryGetValue(CookieOf(purpose), out var text) || text.Length > 1000)
        {
            return KnownBrowser.None;
        }

        var parts = text.Split('.');
        var isOurs = parts.Length is >= 4 and <= MostMembers + 3 && long.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out var until)
            && until > time.GetUtcNow().ToUnixTimeSeconds()
            && CryptographicOperations.FixedTimeEquals(
            System.Text.Encoding.UTF8.GetBytes(parts[^1]), System.Text.Encoding.UTF8.GetBytes(secrets.SealOf(string.Join('.', parts[..^1]))));
        return isOurs ? new KnownBrowser(
            parts[0], [.. parts[2..^1].Select(p => Guid.TryParseExact(p, "N", out var id) ? id : Guid.Empty).Where(id => id != Guid.Empty)])
            : KnownBrowser.None;
    }

    /// <summary>Notes that a member has signed in with the browser.</summary>
    public void Note(HttpContext http, SessionPurpose purpose, Guid member)
    {
        var known = Read(http, purpose);
        var until = time.GetUtcNow() + Lasts;
        var id = known.Id.Length > 0 ? known.Id : Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(12));
        var text = string.Join('.', [id, until.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture),
            .. known.Members.Where(m => m != member).Prepend(member).Take(MostMembers).Select(m => m.ToString("N"))]);
        http.Response.Cookies.Append(CookieOf(purpose), $"{text}.{secrets.SealOf(text)}", new CookieOptions
        {
            HttpOnly = true, IsEssential = true, Path = "/", SameSite = SameSiteMode.Strict, Expires = until, Secure = purpose == SessionPurpose.Console
                ? options.AdminIsTls : options.SiteIsTls,
        });
    }
}
