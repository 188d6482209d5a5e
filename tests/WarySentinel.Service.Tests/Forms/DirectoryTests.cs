using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>The directory: who agreed stands in it with what they chose and nothing else, for the audience that the owner set.</summary>
public sealed class DirectoryTests : JoiningSite
{
    private const string Seeker = "seeker@vane.example";

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("open", false);
        await ApplyAsync("""
            groups:
              - {key: circle, title: Circle}
            fields:
              - {key: town, label: Town, profile: editable}
              - {key: land, kind: country, label: Country, profile: editable}
              - {key: secret, label: Secret, profile: editable}
              - {key: sky, kind: one-of, label: Looks at, profile: editable, options: [{key: m, label: The moon}, {key: p, label: Planets}]}
            """);
        (await Owner.AskAsync("PUT", "directory", new { audience = "group:circle", title = "Who looks up", fields = new[] { "town", "sky", "land" } })).Status
            .ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Only_the_audience_looks_only_what_is_shown_is_seen_and_a_member_takes_it_back()
    {
        using var ada = new Browser(Running.Site);
        await JoinAsync(ada, "ada@quill.example", "Ada Quill", false);
        (await ada.GetAsync("/account/directory")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        var saved = await ada.FillAsync(
            "/account/profile", "/account/profile", ("name", "Ada Quill"), ("f.town", "Porto"), ("f.secret", "hush"), ("f.land", "SE"), ("listed", "yes"),
                ("show", "town"), ("show", "land"),
            ("show", "secret"), ("show", "email"));
        saved.StatusCode.ShouldBe(HttpStatusCode.OK);

        using var seeker = new Browser(Running.Site);
        (await seeker.GetAsync("/account/directory?q=porto")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        await JoinAsync(seeker, Seeker, "Sam Seek", true);
        var found = await seeker.GetAsync("/account/directory?q=PORTO");
        found.Headers.GetValues("X-Robots-Tag").ShouldBe(["noindex, nofollow"]);
        found.Headers.CacheControl!.NoStore.ShouldBeTrue();
        var page = await TextAsync(found);
        page.ShouldContain("Ada Quill");
        page.ShouldContain("Porto");
        page.ShouldNotContain("hush");
        page.ShouldNotContain("quill.example");
        (await seeker.PageAsync("/account/directory?q=wede")).ShouldContain("Ada Quill");
        (await seeker.PageAsync("/account/directory?q=ortugal")).ShouldNotContain("Ada Quill");
        (await seeker.PageAsync("/account/directory?q=hush")).ShouldNotContain("Ada Quill");
        (await seeker.PageAsync("/account/directory?q=quill.example")).ShouldNotContain("Ada Quill");
        var id = (await Store.MemberByNameAsync("ada@quill.example", Stop))!.Id;
        (await seeker.PageAsync($"/account/directory/{id:N}")).ShouldContain("Porto");
        var own = (await Store.MemberByNameAsync(Seeker, Stop))!.Id;
        (await seeker.GetAsync($"/account/directory/{own:N}")).StatusCode.ShouldBe(HttpStatusCode.NotFound);

        // Who is suspended is not shown; who takes it back is gone; staff take out and never put in.
        (await Owner.AskAsync("PUT", $"members/{id}/status", new { status = "suspended" })).Status.ShouldBe(HttpStatusCode.OK);
        (await seeker.PageAsync("/account/directory?q=porto")).ShouldNotContain("Ada Quill");
        (await Owner.AskAsync("PUT", $"members/{id}/status", new { status = "active" })).Status.ShouldBe(HttpStatusCode.OK);
        (await seeker.PageAsync("/account/directory?q=porto")).ShouldContain("Ada Quill");
        (await Owner.AskAsync("DELETE", $"members/{id}/listing")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await seeker.GetAsync($"/account/directory/{id:N}")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_filter_finds_members_by_what_they_answered()
    {
        using var ada = new Browser(Running.Site);
        await JoinAsync(ada, "ada@quill.example", "Ada Quill", false);
        var id = (await Store.MemberByNameAsync("ada@quill.example", Stop))!.Id;
        await Owner.AskAsync("PUT", $"members/{id}/answers", new { answers = new { town = new[] { "Vila Nova" }, sky = new[] { "m" } } });
        foreach (var (filter, isFound) in new[]
        {
            ("town", true), ("town:NOVA", true), ("town=vila nova", true), ("town=vila", false), ("sky=m", true), ("sky=p", false), ("secret", false),
                ("town>=2", false),
        })
        {
            var page = await Owner.AskAsync("GET", "members?answer=" + Uri.EscapeDataString(filter));
            page.Status.ShouldBe(HttpStatusCode.OK, page.Body.ToString());
            page.Body.ToString().Contains("ada@quill.example", StringComparison.Ordinal).ShouldBe(isFound, filter);
        }

        (await Owner.AskAsync("GET", "members?answer=" + Uri.EscapeDataString("town>=north"))).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Owner.AskAsync("PUT", "directory", new { audience = "group:circl" })).Body.ToString().ShouldContain("circle");
        (await Owner.AskAsync("PUT", "directory", new
        {
            audience = "group:circle",
            fields = new[] { "gone" }
        })).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    [Fact]
    public async Task What_was_exported_comes_in_again_with_its_answers_and_a_wrong_one_is_told_with_its_line()
    {
        const string File = "email;name;answer.town;answer.sky\nada@quill.example;Ada;Vila Nova;m\nbo@ander.example;Bo;;p\ncyr@unal.example;Cyr;Lugo;x\n";
        var done = await ImportAsync(File);
        done.ShouldContain("\"fresh\":2");
        done.ShouldContain("\"line\":4");
        done.ShouldContain("answer.sky");
        var ada = (await Store.MemberByNameAsync("ada@quill.example", Stop))!.Id;
        (await Store.AnswersAsync(ada, Stop)).SelectMany(a => a.Values).ShouldBe(["m", "Vila Nova"], true);
        using var http = NewClient();
        var exported = await http.GetStringAsync(new Uri("/api/v1/members.csv", UriKind.Relative), Stop);
        exported.ShouldContain("answer.town");
        (await ImportAsync(exported)).ShouldContain("\"changed\":0");
        (await ImportAsync(File.Replace("Vila Nova", "Porto", StringComparison.Ordinal))).ShouldContain("\"changed\":1");
        (await Store.AnswersAsync(ada, Stop)).SelectMany(a => a.Values).ShouldBe(["m", "Porto"], true);
    }

    private async Task<string> ImportAsync(string file)
    {
        using var http = NewClient();
        using var body = new StringContent(file, System.Text.Encoding.UTF8, "text/csv");
        return (await TextAsync(await http.PostAsync("/api/v1/members/import", body, Stop))).TrimEnd().Split('\n')[^1];
    }

    private async Task JoinAsync(Browser browser, string email, string name, bool inCircle)
    {
        (await SendAsync(browser, "", email, ("name", name))).StatusCode.ShouldBe(HttpStatusCode.OK);
        if (inCircle)
        {
            (await Owner.AskAsync("POST", $"members/{email}/grants", new { fact = "group:circle" })).Status.ShouldBe(HttpStatusCode.Created);
        }

        await browser.SignInAsync(email, Password);
    }
}
