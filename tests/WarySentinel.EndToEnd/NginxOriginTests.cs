using System.Net;
using System.Net.Http.Headers;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Core.Tests.Markup;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A real nginx behind the gateway, with the documentation of other people's programs: what is open is nginx's answer, header for header.</summary>
public sealed class NginxOriginTests : IAsyncLifetime
{
    private static readonly string[] Same =
        ["ETag", "Last-Modified", "Content-Type", "Content-Length", "Content-Range", "Content-Encoding", "Accept-Ranges", "Cache-Control", "Expires", "Vary"];

    private readonly string folder = Directory.CreateTempSubdirectory("wary-origin-").FullName;
    private readonly string origin = $"http://127.0.0.1:{RunningSite.FreePort()}";
    private readonly string root = RealPages.Folder;
    private readonly IReadOnlyList<string> pages = Drawn();
    private RunningNginx nginx = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        nginx = await RunningNginx.StartAsync(folder, $$"""
            include /etc/nginx/mime.types;
            server {
              listen {{new Uri(origin).Authority}};
              root {{root}};
              gzip on; gzip_types text/css application/javascript; gzip_proxied any; gzip_vary on;
              location ~ \.(css|js|png|svg)$ { expires 30d; add_header Cache-Control "public, immutable"; }
            }
            """, origin);
        site = await RunningSite.StartAsync(origin);
        await site.Client.AddGateAsync(new Contract.Gates.GateDraft
        {
            Key = "some-pages", Title = "Some pages", Covers = ["path:/usr/share/doc/*/html/library/**", "path:/usr/share/doc/git/**/git-f*"],
            Audience = "role:dealer", Presence = "hidden",
        }, Stop);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await nginx.DisposeAsync();
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task Files_pieces_of_files_and_questions_for_news_are_answered_as_nginx_does()
    {
        using var direct = new Browser(origin);
        using var guest = site.NewBrowser();
        var files = Directory.EnumerateFiles(root, "*", SearchOption.AllDirectories).Where(f => !f.EndsWith(".html", StringComparison.Ordinal))
            .Select(PathOf).Where(IsOpen).Order(StringComparer.Ordinal).ToList();
        var random = new Random(11);
        foreach (var path in random.GetItems(files.ToArray(), 60).Distinct())
        {
            foreach (var gzip in new[] { false, true })
            {
                var first = await BothAsync(direct, guest, path, ("Accept-Encoding", gzip ? "gzip" : "identity"));
                await BothAsync(direct, guest, path, ("Range", "bytes=10-99"));
                await BothAsync(direct, guest, path, ("Range", "bytes=-5"));
                await BothAsync(direct, guest, path, ("Range", "bytes=99999999-"));
                if (first is not null)
                {
                    await BothAsync(direct, guest, path, ("If-None-Match", first.ToString()), ("Accept-Encoding", gzip ? "gzip" : "identity"));
                    await BothAsync(direct, guest, path, ("If-Range", first.ToString()), ("Range", "bytes=0-3"));
                }
            }
        }
    }

    [Fact]
    public async Task Pages_that_name_nothing_hidden_are_nginxs_and_all_others_lack_just_that()
    {
        using var direct = new Browser(origin);
        using var guest = site.NewBrowser();
        var (same, other) = (0, 0);
        foreach (var path in pages)
        {
            if (!IsOpen(path))
            {
                ((int)await guest.StatusAsync(path)).ShouldBe(401, path);
                continue;
            }

            var expected = await direct.PageAsync(path);
            var shown = await guest.PageAsync(path);
            if (shown == expected)
            {
                same++;
                // Known from now on to be the same for everybody, in this coding too.
                using var packed = new HttpRequestMessage(HttpMethod.Get, site.Site + path) { Headers = { { "Accept-Encoding", "gzip" } } };
                using var first = await guest.SendAsync(packed);
                first.StatusCode.ShouldBe(HttpStatusCode.OK);
                var tag = await BothAsync(direct, guest, path, ("Accept-Encoding", "gzip"));
                await BothAsync(direct, guest, path, ("If-None-Match", tag!.ToString()), ("Accept-Encoding", "gzip"));
                continue;
            }

            other++;
            shown.Length.ShouldBeLessThan(expected.Length, path);
            using var answer = await guest.GetAsync(path);
            answer.Headers.CacheControl!.Private.ShouldBeTrue(path);
        }

        same.ShouldBeGreaterThan(20);
        other.ShouldBeGreaterThan(10);
    }

    [Fact]
    public async Task A_folder_without_its_slash_leads_to_the_site_and_not_to_nginx()
    {
        using var guest = site.NewBrowser();
        using var answer = await guest.GetAsync("/usr/share/doc/git/html");
        answer.StatusCode.ShouldBe(HttpStatusCode.MovedPermanently);
        answer.Headers.Location!.ToString().ShouldBe(site.Site + "/usr/share/doc/git/html/");
    }

    private async Task<EntityTagHeaderValue?> BothAsync(Browser direct, Browser guest, string path, params (string Name, string Value)[] headers)
    {
        using var expected = await direct.SendAsync(Request(origin));
        using var answer = await guest.SendAsync(Request(site.Site));
        var about = $"{path} {string.Join(", ", headers)}";
        answer.StatusCode.ShouldBe(expected.StatusCode, about);
        (await answer.Content.ReadAsByteArrayAsync(Stop)).ShouldBe(await expected.Content.ReadAsByteArrayAsync(Stop), about);
        // Of what went wrong no cache keeps anything; all else is said as nginx says it.
        foreach (var name in expected.IsSuccessStatusCode || expected.StatusCode == HttpStatusCode.NotModified ? Same : ["Content-Range"])
        {
            var (said, due) = (HeaderOf(answer, name), HeaderOf(expected, name));
            if (name == "Expires" && DateTimeOffset.TryParse(said, out var one) && DateTimeOffset.TryParse(due, out var other))
            {
                // Reckoned from the moment of each answer, and there are two.
                one.ShouldBe(other, TimeSpan.FromMinutes(1), $"{name} of {about}");
                continue;
            }

            said.ShouldBe(due, $"{name} of {about}");
        }

        return expected.Headers.ETag;

        HttpRequestMessage Request(string at)
        {
            var request = new HttpRequestMessage(HttpMethod.Get, at + path);
            headers.ToList().ForEach(h => request.Headers.TryAddWithoutValidation(h.Name, h.Value));
            return request;
        }
    }

    private static string HeaderOf(HttpResponseMessage answer, string name) =>
        string.Join(", ", answer.Headers.TryGetValues(name, out var of) || answer.Content.Headers.TryGetValues(name, out of) ? of : []);

    private static bool IsOpen(string path) =>
        !path.Contains("/html/library/", StringComparison.Ordinal) && !(path.StartsWith("/usr/share/doc/git/", StringComparison.Ordinal)
            && Path.GetFileName(path).StartsWith("git-f", StringComparison.Ordinal));

    private static string PathOf(string file) => "/" + Path.GetRelativePath(RealPages.Folder, file);

    private static List<string> Drawn()
    {
        var random = new Random(7);
        return [.. random.GetItems(RealPages.All.ToArray(), 400).Distinct().Select(PathOf)];
    }
}
