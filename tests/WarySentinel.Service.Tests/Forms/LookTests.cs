using System.Net;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>How pages are dressed: tried before it is stored, refused where it could hardly be read.</summary>
public sealed class LookTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller owner = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        owner = new Caller(site);
    }

    public async ValueTask DisposeAsync()
    {
        owner.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task A_look_is_seen_at_an_address_that_nobody_else_knows_before_it_is_stored()
    {
        var look = new { accent = "#1a5c3a", background = "#ffffff", links = Array.Empty<object>(), theme = "auto", place = "end" };
        var address = (await owner.AskAsync("POST", "settings/look/preview", look)).Body.GetProperty("address").GetString()!;
        using var browser = site.NewBrowser();
        var tried = await browser.PageAsync(new Uri(address).PathAndQuery);
        tried.ShouldContain("--accent-day: #1a5c3a");
        tried.ShouldContain("data-theme=\"auto\" data-place=\"end\"");
        (await browser.PageAsync("/account/sign-in")).ShouldNotContain("#1a5c3a");
        (await browser.PageAsync("/account/sign-in?look=" + new string('0', 32))).ShouldNotContain("#1a5c3a");
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look }), "*", Stop);
        (await browser.PageAsync("/account/sign-in")).ShouldContain("--accent-day: #1a5c3a");
        var stored = (await owner.AskAsync("GET", "settings")).Body.GetProperty("look");
        (stored.GetProperty("theme").GetString(), stored.GetProperty("place").GetString()).ShouldBe(("auto", "end"));
        await site.RestartAsync();
        (await browser.PageAsync("/account/sign-in")).ShouldContain("data-theme=\"auto\"");
    }

    [Theory]
    [InlineData("accent", "#e8c15a", "#8a7336")]
    [InlineData("accent", "red;}body{display:none", null)]
    [InlineData("night", "</style><script>", null)]
    [InlineData("theme", "7", null)]
    [InlineData("theme", "dusk", null)]
    [InlineData("place", "-1", null)]
    public async Task What_could_hardly_be_read_or_is_none_is_refused_beside_its_field(string field, string value, string? nearest)
    {
        var look = new Dictionary<string, object> { ["accent"] = "#8a5a00", ["background"] = "#f7f3ea", ["links"] = Array.Empty<object>(), [field] = value };
        foreach (var (method, path, body) in new[] { ("POST", "settings/look/preview", (object)look), ("PUT", "settings", new { look }) })
        {
            var refused = await owner.AskAsync(method, path, body, "*");
            refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
            var fault = refused.Body.GetProperty("errors")[0];
            fault.GetProperty("field").GetString().ShouldBe("look." + field);
            fault.GetProperty("message").GetString()!.ShouldContain(nearest ?? "");
        }
    }
}
