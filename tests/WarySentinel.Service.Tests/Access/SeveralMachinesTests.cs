using System.Net;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

public sealed class SeveralMachinesTests
{
    [Fact]
    public async Task Two_machines_on_one_PostgreSQL_share_sessions_and_follow_each_other()
    {
        var server =
            Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL; ./test.sh starts one.");
        var name = "wary_" + Guid.NewGuid().ToString("N");
        await using (var connection = new NpgsqlConnection(server + ";Database=postgres;Pooling=false"))
        {
            await connection.OpenAsync(TestContext.Current.CancellationToken);
            await using var create = new NpgsqlCommand("CREATE DATABASE " + name, connection);
            await create.ExecuteNonQueryAsync(TestContext.Current.CancellationToken);
        }

        string[] settings = [$"--Wary:Connection={server};Database={name};Maximum Pool Size=20", "--Wary:FollowMilliseconds=100"];
        await using var first = await RunningSite.StartAsync(settings: settings);
        (await first.Client.StatusAsync(CancellationToken.None)).Database.ShouldBe("postgres");
        var (node, address) = await first.StartSecondAsync(settings);
        await using (node)
        {
            using var nell = first.NewBrowser();
            var cookie = (await nell.SignInAsync("nell", "orchard-quiet-91")).Headers.GetValues("Set-Cookie")
                .First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
            (await StatusAsync(address + "/shop/dealer-stock", cookie)).ShouldBe(HttpStatusCode.OK);
            (await StatusAsync(address + "/shop/books", null)).ShouldBe(HttpStatusCode.OK);
            await first.Client.AddGateAsync(new GateDraft { Title = "Books", Covers = ["category:books"], Audience = "signed-in" }, CancellationToken.None);
            await UntilAsync(async () => await StatusAsync(address + "/shop/books", null) == HttpStatusCode.Unauthorized);
            var session = (await first.Client.SessionsAsync("nell@orchard-optics.example", CancellationToken.None))[0];
            await first.Client.EndSessionAsync(session.Id, CancellationToken.None);
            await UntilAsync(async () => await StatusAsync(address + "/shop/dealer-stock", cookie) == HttpStatusCode.Unauthorized);
        }
    }

    private static async Task UntilAsync(Func<Task<bool>> holds)
    {
        for (var n = 0; n < 100; n++)
        {
            if (await holds())
            {
                return;
            }

            await Task.Delay(50, TestContext.Current.CancellationToken);
        }

        Assert.Fail("The other machine did not follow within five seconds.");
    }

    private static async Task<HttpStatusCode> StatusAsync(string address, string? cookie)
    {
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, address);
        if (cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", cookie);
        }

        using var response = await http.SendAsync(request);
        return response.StatusCode;
    }
}
