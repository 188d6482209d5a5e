using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Sweep;

/// <summary>Back-ups left lying in every sort of packing, and secrets of a sentence.</summary>
public sealed class LeftLyingTests
{
    private const string Xz = "/Td6WFoAAATm1rRGAgAhARwAAAAQz1jM4AIYAG9dAB4cA8e4NAxVuo5pGRETu8A08/NRiHfQgZeo2I6mxgOyanohm2RjHv3lkpeQ6mKOqEVQZq"
        + "fvrsVOkhxaS9zWq9CldWQISpw1tQjabHwkIqUp4+2l59ukhZ1h9h3PJjp+/8SsJ+VtstrWNj7mKq02AAAAVYZeT6XcaqwAAYsBmQQAAIQfA02x"
        + "xGf7AgAAAAAEWVo=";

    private const string SevenZip = "N3q8ryccAASpOV/6gQAAAAAAAABaAAAAAAAAADxG6VTgAwgAeV0AHhwDx1y/niU0APEJCsRFxqvV/iWAu7QtL0Fw8xxSY3c34V7jrsc59B6fZE"
        + "KtrEZxkjS+xBU6Ggcul8CU+G7Y+J41/+YjtwcsOt/mP/XBniJsNooxSQfDPAklH38DK4iwPLyvVcQQd06z/ztKjQSVBg0DZ03CZdCVAAABBAYA"
        + "AQmAgQAHCwEAASEhAQAMgwkACAoBVdMdtQAABQEZCgAAAAAAAAAAAAARFQBiAGEAYwBrAC4AaAB0AG0AbAAAABQKAQDPOm8wdH/dARUGAQAggK"
        + "SBAAA=";

    private const string LockedZip = "UEsDBBQACQAIAAWhfF36CDc6pAAAAAkDAAALABwAbG9ja2VkLmh0bWxVVAkAA6k0C2upNAtrdXgLAAEEAAAAAAQAAAAAwW2xKQv0pqXL8vzqyL"
        + "LcRUd7yf6vM1LcHQwOrNtW14AmqxUazbUEigvBAoUb8CTZLrUsN+KMGDjhYXTwMxigjCllHsT2th9XzuPLh8bgpPibkoTB5MPXnKOj29U8/6jo"
        + "PxCbRmCNMnBxuO0E5mJzLvX4jdOUu7kZpwncQuitMByMfgQdQMXeu75CFp205OynUnX7KxAFQCNX/M3tDqF6Nh5SG1tQSwcI+ggqAAAAAAA=";

    private const string Bzip = "QlpoOTFBWSZTWXNUCI0AAFZZgAAQQAD/5RQg0JAgAJINqon6o0/9VQ0yfqjygyqY/9VU9T0gAHbxbLe+Ped+fTaWGg1lg1NJYGzhLALYAAABAY"
        + "ziZ3tlvyQDMgGZAMSAccZkAxd3d39/Y7uiqq7Lqqq9leiqvVVpVaqqpzIB/F3JFOFCQc1QIjQ=";

    /// <summary>Guarded pages of a sentence or two, and one long one for each back-up.</summary>
    private static readonly Dictionary<string, string> Guarded = new()
    {
        ["safe"] = "<p>The combination is 4711</p>",
        ["code"] = "<ul><li>Code: LANTERN-77</li></ul>",
        ["path"] = "<p>Turn left behind the <b>old</b> chapel.</p>",
        ["said"] = "<p>We open on the first clear night</p>",
        ["menu"] = "<p>Ask at the desk</p><p>See you on the hill tonight</p>",
        ["desk"] = "<p>Ask at the desk</p><p>Bring the blue key along</p>",
        ["listed"] = "<h1>Our very own seven stars</h1><a href=/closed/desk>All about the front desk</a>",
        ["xz"] = Words("xz"), ["sevenz"] = Words("sevenz"), ["bzip"] = Words("bzip"), ["zst"] = Words("zst"), ["locked"] = Words("locked"),
    };

    private static readonly Dictionary<string, byte[]> Open = new()
    {
        ["/"] = Text("<html><a href=/a>a</a><a href=/data.json>d</a><a href=/quote>q</a><a href=/b.xz>b</a><a href=/b.7z>b</a><a href=/b.bz2>b</a>"
            + "<a href=/b.zst>b</a><a href=/locked.zip>b</a><a href=/long.txt>b</a><a href=/broken.gz>b</a><p>We open on the first clear night.</p>"),
        ["/a"] = Text("<html><body><div><span>the COMBINATION, is 4711</span></div>"),
        ["/data.json"] = Text("{\"places\":[{\"t\":\"Turn left behind the old chapel\"}],\"hint\":\"code: lantern-77\"}"),
        ["/quote"] = Text("<html><p>We open on the first clear night. Ask at the desk. Our very own seven stars, and all about the front desk. Turn left.</p>"),
        ["/b.xz"] = Convert.FromBase64String(Xz),
        ["/b.7z"] = Convert.FromBase64String(SevenZip),
        ["/b.bz2"] = Convert.FromBase64String(Bzip),
        ["/b.zst"] = new ZstdSharp.Compressor().Wrap(Text(Words("zst"))).ToArray(),
        ["/locked.zip"] = Convert.FromBase64String(LockedZip),
        ["/long.txt"] = Text(string.Concat(Enumerable.Repeat("one line of many that say nothing at all\n", 120_000))),
        ["/broken.gz"] = [0x1F, 0x8B, 8, 0, .. Enumerable.Range(0, 900).Select(n => (byte)(n * 7))],
    };

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static byte[] Text(string text) => System.Text.Encoding.UTF8.GetBytes(text);

    private static string Words(string page) => "<p>" + string.Join(' ', Enumerable.Range(0, 60).Select(n => $"{page}{n}word")) + "</p>";

    private static string Policy() =>
        "items:\n  - { id: site, title: Hill, addresses: [/] }\n  - { id: \"section:closed\", title: Closed part, addresses: [] }\n"
        + string.Concat(Guarded.Keys.Select(
            k => $"  - {{ id: \"page:{k}\", title: \"Page of {k}\", parents: [\"section:closed\"], addresses: [/closed/{k}] }}\n"))
        + "gates:\n  - { key: closed, title: Closed, covers: [\"section:closed\"], audience: signed-in, presence: listed }\n";

    [Fact]
    public async Task A_sentence_and_a_packed_copy_are_found_and_what_cannot_be_opened_is_named()
    {
        await using var hill = SmallSite.At();
        hill.Run(async http =>
        {
            var path = http.Request.Path.Value!;
            var body = Open.GetValueOrDefault(path) ?? (path.StartsWith("/closed/", StringComparison.Ordinal) && Guarded.TryGetValue(path[8..], out var page)
                ? Text($"<html><head><title>{path[8..]}</title></head><body><nav><a href=/>To the top of the hill</a></nav>{page}</body></html>") : null);
            http.Response.StatusCode = body is null ? 404 : 200;
            var isPage = path is "/" or "/a" or "/quote" || path.StartsWith("/closed/", StringComparison.Ordinal);
            http.Response.ContentType = isPage ? "text/html" : "application/octet-stream";
            await http.Response.Body.WriteAsync(body ?? [], Stop);
        });
        await hill.StartAsync(Stop);
        await using var site = await RunningSite.StartAsync(hill.Urls.First(), empty: true);
        var client = await site.OwnAsync(Policy(), Stop);
        var last = await client.SweepAsync(new SweepDraft(null, null, null, null, null) { Draw = 0 }, Stop).LastAsync(Stop);
        var report = last.Report.ShouldNotBeNull(last.Detail);
        var said = string.Join('\n', report.Findings.Select(f => $"{f.Kind} {f.Address} {f.What}"));
        report.Findings.Where(f => f.IsLeak).Select(f => f.Address).Distinct().Order(StringComparer.Ordinal)
            .ShouldBe((IEnumerable<string>)["/a", "/b.7z", "/b.bz2", "/b.xz", "/b.zst", "/data.json"], said);
        report.Findings.Single(f => f.Address == "/a").What.ToLowerInvariant().ShouldContain("the combination is 4711");
        report.Findings.Single(f => f.Address == "/data.json").What.ShouldContain("/closed/");
        var notes = string.Join('\n', report.Warnings);
        report.Warnings.ShouldContain(w => w.Contains("/long.txt", StringComparison.Ordinal) && !w.Contains("zip", StringComparison.Ordinal), notes);
        report.Warnings.ShouldContain(
            w => w.Contains("/locked.zip", StringComparison.Ordinal) && w.Contains("/broken.gz", StringComparison.Ordinal)
                && !w.Contains("/b.", StringComparison.Ordinal), notes);
    }
}
