using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

public sealed class MemberApiTests(SiteFixture fixture) : IDisposable
{
    private readonly RunningSite site = fixture.Site;
    private readonly Caller api = new(fixture.Site);

    public void Dispose() => api.Dispose();

    [Fact]
    public async Task Without_a_password_a_member_is_invited_and_cannot_become_active()
    {
        var (status, member, _) = await api.AskAsync("POST", "members", new { email = "Invited@X.example", name = "In Vited", roles = new[] { "guide" } });
        status.ShouldBe(HttpStatusCode.Created);
        member.GetProperty("email").GetString().ShouldBe("invited@x.example");
        member.GetProperty("status").GetString().ShouldBe("invited");
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "no-password-yet", "PUT", "members/invited@x.example/status", new { status = "active" });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "status-unknown", "PUT", "members/invited@x.example/status", new { status = "asleep" });
    }

    [Fact]
    public async Task Every_fault_of_a_draft_is_told()
    {
        var problem = await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "email-form", "POST", "members",
            new { email = "nobody", name = "", userName = "Not A Key", password = "short", roles = new[] { "dealr" }, groups = new[] { "none" } });
        problem.GetProperty("errors").EnumerateArray().Select(e => e.GetProperty("field").GetString())
            .ShouldBe(["email", "name", "userName", "password", "roles", "groups"]);
        problem.GetProperty("errors")[4].GetProperty("message").GetString()!.ShouldContain("dealer");
    }

    [Fact]
    public async Task An_address_or_user_name_is_taken_once()
    {
        await api.RefusedAsync(HttpStatusCode.Conflict, "member-exists", "POST", "members", new { email = "NELL@orchard-optics.example", name = "Other" });
        await api.RefusedAsync(HttpStatusCode.Conflict, "member-exists", "POST", "members", new
        { email = "other@x.example", name = "Other", userName = "nell" });
    }

    [Fact]
    public async Task The_last_owner_stays()
    {
        await api.RefusedAsync(HttpStatusCode.Conflict, "last-owner", "PUT", $"members/{RunningSite.Owner}/roles", new { roles = new[] { "dealer" } }, "*");
        await api.RefusedAsync(HttpStatusCode.Conflict, "last-owner", "PUT", $"members/{RunningSite.Owner}/status", new { status = "suspended" });
    }

    [Fact]
    public async Task An_editor_manages_the_shop_but_not_its_owners()
    {
        await api.AskAsync("POST", "members", new { email = "editor@x.example", name = "Edi Tor", password = "long-enough-1", roles = new[] { "editor" } });
        using var nobody = new Client.SentinelClient(new Uri(site.Admin), null);
        var token = (await nobody.AddTokenAsync("editing", ["read", "write"], null, "editor@x.example", "long-enough-1", CancellationToken.None)).Token?.Reveal();
        using var editor = new Caller(site, token);
        (await editor.AskAsync("POST", "groups", new { title = "By editor" })).Status.ShouldBe(HttpStatusCode.Created);
        await editor.RefusedAsync(HttpStatusCode.Forbidden, "staff-role", "POST", "members", new
        { email = "new@x.example", name = "New", roles = new[] { "owner" } });
        await editor.RefusedAsync(HttpStatusCode.Forbidden, "staff-role", "PUT", "members/editor@x.example/roles", new { roles = new[] { "owner" } }, "*");
        await editor.RefusedAsync(HttpStatusCode.Forbidden, "owner-only", "PUT", $"members/{RunningSite.Owner}/status", new { status = "closed" });
        await editor.RefusedAsync(HttpStatusCode.Forbidden, "forbidden", "GET", "tokens");
        await api.AskAsync("PUT", "members/editor@x.example/status", new { status = "suspended" });
        (await editor.AskAsync("GET", "gates")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_suspended_member_is_out_at_once()
    {
        await api.AskAsync("POST", "members", new { email = "brief@x.example", name = "Brief", password = "long-enough-1" });
        using var browser = site.NewBrowser();
        await browser.SignInAsync("brief@x.example", "long-enough-1");
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
        await api.AskAsync("PUT", "members/brief@x.example/status", new { status = "suspended" });
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        (await browser.SignInAsync("brief@x.example", "long-enough-1")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("roles", "role")]
    [InlineData("groups", "group")]
    [InlineData("plans", "plan")]
    public async Task Roles_groups_and_plans_are_added_once_and_removed_when_free(string path, string name)
    {
        (await api.AskAsync("POST", path, new { title = "Night owls" })).Status.ShouldBe(HttpStatusCode.Created);
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-exists", "POST", path, new { key = "night-owls", title = "Again" });
        await api.AskAsync("POST", "gates", new
        { key = "owls-" + name, title = "Owls", covers = new[] { "category:gift-cards" }, audience = name + ":night-owls" });
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-in-gate", "DELETE", path + "/night-owls");
        (await api.AskAsync("DELETE", "gates/owls-" + name, null, "*")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await api.AskAsync("DELETE", path + "/night-owls")).Status.ShouldBe(HttpStatusCode.NoContent);
        await api.RefusedAsync(HttpStatusCode.NotFound, "standing-unknown", "DELETE", path + "/night-owls");
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "title-length", "POST", path, new { title = " " });
    }

    [Fact]
    public async Task Nothing_secret_is_in_what_the_api_answers()
    {
        foreach (var path in new[] { "members", "tokens", "passwords", "sessions", "letters", "gates", "history?limit=200", "settings" })
        {
            var (status, body, _) = await api.AskAsync("GET", path);
            status.ShouldBe(HttpStatusCode.OK, path);
            var text = body.ToString();
            text.ShouldNotContain("argon2", Case.Insensitive, path);
            text.ShouldNotContain(site.Token, customMessage: path);
            text.ShouldNotContain(RunningSite.VaultPassword, customMessage: path);
            text.ShouldNotContain("digest", Case.Insensitive, path);
        }
    }
}
