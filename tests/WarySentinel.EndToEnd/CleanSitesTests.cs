using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core.Tests.Markup;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>
/// Sites that nobody here wrote, with some of their pages guarded and what tells of them closed: a sweep that cries wolf there is worth nothing.
/// </summary>
public sealed class CleanSitesTests : IDisposable
{
    private static readonly int MostPages = Trials.Of(60, 120), MostOthers = Trials.Of(150, 600);
    private readonly string folder = Directory.CreateTempSubdirectory("wary-clean-").FullName;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => Directory.Delete(folder, true);

    /// <summary>A site, the pages of it that are guarded, and what its makers left lying that tells of all pages.</summary>
    public static TheoryData<string, string, string> Sites => new()
    {
        { "python3*/html", "library/asyncio", "/_sources/** /searchindex.js /objects.inv" },
        { "postgresql-doc-*/html", "ecpg", "" },
        { "git-doc", "gitformat", "/gitformat*.txt" },
        { "sqlite3", "session", "" },
        { "docutils-doc/docs", "howto", "/howto/*.txt" },
    };

    private static string RootOf(string pattern)
    {
        var parts = pattern.Split('/');
        RealPages.All.Count.ShouldBeGreaterThan(1000);
        var at = Path.Combine(RealPages.Folder, "usr/share/doc");
        foreach (var part in parts)
        {
            at = Directory.EnumerateDirectories(at, part).Order(StringComparer.Ordinal).Last();
        }

        return at;
    }

    /// <summary>Some of the pages, with all the guarded ones, and whatever else is there.</summary>
    private (IReadOnlyList<string> Open, IReadOnlyList<string> Guarded) Lay(string root, string guarded)
    {
        var pages = Directory.EnumerateFiles(root, "*.html", SearchOption.AllDirectories).Select(p => Path.GetRelativePath(root, p))
            .Order(StringComparer.Ordinal).ToList();
        var closed = pages.Where(p => p.StartsWith(guarded, StringComparison.Ordinal)).Take(20).ToList();
        var rest = pages.Where(p => !p.StartsWith(guarded, StringComparison.Ordinal)).ToList();
        var open = rest.Where((_, n) => n % Math.Max(1, rest.Count / MostPages) == 0).Take(MostPages).ToList();
        var others = Directory.EnumerateFiles(root, "*", SearchOption.AllDirectories).Select(p => Path.GetRelativePath(root, p))
            .Where(p => !p.EndsWith(".html", StringComparison.Ordinal) && new FileInfo(Path.Combine(root, p)) is var file
                && (file.LinkTarget is null || file.ResolveLinkTarget(true) is { Exists: true }) && file.Length < 4 << 20).Take(MostOthers);
        foreach (var file in open.Concat(closed).Concat(others))
        {
            var to = Path.Combine(folder, "site", file);
            Directory.CreateDirectory(Path.GetDirectoryName(to)!);
            File.Copy(Path.Combine(root, file), to, true);
        }

        return (open, closed);
    }

    private string TitleOf(string page)
    {
        var html = File.ReadAllText(Path.Combine(folder, "site", page));
        var title = Regex.Match(html, "<title[^>]*>(.*?)</title", RegexOptions.Singleline | RegexOptions.IgnoreCase);
        var said = Regex.Replace(WebUtility.HtmlDecode(title.Groups[1].Value), "\\s+", " ").Split(" — ")[0].Trim();
        return said.Length > 0 ? said[..Math.Min(said.Length, 190)] : page;
    }

    private string PolicyFor(IReadOnlyList<string> open, IReadOnlyList<string> guarded, string closed)
    {
        var policy = new StringBuilder("items:\n  - { id: \"section:closed\", title: Closed to guests, addresses: [] }\n");
        string Quoted(string text) => "\"" + text.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal) + "\"";
        foreach (var (page, number) in open.Concat(guarded).Select((p, n) => (p, n)))
        {
            var under = guarded.Contains(page) ? ", parents: [\"section:closed\"]" : "";
            policy.Append(null, $"  - {{ id: \"page:p{number}\", title: {Quoted(TitleOf(page))}, addresses: [{Quoted("/" + page)}]{under} }}\n");
        }

        policy.Append("gates:\n  - { key: closed, title: Closed, covers: [\"section:closed\"], audience: signed-in, presence: hidden }\n");
        var also = closed.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        policy.Append(also.Length == 0 ? ""
            : $"  - {{ key: also, title: Also, covers: [{string.Join(", ", also.Select(a => Quoted("path:" + a)))}], audience: signed-in }}\n");
        return policy.ToString();
    }

    [Theory]
    [MemberData(nameof(Sites))]
    public async Task A_real_site_whose_guarded_pages_are_closed_is_said_to_leak_nothing(string pattern, string guarded, string closed)
    {
        var (open, pages) = Lay(RootOf(pattern), guarded);
        pages.Count.ShouldBeGreaterThan(1);
        var port = RunningSite.FreePort();
        await using var nginx = await RunningNginx.StartAsync(
            folder, $"include /etc/nginx/mime.types; server {{ listen 127.0.0.1:{port}; root {folder}/site; }}", $"http://127.0.0.1:{port}/");
        await using var site = await RunningSite.StartAsync($"http://127.0.0.1:{port}", ["--Wary:SweepBrowser=/usr/bin/chromium"], empty: true);
        var client = await site.OwnAsync(PolicyFor(open, pages, closed), Stop);
        var draft = new SweepDraft(["signed-in"], null, null, null, null) { Draw = 5 };
        var report = (await client.SweepAsync(draft, Stop).LastAsync(Stop)).Report.ShouldNotBeNull();
        report.Findings.Where(f => f.IsLeak).Select(f => $"{f.Kind} {f.Via} {f.Address} {f.What}").ShouldBeEmpty();
        report.Guarded.ShouldBeGreaterThanOrEqualTo(pages.Count);
    }
}
