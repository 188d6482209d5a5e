using System.Formats.Tar;
using System.IO.Compression;
using System.Net;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.SetUp;

/// <summary>Backups that are taken while others write: each is of one moment, and whole.</summary>
public sealed class BackupTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task It_is_of_one_moment_while_others_write_and_opens_as_a_store()
    {
        await using var site = await RunningSite.StartAsync();
        Directory.CreateDirectory(Path.Combine(site.Data, "files", "a", "b"));
        await File.WriteAllTextAsync(Path.Combine(site.Data, "files", "a", "b", "star & chart.txt"), "north", Stop);
        using var over = new CancellationTokenSource();
        var writing = Task.Run(
            async () =>
            {
                for (var n = 0; !over.IsCancellationRequested; n++)
                {
                    // Each transaction has two halves: the member, and what the trail says of them.
                    await site.Client.AddMemberAsync($"m{n}@x.example", "M", null, null, ["dealer"], [], [], Stop);
                    await site.Client.AddGateAsync(new GateDraft { Key = $"g{n}", Title = "G", Covers = [$"path:/g{n}"], Audience = "signed-in" }, Stop);
                }
            },
            Stop);
        for (var round = 0; round < 3; round++)
        {
            var folder = Directory.CreateTempSubdirectory("wary-backup-").FullName;
            using var packed = new MemoryStream();
            await site.Client.BackupAsync(packed, true, Stop);
            packed.Position = 0;
            await using (var open = new GZipStream(packed, CompressionMode.Decompress))
            {
                await TarFile.ExtractToDirectoryAsync(open, folder, false, Stop);
            }

            (await File.ReadAllTextAsync(Path.Combine(folder, "files", "a", "b", "star & chart.txt"), Stop)).ShouldBe("north");
            (await File.ReadAllTextAsync(Path.Combine(folder, "secret.key"), Stop)).ShouldBe(
                await File.ReadAllTextAsync(Path.Combine(site.Data, "secret.key"), Stop));
            using (var store = Store.Open("sqlite", $"Data Source={Path.Combine(folder, "sentinel.db")};Pooling=false", TimeProvider.System))
            {
                var policy = await store.LoadPolicyAsync(Stop);
                policy.Faults.ShouldBeEmpty();
                var gates = policy.Gates.Count(g => g.Key.StartsWith('g'));
                var members = await store.MemberCountAsync(Stop) - 3;
                (members - gates).ShouldBeInRange(0, 1, "what was written one after the other is there one after the other");
            }

            Directory.Delete(folder, true);
        }

        await over.CancelAsync();
        await writing;
        Directory.EnumerateFiles(Path.Combine(site.Data, "spool")).ShouldBeEmpty();
    }

    [Fact]
    public async Task Only_owners_get_it()
    {
        await using var site = await RunningSite.StartAsync();
        using var caller = new Caller(site, (await new SentinelClient(new Uri(site.Admin), null).AddTokenAsync(
            "less", ["read", "write", "decide", "view"], null, RunningSite.Owner, RunningSite.Password, Stop)).Token!.Reveal());
        (await caller.AskAsync("GET", "backup")).Status.ShouldBe(HttpStatusCode.Forbidden);
        using var nobody = new HttpClient();
        (await nobody.GetAsync(site.Admin + "/api/v1/backup", Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await nobody.GetAsync(site.Site + "/api/v1/backup", Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }
}
