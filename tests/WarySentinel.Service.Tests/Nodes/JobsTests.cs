using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Service.Nodes;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

public sealed class JobsTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_machine_with_nothing_to_do_writes_nothing()
    {
        var time = new FakeTimeProvider(DateTimeOffset.UtcNow);
        await using var site = await RunningSite.StartAsync("http://127.0.0.1:9", time: time);
        await using var watching = new SqliteConnection($"Data Source={site.Data}/sentinel.db");
        await watching.OpenAsync(Stop);
        var jobs = site.Services.GetRequiredService<Jobs>();
        await jobs.OnceAsync(Stop);
        var settled = await CommitsAsync(watching);
        await jobs.OnceAsync(Stop);
        time.Advance(TimeSpan.FromSeconds(30));
        await jobs.OnceAsync(Stop);
        (await CommitsAsync(watching)).ShouldBe(settled);
        time.Advance(TimeSpan.FromHours(2));
        await jobs.OnceAsync(Stop);
        (await CommitsAsync(watching)).ShouldNotBe(settled, "the house is kept");
    }

    /// <summary>A number that is another one after others have committed (sqlite.org, “PRAGMA data_version”).</summary>
    private static async Task<long> CommitsAsync(SqliteConnection connection)
    {
        await using var command = connection.CreateCommand();
        command.CommandText = "PRAGMA data_version";
        return (long)(await command.ExecuteScalarAsync(Stop))!;
    }
}
