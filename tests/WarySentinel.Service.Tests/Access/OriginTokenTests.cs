using System.Text.Json;
using Microsoft.IdentityModel.JsonWebTokens;
using Microsoft.IdentityModel.Tokens;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>What the guarded site is told of whoever asks, and how it can prove it.</summary>
public sealed class OriginTokenTests : IAsyncLifetime
{
    private Origins origin = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        origin = await Origins.EchoAsync();
        site = await RunningSite.StartAsync(origin.Address);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await origin.DisposeAsync();
    }

    private async Task LearnAsync(params string[] facts)
    {
        var (_, tag) = await site.Client.SettingsAsync(Stop);
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { originLearns = facts }), tag!, Stop);
    }

    private static async Task<Dictionary<string, string>> ToldAsync(Browser browser, string? sent = null)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, "/echo");
        if (sent is not null)
        {
            request.Headers.TryAddWithoutValidation("X-Wary-Token", sent);
            request.Headers.TryAddWithoutValidation("X_Wary_Gates", sent);
        }

        using var answer = await browser.SendAsync(request);
        return (await answer.Content.ReadAsStringAsync(Stop)).Split('\n').Select(l => l.Split(": ", 2))
            .Where(l => l[0].StartsWith("X-Wary", StringComparison.OrdinalIgnoreCase) || l[0].StartsWith("X_W", StringComparison.Ordinal))
            .ToDictionary(l => l[0], l => l[1]);
    }

    [Fact]
    public async Task The_site_is_told_what_the_owner_chose_and_nothing_else()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        using var guest = site.NewBrowser();
        (await ToldAsync(nell)).Keys.ShouldBe(["X-Wary-Member", "X-Wary-Roles"], true);
        await LearnAsync();
        (await ToldAsync(nell)).ShouldBeEmpty();
        await LearnAsync("groups", "plans");
        (await ToldAsync(nell)).Keys.ShouldBe(["X-Wary-Groups", "X-Wary-Plans"], true);
        (await ToldAsync(guest, "made up")).ShouldBeEmpty();
        (await Should.ThrowAsync<SentinelException>(() => LearnAsync("password"))).Faults.ShouldContain(f => f.Field == "originLearns");
    }

    [Fact]
    public async Task A_token_proves_that_a_request_came_through_us_and_a_made_up_one_never_arrives()
    {
        await site.Client.AddGateAsync(new GateDraft { Key = "echo", Title = "Echo", Covers = ["path:/echo"], Audience = "role:dealer or guest" }, Stop);
        await LearnAsync("member", "roles", "gates", "token");
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        using var guest = site.NewBrowser();
        var keys = new JsonWebKeySet(await (await guest.GetAsync("/sentinel/jwks.json")).Content.ReadAsStringAsync(Stop));
        var rules = new TokenValidationParameters
        { IssuerSigningKeys = keys.Keys, ValidIssuer = site.Site, ValidAudience = origin.Address, ValidAlgorithms = ["ES256"] };
        var told = await ToldAsync(nell);
        told["X-Wary-Gates"].ShouldBe("echo");
        var read = await new JsonWebTokenHandler().ValidateTokenAsync(told["X-Wary-Token"], rules);
        read.IsValid.ShouldBeTrue(read.Exception?.Message);
        read.Claims["sub"].ShouldBe("nell@orchard-optics.example");
        JsonSerializer.Serialize(read.Claims["roles"]).ShouldContain("dealer");
        JsonSerializer.Serialize(read.Claims["gates"]).ShouldContain("echo");
        (await ToldAsync(nell))["X-Wary-Token"].ShouldBe(told["X-Wary-Token"]);

        var theirs = (await ToldAsync(guest, told["X-Wary-Token"]))["X-Wary-Token"];
        (await new JsonWebTokenHandler().ValidateTokenAsync(theirs, rules)).Claims["sub"].ShouldBe("guest");
        var parts = theirs.Split('.');
        var forged = $"{parts[0]}.{told["X-Wary-Token"].Split('.')[1]}.{parts[2]}";
        (await new JsonWebTokenHandler().ValidateTokenAsync(forged, rules)).IsValid.ShouldBeFalse();
    }
}
