using System.Net;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Facts;
using WarySentinel.Contract.Gates;
using WarySentinel.Contract.Passwords;
using WarySentinel.Contract.People;
using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;
using SharedPasswords = WarySentinel.Service.Passwords.SharedPasswords;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>Two machines on one PostgreSQL, the second behind a line that can be cut.</summary>
public sealed class TwoMachines : IAsyncLifetime
{
    private readonly string name = "wary_" + Guid.NewGuid().ToString("N");
    private WebApplication second = null!;

    public RunningSite First { get; private set; } = null!;

    /// <summary>The second machine's address for visitors.</summary>
    public string Second { get; private set; } = "";

    public IServiceProvider SecondServices => second.Services;

    public Relay Line { get; private set; } = null!;

    private static string Server => Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES")
        ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL; ./test.sh starts one.");

    public async ValueTask InitializeAsync()
    {
        await AdminAsync("CREATE DATABASE " + name);
        var server = new NpgsqlConnectionStringBuilder(Server);
        Line = new Relay(server.Host!, server.Port);
        First = await RunningSite.StartAsync(settings: SettingsOf(server.Port));
        await StartSecondAsync();
    }

    public async Task StartSecondAsync() => (second, Second) = await First.StartSecondAsync([.. SettingsOf(Line.Port), "--Wary:LagSeconds=1"]);

    public async Task StopSecondAsync() => await second.DisposeAsync();

    public async ValueTask DisposeAsync()
    {
        await second.DisposeAsync();
        await First.DisposeAsync();
        await Line.DisposeAsync();
        await AdminAsync($"DROP DATABASE {name} WITH (FORCE)");
    }

    // The poll is slow, so that what holds soon holds by the bell.
    private string[] SettingsOf(int port) =>
    [
        $"--Wary:Connection={new NpgsqlConnectionStringBuilder(Server) { Database = name, Port = port, MaxPoolSize = 20, Timeout = 3 }}",
        "--Wary:FollowMilliseconds=2000", "--Wary:RoundMilliseconds=0",
    ];

    private static async Task AdminAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }
}

public sealed class SeveralMachinesTests(TwoMachines machines) : IClassFixture<TwoMachines>
{
    private const string Nell = "nell@orchard-optics.example";
    private const string Dealer = "/shop/dealer-stock";
    private const string Vault = "/shop/clearance-vault";

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private RunningSite First => machines.First;

    [Fact]
    public async Task What_is_stored_on_one_holds_on_the_other()
    {
        var cookie = await SignedInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await StatusAsync(Dealer, cookie)).ShouldBe(HttpStatusCode.Forbidden);
        var grant = await First.Client.GiveAsync("pia@lanternlane.example", "role:dealer", null, null, "order:1", Stop);
        await UntilAsync(async () => await StatusAsync(Dealer, cookie) == HttpStatusCode.OK, "a grant");
        await First.Client.EndGrantAsync("pia@lanternlane.example", grant.Grant.Id, Stop);
        await UntilAsync(async () => await StatusAsync(Dealer, cookie) == HttpStatusCode.Forbidden, "its end");
        await First.Client.AddGateAsync(new GateDraft { Key = "books", Title = "Books", Covers = ["category:books"], Audience = "signed-in" }, Stop);
        await UntilAsync(async () => await StatusAsync("/shop/books", null) == HttpStatusCode.Unauthorized, "a gate");
        await First.Client.SetStatusAsync("pia@lanternlane.example", "suspended", null, Stop);
        await UntilAsync(async () => await StatusAsync("/shop/books", cookie) == HttpStatusCode.Unauthorized, "a suspension");
        await First.Client.SetStatusAsync("pia@lanternlane.example", "active", null, Stop);
        var again = await SignedInAsync("pia@lanternlane.example", "lantern-lane-12");
        await UntilAsync(async () => await StatusAsync("/shop/books", again) == HttpStatusCode.OK, "being let in again");
        var session = (await First.Client.SessionsAsync("pia@lanternlane.example", Stop))[0];
        await First.Client.EndSessionAsync(session.Id, Stop);
        await UntilAsync(async () => await StatusAsync("/shop/books", again) == HttpStatusCode.Unauthorized, "a sign-out");
    }

    [Fact]
    public async Task A_pass_that_ends_on_one_is_known_no_more_on_the_other_and_its_uses_count_for_both()
    {
        await First.Client.AddFactDefinitionAsync("pass-kinds", "frames", "Frames", Stop);
        await First.Client.AddGateAsync(
            new GateDraft { Key = "frames", Title = "Frames", Covers = ["path:/shop/filters/**"], Audience = "pass:frames", Basic = "tools" }, Stop);
        var pass = await First.Client.AddPassAsync(new PassDraft("frames", "Lab", MostUses: 1), Stop);
        async Task<HttpStatusCode> AskAsync(string site, string password)
        {
            using var http = new HttpClient();
            http.DefaultRequestHeaders.Add(
                "Authorization", "Basic " + Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes($"{pass.Name}:{password}")));
            return (await http.GetAsync(site + "/shop/filters/", Stop)).StatusCode;
        }

        await UntilAsync(async () => await StatusAsync("/shop/filters/", null) == HttpStatusCode.Unauthorized, "the gate");
        (await AskAsync(machines.Second, pass.Password!.Reveal())).ShouldBe(HttpStatusCode.OK);
        (await AskAsync(First.Site, pass.Password.Reveal())).ShouldBe(HttpStatusCode.OK, "one use, wherever it comes");
        (await First.Client.PassAsync(pass.Name, Stop)).Value.Uses.ShouldBe(1);
        var fresh = await First.Client.RotatePassAsync(pass.Name, "PT0S", false, Stop);
        await UntilAsync(async () => await AskAsync(machines.Second, pass.Password.Reveal()) == HttpStatusCode.Unauthorized, "another password");
        (await AskAsync(machines.Second, fresh.Password!.Reveal())).ShouldBe(HttpStatusCode.OK);
        await First.Client.WithdrawPassAsync(pass.Name, Stop);
        await UntilAsync(async () => await AskAsync(machines.Second, fresh.Password.Reveal()) == HttpStatusCode.Unauthorized, "its end");
    }

    [Fact]
    public async Task A_role_that_is_renamed_at_one_is_held_under_its_new_key_at_the_other()
    {
        await First.Client.AddFactDefinitionAsync("roles", "walker", "Walkers", Stop);
        await First.Client.AddFactDefinitionAsync("groups", new FactDefinitionDraft("outdoors", "Outdoors", Rule: "role:walker"), Stop);
        await First.Client.AddGateAsync(
            new GateDraft
            {
                Key = "maps", Title = "Maps", Covers = ["path:/maps/**"], Audience = "role:walker and group:outdoors",
                Answer = "not-found"
            }, Stop);
        var grant = await First.Client.GiveAsync("nell@orchard-optics.example", "role:walker", null, null, null, Stop);
        var cookie = await SignedInAsync("nell", "orchard-quiet-91");
        await UntilAsync(async () => await MayAsync(cookie, "/maps/"), "the role");
        foreach (var (from, to) in new[] { ("walker", "rambler"), ("rambler", "hiker") })
        {
            await First.Client.RenameFactDefinitionAsync("roles", from, to, Stop);
            var policies = machines.SecondServices.GetRequiredService<PolicyHolder>();
            await UntilAsync(() => Task.FromResult(policies.Current.FindDefinition(Core.Facts.FactKind.Role, to) is not null), "the new key");
            var member = await machines.SecondServices.GetRequiredService<Store>().MemberByNameAsync("nell", Stop);
            member!.Grants.ShouldContain(g => g.Id == grant.Grant.Id && g.Key == to);
            await UntilAsync(async () => await MayAsync(cookie, "/maps/"), "what is held under it");
        }

        await First.Client.SetFactDefinitionAsync("groups", "outdoors", new FactDefinitionDraft(null, "Outdoors", Rule: "role:keeper"), "*", Stop);
        await UntilAsync(async () => !await MayAsync(cookie, "/maps/"), "another rule");
        await First.Client.RemoveGateAsync("maps", "*", Stop);
    }

    /// <summary>Whether the second machine's check lets the browser of that cookie to an address.</summary>
    private async Task<bool> MayAsync(string cookie, string path)
    {
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, machines.Second + "/sentinel/check");
        request.Headers.Add("Cookie", cookie);
        request.Headers.Add("X-Original-URI", path);
        using var answer = await http.SendAsync(request, Stop);
        return answer.StatusCode == HttpStatusCode.NoContent;
    }

    [Fact]
    public async Task A_password_typed_at_one_opens_at_the_other_and_its_withdrawal_closes_there()
    {
        var made = await First.Client.AddPasswordAsync(new SharedPasswordDraft("clearance-vault", "Lent", "lent-for-a-week-1"), Stop);
        using var holder = First.NewBrowser();
        // A browser that the other machine knows already as one that has unlocked nothing.
        var cookie = await SignedInAsync("nell", "orchard-quiet-91", holder);
        (await StatusAsync(Vault, cookie)).ShouldBe(HttpStatusCode.Unauthorized);
        await holder.UnlockAsync("lent-for-a-week-1");
        await UntilAsync(async () => await StatusAsync(Vault, cookie) == HttpStatusCode.OK, "an unlock");
        await First.Client.WithdrawAsync(made.Id, Stop);
        await UntilAsync(async () => await StatusAsync(Vault, cookie) == HttpStatusCode.Unauthorized, "a withdrawal");
    }

    [Fact]
    public async Task A_form_of_one_is_taken_by_the_other()
    {
        using var browser = First.NewBrowser();
        using var here = await browser.GetAsync("/account/sign-in");
        var page = await here.Content.ReadAsStringAsync(Stop);
        var cookies = string.Join("; ", here.Headers.GetValues("Set-Cookie").Select(c => c.Split(';')[0]));
        var token = page.Split("__RequestVerificationToken\" value=\"")[1].Split('"')[0];
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
        using var post = new HttpRequestMessage(HttpMethod.Post, machines.Second + "/account/sign-in")
        {
            Content = new FormUrlEncodedContent(new Dictionary<string, string>
            { ["__RequestVerificationToken"] = token, ["name"] = "nell", ["password"] = "orchard-quiet-91", ["return_to"] = Dealer }),
        };
        post.Headers.TryAddWithoutValidation("Cookie", cookies);
        using var answer = await http.SendAsync(post, Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.SeeOther, await answer.Content.ReadAsStringAsync(Stop));
    }

    [Fact]
    public async Task Two_who_change_the_same_at_once_both_get_in_or_are_told()
    {
        var second = machines.SecondServices.GetRequiredService<Service.People.Granting>();
        var owner = new Service.Web.Caller("owner", [], true, null);
        var given = await Task.WhenAll(Enumerable.Range(0, 24).Select(n => n % 2 == 0
            ? First.Client.GiveAsync(Nell, "plan:patron", null, null, "order:at-once-" + n, Stop)
            : GiveAsync(n)));
        given.Length.ShouldBe(24);
        var (member, _) = await First.Client.MemberAsync(Nell, Stop);
        member.Grants.Count(g => g.Source.StartsWith("order:at-once", StringComparison.Ordinal)).ShouldBe(24);

        async Task<GrantedView> GiveAsync(int n)
        {
            var outcome = await second.ChangeAsync(Nell, owner, (found, policy, now) =>
                Core.People.GrantCommands.Give(policy, found, new("plan:patron", Source: "order:at-once-" + n), now), Stop);
            outcome.Problem.ShouldBeNull();
            return null!;
        }
    }

    [Fact]
    public async Task Guesses_at_both_are_counted_as_at_one()
    {
        var here = First.Services.GetRequiredService<Service.People.SignIn>();
        var there = machines.SecondServices.GetRequiredService<Service.People.SignIn>();
        var from = new Service.People.TryFrom("203.0.113.7", Service.People.KnownBrowser.None);
        for (var n = 0; n < 5; n++)
        {
            (await (n % 2 == 0 ? here : there).TryAsync("pia@lanternlane.example", "wrong-" + n, from, Stop)).Member.ShouldBeNull();
        }

        // Five are free; the sixth waits, wherever it is tried, right or wrong.
        foreach (var machine in new[] { here, there })
        {
            var tried = await machine.TryAsync("pia@lanternlane.example", "lantern-lane-12", from, Stop);
            (tried.Member is null, tried.Wait > TimeSpan.Zero).ShouldBe((true, true));
        }
    }

    [Fact]
    public async Task A_password_that_is_due_is_replaced_by_one_of_them()
    {
        await First.Client.AddGateAsync(new GateDraft
        {
            Key = "turning", Title = "Turning", Covers = ["path:/turning/**"], Audience = "password",
            Rotation = new RotationDraft("P1D", "PT1H", ["club@fernlight.example"]),
        }, Stop);
        await First.Client.AddPasswordAsync(new SharedPasswordDraft("turning", "Club", "turn-me-around-1"), Stop);
        var store = First.Services.GetRequiredService<Store>();
        await AgeAsync(store);
        await UntilAsync(() => Task.FromResult(machines.SecondServices.GetRequiredService<PolicyHolder>().Current.FindGate("turning") is not null), "the gate");
        var turned = await Task.WhenAll(new[] { First.Services, machines.SecondServices }.SelectMany(s => Enumerable.Range(0, 3)
            .Select(_ => s.GetRequiredService<SharedPasswords>().RotateDueAsync(Stop))));
        turned.Sum().ShouldBe(1);
        (await store.MessagesAsync(50, stop: Stop)).Count(m => m.To == "club@fernlight.example").ShouldBe(1);
    }

    [Fact]
    public async Task A_machine_that_cannot_read_the_feed_says_so_serves_what_it_knows_and_comes_back_by_itself()
    {
        var cookie = await SignedInAsync("nell", "orchard-quiet-91");
        (await StatusAsync(Dealer, cookie)).ShouldBe(HttpStatusCode.OK);
        var readiness = machines.SecondServices.GetRequiredService<Readiness>();
        (await readiness.FaultAsync()).ShouldBeNull();
        machines.Line.Cut();
        await UntilAsync(async () => await readiness.FaultAsync() is not null, "not being ready", 300);
        (await StatusAsync(Dealer, cookie)).ShouldBe(HttpStatusCode.OK, "what it knows it decides by still");
        (await StatusAsync("/account/sign-in", null)).ShouldBe(HttpStatusCode.OK);
        // Changed while it was away.
        await First.Client.SetStatusAsync(Nell, "suspended", null, Stop);
        machines.Line.Mend();
        await UntilAsync(async () => await StatusAsync(Dealer, cookie) == HttpStatusCode.Unauthorized, "what was changed meanwhile", 300);
        await UntilAsync(async () => await readiness.FaultAsync() is null, "being ready again", 300);
        await First.Client.SetStatusAsync(Nell, "active", null, Stop);
    }

    [Fact]
    public async Task A_machine_that_stops_and_returns_knows_what_changed_meanwhile()
    {
        await machines.StopSecondAsync();
        await First.Client.AddGateAsync(new GateDraft { Key = "mounts", Title = "Mounts", Covers = ["category:mounts"], Audience = "role:dealer" }, Stop);
        await machines.StartSecondAsync();
        (await StatusAsync("/shop/mounts", null)).ShouldBe(HttpStatusCode.Unauthorized);
        await First.Client.RemoveGateAsync("mounts", "*", Stop);
        await UntilAsync(async () => await StatusAsync("/shop/mounts", null) == HttpStatusCode.OK, "the end of a gate");
    }

    private async Task AgeAsync(Store store)
    {
        foreach (var password in await store.SharedPasswordsAsync("turning", Stop))
        {
            await store.ApplyAsync(new Core.Edit("test", "turning", [new SharedPasswordPut(password with { CreatedAt = DateTimeOffset.UtcNow.AddDays(-2) })]),
                "test", stop: Stop);
        }

        await First.Services.GetRequiredService<PolicyHolder>().LoadAsync(Stop);
    }

    private async Task<string> SignedInAsync(string name, string password, Browser? with = null)
    {
        using var own = First.NewBrowser();
        using var answer = await (with ?? own).SignInAsync(name, password);
        return answer.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
    }

    private static async Task UntilAsync(Func<Task<bool>> holds, string what, int most = 100)
    {
        for (var n = 0; n < most; n++)
        {
            if (await holds())
            {
                return;
            }

            await Task.Delay(50, Stop);
        }

        Assert.Fail($"On the other machine, {what} does not hold.");
    }

    private async Task<HttpStatusCode> StatusAsync(string path, string? cookie)
    {
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, machines.Second + path);
        if (cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", cookie);
        }

        using var response = await http.SendAsync(request, Stop);
        return response.StatusCode;
    }
}
