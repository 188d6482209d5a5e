using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>A site of its own that people join, under a clock of its own, with the letters that it writes.</summary>
public abstract partial class JoiningSite : IAsyncLifetime
{
    protected const string Password = "a-ladder-in-the-orchard";

    /// <summary>Longer than it takes a person to fill in a form, and than one without scripts has to be looked at.</summary>
    protected static readonly TimeSpan AsLongAsSomebodyTakes = TimeSpan.FromSeconds(20);

    protected FakeTimeProvider Clock { get; } = new(DateTimeOffset.UtcNow);

    protected RunningSite Running { get; private set; } = null!;

    private protected Caller Owner { get; private set; } = null!;

    protected static CancellationToken Stop => TestContext.Current.CancellationToken;

    protected Store Store => Running.Services.GetRequiredService<Store>();

    public virtual async ValueTask InitializeAsync()
    {
        Running = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=5000"], time: Clock);
        Owner = new Caller(Running, Running.Token);
    }

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        Owner.Dispose();
        await Running.DisposeAsync();
    }

    /// <summary>Says who may join, and that staff are told of it.</summary>
    protected async Task SetAsync(string way, bool confirm) => (await Owner.AskAsync(
        "PUT", "settings", new { joining = new { way, confirm }, letters = new { noticesTo = "keeper@site.example" } }, "*")).Status
        .ShouldBe(HttpStatusCode.OK);

    /// <summary>Fills in a form as a browser without scripts does, after that while.</summary>
    protected async Task<HttpResponseMessage> SendAsync(Browser browser, string form, string email, TimeSpan looked, params (string, string)[] more)
    {
        var address = ("/account/register/" + form).TrimEnd('/');
        var page = await browser.PageAsync(address);
        Clock.Advance(looked);
        (string Name, string Value)[] usual =
        [
            ("__RequestVerificationToken", Value(page, "__RequestVerificationToken")), ("seal", Value(page, "seal")), ("name", "Orla Vane"), ("email", email),
            ("password", Password),
        ];
        return await browser.PostAsync(address, [.. usual.Where(u => more.All(m => m.Item1 != u.Name)), .. more]);
    }

    protected Task<HttpResponseMessage> SendAsync(Browser browser, string form, string email, params (string, string)[] more) =>
        SendAsync(browser, form, email, AsLongAsSomebodyTakes, more);

    /// <summary>Follows the link that proves an address.</summary>
    protected async Task ProveAsync(Browser browser, string email)
    {
        var link = LinkIn(await LetterAsync(email, "confirm"));
        (await browser.FillAsync(link, "/account/confirm", ("link", SecretIn(link)))).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    protected async Task<(Member Member, JoinRequest Request)> RequestOfAsync(string email)
    {
        var member = (await Store.MemberByNameAsync(email, Stop)).ShouldNotBeNull();
        return (member, (await Store.RequestAsync(member.Id, Stop)).ShouldNotBeNull());
    }

    protected async Task<MemberStatus?> StatusOfAsync(string email) => (await Store.MemberByNameAsync(email, Stop))?.Status;

    /// <summary>The text of the last letter to somebody, of that kind where one is named.</summary>
    protected async Task<string> LetterAsync(string to, string? kind = null)
    {
        var wanted = (await Store.MessagesAsync(20, to: to, stop: Stop)).First(l => kind is null || l.Kind == kind);
        IReadOnlyList<WaitingMessage> taken =
        [
            .. await Store.TakeMessagesAsync(true, 100, Clock.GetUtcNow(), "test", Stop),
            .. await Store.TakeMessagesAsync(false, 100, Clock.GetUtcNow(), "test", Stop),
        ];
        return Running.Services.GetRequiredService<Envelopes>().Open(taken.First(t => t.Id == wanted.Id).Body).Text;
    }

    protected async Task ApplyAsync(string yaml) => (await ApplyTextAsync(yaml)).ShouldContain("\"faults\":[]");

    protected async Task<string> ApplyTextAsync(string yaml)
    {
        using var http = NewClient();
        using var body = new StringContent(yaml, Encoding.UTF8, "application/yaml");
        return await TextAsync(await http.PostAsync("/api/v1/apply", body, Stop));
    }

    protected HttpClient NewClient() => new()
    { BaseAddress = new Uri(Running.Admin), DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", Running.Token) } };

    protected static async Task<string> TextAsync(HttpResponseMessage answer) => await answer.Content.ReadAsStringAsync(Stop);

    protected static string LinkIn(string text) => new Uri(Links().Match(text).Value).PathAndQuery;

    protected static string SecretIn(string link) => link.Split("link=")[1];

    protected static string Value(string page, string name) => Regex.Match(page, $"name=\"{name}\" value=\"([^\"]+)\"").Groups[1].Value;

    [GeneratedRegex(@"https?://\S+link=[\w-]+")]
    private static partial Regex Links();
}
