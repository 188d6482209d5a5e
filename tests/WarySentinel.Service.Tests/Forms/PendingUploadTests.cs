using System.Net;
using System.Text;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Service.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>A file that was chosen once need not be chosen again because something else in the form was wrong.</summary>
public sealed class PendingUploadTests : JoiningSite
{
    private const string Orla = "orla@vane.example";
    private const string GoodVat = "PT501964843";

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("approval", false);
        await ApplyAsync(JoinFormTests.Site);
    }

    [Fact]
    public async Task A_file_is_kept_until_the_form_is_taken_and_its_secret_works_for_nothing_else()
    {
        using var browser = Running.NewBrowser();
        var refused = await PostAsync(browser, ("f.vat", "PT1"), ("f.proof", "ledger.txt|plain words"));
        refused.ShouldContain("ledger.txt");
        var secret = Value(refused, "kept.proof");
        secret.Length.ShouldBeGreaterThan(40);
        (await PostAsync(browser, ("f.vat", "PT2"), ("kept.proof", secret))).ShouldContain($"value=\"{secret}\"");
        (await PostAsync(browser, ("f.vat", "PT2"), ("kept.proof", secret[..^1]))).ShouldNotContain("is kept");
        // Another one puts itself in its place.
        var other = Value(await PostAsync(browser, ("f.vat", "PT2"), ("kept.proof", secret), ("f.proof", "other.txt|other words")), "kept.proof");
        other.ShouldNotBe(secret);
        (await PostAsync(browser, ("f.vat", GoodVat), ("kept.proof", other))).ShouldContain("Thank you");
        (await FileOfAsync(Orla)).ShouldBe("other words");
        (await PostAsync(browser, ("f.vat", "PT1"), ("kept.proof", other))).ShouldNotContain("is kept");
    }

    [Fact]
    public async Task A_field_that_takes_no_such_file_any_more_does_not_get_it()
    {
        using var browser = Running.NewBrowser();
        var secret = Value(await PostAsync(browser, ("f.vat", "PT1"), ("f.proof", "ledger.txt|plain words")), "kept.proof");
        await ApplyAsync("fields:\n- {key: proof, kind: file, label: Proof, types: [pdf]}\n");
        (await PostAsync(browser, ("f.vat", "PT1"), ("kept.proof", secret))).ShouldNotContain("is kept");
    }

    [Fact]
    public async Task Files_that_nobody_asks_for_again_go_and_one_network_keeps_so_many()
    {
        using var browser = Running.NewBrowser();
        var pages = new List<string>();
        for (var i = 0; i < 22; i++)
        {
            pages.Add(await PostAsync(browser, ("f.vat", "PT1"), ("f.proof", $"ledger-{i}.txt|words {i}")));
        }

        pages.Count(p => p.Contains("is kept", StringComparison.Ordinal)).ShouldBe(20);
        var secret = Value(pages[0], "kept.proof");
        Clock.Advance(PendingUploads.Lasts);
        (await PostAsync(browser, ("f.vat", "PT1"), ("kept.proof", secret))).ShouldNotContain("is kept");
        await Running.Services.GetRequiredService<PendingUploads>().RunDueAsync(Stop);
        (await PostAsync(browser, ("f.vat", "PT1"), ("f.proof", "again.txt|words"))).ShouldContain("again.txt");
    }

    [Fact]
    public async Task Whoever_mends_a_request_keeps_the_file_that_was_there_and_the_one_that_was_sent_anew()
    {
        using var browser = Running.NewBrowser();
        (await PostAsync(browser, ("f.vat", GoodVat), ("f.proof", "first.txt|first words"))).ShouldContain("Thank you");
        (await Owner.AskAsync("POST", $"members/{Orla}/ask-back", new { words = "A newer one?" })).Status.ShouldBe(HttpStatusCode.OK);
        var link = LinkIn(await LetterAsync(Orla, "request-asked"));
        (string, string)[] mended = [("link", SecretIn(link)), ("f.vat", "PT1")];
        var refused = await PostAsync(browser, "/account/application", link, [.. mended, ("f.proof", "second.txt|second words")]);
        refused.ShouldContain("second.txt");
        (await FileOfAsync(Orla)).ShouldBe("first words");
        mended[1] = ("f.vat", GoodVat);
        await PostAsync(browser, "/account/application", link, [.. mended, ("kept.proof", Value(refused, "kept.proof"))]);
        (await FileOfAsync(Orla)).ShouldBe("second words");
    }

    private Task<string> PostAsync(Browser browser, params (string, string)[] fields) =>
        PostAsync(browser, "/account/register/trade", "/account/register/trade", fields);

    /// <summary>Sends the form of a page as a browser does; a file is its name and its words, with a bar between.</summary>
    private async Task<string> PostAsync(Browser browser, string to, string at, (string, string)[] fields)
    {
        var page = await browser.PageAsync(at);
        Clock.Advance(AsLongAsSomebodyTakes);
        using var form = new MultipartFormDataContent();
        foreach (var (key, value) in (IEnumerable<(string, string)>)[
            ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name", "Orla"), ("email", Orla),
            ("password", Password), ("f.company", "Vane"), ("f.resale", "yes"), .. fields])
        {
            if (key == "f.proof")
            {
                form.Add(new ByteArrayContent(Encoding.UTF8.GetBytes(value.Split('|')[1])), key, value.Split('|')[0]);
            }
            else
            {
                form.Add(new StringContent(value), key);
            }
        }

        using var request = new HttpRequestMessage(HttpMethod.Post, to) { Content = form };
        return await TextAsync(await browser.SendAsync(request));
    }

    private async Task<string> FileOfAsync(string email)
    {
        var member = (await Store.MemberByNameAsync(email, Stop)).ShouldNotBeNull();
        var answer = (await Store.AnswersAsync(member.Id, Stop)).First(a => a.Field == "proof").Values[0];
        return Encoding.UTF8.GetString((await Store.FileAsync(member.Id, Guid.Parse(answer), Stop)).ShouldNotBeNull().Content.Span);
    }
}
