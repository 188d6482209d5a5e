using System.Text.RegularExpressions;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Sweep;

/// <summary>Where an outsider can go on to from what they get: by links, scripts, maps of scripts, copies, feeds, and names that are usual.</summary>
public static partial class SweepLinks
{
    /// <summary>A name for the host of the site where none is said.</summary>
    private const string Own = "site.invalid";

    private static readonly string[] Pictures =
        [".png", ".jpg", ".jpeg", ".gif", ".webp", ".avif", ".svg", ".ico", ".woff", ".woff2", ".ttf", ".mp3", ".mp4", ".webm", ".css"];

    /// <summary>Files by which a site shows that its whole source can be fetched, with what each begins with.</summary>
    private static readonly Dictionary<string, string> Sources = new(StringComparer.Ordinal)
    {
        ["/.git/HEAD"] = "ref: ", ["/.git/config"] = "[core]", ["/.svn/wc.db"] = "SQLite format 3", ["/.hg/requires"] = "",
    };

    /// <summary>Names under which sites often tell of all their pages, or leave all of themselves lying about.</summary>
    public static readonly IReadOnlyList<string> Usual =
    [
        "/robots.txt", "/sitemap.txt", "/sitemap_index.xml", "/sitemap.xml.gz", "/sitemap.html", "/feed", "/feed/", "/feed.xml", "/rss.xml", "/atom.xml",
        "/index.xml", "/index.json", "/index.txt", "/feed.json", "/search.json", "/search-index.json", "/search-index.js", "/searchindex.js",
        "/search_index.json", "/search/search_index.json", "/products.json", "/data.json", "/export.json", "/export.csv", "/all.html", "/print.html",
        "/genindex.html", "/objects.inv", "/404.html", "/llms.txt", "/llms-full.txt", "/manifest.json", "/manifest.webmanifest", "/sw.js",
        "/service-worker.js", "/opensearch.xml", "/.DS_Store", "/backup.zip", "/backup.tar.gz", "/backup.sql", "/dump.sql", "/database.sql", "/db.sqlite",
        "/site.zip", "/site.tar.gz", "/www.zip", "/public.zip", "/html.zip", .. Sources.Keys,
    ];

    /// <summary>Whether somebody who got a text there can fetch the whole source of the site.</summary>
    public static bool IsSource(string address, string text) => Sources.TryGetValue(address, out var start)
        && (start.Length > 0 ? text.StartsWith(start, StringComparison.Ordinal) : text.Contains("revlog", StringComparison.Ordinal));

    /// <summary>Addresses on the site that a text leads to, whatever sort of text it is: path and query, no part of a page.</summary>
    /// <param name="text">What somebody got.</param>
    /// <param name="page">Where they got it.</param>
    /// <param name="hosts">The hosts under which the site is known.</param>
    public static IEnumerable<string> From(string text, string page, IReadOnlySet<string> hosts)
    {
        if (!Uri.TryCreate($"http://{Own}{page}", UriKind.Absolute, out var here))
        {
            yield break;
        }

        text = text.Replace("\\/", "/", StringComparison.Ordinal).Replace("&amp;", "&", StringComparison.Ordinal);
        here = text.Contains("<base", StringComparison.OrdinalIgnoreCase) && Base().Match(text) is { Success: true } moved
            && Uri.TryCreate(here, moved.Groups["to"].Value, out var based) && IsHere(based) ? based : here;
        // In a plain text, such as that for robots, an address stands by itself.
        var isPlain = text.AsSpan().TrimStart() is not (['<' or '{' or '[', ..] or []);
        foreach (var href in (isPlain ? LinkText.In(text).Concat(Bare().In(text).Select(m => m.Groups["to"].Value)) : LinkText.In(text)).Distinct())
        {
            if (href.Length is > 0 and < 500 && href[0] != '#' && Uri.TryCreate(here, href, out var url) && url.Scheme is "http" or "https"
                && IsHere(url) && !Pictures.Contains(Path.GetExtension(url.AbsolutePath).ToLowerInvariant()))
            {
                yield return url.PathAndQuery;
            }
        }

        bool IsHere(Uri url) => url.Host == Own || hosts.Contains(url.Authority);
    }

    /// <summary>The address of a link, as it stands in a page, where it leads to the site: path and query; null where it leads elsewhere.</summary>
    public static string? At(string href, string page, IReadOnlySet<string> hosts) =>
        Uri.TryCreate($"http://{Own}{page}", UriKind.Absolute, out var here) && Uri.TryCreate(here, href.Split('#')[0], out var url)
            && url.Scheme is "http" or "https" && (url.Host == Own || hosts.Contains(url.Authority)) ? url.PathAndQuery : null;

    /// <summary>What a link with a query has in common with others: its path and the names in its query.</summary>
    public static string ShapeOf(string address)
    {
        var mark = address.IndexOf('?', StringComparison.Ordinal);
        return mark < 0 ? address
            : address[..mark] + "?" + string.Join('&', address[(mark + 1)..].Split('&').Select(p => p.Split('=')[0]).Order(StringComparer.Ordinal));
    }

    /// <summary>Where copies of a page are often left lying about, or given out for programs and printers.</summary>
    public static IEnumerable<string> Copies(string address)
    {
        var path = address.Split('?')[0].TrimEnd('/');
        if (path.Length == 0)
        {
            yield break;
        }

        var (folder, name) = (path[..(path.LastIndexOf('/') + 1)], path[(path.LastIndexOf('/') + 1)..]);
        var stem = Path.GetExtension(name) is { Length: > 0 } ending ? name[..^ending.Length] : name;
        foreach (var tail in (IEnumerable<string>)[".bak", "~", ".old", ".orig", ".save", ".txt", ".md", ".json", ".xml", ".1", ".copy"])
        {
            yield return path + tail;
        }

        foreach (var other in (IEnumerable<string>)
            [".bak", ".txt", ".md", ".json", ".rst", ".html.bak", ".php.bak", "-print.html", ".print.html", ".amp.html"])
        {
            if (folder + stem + other != path)
            {
                yield return folder + stem + other;
            }
        }

        foreach (var deeper in (IEnumerable<string>)["/print", "/amp", "/feed", "/raw", "?format=json", "?print=1", "?output=json", "?amp=1", "?_format=json"])
        {
            yield return path + deeper;
        }

        foreach (var source in (IEnumerable<string>)[".rst.txt", ".md.txt", ".txt", ".rst"])
        {
            yield return "/_sources" + folder + stem + source;
        }

        yield return "/print" + path;
        yield return "/amp" + path;
        yield return "/backup" + path;
        yield return "/old" + path;
    }

    /// <summary>Where a whole folder is often left packed, or put aside: of the folders that guarded pages stand in.</summary>
    public static IEnumerable<string> FolderCopies(IEnumerable<string> addresses) => addresses.Select(a => a.Split('?')[0])
        .Select(a => a[..(a.TrimEnd('/').LastIndexOf('/') is > 0 and var slash ? slash : 0)]).Where(f => f.Length > 0).Distinct(StringComparer.Ordinal)
        .SelectMany(f => (IEnumerable<string>)[".zip", ".tar.gz", ".tgz", ".bak", ".old/", "-old/", "_old/", ".txt", ".json"], (f, tail) => f + tail);

    /// <summary>Searches of a page, as a form that anybody may send: addresses that ask for words. The first field that takes text takes them.</summary>
    public static IEnumerable<string> Searches(string html, string page, IReadOnlyList<string> words)
    {
        foreach (var form in Form().In(html))
        {
            var tag = form.Groups["tag"].Value;
            var field = Field().In(form.Groups["body"].Value).Select(m => m.Value).FirstOrDefault(
                f => !f.Contains("hidden", StringComparison.OrdinalIgnoreCase) && !f.Contains("submit", StringComparison.OrdinalIgnoreCase)
                    && !f.Contains("checkbox", StringComparison.OrdinalIgnoreCase) && !f.Contains("radio", StringComparison.OrdinalIgnoreCase)
                    && !f.Contains("password", StringComparison.OrdinalIgnoreCase));
            if (Method().Match(tag) is { Success: true } method && !method.Groups["m"].Value.Equals("get", StringComparison.OrdinalIgnoreCase)
                || field is null || Name().Match(field) is not { Success: true } name)
            {
                continue;
            }

            var action = Action().Match(tag) is { Success: true } to ? to.Groups["to"].Value : page;
            if (Uri.TryCreate(new Uri($"http://{Own}{page}"), action, out var url) && url.Host == Own)
            {
                foreach (var word in words)
                {
                    yield return $"{url.AbsolutePath}?{Uri.EscapeDataString(name.Groups["n"].Value)}={Uri.EscapeDataString(word)}";
                }
            }
        }
    }

    [GeneratedRegex("""<base\s[^>]*?href\s*=\s*["']?(?<to>[^"'\s>]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Base();

    [GeneratedRegex("""(?:^|(?<=[\s,;:]))(?<to>(?:https?://|/)[^\s"'<>,;]+)""",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Bare();

    [GeneratedRegex("""<form(?<tag>[^>]*)>(?<body>.*?)</form""",
        RegexOptions.IgnoreCase | RegexOptions.Singleline | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Form();

    [GeneratedRegex("""<input[^>]*>""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Field();

    [GeneratedRegex("""\bmethod\s*=\s*["']?(?<m>\w+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Method();

    [GeneratedRegex("""\baction\s*=\s*["']?(?<to>[^"'\s>]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Action();

    [GeneratedRegex("""\bname\s*=\s*["']?(?<n>[\w.\[\]-]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Name();
}
