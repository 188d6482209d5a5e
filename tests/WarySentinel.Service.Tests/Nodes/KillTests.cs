using System.Collections.Concurrent;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>The service is killed in the middle of writing people.</summary>
public sealed class KillTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public async Task What_was_answered_is_there_and_nothing_is_there_by_halves(string provider)
    {
        await using var mortal = await MortalService.OnAsync(provider);
        var answered = new ConcurrentBag<(string Member, string Source)>();
        for (var round = 0; round < 2; round++)
        {
            await using var service = await mortal.StartAsync();
            await WriteUntilKilledAsync(service, round, answered);
        }

        answered.Count.ShouldBeGreaterThan(20);
        await using var again = await mortal.StartAsync();
        using var store = Store.Open(provider, mortal.Connection, TimeProvider.System);
        foreach (var group in answered.GroupBy(a => a.Member))
        {
            var member = (await store.MemberByNameAsync(group.Key, Stop)).ShouldNotBeNull();
            var held = member.Grants.Select(g => g.Source.ToString()).ToList();
            group.Select(a => a.Source).Except(held).ShouldBeEmpty("each was answered");
            // One version and one entry of the history for each grant, those that were stored and not answered any more included.
            member.Version.ShouldBe(1 + held.Count);
            (await store.AuditAsync(null, 10_000, member.Email, "grant.", Stop)).Count.ShouldBe(held.Count);
        }

        await again.DisposeAsync();
    }

    /// <summary>Killed anywhere in an import and begun again; WARY_IMPORT_KILLS says how often, where it is to be more than a few times.</summary>
    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public async Task An_import_that_is_killed_and_begun_again_leaves_nobody_out_and_takes_nobody_twice(string provider)
    {
        const int rows = 17_000;
        var trials = Trials.Of(1, 200, "WARY_IMPORT_KILLS");
        await using var mortal = await MortalService.OnAsync(provider);
        using var store = Store.Open(provider, mortal.Connection, TimeProvider.System);
        var (random, before, token) = (new Random(provider.Length), 1, (string?)null);
        for (var trial = 0; trial < trials; trial++)
        {
            var file = "email,name,role\n" + string.Concat(Enumerable.Range(0, rows).Select(n => $"t{trial}n{n}@x.example,Some One,guide\n"));
            await using (var service = await mortal.StartAsync())
            {
                token ??= await SetUpAsync(service);
                var importing = ImportAsync(service, token, file);
                await Task.Delay(random.Next(provider == "sqlite" ? 4_000 : 6_000), Stop);
                await service.KillAsync();
                await importing;
            }

            await using var again = await mortal.StartAsync();
            var done = (await ImportAsync(again, token, file)).ShouldNotBeNull();
            (done.Stage, done.Rows, done.Refused).ShouldBe(("done", rows, 0), $"trial {trial}");
            (await store.MemberCountAsync(Stop)).ShouldBe(before += rows);
            (await store.HoldersAsync(Core.Facts.FactKind.Role, "guide", Stop)).ShouldBe(before - 1);
            // In the index of names, too, and there once.
            (await store.MembersAsync(new MemberQuery(null, 5, $"t{trial}n{rows - 1}@"), Stop)).ShouldHaveSingleItem();
            (await store.AuditAsync(null, 5, $"t{trial}n0@x.example", "member.import", Stop)).ShouldHaveSingleItem();
            if (trial == 0 && provider == "postgres")
            {
                // Whoever had the index of names rest is gone; it is built when that is over.
                await HasIndexAsync(mortal.Connection);
            }
        }
    }

    private static async Task HasIndexAsync(string connection)
    {
        await using var own = new NpgsqlConnection(connection);
        await own.OpenAsync(Stop);
        for (var asked = 0; ; asked++)
        {
            await using var command = new NpgsqlCommand(
                """SELECT EXISTS (SELECT FROM pg_index WHERE indexrelid = to_regclass('"IX_members_Search"') AND indisvalid)""", own);
            if ((bool)(await command.ExecuteScalarAsync(Stop))!)
            {
                return;
            }

            asked.ShouldBeLessThan(1200);
            await Task.Delay(200, Stop);
        }
    }

    private static async Task<string> SetUpAsync(ServiceProcess service)
    {
        var token = await MortalService.OwnedAsync(service);
        using var client = new SentinelClient(new Uri(service.Admin), token);
        await client.AddFactDefinitionAsync("roles", "guide", "Guides", Stop);
        return token;
    }

    /// <summary>The last that was told; null where it was killed.</summary>
    private static async Task<MemberImportLine?> ImportAsync(ServiceProcess service, string token, string file)
    {
        using var client = new SentinelClient(new Uri(service.Admin), token);
        using var stream = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(file));
        MemberImportLine? last = null;
        try
        {
            await foreach (var line in client.ImportMembersAsync(stream, false, [], null, null, null, Stop))
            {
                last = line;
            }

            return last;
        }
        catch (Exception gone) when (gone is HttpRequestException or IOException or SentinelException or TaskCanceledException)
        {
            return null;
        }
    }

    private static async Task WriteUntilKilledAsync(ServiceProcess service, int round, ConcurrentBag<(string Member, string Source)> answered)
    {
        using var client = new SentinelClient(
            new Uri(service.Admin), round == 0 ? await MortalService.OwnedAsync(service) : await MortalService.TokenAsync(service));
        if (round == 0)
        {
            await client.AddFactDefinitionAsync("groups", "schools", "Schools", Stop);
        }

        var members = Enumerable.Range(0, 4).Select(n => $"m{round}-{n}@x.example").ToList();
        foreach (var member in members)
        {
            await client.AddMemberAsync(member, "Some One", null, null, [], [], [], Stop);
        }

        var enough = new TaskCompletionSource();
        var writing = members.Concat(members).Select(async (member, worker) =>
        {
            try
            {
                for (var n = 0; ; n++)
                {
                    var source = $"order:{round}-{worker}-{n}";
                    (await client.GiveAsync(member, "group:schools", null, null, source, Stop)).Changed.ShouldBeTrue();
                    answered.Add((member, source));
                    if (n == 4 + round)
                    {
                        enough.TrySetResult();
                    }
                }
            }
            catch (Exception gone) when (gone is HttpRequestException or IOException or SentinelException or TaskCanceledException)
            {
                // Killed.
            }
        }).ToList();
        await enough.Task.WaitAsync(TimeSpan.FromMinutes(4), Stop);
        await service.KillAsync();
        await Task.WhenAll(writing);
    }
}
