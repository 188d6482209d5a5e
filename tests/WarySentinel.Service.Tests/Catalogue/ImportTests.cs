using System.Diagnostics;
using System.Net;
using System.Text;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Catalogue;
using WarySentinel.Contract.Check;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Catalogue;

public sealed class ImportTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Fact]
    public async Task A_byte_order_mark_and_semicolons_are_fine()
    {
        var last = await ImportAsync([0xEF, 0xBB, 0xBF, .. "id;title;parents\npage:bom;With “marks”; \n"u8], dryRun: true);
        last.Result!.Added.ShouldBe(1);
        last.Result.Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task Quoted_fields_keep_the_line_numbers_right()
    {
        var last = await ImportAsync("id,title\npage:a,\"two\nlines\"\nbad id,x\n"u8.ToArray());
        last.Result!.Stored.ShouldBeFalse();
        last.Result.Faults.Select(f => f.Line).ShouldBe([2, 4]);
    }

    [Theory]
    [InlineData(new byte[] { 0xFF, 0xFE, 0x69, 0x00 }, "UTF-16")]
    [InlineData(new byte[] { 0x69, 0x64, 0x2C, 0x74, 0x0A, 0xE9 }, "not UTF-8")]
    [InlineData(new byte[] { 0x69, 0x00, 0x64 }, "zero byte")]
    public async Task A_wrong_encoding_is_named(byte[] file, string said)
    {
        var last = await ImportAsync(file);
        last.Stage.ShouldBe("failed");
        last.Detail!.ShouldContain(said);
    }

    [Theory]
    [InlineData("", 1)]
    [InlineData("name,price\na,1\n", 1)]
    [InlineData("id,titel\npage:a,A\n", 1)]
    [InlineData("id,title\npage:a,A,extra\n", 2)]
    public async Task A_file_of_another_shape_stores_nothing(string file, int line)
    {
        var last = await ImportAsync(Encoding.UTF8.GetBytes(file));
        last.Result!.Stored.ShouldBeFalse();
        last.Result.Faults[0].Line.ShouldBe(line);
    }

    [Fact]
    public async Task Yaml_is_read_with_its_lines()
    {
        var written = "items:\n  - id: page:y1\n    title: One\n    addresses: [/y1, /y1/**]\n  - {id: page:y2, title: Two, parents: page:y1}\n"u8.ToArray();
        var good = await ImportAsync(written, yaml: true, dryRun: true);
        good.Result!.Added.ShouldBe(2);
        var bad = await ImportAsync("items:\n  - id: page:y1\n    titel: One\n  - id: page:y2\n"u8.ToArray(), yaml: true);
        bad.Result!.Faults.Select(f => f.Line).ShouldBe([3, 4]);
        (await ImportAsync("items: [\n"u8.ToArray(), yaml: true)).Result!.Faults.ShouldHaveSingleItem().Line.ShouldBe(2);
        (await ImportAsync("- a\n"u8.ToArray(), yaml: true)).Result!.Stored.ShouldBeFalse();
    }

    [Fact]
    public async Task Too_large_a_file_is_refused_by_its_length()
    {
        await using var small = await RunningSite.StartAsync(settings: ["--Wary:ImportMaxBytes=1000000"]);
        var refused = await Should.ThrowAsync<SentinelException>(() => RunAsync(small.Client, new byte[2_000_000], false, false, false));
        refused.Status.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
    }

    [Fact]
    public async Task Junk_meets_a_clear_answer_quickly()
    {
        var junk = new byte[20_000_000];
        new Random(1).NextBytes(junk);
        (await ImportAsync(junk)).Stage.ShouldBe("failed");
        Array.Fill(junk, (byte)'x');
        (await ImportAsync(junk)).Detail!.ShouldContain("A line is longer");
        var lines = Encoding.UTF8.GetBytes("id,title\n" + string.Concat(Enumerable.Repeat("junk,,,,,\n", 500_000)));
        (await ImportAsync(lines)).Result!.Stored.ShouldBeFalse();
    }

    [Fact]
    public async Task Items_by_the_thousand_go_in_with_progress()
    {
        var items = Trials.Of(12_000, 30_000);
        await using var large = await RunningSite.StartAsync();
        var file = new StringBuilder("id,title,parents,addresses\n");
        for (var n = 0; n < items; n++)
        {
            file.Append(System.Globalization.CultureInfo.InvariantCulture, $"product:bulk-{n},Bulk {n},category:filters,/bulk/{n}\n");
        }

        var began = Stopwatch.GetTimestamp();
        var stages = new List<string>();
        ImportLine? last = null;
        await foreach (var line in large.Client.ImportAsync(
            new MemoryStream(Encoding.UTF8.GetBytes(file.ToString())), false, false, false, CancellationToken.None))
        {
            stages.Add(line.Stage);
            last = line;
        }

        last!.Result!.Added.ShouldBe(items);
        stages.Count(s => s == "storing").ShouldBeGreaterThan(items / 3_000);
        (await large.Client.MayAsync(new Question("guest", "open", $"product:bulk-{items - 1}", null, null), CancellationToken.None)).Allowed.ShouldBeTrue();
        TestContext.Current.TestOutputHelper?.WriteLine($"{items} items in {Stopwatch.GetElapsedTime(began).TotalSeconds:F1} s");
    }

    private Task<ImportLine> ImportAsync(byte[] file, bool yaml = false, bool keepGood = false, bool dryRun = false) =>
        RunAsync(site.Client, file, yaml, keepGood, dryRun);

    private static async Task<ImportLine> RunAsync(SentinelClient client, byte[] file, bool yaml, bool keepGood, bool dryRun)
    {
        ImportLine? last = null;
        await foreach (var line in client.ImportAsync(new MemoryStream(file), yaml, keepGood, dryRun, CancellationToken.None))
        {
            last = line;
        }

        return last.ShouldNotBeNull();
    }
}
