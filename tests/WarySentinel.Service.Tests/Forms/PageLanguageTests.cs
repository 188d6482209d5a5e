using System.Diagnostics;
using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Contract.Pages;
using WarySentinel.Core;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>In which language a visitor's pages are, and whose words stand on them.</summary>
public sealed partial class PageLanguageTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Theory]
    [InlineData(null, "en", "ltr", "Sign in")]
    [InlineData("de", "de", "ltr", "Anmelden")]
    [InlineData("fr-CA, en;q=0.4", "fr", "ltr", "Connexion")]
    [InlineData("fi, es;q=0.5, en;q=0.1", "es", "ltr", "Iniciar sesión")]
    [InlineData("it", "it", "ltr", "Accedi")]
    [InlineData("nl-BE", "nl", "ltr", "Inloggen")]
    [InlineData("pl", "pl", "ltr", "Logowanie")]
    [InlineData("ja", "ja", "ltr", "サインイン")]
    [InlineData("ar-EG", "ar", "rtl", "تسجيل الدخول")]
    [InlineData("fi", "en", "ltr", "Sign in")]
    [InlineData("de;q=0, fr;q=0.1", "fr", "ltr", "Connexion")]
    [InlineData(";;;=,,*", "en", "ltr", "Sign in")]
    public async Task The_browser_is_answered_in_the_first_language_that_it_asks_for_and_there_is(string? asked, string tag, string way, string title)
    {
        var page = await PageAsync("/account/sign-in", asked);
        page.ShouldContain($"<html lang=\"{tag}\" dir=\"{way}\">");
        Heading(page).ShouldBe(title);
    }

    [Fact]
    public async Task A_choice_in_the_browser_counts_before_the_account_and_that_before_what_the_browser_asks_for()
    {
        using var browser = site.NewBrowser();
        await browser.SignInAsync(Nell, "orchard-quiet-91");
        (await browser.FillAsync("/account/letters", "/account/letters", ("language", "it"), ("more", "yes"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        Heading(await TextAsync(browser, "/account/", "de")).ShouldBe("Il suo account");
        using var chosen = await SendAsync(browser, "/account/language?to=pl", null, site.Site + "/account/profile");
        chosen.Headers.Location!.ToString().ShouldBe("/account/profile");
        Heading(await TextAsync(browser, "/account/", "de")).ShouldBe("Twoje konto");
        // One that is not offered is not kept.
        using var other = await SendAsync(browser, "/account/language?to=fi", null, null);
        Heading(await TextAsync(browser, "/account/", "de")).ShouldBe("Twoje konto");
    }

    [Theory]
    [InlineData("https://elsewhere.example/account/")]
    [InlineData("https://elsewhere.example//evil.example/")]
    [InlineData("javascript:alert(1)")]
    [InlineData("nonsense")]
    public async Task Choosing_a_language_leads_nowhere_but_back_on_this_site(string from)
    {
        using var browser = site.NewBrowser();
        using var answer = await SendAsync(browser, "/account/language?to=de", null, from);
        answer.Headers.Location!.ToString().ShouldBe("/account/");
    }

    [Fact]
    public async Task The_owner_says_which_languages_are_offered()
    {
        await SettingsAsync(new { languages = new[] { "fr" } });
        Heading(await PageAsync("/account/sign-in", "de")).ShouldBe("Sign in");
        var page = await PageAsync("/account/sign-in", "fr");
        Heading(page).ShouldBe("Connexion");
        Regex.Matches(page, "hreflang=\"(.*?)\"").Select(m => m.Groups[1].Value).ShouldBe(["en", "fr"]);
        await SettingsAsync(new { languages = new[] { "en" } });
        (await PageAsync("/account/sign-in", "fr")).ShouldNotContain("hreflang");
        (await Should.ThrowAsync<Client.SentinelException>(() => SettingsAsync(new { languages = new[] { "d!" } }))).Message.ShouldContain("d!");
    }

    [Fact]
    public async Task Titles_of_items_are_said_in_the_reader_s_language_and_what_lacks_one_is_listed()
    {
        (await PageAsync("/shop/clearance-vault", "de", HttpStatusCode.Unauthorized)).ShouldContain("Clearance vault");
        (await site.Client.TextsAsync("de", Stop)).Texts.ShouldContain(t => t.Key == "item:category:clearance-vault.title" && t.IsOwners && t.IsMissing);
        await TextsAsync("de", ("item:category:clearance-vault.title", "Räumungskeller"), ("item:product:fern-40.title", "Farn 40 mm"));
        (await PageAsync("/shop/clearance-vault", "de", HttpStatusCode.Unauthorized)).ShouldContain("Räumungskeller");
        (await PageAsync("/shop/clearance-vault", "fr", HttpStatusCode.Unauthorized)).ShouldNotContain("Räumungskeller");
        (await Should.ThrowAsync<Client.SentinelException>(() => TextsAsync("de", ("item:product:none-such.title", "x")))).Faults.ShouldNotBeEmpty();
    }

    [Fact]
    public async Task Words_of_the_owners_own_stand_on_pages_in_refusals_menus_and_letters()
    {
        await TextsAsync("de", ("sign-in.title-go-on", "Bitte <anmelden>"), ("site.name", "Sternwarte Farnlicht"), ("gate:dealer-stock.title", "Händlerlager"),
            ("role:dealer.title", "Fachhändler"), ("menu.sign-in", "Hinein"));
        var refused = await PageAsync("/shop/dealer-stock", "de", HttpStatusCode.Unauthorized);
        Heading(refused).ShouldBe("Bitte <anmelden>");
        refused.ShouldContain("Sternwarte Farnlicht");
        Heading(await PageAsync("/shop/dealer-stock", "en", HttpStatusCode.Unauthorized)).ShouldBe("Sign in to go on");
        // A program's refusal is in its user's language, too.
        using var asked = new HttpRequestMessage(HttpMethod.Get, site.Site + "/shop%2Fx");
        asked.Headers.Accept.ParseAdd("application/json");
        asked.Headers.AcceptLanguage.ParseAdd("de");
        using var http = new HttpClient();
        using var answer = await http.SendAsync(asked, Stop);
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain("auf zweierlei Weise");
        await TextsAsync("de", ("sign-in.title-go-on", null));
        Heading(await PageAsync("/shop/dealer-stock", "de", HttpStatusCode.Unauthorized)).ShouldBe("Anmelden, um weiterzugehen");
    }

    [Fact]
    public async Task Texts_are_read_and_set_with_their_version_and_faults_lie_at_their_key()
    {
        var languages = await site.Client.LanguagesAsync(Stop);
        languages.Select(l => l.Language).ShouldBe(["en", "de", "fr", "es", "it", "nl", "pl", "ja", "ar"]);
        languages.Single(l => l.IsSites).Missing.ShouldBe(0);
        var french = await site.Client.TextsAsync("fr", Stop);
        french.Texts.Where(t => !t.IsOwners).ShouldAllBe(t => !t.IsMissing && t.Own == null && t.Shown == t.Original);
        french.Texts.Where(t => t.IsOwners).ShouldAllBe(t => t.IsMissing);
        var fault = (await Should.ThrowAsync<Client.SentinelException>(() => TextsAsync("fr", ("sign-in.titel", "x")))).Faults
            .ShouldHaveSingleItem();
        (fault.Field, fault.Message).ShouldBe(("words[sign-in.titel]", "There is no text “sign-in.titel”. The nearest is “sign-in.title”."));
        await TextsAsync("fr", ("sign-in.title", "Entrez"), ("sign-in.button", "Allez"));
        (await site.Client.TextsAsync("fr", Stop)).Language.Own.ShouldBe(2);
        (await site.Client.ResetTextsAsync("fr", Stop)).Language.Own.ShouldBe(0);
        (await Should.ThrowAsync<Client.SentinelException>(() => site.Client.ResetTextsAsync("fr", Stop))).Code.ShouldBe("texts-none");
        await Should.ThrowAsync<Client.SentinelException>(() => site.Client.TextsAsync("not a tag", Stop));
    }

    [Fact]
    public async Task A_form_that_is_wrong_says_so_in_the_language_of_its_page()
    {
        using var browser = site.NewBrowser();
        using var asked = await SendAsync(browser, "/account/language?to=nl", null, null);
        var sent = await browser.FillAsync("/account/sign-in", "/account/sign-in", ("name", Nell), ("password", "wrong"));
        (await sent.Content.ReadAsStringAsync(Stop)).ShouldContain("Dat klopt niet.");
    }

    [Fact]
    public async Task Counting_is_as_in_Unicode_s_own_rules()
    {
        int[] counts = [.. Enumerable.Range(0, 1200), 10_000, 100_001, 1_000_000, 2_000_000, 1_000_001, 3_500_000];
        var start = new ProcessStartInfo("node", ["-e", $"console.log(JSON.stringify({JsonSerializer.Serialize(Wordbook.Languages)}.map(l => {{"
            + $"const r = new Intl.PluralRules(l); return {JsonSerializer.Serialize(counts)}.map(n => r.select(n)); }})))"])
        { RedirectStandardOutput = true };
        using var node = Process.Start(start)!;
        var said = JsonSerializer.Deserialize<List<List<string>>>(await node.StandardOutput.ReadToEndAsync(Stop))!;
        for (var l = 0; l < Wordbook.Languages.Count; l++)
        {
            counts.Select(n => Plural.Of(Wordbook.Languages[l], n)).ShouldBe(said[l], Wordbook.Languages[l]);
        }
    }

    private async Task TextsAsync(string language, params (string Key, string? Text)[] texts) =>
        await site.Client.SetTextsAsync(language, new TextsPatch(texts.ToDictionary(t => t.Key, t => t.Text)), Stop);

    private async Task SettingsAsync(object settings) => await site.Client.SetSettingsAsync(
        JsonSerializer.SerializeToElement(settings), "*", Stop);

    private async Task<string> PageAsync(string path, string? language, HttpStatusCode status = HttpStatusCode.OK)
    {
        using var browser = site.NewBrowser();
        using var answer = await SendAsync(browser, path, language, null);
        answer.StatusCode.ShouldBe(status);
        return await answer.Content.ReadAsStringAsync(Stop);
    }

    private async Task<string> TextAsync(Browser browser, string path, string? language)
    {
        using var answer = await SendAsync(browser, path, language, null);
        return await answer.Content.ReadAsStringAsync(Stop);
    }

    private async Task<HttpResponseMessage> SendAsync(Browser browser, string path, string? language, string? from)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + path);
        request.Headers.TryAddWithoutValidation("Accept", "text/html");
        request.Headers.TryAddWithoutValidation("Accept-Language", language ?? "");
        request.Headers.TryAddWithoutValidation("Referer", from ?? "");
        return await browser.SendAsync(request);
    }

    private static string Heading(string page) => WebUtility.HtmlDecode(H1().Match(page).Groups[1].Value);

    [GeneratedRegex("<h1>(.*?)</h1>")]
    private static partial Regex H1();
}
