using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Every call of the API has a stated right, and is refused to whoever has it not. What calls there are, the document says.</summary>
public sealed class RightsTests : IAsyncLifetime
{
    private const string Password = "long-enough-mill-1";

    /// <summary>Calls that need nobody's right: they prove who calls, or tell a stranger what a stranger may know.</summary>
    private static readonly string[] Open = ["GET set-up", "POST first-owner", "POST sign-in", "POST sign-out", "POST tokens", "GET site.schema.json"];

    private RunningSite site = null!;
    private HttpClient http = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        http = new HttpClient { BaseAddress = new Uri(site.Admin + "/api/v1/") };
    }

    public async ValueTask DisposeAsync()
    {
        http.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task Every_call_states_its_right_and_nobody_without_it_is_let_through()
    {
        var calls = await CallsAsync();
        calls.Count.ShouldBeGreaterThan(60);
        calls.Where(c => c.Scope is null).Select(c => c.Name).Order().ShouldBe(Open.Order(), "a new call says what it needs");
        calls.Select(c => c.Scope).OfType<string>().Distinct().Except(ApiToken.AllScopes).ShouldBeEmpty();
        foreach (var right in new[] { StaffRight.Support, StaffRight.Editor, StaffRight.Owner })
        {
            var token = await TokenOfAsync(StaffRights.NameOf(right)!, StaffRights.ScopesOf(right));
            foreach (var call in calls.Where(c => c.Scope is not null))
            {
                var (status, code) = await AskAsync(call, token);
                var may = StaffRights.ScopesOf(right).Contains(call.Scope!);
                (code == "forbidden").ShouldBe(!may, $"{right}: {call.Name} needs {call.Scope}, answered {status} {code}");
                status.ShouldNotBe(HttpStatusCode.Unauthorized, call.Name);
                status.ShouldNotBe(HttpStatusCode.InternalServerError, call.Name);
            }
        }

        foreach (var call in calls.Where(c => c.Scope is not null))
        {
            (await AskAsync(call, null)).Status.ShouldBe(HttpStatusCode.Unauthorized, call.Name);
        }
    }

    [Fact]
    public async Task A_token_of_one_scope_opens_what_needs_that_and_no_more()
    {
        var calls = (await CallsAsync()).Where(c => c.Scope is not null).ToList();
        foreach (var scope in ApiToken.AllScopes)
        {
            var token = await TokenAsync(RunningSite.Owner, RunningSite.Password, [scope]);
            foreach (var call in calls)
            {
                var may = call.Scope == scope || (scope == "write" && call.Scope == "people");
                ((await AskAsync(call, token)).Code == "forbidden").ShouldBe(!may, $"{scope}: {call.Name}");
            }
        }
    }

    [Fact]
    public async Task A_token_never_may_more_than_its_maker_may_now()
    {
        await AddAsync("falls@x.example", "owner");
        var token = await TokenAsync("falls@x.example", Password, ApiToken.AllScopes);
        using var caller = new Caller(site, token);
        (await caller.AskAsync("GET", "tokens")).Status.ShouldBe(HttpStatusCode.OK);
        await SetRolesAsync("falls@x.example", "editor");
        await caller.RefusedAsync(HttpStatusCode.Forbidden, "forbidden", "GET", "tokens");
        await caller.RefusedAsync(HttpStatusCode.Forbidden, "owner-only", "DELETE", "members/pia@lanternlane.example");
        (await caller.AskAsync("POST", "groups", new { title = "By an editor" })).Status.ShouldBe(HttpStatusCode.Created);
        await SetRolesAsync("falls@x.example", "support");
        await caller.RefusedAsync(HttpStatusCode.Forbidden, "forbidden", "POST", "groups", new { title = "By support" });
        (await caller.AskAsync("POST", "members/pia@lanternlane.example/notes", new { text = "Called." })).Status.ShouldBe(HttpStatusCode.Created);
        (await caller.AskAsync("GET", "me")).Body.GetProperty("right").GetString().ShouldBe("support");
        await SetRolesAsync("falls@x.example");
        (await caller.AskAsync("GET", "gates")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Support_helps_members_and_touches_no_staff()
    {
        await AddAsync("helps@x.example", "support");
        await AddAsync("edits@x.example", "editor");
        using var support = new Caller(site, await TokenAsync("helps@x.example", Password, ["read", "people"]));
        await new Func<Task>(() => TokenAsync("helps@x.example", Password, ["write"])).ShouldThrowAsync<Client.SentinelException>();
        (await support.AskAsync("POST", "members/pia@lanternlane.example/grants", new { fact = "plan:patron" })).Status.ShouldBe(HttpStatusCode.Created);
        (await support.AskAsync("PUT", "members/pia@lanternlane.example/status", new { status = "suspended", words = "Call us." })).Status
            .ShouldBe(HttpStatusCode.OK);
        foreach (var fact in new[] { "role:support", "role:editor", "role:owner" })
        {
            await support.RefusedAsync(HttpStatusCode.Forbidden, "staff-role", "POST", "members/pia@lanternlane.example/grants", new { fact });
        }

        await support.RefusedAsync(
            HttpStatusCode.Forbidden, "staff-role", "POST", "members", new { email = "a@x.example", name = "A", roles = new[] { "support" } });
        foreach (var staff in new[] { "edits@x.example", RunningSite.Owner })
        {
            await support.RefusedAsync(HttpStatusCode.Forbidden, "owner-only", "PUT", $"members/{staff}/status", new { status = "suspended" });
            await support.RefusedAsync(HttpStatusCode.Forbidden, "owner-only", "DELETE", $"members/{staff}/sessions");
        }

        await support.RefusedAsync(HttpStatusCode.Forbidden, "forbidden", "DELETE", "members/pia@lanternlane.example");
        // Suspended staff stay an owner's matter.
        using var owner = new Caller(site);
        await owner.AskAsync("PUT", "members/edits@x.example/status", new { status = "suspended" });
        await support.RefusedAsync(HttpStatusCode.Forbidden, "owner-only", "PUT", "members/edits@x.example/status", new { status = "active" });
    }

    private sealed record Call(string Method, string Path, string? Scope, string? Takes)
    {
        public string Name => $"{Method} {Path}";
    }

    private async Task<List<Call>> CallsAsync()
    {
        var document = await http.GetFromJsonAsync<JsonElement>("openapi.json");
        document.GetProperty("openapi").GetString()!.ShouldStartWith("3.1");
        return
        [
            .. from path in document.GetProperty("paths").EnumerateObject()
            from method in path.Value.EnumerateObject()
            let scope = method.Value.TryGetProperty("security", out var security)
                ? security.EnumerateArray().Single().EnumerateObject().Single().Value.EnumerateArray().Single().GetString() : null
            let takes = method.Value.TryGetProperty("requestBody", out var body) ? body.GetProperty("content").EnumerateObject().First().Name : null
            select new Call(method.Name.ToUpperInvariant(), path.Name["/api/v1/".Length..], scope, takes),
        ];
    }

    /// <summary>Asks with names that nobody has, and with a body that says nothing, so that what is let through changes nothing.</summary>
    private async Task<(HttpStatusCode Status, string? Code)> AskAsync(Call call, string? token)
    {
        var path = System.Text.RegularExpressions.Regex.Replace(
            call.Path, @"\{(\w+)\}", m => m.Groups[1].Value is "key" or "member" ? "nobody-has-this" : Guid.NewGuid().ToString());
        using var request = new HttpRequestMessage(new HttpMethod(call.Method), path);
        request.Headers.Authorization = token is null ? null : new AuthenticationHeaderValue("Bearer", token);
        if (call.Method is "POST" or "PUT")
        {
            request.Content = new StringContent(call.Takes is "text/csv" ? "nonsense" : "[ nonsense", Encoding.UTF8, call.Takes ?? "application/json");
        }

        using var response = await http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return (response.StatusCode, response.Content.Headers.ContentType?.MediaType == "application/problem+json"
            ? JsonSerializer.Deserialize<JsonElement>(text).GetProperty("code").GetString() : null);
    }

    private async Task<string> TokenOfAsync(string role, IReadOnlyList<string> scopes)
    {
        await AddAsync($"as-{role}@x.example", role);
        return await TokenAsync($"as-{role}@x.example", Password, scopes);
    }

    private async Task<string> TokenAsync(string email, string password, IReadOnlyList<string> scopes)
    {
        using var nobody = new Client.SentinelClient(new Uri(site.Admin), null);
        return (await nobody.AddTokenAsync("rights", [.. scopes], null, email, password, CancellationToken.None)).Token!.Reveal();
    }

    private Task AddAsync(string email, string role) =>
        site.Client.AddMemberAsync(email, email, null, Password, [role], [], [], CancellationToken.None);

    private async Task SetRolesAsync(string email, params string[] roles)
    {
        using var owner = new Caller(site);
        (await owner.AskAsync("PUT", $"members/{email}/roles", new { roles }, "*")).Status.ShouldBe(HttpStatusCode.OK);
    }
}
