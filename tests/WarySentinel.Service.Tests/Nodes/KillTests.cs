using System.Collections.Concurrent;
using System.Text.RegularExpressions;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>The service is killed in the middle of writing people.</summary>
public sealed partial class KillTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public async Task What_was_answered_is_there_and_nothing_is_there_by_halves(string provider)
    {
        var folder = Directory.CreateTempSubdirectory("wary-kill-").FullName;
        var name = "wary_" + Guid.NewGuid().ToString("N");
        var server = Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL.");
        var connection = provider == "sqlite" ? $"Data Source={folder}/sentinel.db" : $"{server};Database={name}";
        await AdminAsync(provider, server, "CREATE DATABASE " + name);
        var answered = new ConcurrentBag<(string Member, string Source)>();
        for (var round = 0; round < 3; round++)
        {
            await using var service = await ServiceProcess.Start(folder, $"--Wary:Connection={connection}").ReadyAsync();
            await WriteUntilKilledAsync(service, round, answered);
        }

        answered.Count.ShouldBeGreaterThan(20);
        await using var again = await ServiceProcess.Start(folder, $"--Wary:Connection={connection}").ReadyAsync();
        using var store = Store.Open(provider, connection, TimeProvider.System);
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
        NpgsqlConnection.ClearAllPools();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        await AdminAsync(provider, server, $"DROP DATABASE {name} WITH (FORCE)");
        Directory.Delete(folder, true);
    }

    private static async Task WriteUntilKilledAsync(ServiceProcess service, int round, ConcurrentBag<(string Member, string Source)> answered)
    {
        const string owner = "owner@x.example", password = "keep-the-lamp-lit";
        using var nobody = new SentinelClient(new Uri(service.Admin), null);
        if (round == 0)
        {
            await nobody.FirstOwnerAsync(Code().Match(service.Log).Groups[1].Value, owner, "Owner", password, Stop);
        }

        using var client = new SentinelClient(new Uri(service.Admin), (await nobody.AddTokenAsync("kill", ["read", "write"], null, owner, password, Stop))
            .Token?.Reveal());
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
        await enough.Task.WaitAsync(TimeSpan.FromSeconds(60), Stop);
        await service.KillAsync();
        await Task.WhenAll(writing);
    }

    private static async Task AdminAsync(string provider, string server, string sql)
    {
        if (provider == "postgres")
        {
            await using var connection = new NpgsqlConnection(server + ";Database=postgres;Pooling=false");
            await connection.OpenAsync(Stop);
            await using var command = new NpgsqlCommand(sql, connection);
            await command.ExecuteNonQueryAsync(Stop);
        }
    }

    [GeneratedRegex("code=([0-9a-f]+)")]
    private static partial Regex Code();
}
