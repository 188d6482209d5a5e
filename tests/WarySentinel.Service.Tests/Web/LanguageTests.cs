using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>Refusals come in the language that the request asks for; codes, fields and places are the same in all of them.</summary>
public sealed class LanguageTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("de", "de", "Ein Tor „nowhere“ gibt es nicht.", "Nicht gefunden")]
    [InlineData("de-CH, en;q=0.5", "de", "Ein Tor „nowhere“ gibt es nicht.", "Nicht gefunden")]
    [InlineData("fi, de;q=0.3", "de", "Ein Tor „nowhere“ gibt es nicht.", "Nicht gefunden")]
    [InlineData("fi", "en", "There is no gate “nowhere”.", "Not found")]
    [InlineData("en-GB, de;q=0.9", "en", "There is no gate “nowhere”.", "Not found")]
    [InlineData(";;;=,,*", "en", "There is no gate “nowhere”.", "Not found")]
    [InlineData(null, "en", "There is no gate “nowhere”.", "Not found")]
    public async Task A_refusal_is_read_in_the_readers_language(string? asked, string language, string detail, string title)
    {
        using var response = await SendAsync(HttpMethod.Get, "gates/nowhere", null, asked);
        response.StatusCode.ShouldBe(HttpStatusCode.NotFound);
        response.Content.Headers.ContentLanguage.ShouldBe([language]);
        var body = await response.Content.ReadFromJsonAsync<JsonElement>();
        (body.GetProperty("code").GetString(), body.GetProperty("detail").GetString(), body.GetProperty("title").GetString())
            .ShouldBe(("gate-unknown", detail, title));
    }

    [Fact]
    public async Task Faults_of_a_form_and_of_a_file_are_too_and_lie_where_they_lie()
    {
        using var form = await SendAsync(
            HttpMethod.Post, "gates", new StringContent("""{"title":"x","covers":["site"],"audience":"role:dealer and"}""", Encoding.UTF8,
            "application/json"), "de");
        var fault = (await form.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors")[0];
        (fault.GetProperty("field").GetString(), fault.GetProperty("column").GetInt32(), fault.GetProperty("message").GetString())
            .ShouldBe(("audience", 16, "Am Ende fehlt etwas, etwa role:dealer."));

        using var file = await SendAsync(HttpMethod.Post, "items/import", new StringContent("id;title\npage:a;\n", Encoding.UTF8, "text/csv"), "de");
        var last = (await file.Content.ReadAsStringAsync()).Trim().Split('\n')[^1];
        last.ShouldContain("Ein Titel hat 1 bis 300 Zeichen");
        last.ShouldContain("\"line\":2,\"column\":2");
    }

    [Fact]
    public async Task Lists_stand_in_the_order_of_the_sites_language()
    {
        await using var own = await RunningSite.StartAsync();
        foreach (var title in new[] { "Zebra", "Ärta", "Apa", "A\u030aland" })
        {
            await own.Client.AddFactDefinitionAsync("groups", null, title, CancellationToken.None);
        }

        async Task<string> SetAsync(string language)
        {
            var (settings, tag) = await own.Client.SettingsAsync(CancellationToken.None);
            settings.GetProperty("language").GetString().ShouldNotBeNull();
            await own.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { language }), tag!, CancellationToken.None);
            var groups = await own.Client.FactDefinitionsAsync("groups", CancellationToken.None);
            return string.Join(' ', groups.Select(g => g.Title).Where(t => t is "Zebra" or "Ärta" or "Apa" || t.EndsWith("land", StringComparison.Ordinal)));
        }

        (await SetAsync("sv")).ShouldBe("Apa Zebra A\u030aland Ärta");
        (await SetAsync("de")).ShouldBe("A\u030aland Apa Ärta Zebra");
        var odd = await Should.ThrowAsync<Client.SentinelException>(() => SetAsync("swedish"));
        odd.Faults.ShouldHaveSingleItem().Field.ShouldBe("language");
    }

    [Fact]
    public async Task What_a_gate_says_and_why_something_is_closed_are_in_the_readers_language()
    {
        foreach (var (language, sentence, headline, holder) in new[]
        {
            ("de", " und alles darin: nur für Dealers oder Keepers zu öffnen", "Ein Gast darf ", "Inhaber eines Passworts von "),
            ("en", " and all in it: only dealers or keepers may open it", "A guest may not ", "Holder of a password of "),
        })
        {
            using var gate = await SendAsync(HttpMethod.Get, "gates/dealer-stock", null, language);
            (await gate.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("sentence").GetString()!.ShouldContain(sentence);
            var question = JsonContent.Create(new { visitor = "guest", act = "open", path = "/product/case-fern-40" });
            using var why = await SendAsync(HttpMethod.Post, "decisions/why", question, language);
            (await why.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("headline").GetString()!.ShouldStartWith(headline);
            using var board = await SendAsync(HttpMethod.Get, "viewpoints", null, language);
            (await board.Content.ReadAsStringAsync()).ShouldContain(holder);
        }
    }

    [Fact]
    public async Task Two_readers_at_once_read_each_their_own()
    {
        var read = await Task.WhenAll(Enumerable.Range(0, 60).Select(async n =>
        {
            using var response = await SendAsync(HttpMethod.Get, "gates/nowhere", null, n % 2 == 0 ? "de" : "en");
            return (n % 2 == 0, (await response.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("title").GetString());
        }));
        read.ShouldAllBe(r => r.Item2 == (r.Item1 ? "Nicht gefunden" : "Not found"));
    }

    private async Task<HttpResponseMessage> SendAsync(HttpMethod method, string path, HttpContent? content, string? language)
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(method, $"{site.Admin}/api/v1/{path}") { Content = content };
        request.Headers.Authorization = new("Bearer", site.Token);
        if (language is not null)
        {
            request.Headers.TryAddWithoutValidation("Accept-Language", language);
        }

        return await http.SendAsync(request);
    }
}
