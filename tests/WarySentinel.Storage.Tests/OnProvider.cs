using System.Data.Common;
using Npgsql;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests;

/// <summary>A store of its own on one provider, opened as two machines would.</summary>
public abstract class OnProvider(string provider) : IAsyncLifetime
{
    private static readonly Lazy<Task<string>> PostgresMould = new(() => MouldAsync("postgres"));
    private static readonly Lazy<Task<string>> SqliteMould = new(() => MouldAsync("sqlite"));
    private readonly string name = "wary_" + Guid.NewGuid().ToString("N");
#pragma warning disable CA1051 // read by every test
    protected Store store = null!;
#pragma warning restore CA1051

    /// <summary>The same store, opened by another machine.</summary>
    protected Store Second { get; private set; } = null!;

    protected string Provider => provider;

    protected static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        var mould = await (provider == "postgres" ? PostgresMould : SqliteMould).Value;
        if (provider == "postgres")
        {
            await AdminAsync($"CREATE DATABASE {name} TEMPLATE {mould}");
        }
        else
        {
            File.Copy(FileOf(mould), FileOf(name));
        }

        Second = Store.Open(provider, Connection, TimeProvider.System);
        store = Store.Open(provider, Connection, TimeProvider.System);
    }

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        if (provider == "postgres")
        {
            NpgsqlConnection.ClearAllPools();
            await AdminAsync($"DROP DATABASE {name} WITH (FORCE)");
        }
        else
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            File.Delete(FileOf(name));
        }
    }

    protected string Connection => ConnectionTo(provider, name);

    private static string FileOf(string name) => Path.Combine(Path.GetTempPath(), name + ".db");

    private static string ConnectionTo(string provider, string name) =>
        provider == "postgres" ? $"{Server};Database={name};Maximum Pool Size=20" : "Data Source=" + FileOf(name);

    /// <summary>Builds all tables once; each test begins with a copy.</summary>
    private static async Task<string> MouldAsync(string provider)
    {
        var mould = "wary_mould_" + Guid.NewGuid().ToString("N");
        if (provider == "postgres")
        {
            await AdminAsync("CREATE DATABASE " + mould);
        }

        // Nothing may be connected to it while it is copied.
        await Store.Open(provider, ConnectionTo(provider, mould) + ";Pooling=false", TimeProvider.System).MigrateAsync(null, CancellationToken.None);
        AppDomain.CurrentDomain.ProcessExit += (_, _) =>
        {
            if (provider == "postgres")
            {
                AdminAsync($"DROP DATABASE {mould} WITH (FORCE)").GetAwaiter().GetResult();
            }
            else
            {
                File.Delete(FileOf(mould));
            }
        };
        return mould;
    }

    private static string Server => Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES")
        ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL; ./test.sh starts one.");

    private static async Task AdminAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync(CancellationToken.None);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(CancellationToken.None);
    }

    protected async Task<long> PutAsync(params Change[] changes) => (await store.ApplyAsync(new Edit("test", "test", changes), "test", stop: Stop))
        .Revision ?? 0;

    /// <summary>Does something to the database past the store, as a mishap would.</summary>
    protected async Task SqlAsync(string sql)
    {
        await using DbConnection connection = provider == "postgres"
            ? new NpgsqlConnection(Connection) : new Microsoft.Data.Sqlite.SqliteConnection(Connection);
        await connection.OpenAsync(Stop);
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync(Stop);
    }

    protected static ItemId Id(string text) => ItemId.TryParse(text, out var id) ? id : throw new FormatException(text);

    protected static Item Page(string key) => new(Id("page:" + key), "Page " + key, [], []);

    protected static Member Someone(string email, string? userName, string? role) => new(
        Guid.CreateVersion7(), email, "Some One", userName, "hash", MemberStatus.Active, role is null ? []
        : [new Grant(FactKind.Role, role)], DateTimeOffset.UtcNow);

    protected static SharedPassword Password(string gate) => new(Guid.CreateVersion7(), gate, "Label", "digest", "hash", DateTimeOffset.UtcNow);

    protected static Grant Held(string kind, string key, string source = "hand")
    {
        var from = GrantSource.TryParse(source, out var read) ? read : throw new FormatException(source);
        return new Grant(FactNames.TryParse(kind, out var of) ? of : throw new FormatException(kind), key) { Id = Guid.CreateVersion7(), Source = from };
    }
}
