using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Forms of the owner's own, over HTTP: what they ask, what they give, who is held back, and requests decided, asked back and mended.</summary>
public sealed class JoinFormTests : JoiningSite
{
    private const string Orla = "orla@vane.example";

    internal const string Site = """
        fields:
          - {key: company, label: Company}
          - {key: resale, kind: yes-no, label: For resale?}
          - {key: vat, label: VAT number, format: vat, message: Look at the number again.}
          - {key: proof, kind: file, label: Proof, types: [pdf, txt], kilobytes: 4}
          - {key: code, label: Code}
        groups:
          - {key: traders, title: Traders}
          - {key: proved, title: Proved}
        forms:
          - key: trade
            title: Trade
            way: approval
            sections:
              - fields:
                  - {field: company, required: true}
                  - {field: resale, required: true}
                  - {field: vat, required: true, shownIf: {field: resale, is: ["yes"]}}
                  - {field: proof, shownIf: {field: resale, is: ["yes"]}}
                  - {field: code}
            grants:
              - {grant: "group:traders", when: {field: vat, given: true}}
              - {grant: "group:proved", days: 30, when: {field: proof, given: true}}
            approves: {domains: [known.example], when: {field: code, is: [SPRING]}}
          - key: shop
            title: Shop
            way: open
            confirm: false
            position: 200
            sections:
              - fields: [{field: company}]
            grants:
              - {grant: "group:proved"}
              - {grant: "group:traders", when: {field: company, given: true}, afterApproval: true}
        """;

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("approval", true);
        await ApplyAsync(Site);
    }

    [Fact]
    public async Task Forms_and_fields_stand_in_the_order_they_are_put_in()
    {
        var client = Running.Client;
        string Keys(IEnumerable<string?> keys) => string.Join(' ', keys);
        Keys((await client.FormsAsync(Stop)).Select(f => f.Form.Key)).ShouldBe("trade shop");
        Keys((await client.OrderFormsAsync(["shop"], Stop)).Select(f => f.Form.Key)).ShouldBe("shop trade");
        using (var browser = Running.NewBrowser())
        {
            (await browser.PageAsync("/account/register")).ShouldContain("Shop");
        }

        Keys((await client.FieldsAsync(Stop)).Select(f => f.Field.Key)).ShouldBe("code company proof resale vat");
        Keys((await client.OrderFieldsAsync(["vat", "company", "vat"], Stop)).Select(f => f.Field.Key)).ShouldBe("vat company code proof resale");
        Keys((await client.OrderFieldsAsync(["resale", "vat"], Stop)).Select(f => f.Field.Key)).ShouldBe("resale vat company code proof");
        (await Should.ThrowAsync<SentinelException>(client.OrderFieldsAsync(["vat", "nothing"], Stop))).Message.ShouldContain("nothing");
        (await Should.ThrowAsync<SentinelException>(client.OrderFormsAsync(["nothing"], Stop))).Message.ShouldContain("nothing");
        var together = await Task.WhenAll(Enumerable.Range(0, 6).Select(i => client.OrderFieldsAsync(i % 2 == 0 ? ["code"] : ["proof"], Stop)));
        together.ShouldAllBe(fields => fields.Select(f => f.Field.Key).Distinct().Count() == 5);
        (await client.FormAsync("trade", Stop)).Broken.ShouldBeNull();
    }

    [Fact]
    public async Task What_a_form_asks_depends_on_its_answers_and_nothing_typed_is_lost()
    {
        using var browser = Running.NewBrowser();
        var page = await browser.PageAsync("/account/register/trade");
        page.ShouldContain("name=\"f.vat\"", customMessage: "without scripts every field can be filled in");
        Field(page, "vat").ShouldContain("hidden");
        var answer = await TextAsync(await SendAsync(browser, "trade", Orla, ("f.company", "Vane <b>"), ("f.resale", "yes"), ("f.vat", "PT501964842")));
        answer.ShouldContain("Look at the number again.");
        answer.ShouldContain("value=\"Vane &lt;b&gt;\"");
        answer.ShouldContain("value=\"PT501964842\"");
        Field(answer, "vat").ShouldNotContain("hidden");
        answer.ShouldContain($"value=\"{Orla}\"");
        (await TextAsync(await SendAsync(browser, "trade", Orla, ("f.resale", "no")))).ShouldContain("This has to be filled in.");
        (await Store.MemberByNameAsync(Orla, Stop)).ShouldBeNull();
        // What is not shown is not taken, whatever was sent.
        (await SendAsync(browser, "trade", Orla, ("f.company", "Vane"), ("f.resale", "no"), ("f.vat", "PT501964843"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        var (member, request) = await RequestOfAsync(Orla);
        (await Store.AnswersAsync(member.Id, Stop)).Select(a => $"{a.Field}={a.Values[0]}").ShouldBe(["company=Vane", "resale=no"]);
        request.Grants.ShouldBeEmpty();
        (await browser.StatusAsync("/account/register/nothing-of-the-kind")).ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_file_is_what_it_says_and_only_staff_have_it()
    {
        using var browser = Running.NewBrowser();
        (await UploadAsync(browser, "proof.pdf", "MZ\u0090")).ShouldContain("none of these");
        (await UploadAsync(browser, "proof.pdf", "%PDF-" + new string('x', 5000))).ShouldContain("too large");
        (await UploadAsync(browser, "../../etc/proof.txt", "plain words")).ShouldContain("Thank you");
        var (member, request) = await RequestOfAsync(Orla);
        request.Grants.Select(g => g.Fact).ShouldBe(["group:traders", "group:proved"]);
        var answers = await Owner.AskAsync("GET", $"members/{Orla}/answers");
        var file = answers.Body.GetProperty("items").EnumerateArray().First(a => a.GetProperty("field").GetString() == "proof");
        file.GetProperty("words").GetString().ShouldBe("proof.txt");
        var path = $"members/{Orla}/files/{file.GetProperty("file").GetProperty("id").GetString()}";
        using var http = new HttpClient { BaseAddress = new Uri(Running.Admin + "/api/v1/") };
        (await http.GetAsync(path, Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", Running.Token);
        using var got = await http.GetAsync(path, Stop);
        (await got.Content.ReadAsStringAsync(Stop), got.Content.Headers.ContentDisposition!.DispositionType).ShouldBe(("plain words", "attachment"));
        (await http.GetAsync(path.Replace(Orla, "nell@orchard-optics.example", StringComparison.Ordinal), Stop)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_form_that_changes_meanwhile_keeps_what_was_typed_and_asks_for_what_is_new()
    {
        using var browser = Running.NewBrowser();
        var page = await browser.PageAsync("/account/register/shop");
        await ApplyAsync(Site.Replace("fields: [{field: company}]", "fields: [{field: company}, {field: code, required: true}]", StringComparison.Ordinal));
        Clock.Advance(TimeSpan.FromSeconds(20));
        var answer = await TextAsync(await browser.PostAsync(
            "/account/register/shop", ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name",
                "Orla"),
            ("email", Orla), ("password", Password), ("f.company", "Vane")));
        answer.ShouldContain("value=\"Vane\"");
        answer.ShouldContain("This has to be filled in.");
    }

    [Fact]
    public async Task Forms_and_fields_are_changed_over_the_API_and_what_would_break_is_refused()
    {
        await Owner.RefusedAsync(HttpStatusCode.Conflict, "field-used", "DELETE", "fields/vat");
        await Owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "field-kind-fixed", "PUT", "fields/vat", new { label = "VAT", kind = "number" });
        await Owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "standing-unknown", "PUT", "forms/x", new
        {
            title = "X",
            grants = new[] { new { grant = "group:nobody" } }
        });
        await Owner.RefusedAsync(HttpStatusCode.UnprocessableEntity, "form-grant-staff", "PUT", "forms/x", new
        {
            title = "X",
            grants = new[] { new { grant = "role:owner" } }
        });
        await Owner.RefusedAsync(HttpStatusCode.NotFound, "form-unknown", "GET", "forms/x");
        var shown = await Owner.AskAsync("GET", "forms/trade");
        await Owner.RefusedAsync(HttpStatusCode.PreconditionFailed, "stale", "PUT", "forms/trade", new { title = "T" }, "\"7\"");
        (await Owner.AskAsync("PUT", "forms/trade", shown.Body.GetProperty("form"), shown.Tag)).Status.ShouldBe(HttpStatusCode.OK);
        var tried = await Owner.AskAsync("POST", "forms/trade/try", new
        {
            answers = new
            {
                company = new[] { "V" }, resale = new[] { "yes" },
                vat = new[] { "x" }
            }
        });
        tried.Body.GetProperty("faults")[0].GetProperty("field").GetString().ShouldBe("vat");
        // A group that a form gives is not removed from under it, and keeps its name in it.
        await Owner.RefusedAsync(HttpStatusCode.Conflict, "standing-in-form", "DELETE", "groups/traders");
        (await Owner.AskAsync("POST", "groups/traders/rename", new { to = "dealers" })).Status.ShouldBe(HttpStatusCode.OK);
        (await Owner.AskAsync("GET", "forms/trade")).Body.ToString().ShouldContain("group:dealers");
        (await Owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await Owner.AskAsync("DELETE", "fields/vat")).Status.ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task Answers_are_changed_by_staff_and_stay_when_their_field_goes_until_they_are_erased()
    {
        const string Nell = "nell@orchard-optics.example";
        (await Owner.AskAsync("PUT", $"members/{Nell}/answers", new { answers = new { company = new[] { "Orchard" }, vat = new[] { "PT501964843" } } })).Status
            .ShouldBe(HttpStatusCode.OK);
        using var http = NewClient();
        var file = await http.GetStringAsync("/api/v1/members.csv?search=nell", Stop);
        file.ShouldContain("answer.company");
        file.ShouldContain("PT501964843");
        (await Owner.AskAsync("GET", $"members/{Nell}/data")).Body.GetProperty("answers").GetArrayLength().ShouldBe(2);
        var wrong = await Owner.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "answer-vat", "PUT", $"members/{Nell}/answers", new { answers = new { vat = new[] { "PT1" } } });
        wrong.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("answers.vat");
        (await Owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await Owner.AskAsync("DELETE", "fields/vat")).Status.ShouldBe(HttpStatusCode.NoContent);
        var kept = await Owner.AskAsync("GET", $"members/{Nell}/answers");
        kept.Body.GetProperty("items").EnumerateArray().Select(a => a.GetProperty("words").GetString()).ShouldBe(["Orchard", "PT501964843"]);
        (await Owner.AskAsync("DELETE", "fields/vat/answers")).Body.GetProperty("answers").GetInt32().ShouldBe(1);
        (await Owner.AskAsync("GET", $"members/{Nell}/answers")).Body.GetProperty("items").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task Members_change_of_themselves_what_is_left_to_them_and_nothing_else()
    {
        const string Nell = "nell@orchard-optics.example";
        await ApplyAsync("""
            fields:
              - {key: company, label: Company, profile: shown}
              - {key: vat, label: VAT number, format: vat, profile: editable}
              - {key: rating, label: Rating}
            """);
        (await Owner.AskAsync("PUT", $"members/{Nell}/answers", new { answers = new { company = new[] { "Orchard" }, rating = new[] { "good" } } })).Status
            .ShouldBe(HttpStatusCode.OK);
        using var browser = Running.NewBrowser();
        (await browser.StatusAsync("/account/profile")).ShouldBe(HttpStatusCode.Unauthorized);
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        var page = await browser.PageAsync("/account/profile");
        page.ShouldContain("Orchard");
        page.ShouldNotContain("good");
        (await TextAsync(await browser.FillAsync("/account/profile", "/account/profile", ("name", "Nell"), ("f.vat", "PT1")))).ShouldContain("no VAT number");
        (await browser.FillAsync("/account/profile", "/account/profile", ("name", "‮"), ("f.vat", ""))).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await browser.FillAsync(
            "/account/profile", "/account/profile", ("name", "Nell <Orchard>"), ("f.vat", "PT501964843"), ("f.company", "Mine"), ("f.rating",
                "best"))).StatusCode
            .ShouldBe(HttpStatusCode.OK);
        var member = (await Store.MemberByNameAsync(Nell, Stop)).ShouldNotBeNull();
        member.Name.ShouldBe("Nell <Orchard>");
        (await Store.AnswersAsync(member.Id, Stop)).Select(a => $"{a.Field}={a.Values[0]}").ShouldBe(["company=Orchard", "rating=good", "vat=PT501964843"]);
        (await browser.FillAsync("/account/profile", "/account/profile", ("name", "Nell"), ("f.vat", ""))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Store.AnswersAsync(member.Id, Stop)).Count.ShouldBe(2, "taken back");
    }

    [Theory]
    [InlineData("sections: [{fields: [{field: company, shownIf: {fild: x}}]}]", 4, "fild")]
    [InlineData("sections: [{fields: [{field: nobody}]}]", 4, "nobody")]
    [InlineData("steps: perhaps", 4, "steps")]
    [InlineData("sections: [{fields: [{field: company, shownIf: {field: company, given: true}}]}]", 4, "in a ring")]
    [InlineData("grants: [{grant: 'role:owner'}]", 4, "staff")]
    public async Task A_fault_in_a_form_of_a_site_file_is_told_with_its_line(string wrong, int line, string what)
    {
        var answer = await ApplyTextAsync($"forms:\n  - key: x\n    title: X\n    {wrong}\n");
        answer.ShouldContain($"\"line\":{line}");
        answer.ShouldContain(what);
        (await Owner.AskAsync("GET", "forms")).Body.GetProperty("items").GetArrayLength().ShouldBe(2);
    }

    [Fact]
    public async Task A_site_file_brings_out_what_it_took_in()
    {
        using var http = NewClient();
        var text = await http.GetStringAsync("/api/v1/site.yaml", Stop);
        text.ShouldContain("shownIf");
        (await ApplyTextAsync(text)).ShouldContain("\"changed\":0");
        (await Owner.AskAsync("DELETE", "forms/trade")).Status.ShouldBe(HttpStatusCode.NoContent);
        await ApplyAsync(text);
        (await http.GetStringAsync("/api/v1/site.yaml", Stop)).ShouldBe(text);
    }

    private async Task<string> UploadAsync(Browser browser, string name, string content)
    {
        var page = await browser.PageAsync("/account/register/trade");
        Clock.Advance(TimeSpan.FromSeconds(20));
        using var form = new MultipartFormDataContent();
        foreach (var (key, value) in new[]
        {
            ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name", "Orla"), ("email", Orla),
            ("password", Password), ("f.company", "Vane"), ("f.resale", "yes"), ("f.vat", "PT501964843"),
        })
        {
            form.Add(new StringContent(value), key);
        }

        form.Add(new ByteArrayContent(Encoding.Latin1.GetBytes(content)), "f.proof", name);
        using var request = new HttpRequestMessage(HttpMethod.Post, "/account/register/trade") { Content = form };
        return await TextAsync(await browser.SendAsync(request));
    }

    /// <summary>The opening tag around a field.</summary>
    private static string Field(string page, string key) => Regex.Match(page, $"<div [^>]*data-field=\"{key}\"[^>]*>").Value;
}
