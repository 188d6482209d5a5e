using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.Passwords;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Passwords;

/// <summary>Passes over real HTTP: made, signed in with, sent with requests, and ended.</summary>
public sealed class PassTests : IAsyncLifetime
{
    private const string Page = "/shop/dealer-stock";
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        caller = new Caller(site);
        await MustAsync("POST", "pass-kinds", new { key = "frames", title = "Calibration frames" });
        await GateAsync("tools");
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        await site.DisposeAsync();
    }

    private Task<JsonElement> GateAsync(string basic) => MustAsync("PUT", "gates/dealer-stock", new
    {
        key = "dealer-stock", title = "Dealer „Stock“", covers = new[] { "category:dealer-stock" }, audience = "role:dealer or pass:frames", basic,
        link = new { address = "mailto:desk@fernlight.example", words = "Ask the desk" },
    });

    private async Task<JsonElement> MustAsync(string method, string path, object? body = null)
    {
        var (status, said, _) = await caller.AskAsync(method, path, body, "*");
        ((int)status).ShouldBeLessThan(300, $"{method} {path}: {said}");
        return said;
    }

    private async Task<PassView> MakeAsync(string? until = null, int? uses = null, int? networks = null) => await site.Client.AddPassAsync(
        new PassDraft("frames", "Brookfield School", Until: until, MostUses: uses, MostNetworks: networks), Stop);

    private static AuthenticationHeaderValue Basic(string name, string password) =>
        new("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"{name}:{password}")));

    private static AuthenticationHeaderValue Basic(PassView pass, string? password = null) => Basic(pass.Name, password ?? pass.Password!.Reveal());

    private static async Task<HttpResponseMessage> AskAsync(
        string site, string path, AuthenticationHeaderValue? with = null, params (string Name, string Value)[] headers)
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, site + path) { Headers = { Authorization = with } };
        foreach (var (name, value) in headers)
        {
            request.Headers.TryAddWithoutValidation(name, value);
        }

        return await http.SendAsync(request, Stop);
    }

    private async Task<HttpStatusCode> StatusAsync(AuthenticationHeaderValue? with, string path = Page) => (await AskAsync(site.Site, path, with)).StatusCode;

    [Fact]
    public async Task It_signs_in_on_the_page_of_everybody_and_is_out_at_once_when_it_is_withdrawn()
    {
        var pass = await MakeAsync();
        pass.Text!.Reveal().ShouldContain(pass.Password!.Reveal());
        (await site.Client.PassAsync(pass.Name, Stop)).Value.Password.ShouldBeNull("it is told once");
        using var school = site.NewBrowser();
        (await school.StatusAsync(Page)).ShouldBe(HttpStatusCode.Unauthorized);
        (await school.SignInAsync(pass.Name.ToUpperInvariant(), pass.Password.Reveal(), Page)).Headers.Location!.ToString().ShouldBe(Page);
        (await school.StatusAsync(Page)).ShouldBe(HttpStatusCode.OK);
        (await school.PageAsync("/account/")).ShouldContain("Calibration frames");
        (await school.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized, "it opens what it is for, and makes nobody a member");
        var used = (await site.Client.PassAsync(pass.Id.ToString(), Stop)).Value;
        (used.Uses, used.Networks, used.Standing).ShouldBe((1, 1, "in-force"));
        await site.Client.WithdrawPassAsync(pass.Name, Stop);
        (await school.StatusAsync(Page)).ShouldBe(HttpStatusCode.Unauthorized);
        using var late = site.NewBrowser();
        var refused = await late.SignInAsync(pass.Name, pass.Password.Reveal(), Page);
        refused.StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await refused.Content.ReadAsStringAsync(Stop)).ShouldContain("This pass is over.");
        (await late.SignInAsync(pass.Name, "wrong-one", Page)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized, "who does not know it learns nothing of it");
    }

    [Fact]
    public async Task A_member_who_comes_by_a_pass_stays_signed_in_and_signing_out_ends_both()
    {
        var pass = await MakeAsync();
        using var ada = site.NewBrowser();
        await site.Client.AddMemberAsync("ada@quill.example", "Ada", null, "a-quill-of-her-own", [], [], [], Stop);
        await ada.SignInAsync("ada@quill.example", "a-quill-of-her-own");
        (await ada.StatusAsync(Page)).ShouldBe(HttpStatusCode.Forbidden);
        using var asked = site.NewBrowser();
        await asked.SignInAsync(pass.Name, pass.Password!.Reveal());
        await asked.SignInAsync("ada@quill.example", "a-quill-of-her-own");
        (await asked.StatusAsync(Page)).ShouldBe(HttpStatusCode.OK);
        (await asked.PageAsync("/account/")).ShouldContain("Ada");
        await asked.FillAsync("/account/sign-out", "/account/sign-out");
        (await asked.StatusAsync(Page)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task It_ends_with_its_day_and_the_password_before_with_the_overlap()
    {
        var pass = await MakeAsync(clock.GetUtcNow().AddDays(3).ToString("O"));
        using var school = site.NewBrowser();
        await school.SignInAsync(pass.Name, pass.Password!.Reveal());
        var fresh = await site.Client.RotatePassAsync(pass.Name, "PT2H", false, Stop);
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(Basic(fresh))).ShouldBe(HttpStatusCode.OK);
        (await school.StatusAsync(Page)).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromHours(2));
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.Unauthorized, "what was known of it ends as well");
        (await school.StatusAsync(Page)).ShouldBe(HttpStatusCode.Unauthorized, "who came by the password before is out");
        (await StatusAsync(Basic(fresh))).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromDays(3));
        (await StatusAsync(Basic(fresh))).ShouldBe(HttpStatusCode.Unauthorized);
        await site.Client.RenewPassAsync(pass.Name, "never", Stop);
        (await StatusAsync(Basic(fresh))).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Uses_and_networks_run_out_and_say_so_to_whoever_has_it()
    {
        var pass = await MakeAsync(uses: 2);
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromHours(13));
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK, "within half a day it is one use");
        clock.Advance(TimeSpan.FromHours(13));
        var refused = await AskAsync(site.Site, Page, Basic(pass));
        refused.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await refused.Content.ReadAsStringAsync(Stop)).ShouldContain("as often");
        (await site.Client.PassAsync(pass.Name, Stop)).Value.Standing.ShouldBe("used-up");
    }

    [Fact]
    public async Task Tools_are_asked_for_name_and_password_and_browsers_never_meet_their_grey_box_unless_it_is_wanted()
    {
        var tool = await AskAsync(site.Site, Page);
        tool.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        tool.Headers.WwwAuthenticate.ToString().ShouldBe("Basic realm=\"This site: Dealer Stock\", charset=\"UTF-8\"");
        var said = await tool.Content.ReadAsStringAsync(Stop);
        said.ShouldContain("mailto:desk@fernlight.example");
        said.ShouldNotContain("<");
        (string, string)[][] browsers = [[("Accept", "text/html")], [("Sec-Fetch-Mode", "no-cors")], [("User-Agent", "Mozilla/5.0 (X11)")]];
        foreach (var browser in browsers)
        {
            (await AskAsync(site.Site, Page, null, browser)).Headers.WwwAuthenticate.ToString().ShouldStartWith("Cookie");
        }

        await MustAsync("PUT", "gates/dealer-stock", new
        {
            title = "Dealer stock", covers = new[] { "category:dealer-stock" }, audience = "pass:frames", presence = "hidden", basic = "tools",
        });
        var hidden = await AskAsync(site.Site, Page);
        (hidden.Headers.WwwAuthenticate + await hidden.Content.ReadAsStringAsync(Stop)).ShouldNotContain("Dealer", Case.Insensitive, "it is hidden");
        await GateAsync("everybody");
        (await AskAsync(site.Site, Page, null, ("Accept", "text/html"))).Headers.WwwAuthenticate.ToString().ShouldStartWith("Basic");
        await GateAsync("no");
        (await AskAsync(site.Site, Page)).Headers.WwwAuthenticate.ToString().ShouldStartWith("Cookie");
        (await StatusAsync(Basic(await MakeAsync()))).ShouldBe(HttpStatusCode.Unauthorized, "no gate takes it");
    }

    [Fact]
    public async Task Members_come_by_name_and_password_too_staff_does_not_and_any_change_ends_what_was_known()
    {
        await site.Client.AddMemberAsync("bo@quill.example", "Bo", null, "bo-has-a-ladder-9", ["dealer"], [], [], Stop);
        var bo = Basic("bo@quill.example", "bo-has-a-ladder-9");
        (await StatusAsync(bo)).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(bo)).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(bo, "/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized, "another gate, that takes none");
        (await StatusAsync(Basic(RunningSite.Owner, RunningSite.Password))).ShouldBe(HttpStatusCode.Unauthorized);
        var id = (await site.Services.GetRequiredService<Store>().MemberByNameAsync("bo@quill.example", Stop))!.Id;
        await MustAsync("PUT", $"members/{id}/status", new { status = "suspended" });
        (await StatusAsync(bo)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Wrong_ones_are_slowed_and_never_known_and_odd_headers_are_none()
    {
        var pass = await MakeAsync();
        string[] odd = ["", "%%%", Convert.ToBase64String("no colon"u8), Convert.ToBase64String([0xff, 0xfe, 0x3a, 0x41]), Convert.ToBase64String(":p"u8),
            Convert.ToBase64String("a\nb:c"u8), new string('A', 4000)];
        foreach (var header in odd)
        {
            (await StatusAsync(new AuthenticationHeaderValue("Basic", header))).ShouldBe(HttpStatusCode.Unauthorized);
        }

        (await StatusAsync(new AuthenticationHeaderValue("Bearer", pass.Password!.Reveal()))).ShouldBe(HttpStatusCode.Unauthorized);
        var slowed = 0;
        for (var n = 0; n < 12; n++)
        {
            var answer = await AskAsync(site.Site, Page, Basic(pass, "wrong-" + n));
            slowed += answer is { StatusCode: HttpStatusCode.TooManyRequests, Headers.RetryAfter: not null } ? 1 : 0;
        }

        slowed.ShouldBeGreaterThan(3);
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.TooManyRequests, "right or not, once too many were wrong");
        clock.Advance(TimeSpan.FromHours(1));
        (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_check_takes_it_as_well_and_asks_the_proxy_to_pass_the_question_on()
    {
        var pass = await MakeAsync();
        var asked = await AskAsync(site.Site, "/sentinel/check", null, ("X-Original-URI", Page));
        (asked.StatusCode, asked.Headers.GetValues("X-Wary-Status").Single()).ShouldBe((HttpStatusCode.Unauthorized, "401"));
        asked.Headers.WwwAuthenticate.ToString().ShouldStartWith("Basic realm=");
        for (var n = 0; n < 3; n++)
        {
            (await AskAsync(site.Site, "/sentinel/check", Basic(pass), ("X-Original-URI", Page))).StatusCode.ShouldBe(HttpStatusCode.NoContent);
        }

        await site.Client.WithdrawPassAsync(pass.Name, Stop);
        (await AskAsync(site.Site, "/sentinel/check", Basic(pass), ("X-Original-URI", Page))).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task The_site_behind_never_sees_what_was_meant_for_us_and_sees_what_was_meant_for_it()
    {
        await using var echo = await EchoOrigin.StartAsync();
        await using var own = await RunningSite.StartAsync(origin: echo.Address);
        using var tell = new Caller(own);
        await tell.AskAsync("POST", "pass-kinds", new { key = "frames", title = "Frames" });
        await own.Client.AddGateAsync(
            new Contract.Gates.GateDraft { Key = "files", Title = "Files", Covers = ["path:/files/**"], Audience = "pass:frames", Basic = "tools" }, Stop);
        var pass = await own.Client.AddPassAsync(new PassDraft("frames", "A"), Stop);
        (await (await AskAsync(own.Site, "/files/a.bin", Basic(pass))).Content.ReadAsStringAsync(Stop)).ShouldBe("none");
        (await (await AskAsync(own.Site, "/open/a.bin", Basic("their", "own"))).Content.ReadAsStringAsync(Stop)).ShouldStartWith("Basic ");
    }

    [Fact]
    public async Task A_file_of_passes_makes_all_of_them_or_none()
    {
        async Task<PassImportView> ImportAsync(string text, bool dry = false) =>
            await site.Client.ImportPassesAsync(new MemoryStream(Encoding.UTF8.GetBytes(text)), dry, Stop);

        var wrong = await ImportAsync("kind;holder;name;until;most uses\nframes;A;twin;;\nframes;B;TWIN;;\nframe;C;;;\nframes;D;;yesterday;x\n");
        wrong.Stored.ShouldBeFalse();
        wrong.Faults.Select(f => (f.Line, f.Field)).ShouldBe([(3, "name"), (4, "kind"), (5, "mostUses"), (5, "until")]);
        (await site.Client.PassesAsync(null, null, null, null, Stop)).Items.ShouldBeEmpty();
        const string Good = "holder,kind,name,until\n\"Hill, School\",frames,hill,2031-07-31\nDale School,frames,,\n";
        (await ImportAsync(Good, true)).Rows.ShouldBe(2);
        var done = await ImportAsync(Good);
        done.Passes.Select(p => p.Holder).ShouldBe(["Hill, School", "Dale School"]);
        foreach (var pass in done.Passes)
        {
            (await StatusAsync(Basic(pass))).ShouldBe(HttpStatusCode.OK);
        }

        (await ImportAsync(Good)).Faults.ShouldHaveSingleItem().Field.ShouldBe("name");
        (await Should.ThrowAsync<Client.SentinelException>(() => ImportAsync("a,b\n1,2\n"))).Message.ShouldContain("kind, holder");
    }

    [Fact]
    public async Task The_site_file_brings_kinds_along_and_one_that_a_gate_names_stays()
    {
        var text = await site.Client.ExportAsync(Stop);
        text.ShouldContain("passKinds:");
        text.ShouldContain("basic: tools");
        await caller.RefusedAsync(HttpStatusCode.Conflict, "standing-in-gate", "DELETE", "pass-kinds/frames");
        await MustAsync("POST", "pass-kinds/frames/rename", new { to = "dark-frames" });
        (await MustAsync("GET", "gates/dealer-stock")).GetProperty("audience").GetString().ShouldBe("role:dealer or pass:dark-frames");
    }
}
