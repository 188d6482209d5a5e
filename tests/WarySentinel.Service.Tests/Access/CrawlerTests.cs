using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>Crawlers that are welcome, and pretenders.</summary>
public sealed class CrawlerTests
{
    private static readonly IPAddress Here = IPAddress.Loopback;

    [Theory]
    [InlineData("moonbot/2.0", "c1.crawl.moon.example", "127.0.0.1", HttpStatusCode.OK)]
    [InlineData("moonbot/2.0", "c1.crawl.moon.example", "192.0.2.1", HttpStatusCode.Unauthorized)]
    [InlineData("moonbot/2.0", "crawl.moon.example.evil.example", "127.0.0.1", HttpStatusCode.Unauthorized)]
    [InlineData("moonbot/2.0", null, "127.0.0.1", HttpStatusCode.Unauthorized)]
    [InlineData("Mozilla/5.0", "c1.crawl.moon.example", "127.0.0.1", HttpStatusCode.Unauthorized)]
    public async Task Only_a_name_that_leads_back_to_the_address_counts(string agent, string? name, string leadsTo, HttpStatusCode status)
    {
        var names = new Names(name, IPAddress.Parse(leadsTo));
        await using var site = await StartAsync(names, new { name = "moonbot", hosts = new[] { "crawl.moon.example" }, ranges = Array.Empty<string>() });
        (await AskAsync(site, agent)).ShouldBe(status);
        (await AskAsync(site, agent)).ShouldBe(status);
        names.Asked.ShouldBeLessThanOrEqualTo(1, "an answer is kept for a while");
    }

    [Fact]
    public async Task Ranges_from_a_published_file_count_too()
    {
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, """{"prefixes":[{"ipv6Prefix":"::1/128"},{"ipv4Prefix":"127.0.0.0/8"}]}""");
        await using var site = await StartAsync(new Names(null, Here), new
        { name = "moonbot", hosts = new[] { "crawl.moon.example" }, ranges = Array.Empty<string>() }, $"--Wary:CrawlerRanges:0=moonbot={file}");
        (await AskAsync(site, "moonbot")).ShouldBe(HttpStatusCode.OK);
        File.Delete(file);
    }

    [Fact]
    public async Task Who_leaves_while_it_is_looked_up_makes_nobody_a_pretender_and_many_are_one_look()
    {
        var slow = new SlowNames();
        await using var site = await RunningSite.StartAsync(services: services => services.AddSingleton<INameLookup>(slow));
        using var caller = new Caller(site);
        await caller.AskAsync("PUT", "settings", new
        {
            crawlers = new[] { new { name = "moonbot", hosts = new[] { "crawl.moon.example" },
            ranges = Array.Empty<string>() } }
        }, "*");
        await site.Client.AddGateAsync(new GateDraft { Key = "all", Title = "All", Covers = ["site"], Audience = "signed-in or crawler" },
            CancellationToken.None);
        using var leaving = new CancellationTokenSource();
        using var http = new HttpClient();
        http.DefaultRequestHeaders.TryAddWithoutValidation("User-Agent", "moonbot");
        var left = http.GetAsync(site.Site + "/shop/books", leaving.Token);
        await slow.Asked.Task.WaitAsync(TimeSpan.FromSeconds(30), TestContext.Current.CancellationToken);
        await leaving.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => left);
        var others = Enumerable.Range(0, 5).Select(_ => AskAsync(site, "moonbot")).ToList();
        slow.Go.SetResult();
        (await Task.WhenAll(others)).ShouldAllBe(s => s == HttpStatusCode.OK);
        slow.Looks.ShouldBe(1);
    }

    [Theory]
    [InlineData("# ours\n192.0.2.0/24\n2001:db8::/32\n", 2)]
    [InlineData("""{"prefixes":[{"ipv4Prefix":"192.0.2.0/24","service":"x"}]}""", 1)]
    public void A_file_of_ranges_is_read_in_either_form(string text, int ranges) => Crawlers.Parse(text).Count.ShouldBe(ranges);

    [Fact]
    public async Task A_crawler_is_checked_before_it_is_stored()
    {
        await using var site = await RunningSite.StartAsync();
        using var caller = new Caller(site);
        foreach (var crawler in new object[] { new { name = "x", hosts = new[] { "example" }, ranges = Array.Empty<string>() }, new
            { name = "x", hosts = Array.Empty<string>(), ranges = new[] { "1.2.3.4/99" } }, new
            { name = "", hosts = new[] { "a.example" }, ranges = Array.Empty<string>() } })
        {
            var refused = await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "settings-invalid", "PUT", "settings", new
            { crawlers = new[] { crawler } }, "*");
            refused.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("crawlers");
        }
    }

    private static async Task<RunningSite> StartAsync(Names names, object crawler, params string[] settings)
    {
        var site = await RunningSite.StartAsync(settings: settings, services: services => services.AddSingleton<INameLookup>(names));
        using var caller = new Caller(site);
        (await caller.AskAsync("PUT", "settings", new { crawlers = new[] { crawler } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        await site.Client.AddGateAsync(new GateDraft
        { Key = "all", Title = "All", Covers = ["site"], Audience = "signed-in or crawler" }, CancellationToken.None);
        return site;
    }

    private static async Task<HttpStatusCode> AskAsync(RunningSite site, string agent)
    {
        using var http = new HttpClient();
        http.DefaultRequestHeaders.TryAddWithoutValidation("User-Agent", agent);
        return (await http.GetAsync(site.Site + "/shop/books")).StatusCode;
    }

    private sealed class SlowNames : INameLookup
    {
        private int looks;

        public int Looks => looks;

        public TaskCompletionSource Asked { get; } = new();

        public TaskCompletionSource Go { get; } = new();

        public async Task<IReadOnlyList<string>> NamesAsync(IPAddress address, CancellationToken stop)
        {
            Interlocked.Increment(ref looks);
            Asked.TrySetResult();
            await Go.Task.WaitAsync(stop);
            return ["a.crawl.moon.example"];
        }

        public Task<IReadOnlyList<IPAddress>> AddressesAsync(string host, CancellationToken stop) => Task.FromResult<IReadOnlyList<IPAddress>>([Here]);
    }

    private sealed class Names(string? name, IPAddress leadsTo) : INameLookup
    {
        public int Asked { get; private set; }

        public Task<IReadOnlyList<string>> NamesAsync(IPAddress address, CancellationToken stop)
        {
            Asked++;
            return Task.FromResult<IReadOnlyList<string>>(name is null ? [] : [name + "."]);
        }

        public Task<IReadOnlyList<IPAddress>> AddressesAsync(string host, CancellationToken stop) => Task.FromResult<IReadOnlyList<IPAddress>>([leadsTo]);
    }
}
