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
        await api.AskAsync("POST", "members", new
        {
            email = "editor@x.example", name = "Edi Tor", password = "long-enough-mill-1",
            roles = new[] { "editor" }
        });
        using var nobody = new Client.SentinelClient(new Uri(site.Admin), null);
        var token = (await nobody.AddTokenAsync("editing", ["read", "write"], null, "editor@x.example", "long-enough-mill-1", CancellationToken.None))
            .Token?.Reveal();
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
        await api.AskAsync("POST", "members", new { email = "brief@x.example", name = "Brief", password = "long-enough-mill-1" });
        using var browser = site.NewBrowser();
        await browser.SignInAsync("brief@x.example", "long-enough-mill-1");
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
        await api.AskAsync("PUT", "members/brief@x.example/status", new { status = "suspended" });
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        (await browser.SignInAsync("brief@x.example", "long-enough-mill-1")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
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
        { key = "owls-" + name, title = "Owls", covers = new[] { "path:/owls/**" }, audience = name + ":night-owls" });
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

    [Fact]
    public async Task Who_is_suspended_with_words_reads_them_once_they_have_proved_who_they_are()
    {
        await api.AskAsync("POST", "members", new { email = "wordy@x.example", name = "Wordy", password = "long-enough-mill-1" });
        var words = "Your lens came back <b>broken</b>. Please call us.";
        var (_, told, _) = await api.AskAsync("PUT", "members/wordy@x.example/status", new { status = "suspended", words });
        told.GetProperty("cause").GetProperty("words").GetString().ShouldBe(words);
        told.GetProperty("cause").GetProperty("by").GetString()!.ShouldContain(RunningSite.Owner);
        using var browser = site.NewBrowser();
        var right = await browser.SignInAsync("wordy@x.example", "long-enough-mill-1");
        right.StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await right.Content.ReadAsStringAsync()).ShouldContain("Your lens came back &lt;b&gt;broken&lt;/b&gt;. Please call us.");
        // With a wrong password it is as if there were nobody.
        var wrong = await browser.SignInAsync("wordy@x.example", "long-enough-2");
        wrong.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await wrong.Content.ReadAsStringAsync()).ShouldNotContain("lens");
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "status-words", "PUT", "members/wordy@x.example/status",
            new { status = "suspended", words = new string('x', 501) });
        await api.AskAsync("PUT", "members/wordy@x.example/status", new { status = "active" });
        await browser.SignInAsync("wordy@x.example", "long-enough-mill-1");
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Notes_data_and_signing_out_everywhere()
    {
        await api.AskAsync("POST", "members", new { email = "noted@x.example", name = "Noted", password = "long-enough-mill-1" });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "note-text", "POST", "members/noted@x.example/notes", new { text = " " });
        var (status, note, _) = await api.AskAsync("POST", "members/noted@x.example/notes", new { text = "Prefers letters." });
        status.ShouldBe(HttpStatusCode.Created);
        using var one = site.NewBrowser();
        using var two = site.NewBrowser();
        await one.SignInAsync("noted@x.example", "long-enough-mill-1");
        await two.SignInAsync("noted@x.example", "long-enough-mill-1");
        var (_, data, _) = await api.AskAsync("GET", "members/noted@x.example/data");
        data.GetProperty("member").GetProperty("email").GetString().ShouldBe("noted@x.example");
        data.GetProperty("member").TryGetProperty("seenAt", out _).ShouldBeTrue();
        data.GetProperty("sessions").GetArrayLength().ShouldBe(2);
        data.GetProperty("notes")[0].GetProperty("text").GetString().ShouldBe("Prefers letters.");
        data.GetProperty("history").EnumerateArray().Select(h => h.GetProperty("action").GetString()).ShouldBe(["member.device", "member.note", "member.add"]);
        data.ToString().ShouldNotContain("$argon2", Case.Insensitive);
        var (_, ended, _) = await api.AskAsync("DELETE", "members/noted@x.example/sessions");
        ended.GetProperty("ended").GetInt32().ShouldBe(2);
        (await one.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        var noted = note.GetProperty("id").GetString();
        await api.RefusedAsync(HttpStatusCode.NotFound, "note-unknown", "DELETE", $"members/{RunningSite.Owner}/notes/{noted}");
        (await api.AskAsync("DELETE", $"members/noted@x.example/notes/{noted}")).Status.ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task Who_is_named_by_a_gate_is_not_erased_and_an_editor_erases_nobody()
    {
        await api.AskAsync("POST", "members", new { email = "named@x.example", name = "Named", password = "long-enough-mill-1" });
        await api.AskAsync("POST", "gates", new
        {
            key = "for-named", title = "For one", covers = new[] { "path:/only-named/**" },
            audience = "member:named@x.example"
        });
        var problem = await api.RefusedAsync(HttpStatusCode.Conflict, "member-named", "DELETE", "members/named@x.example");
        problem.GetProperty("detail").GetString()!.ShouldContain("gate for-named");
        await api.AskAsync("DELETE", "gates/for-named", null, "*");
        using var browser = site.NewBrowser();
        await browser.SignInAsync("named@x.example", "long-enough-mill-1");
        (await api.AskAsync("DELETE", "members/named@x.example")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await browser.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        await api.RefusedAsync(HttpStatusCode.NotFound, "member-unknown-name", "GET", "members/named@x.example");
        (await api.AskAsync("POST", "members", new { email = "named@x.example", name = "Somebody else" })).Status.ShouldBe(HttpStatusCode.Created);
    }

    [Fact]
    public async Task The_list_is_narrowed_by_status_and_by_what_is_held()
    {
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "GET", "members?status=asleep");
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "fact-form", "GET", "members?holds=dealer");
        await api.AskAsync("POST", "members", new { email = "guiding@x.example", name = "Guiding One", roles = new[] { "guide" } });
        var (_, found, _) = await api.AskAsync("GET", "members?status=invited&holds=role:guide&search=guiding");
        found.GetProperty("items").EnumerateArray().Select(m => m.GetProperty("email").GetString()).ShouldBe(["guiding@x.example"]);
        var (_, none, _) = await api.AskAsync("GET", "members?status=active&holds=role:guide&search=guiding");
        none.GetProperty("items").GetArrayLength().ShouldBe(0);
    }
}
