using Npgsql;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Orders;

/// <summary>
/// The service is killed at random while orders come in: each is fulfilled once, each letter is written once. On PostgreSQL two machines share the work.
/// WARY_ORDER_TRIALS says how often it is killed; <c>bench/orders.sh</c> does it a thousand times.
/// </summary>
public sealed class OrderKillTests
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private static int Kills => Trials.Of(1, 500, "WARY_ORDER_TRIALS");

    [Fact]
    public Task Each_order_is_fulfilled_once_and_each_letter_written_once_on_sqlite() => TrialAsync("sqlite");

    [Fact]
    public Task Each_order_is_fulfilled_once_and_each_letter_written_once_by_two_machines_on_postgres() => TrialAsync("postgres");

    private static async Task TrialAsync(string provider)
    {
        var (folder, name) = (Directory.CreateTempSubdirectory("wary-kill-").FullName, "wary_" + Guid.NewGuid().ToString("N"));
        var admin = Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? "";
        var connection = provider == "sqlite" ? $"Data Source={folder}/sentinel.db" : $"{admin};Database={name}";
        if (provider == "postgres")
        {
            await SqlAsync(admin, $"CREATE DATABASE {name}");
        }

        try
        {
            await TrialAsync(provider, folder, connection);
        }
        finally
        {
            if (provider == "postgres")
            {
                NpgsqlConnection.ClearAllPools();
                await SqlAsync(admin, $"DROP DATABASE IF EXISTS {name} WITH (FORCE)");
            }

            Directory.Delete(folder, true);
        }
    }

    private static async Task TrialAsync(string provider, string folder, string connection)
    {
        var (root, hookSecret) = (Convert.ToBase64String(new byte[32].Select((_, n) => (byte)n).ToArray()), HookSender.NewSecret());
        using var store = Store.Open(provider, connection, TimeProvider.System);
        await store.MigrateAsync(null, Stop);
        var sealedSecret = Convert.ToBase64String(new Secrets(new ServiceOptions { Secret = root }).Seal(System.Text.Encoding.UTF8.GetBytes(hookSecret)));
        await store.ApplyAsync(
            new Edit("test.seed", "orders",
            [
                new FactDefinitionPut(new FactDefinition(FactKind.Plan, "patron", "Patron") { Length = new PlanLength(1, 0) }),
                new FulfilmentPut(new FulfilmentRule { Key = "patron", Code = "PATRON",
                    Gives = [new GivenFact(FactKind.Plan, "patron"), new GivenFact(FactKind.Pass, "frames")] }),
                new FactDefinitionPut(new FactDefinition(FactKind.Pass, "frames", "Frames")),
                new CouponPut(new Coupon { Key = "lamp", Code = "LAMP", Title = "Lamp", Audience = AudienceParser.Parse("anyone").Value, Off = 5 }),
                new OrderSourcePut(new OrderSource { Key = "pay", Title = "Pay", Secrets = [new SourceSecret(new Secret(sealedSecret))] }),
            ]),
            "test", stop: Stop);

        string[] settings = [$"--Wary:Database={provider}", $"--Wary:Connection={connection}", $"--Wary:Secret={root}", "--Wary:RoundMilliseconds=200",
            "--Wary:LogLevel=Error"];
        var machines = new ServiceProcess[provider == "sqlite" ? 1 : 2];
        for (var n = 0; n < machines.Length; n++)
        {
            machines[n] = await ServiceProcess.Start(Path.Combine(folder, "m" + n), settings).ReadyAsync();
        }

        var (orders, random) = (Math.Max(40, Kills * 10), new Random(7));
        using var sender = new HookSender(hookSecret);
        string Hook() => machines[Random.Shared.Next(machines.Length)].Site + "/sentinel/hooks/pay";
        var calls = Enumerable.Range(0, orders).SelectMany(n =>
        {
            var (who, order) = ($"buyer{n % (orders * 3 / 4)}@kill.example", "K-" + n);
            var at = DateTimeOffset.UtcNow.AddMinutes(-10);
            var paid = HookSender.Event($"p{n}", "paid", order, who, at: at, coupon: n % 3 == 0 ? "LAMP" : null);
            List<byte[]> all = [paid, paid];
            if (n % 5 == 0)
            {
                all.Add(HookSender.Event($"r{n}", "refunded", order, at: at.AddMinutes(1)));
            }

            return all;
        }).ToArray();
        random.Shuffle(calls);
        using var failed = CancellationTokenSource.CreateLinkedTokenSource(Stop);
        var (next, killed) = (-1, 0);
        var killing = Task.Run(
            () => KillAsync(machines, at => Path.Combine(folder, "m" + at), settings, () => Interlocked.Increment(ref killed), failed), Stop);
        await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Task.Run(
            async () =>
            {
                // Each kill has its share of the calls, which come in for about as long as a machine lives: none falls into a silence.
                for (int n; (n = Interlocked.Increment(ref next)) < calls.Length;)
                {
                    while (n > (long)calls.Length * (Volatile.Read(ref killed) + 1) / Kills && !killing.IsCompleted)
                    {
                        await Task.Delay(5, failed.Token);
                    }

                    await sender.InsistAsync(Hook, calls[n], failed.Token);
                    await Task.Delay(killing.IsCompleted ? 0 : Random.Shared.Next(400), failed.Token);
                }
            },
            Stop)).Prepend(killing));
        for (var n = 0; (await store.WaitingEventsAsync(OrderEventState.Waiting, null, 1, Stop)).Count > 0; n++)
        {
            n.ShouldBeLessThan(300, "events are left");
            await Task.Delay(100, Stop);
        }

        foreach (var machine in machines)
        {
            await machine.DisposeAsync();
        }

        await CheckAsync(store, orders);
    }

    /// <summary>Kills one machine after the other and starts it anew. Where one does not start, whoever waits for it is told.</summary>
    private static async Task KillAsync(ServiceProcess[] machines, Func<int, string> folder, string[] settings, Action counted, CancellationTokenSource failed)
    {
        try
        {
            for (var n = 0; n < Kills; n++)
            {
                await Task.Delay(Random.Shared.Next(30, 1500), failed.Token);
                var at = Random.Shared.Next(machines.Length);
                await machines[at].DisposeAsync();
                machines[at] = await ServiceProcess.Start(folder(at), settings).ReadyAsync();
                counted();
            }
        }
        catch
        {
            await failed.CancelAsync();
            throw;
        }
    }

    private static async Task CheckAsync(Store store, int orders)
    {
        var all = await store.OrdersAsync(new OrderQuery(), orders * 2, Stop);
        all.Count.ShouldBe(orders);
        all.ShouldAllBe(o => o.Handling == OrderHandling.Done && o.Member != null);
        all.Count(o => o.Standing == OrderStanding.Refunded).ShouldBe((orders + 4) / 5);
        // A coupon is counted once for each order that is paid still.
        (await store.CouponUseListAsync("lamp", null, orders, Stop)).Select(u => u.Order).Order(StringComparer.Ordinal).ShouldBe(
            Enumerable.Range(0, orders).Where(n => n % 3 == 0 && n % 5 != 0).Select(n => "K-" + n).Order(StringComparer.Ordinal));
        var letters = await store.MessagesAsync(orders * 6, stop: Stop);
        foreach (var mine in all.GroupBy(o => o.Email))
        {
            var member = (await store.MemberByNameAsync(mine.Key, Stop))!;
            member.Grants.Select(g => g.Source.Reference).Order().ShouldBe(mine.Select(o => o.Subject).Order(), mine.Key);
            // Whoever's money went back before anything was given is told nothing; nobody is told anything twice.
            var good = mine.Count(o => o.Standing == OrderStanding.Paid);
            letters.Count(l => l.To == mine.Key && l.Kind == "order").ShouldBeInRange(good, mine.Count(), mine.Key);
            letters.Count(l => l.To == mine.Key && l.Kind == "order-ended").ShouldBe(
                letters.Count(l => l.To == mine.Key && l.Kind == "order") - good, mine.Key);
            var passes = new List<int>();
            foreach (var order in mine)
            {
                var given = await store.PassesOfOrderAsync(order.Subject, Stop);
                given.Count.ShouldBeInRange(order.Standing == OrderStanding.Paid ? 1 : 0, 1, order.Key);
                passes.Add(given.Count);
            }

            letters.Count(l => l.To == mine.Key && l.Kind == "pass").ShouldBe(passes.Sum(), mine.Key);
        }
    }

    private static async Task SqlAsync(string connection, string sql)
    {
        await using var open = new NpgsqlConnection(connection);
        await open.OpenAsync(Stop);
        await using var command = new NpgsqlCommand(sql, open);
        await command.ExecuteNonQueryAsync(Stop);
    }
}
