using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Contract.Passwords;
using WarySentinel.Service;
using WarySentinel.Service.People;
using WarySentinel.StandIns.Shop;

namespace WarySentinel.Testing;

/// <summary>A whole service over real HTTP in front of the stand-in shop, with the demo catalogue and a few members.</summary>
public sealed class RunningSite : IAsyncDisposable
{
    public const string Owner = "owner@fernlight.example";
    public const string Password = "keep-the-lamp-lit";
    public const string VaultPassword = "old-dome-downhill";
    private readonly string folder = Directory.CreateTempSubdirectory("wary-test-").FullName;
    private WebApplication app = null!;
    private WebApplication? shop;
    private Action<IServiceCollection>? adjust;

    public string Site { get; private set; } = "";

    public string Admin { get; private set; } = "";

    public string Origin { get; private set; } = "";

    public string Token { get; private set; } = "";

    public SentinelClient Client { get; private set; } = null!;

    public IServiceProvider Services => app.Services;

    public string Data => Path.Combine(folder, "data");

    /// <summary>The root of the repository.</summary>
    public static string Root { get; } = FindRoot();

    /// <summary>Starts everything.</summary>
    /// <param name="origin">Another origin than the stand-in shop.</param>
    /// <param name="settings">More settings, as <c>--Wary:Name=value</c>.</param>
    /// <param name="time">Another clock.</param>
    /// <param name="site">The port of the site; any free one unless said.</param>
    /// <param name="services">Puts other services in place.</param>
    /// <param name="empty">Whether nothing is put into the store, not even an owner.</param>
    public static async Task<RunningSite> StartAsync(
        string? origin = null, string[]? settings = null, TimeProvider? time = null, int? site = null, Action<IServiceCollection>? services = null,
        bool empty = false)
    {
        var made = new RunningSite { adjust = services };
        if (origin is null)
        {
            made.Origin = $"http://127.0.0.1:{FreePort()}";
            await made.StartShopAsync();
        }
        else
        {
            made.Origin = origin;
        }

        made.Site = $"http://127.0.0.1:{site ?? FreePort()}";
        made.Admin = $"http://127.0.0.1:{FreePort()}";
        var begun = SiteMould.Fits(settings ?? [], time) ? await (empty ? SiteMould.Empty : SiteMould.Seeded).FillAsync(made.Data) : null;
        await made.StartServiceAsync(settings ?? [], time);
        if (begun is { Length: > 0 })
        {
            made.Hold(begun);
        }

        await (empty || begun is not null ? Task.CompletedTask : made.SeedAsync());
        return made;
    }

    /// <summary>A site on default settings, for a mould: its data, and the token that is kept in it.</summary>
    /// <param name="empty">Whether nothing is put into the store, not even an owner.</param>
    /// <param name="data">Where the data goes.</param>
    internal static async Task<string> MakeAsync(bool empty, string data)
    {
        var made = new RunningSite { Origin = "http://127.0.0.1:9", Site = $"http://127.0.0.1:{FreePort()}", Admin = $"http://127.0.0.1:{FreePort()}" };
        await using (made)
        {
            await made.StartServiceAsync([], null);
            await (empty ? Task.CompletedTask : made.SeedAsync());
            await made.app.StopAsync();
            SqliteConnection.ClearAllPools();
            SiteMould.Copy(made.Data, data);
            return made.Token;
        }
    }

    /// <summary>The code with which the first owner is made.</summary>
    public string SetUpCode => app.Services.GetRequiredService<SetUpCode>().Value;

    public async Task StartShopAsync()
    {
        shop = ShopSite.Build(Path.Combine(Root, "demo", "shop"), Origin);
        await shop.StartAsync();
    }

    public async Task StopShopAsync()
    {
        await shop!.DisposeAsync();
        shop = null;
    }

    /// <summary>Stops the service and starts it again on the same data.</summary>
    public async Task RestartAsync(string[]? settings = null)
    {
        await app.StopAsync();
        await app.DisposeAsync();
        await StartServiceAsync(settings ?? [], null);
    }

    /// <summary>A second machine on the same store, with a port of its own for visitors.</summary>
    public async Task<(WebApplication Node, string Site)> StartSecondAsync(string[] settings)
    {
        var second = $"http://127.0.0.1:{FreePort()}";
        string[] args =
        [
            $"--Wary:SiteListen={second}", $"--Wary:AdminListen=http://127.0.0.1:{FreePort()}", $"--Wary:SiteUrl={Site}", $"--Wary:Origin={Origin}",
                $"--Wary:Data={folder}/second",
            $"--Wary:Secret={(await File.ReadAllTextAsync(Path.Combine(Data, "secret.key"))).Trim()}", "--Wary:LogLevel=Error", .. settings,
        ];
        var node = Sentinel.Build(args);
        await Sentinel.StartAsync(node);
        return (node, second);
    }

    /// <summary>A browser of its own: keeps cookies, follows nothing.</summary>
    public Browser NewBrowser() => new(Site);

    public async ValueTask DisposeAsync()
    {
        Client?.Dispose();
        await app.DisposeAsync();
        if (shop is not null)
        {
            await shop.DisposeAsync();
        }

        Directory.Delete(folder, true);
    }

    /// <summary>A port that nothing listens on, below those that the system hands out to outgoing connections.</summary>
    public static int FreePort() => Ports.Free();

    private async Task StartServiceAsync(string[] settings, TimeProvider? time)
    {
        string[] args =
        [
            $"--Wary:SiteListen={Site}", $"--Wary:AdminListen={Admin}", $"--Wary:SiteUrl={Site}", $"--Wary:AdminUrl={Admin}", $"--Wary:Origin={Origin}",
                $"--Wary:Data={Data}",
            $"--Wary:Console={Path.Combine(Root, "console", "dist")}", "--Wary:LogLevel=Error", "--Wary:SweepBrowser=none", "--Wary:OriginTimeoutSeconds=20",
            // A clock that jumps by days would tick a million times.
            .. time is null ? Array.Empty<string>() : ["--Wary:FollowMilliseconds=0", "--Wary:RoundMilliseconds=0"], .. settings,
        ];
        app = Sentinel.Build(args, builder =>
        {
            if (time is not null)
            {
                builder.Services.AddSingleton(time);
            }

            adjust?.Invoke(builder.Services);
        });
        await Sentinel.StartAsync(app);
    }

    /// <summary>Gives an empty site its owner and, as YAML, its policy.</summary>
    /// <exception cref="InvalidOperationException">The policy is wrong.</exception>
    public async Task<SentinelClient> OwnAsync(string policy, CancellationToken stop)
    {
        await OwnAsync(stop);
        await foreach (var line in Client.ApplyAsync(new MemoryStream(Encoding.UTF8.GetBytes(policy)), false, false, null, stop))
        {
            if (line.Difference?.Faults is { Count: > 0 } faults)
            {
                throw new InvalidOperationException(string.Join('\n', faults));
            }
        }

        return Client;
    }

    private async Task OwnAsync(CancellationToken stop)
    {
        using var nobody = new SentinelClient(new Uri(Admin), null);
        await nobody.FirstOwnerAsync(SetUpCode, Owner, "Juniper Fern", Password, stop);
        Hold((await nobody.AddTokenAsync("tests", ["read", "write", "decide", "view", "tokens"], null, Owner, Password, stop)).Token?.Reveal()!);
    }

    private void Hold(string token) => (Token, Client) = (token, new SentinelClient(new Uri(Admin), token));

    private async Task SeedAsync()
    {
        var stop = CancellationToken.None;
        await OwnAsync(stop);
        await using (var catalogue = File.OpenRead(Path.Combine(Root, "demo", "catalogue.csv")))
        {
            await foreach (var _ in Client.ImportAsync(catalogue, false, false, false, stop))
            {
            }
        }

        foreach (var (kind, key, title) in new[] { ("roles", "dealer", "Dealers"), ("roles", "guide", "Guides"), ("roles", "keeper", "Keepers"),
            ("groups", "institutions", "Institutions"), ("plans", "patron", "Patron") })
        {
            await Client.AddFactDefinitionAsync(kind, key, title, stop);
        }

        await Client.AddMemberAsync("nell@orchard-optics.example", "Nell Orchard", "nell", "orchard-quiet-91", ["dealer"], [], [], stop);
        await Client.AddMemberAsync("pia@lanternlane.example", "Pia Lantern", null, "lantern-lane-12", [], [], [], stop);
        await Client.AddGateAsync(new GateDraft
        {
            Key = "dealer-stock", Title = "Dealer stock", Covers = ["category:dealer-stock"], Audience = "role:dealer or role:keeper",
            Presence = "hidden"
        }, stop);
        await Client.AddGateAsync(new GateDraft
        { Key = "clearance-vault", Title = "Clearance vault", Covers = ["category:clearance-vault"], Audience = "password or role:keeper" }, stop);
        await Client.AddGateAsync(new GateDraft
        {
            Key = "observatory-grade", Title = "Observatory-grade", Covers = ["category:observatory-grade"], Audience = "group:institutions",
            Answer = "message", Message = "Write to us."
        }, stop);
        await Client.AddGateAsync(new GateDraft
        { Key = "members-pages", Title = "Members’ pages", Covers = ["section:members"], Audience = "signed-in" }, stop);
        await Client.AddPasswordAsync(new SharedPasswordDraft("clearance-vault", "Dome movers", VaultPassword), stop);
    }

    private static string FindRoot()
    {
        var at = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(at, "WarySentinel.slnx")))
        {
            at = Path.GetDirectoryName(at) ?? throw new InvalidOperationException("The tests do not run inside the repository.");
        }

        return at;
    }
}

/// <summary>A visitor's browser, as far as HTTP goes.</summary>
public sealed partial class Browser(string site) : IDisposable
{
    private readonly HttpClient http = new(new SocketsHttpHandler { AllowAutoRedirect = false, UseProxy = false, CookieContainer = new CookieContainer() })
    {
        BaseAddress = new Uri(site), DefaultRequestHeaders = { { "Accept", "text/html" } },
    };

    public void Dispose() => http.Dispose();

    public Task<HttpResponseMessage> GetAsync(string path) => http.GetAsync(Raw(path));

    public Task<HttpResponseMessage> SendAsync(HttpRequestMessage request) => http.SendAsync(request);

    public async Task<HttpStatusCode> StatusAsync(string path)
    {
        using var response = await GetAsync(path);
        return response.StatusCode;
    }

    public async Task<string> PageAsync(string path)
    {
        using var response = await GetAsync(path);
        return await response.Content.ReadAsStringAsync();
    }

    /// <summary>Fills the form of a page and sends it.</summary>
    public async Task<HttpResponseMessage> FillAsync(string page, string action, params (string Name, string Value)[] fields)
    {
        var token = TokenField().Match(await PageAsync(page)).Groups[1].Value;
        return await PostAsync(action, [("__RequestVerificationToken", token), .. fields]);
    }

    public Task<HttpResponseMessage> PostAsync(string action, params (string Name, string Value)[] fields) =>
        http.PostAsync(action, new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Name, f.Value))));

    public Task<HttpResponseMessage> SignInAsync(string name, string password, string returnTo = "/") =>
        FillAsync("/account/sign-in", "/account/sign-in", ("name", name), ("password", password), ("return_to", returnTo));

    public Task<HttpResponseMessage> UnlockAsync(string password) => FillAsync(
        "/account/unlock?gate=clearance-vault", "/account/unlock", ("gate", "clearance-vault"), ("password", password), ("return_to", "/shop/clearance-vault"));

    private Uri Raw(string path) =>
        new(http.BaseAddress!.GetLeftPart(UriPartial.Authority) + path, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });

    [GeneratedRegex("""name="__RequestVerificationToken" value="([^"]+)""")]
    private static partial Regex TokenField();
}
