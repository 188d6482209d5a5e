using System.Text.RegularExpressions;
using Npgsql;
using WarySentinel.Client;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>A folder and a database for services that are killed.</summary>
internal sealed partial class MortalService : IAsyncDisposable
{
    public const string Owner = "owner@x.example", Password = "keep-the-lamp-lit";
    private readonly string provider;
    private readonly string name = "wary_" + Guid.NewGuid().ToString("N");

    private MortalService(string provider)
    {
        this.provider = provider;
        Connection = provider == "sqlite" ? $"Data Source={Folder}/sentinel.db" : $"{Server};Database={name}";
    }

    public string Folder { get; } = Directory.CreateTempSubdirectory("wary-kill-").FullName;

    public string Connection { get; }

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Server => Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES")
        ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL.");

    public static async Task<MortalService> OnAsync(string provider)
    {
        var made = new MortalService(provider);
        await made.AdminAsync("CREATE DATABASE " + made.name);
        return made;
    }

    /// <summary>Starts one, or another, on it.</summary>
    public Task<ServiceProcess> StartAsync(params string[] settings) => ServiceProcess.Start(Folder, [$"--Wary:Connection={Connection}",
        .. settings]).ReadyAsync();

    /// <summary>Makes the first owner, and a token of theirs.</summary>
    public static async Task<string> OwnedAsync(ServiceProcess service)
    {
        // What is written into the log may come later than the first answer.
        await service.SaysAsync("/first-owner?code=");
        using var nobody = new SentinelClient(new Uri(service.Admin), null);
        await nobody.FirstOwnerAsync(Code().Match(service.Log).Groups[1].Value, Owner, "Owner", Password, Stop);
        return await TokenAsync(service);
    }

    /// <summary>A token of the owner.</summary>
    public static async Task<string> TokenAsync(ServiceProcess service)
    {
        using var nobody = new SentinelClient(new Uri(service.Admin), null);
        return (await nobody.AddTokenAsync("kill", ["read", "write"], null, Owner, Password, Stop)).Token!.Reveal();
    }

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        await AdminAsync($"DROP DATABASE {name} WITH (FORCE)");
        Directory.Delete(Folder, true);
    }

    private async Task AdminAsync(string sql)
    {
        if (provider != "postgres")
        {
            return;
        }

        await using var connection = new NpgsqlConnection(Server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(Stop);
    }

    [GeneratedRegex("code=([0-9a-f]+)")]
    private static partial Regex Code();
}
