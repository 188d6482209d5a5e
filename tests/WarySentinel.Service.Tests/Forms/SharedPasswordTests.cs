using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Access;
using WarySentinel.Contract.Gates;
using WarySentinel.Contract.Passwords;
using WarySentinel.Service.Nodes;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Shared passwords from being made to being over, on a site and a clock of their own.</summary>
public sealed class SharedPasswordTests : IAsyncLifetime
{
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private readonly int smtp = RunningSite.FreePort();
    private SmtpMailbox mailbox = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        mailbox = new SmtpMailbox(smtp);
        site = await RunningSite.StartAsync(settings: [$"--Wary:Smtp=smtp://127.0.0.1:{smtp}", "--Wary:MailFrom=lamp@fernlight.example"], time: clock);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await mailbox.DisposeAsync();
    }

    [Fact]
    public async Task A_generated_one_is_told_once_with_words_to_send_and_lands_where_it_opens()
    {
        var made = await AddAsync(new SharedPasswordDraft("clearance-vault", "Club"));
        made.Text!.Reveal().ShouldContain(made.Password.ShouldNotBeNull().Reveal());
        made.Text!.Reveal().ShouldContain(site.Site + "/account/unlock");
        (await site.Client.PasswordsAsync(null, Stop)).ShouldAllBe(p => p.Password == null && p.Text == null);
        (await TypeAsync(made.Password!.Reveal())).Headers.Location!.ToString().ShouldBe("/shop/clearance-vault");
        var used = (await site.Client.PasswordsAsync("clearance-vault", Stop)).Single(p => p.Id == made.Id);
        (used.Uses, used.Networks).ShouldBe((1, 1));
    }

    [Fact]
    public async Task It_is_used_up_after_its_last_use_even_by_many_at_once()
    {
        var made = await AddAsync(new SharedPasswordDraft("clearance-vault", "Three", MostUses: 3));
        var answers = await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => TypeAsync(made.Password!.Reveal())));
        answers.Count(a => a.StatusCode == HttpStatusCode.SeeOther).ShouldBe(3);
        (await site.Client.PasswordsAsync("clearance-vault", Stop)).Single(p => p.Id == made.Id).Uses.ShouldBe(3);
    }

    [Fact]
    public async Task Those_whom_it_is_not_for_are_neither_asked_nor_let_in()
    {
        foreach (var password in await site.Client.PasswordsAsync("clearance-vault", Stop))
        {
            await site.Client.WithdrawAsync(password.Id, Stop);
        }

        var made = await AddAsync(new SharedPasswordDraft("clearance-vault", "Guests", Asked: "guest"));
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/shop/clearance-vault")).ShouldContain("Type the password");
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.Forbidden);
        (await nell.FillAsync("/account/unlock", "/account/unlock", ("password", made.Password!.Reveal()))).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task One_that_belongs_to_two_gates_opens_both_and_offers_the_list()
    {
        await site.Client.AddGateAsync(new GateDraft { Key = "comfort", Title = "Night comfort", Covers = ["category:comfort"], Audience = "password" }, Stop);
        await AddAsync(new SharedPasswordDraft("comfort", "Both", RunningSite.VaultPassword));
        using var guest = site.NewBrowser();
        var typed = await guest.FillAsync("/account/unlock", "/account/unlock", ("password", RunningSite.VaultPassword));
        typed.Headers.Location!.ToString().ShouldBe("/account/opened");
        var page = await guest.PageAsync("/account/opened");
        page.ShouldContain("href=\"/shop/comfort\"");
        page.ShouldContain("href=\"/shop/clearance-vault\"");
        using var asked = site.NewBrowser();
        (await asked.FillAsync("/account/unlock", "/account/unlock", ("password", RunningSite.VaultPassword),
            ("return_to", "/shop/comfort"))).Headers.Location!.ToString().ShouldBe("/shop/comfort");
    }

    [Fact]
    public async Task Typed_at_one_gate_it_leads_to_the_gate_that_it_opens()
    {
        await site.Client.AddGateAsync(new GateDraft { Key = "books", Title = "Books", Covers = ["category:books"], Audience = "password" }, Stop);
        using var guest = site.NewBrowser();
        var typed = await guest.FillAsync("/shop/books", "/account/unlock", ("gate", "books"), ("return_to", "/shop/books"),
            ("password", RunningSite.VaultPassword));
        typed.Headers.Location!.ToString().ShouldBe("/shop/clearance-vault");
    }

    [Fact]
    public async Task Until_the_browser_is_closed_means_a_cookie_without_end()
    {
        var (gate, tag) = await site.Client.GateAsync("clearance-vault", Stop);
        await site.Client.SetGateAsync("clearance-vault", GateDraft.Of(gate) with { UnlockFor = "session" }, tag!, Stop);
        using var guest = site.NewBrowser();
        var typed = await guest.FillAsync("/account/unlock", "/account/unlock", ("password", RunningSite.VaultPassword));
        typed.Headers.GetValues("Set-Cookie").Where(c => c.StartsWith("wary-here=", StringComparison.Ordinal))
            .ShouldAllBe(c => !c.Contains("expires", StringComparison.OrdinalIgnoreCase));
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
        (await guest.PageAsync("/account/unlock?gate=clearance-vault")).ShouldNotContain("until you close");
        using var other = site.NewBrowser();
        (await other.PageAsync("/shop/clearance-vault")).ShouldContain("until you close the browser");
        clock.Advance(TimeSpan.FromHours(25));
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_rotation_sends_the_new_one_keeps_the_old_for_the_overlap_and_no_longer()
    {
        var (gate, tag) = await site.Client.GateAsync("clearance-vault", Stop);
        await site.Client.SetGateAsync("clearance-vault", GateDraft.Of(gate) with
        { Rotation = new RotationDraft("P30D", "P2D", ["movers@fernlight.example"]), UnlockFor = "P365D" }, tag!, Stop);
        var rounds = site.Services.GetRequiredService<Jobs>();
        await rounds.OnceAsync(Stop);
        mailbox.Letters.ShouldBeEmpty();
        clock.Advance(TimeSpan.FromDays(31));
        using var holder = site.NewBrowser();
        await holder.UnlockAsync(RunningSite.VaultPassword);
        await rounds.OnceAsync(Stop);
        await rounds.OnceAsync(Stop);
        var letter = mailbox.Letters.ShouldHaveSingleItem();
        letter.To.ShouldBe(["movers@fernlight.example"]);
        letter.Subject.ShouldNotContain("Password:");
        var fresh = letter.Text.ReplaceLineEndings("\n").Split("from now on:\n\n")[1].Split('\n')[0].Trim();
        (await TypeAsync(fresh)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await TypeAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await holder.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromDays(2.1));
        (await TypeAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await holder.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_letter_waits_while_the_mail_server_is_silent_and_its_secret_is_sealed()
    {
        await mailbox.DisposeAsync();
        var id = (await site.Client.PasswordsAsync("clearance-vault", Stop))[0].Id;
        var made = await site.Client.RotateAsync(id, "PT0S", ["late@fernlight.example"], Stop);
        var store = site.Services.GetRequiredService<Store>();
        var rounds = site.Services.GetRequiredService<Jobs>();
        await rounds.OnceAsync(Stop);
        var waiting = (await store.MessagesAsync(10, stop: Stop)).ShouldHaveSingleItem();
        (waiting.SentAt, waiting.Tries).ShouldBe((null, 1));
        waiting.Fault.ShouldNotBeNull();
        (await store.TakeMessageAsync(clock.GetUtcNow(), Stop)).ShouldBeNull();
        clock.Advance(TimeSpan.FromHours(1));
        (await store.TakeMessageAsync(clock.GetUtcNow().AddSeconds(-1), Stop))!.Body.ShouldNotContain(made.Password!.Reveal());
        mailbox = new SmtpMailbox(smtp);
        await rounds.OnceAsync(Stop);
        mailbox.Letters.ShouldHaveSingleItem().Text.ShouldContain(made.Password!.Reveal());
        await rounds.OnceAsync(Stop);
        mailbox.Letters.Count.ShouldBe(1);
    }

    [Fact]
    public async Task The_words_of_the_prompt_are_the_owners()
    {
        using var caller = new Caller(site);
        (await caller.AskAsync("PUT", "settings", new { prompt = new { heading = "For friends", button = "Let me in" } }, "*")).Status.ShouldBe(
            HttpStatusCode.OK);
        var (gate, tag) = await site.Client.GateAsync("clearance-vault", Stop);
        await site.Client.SetGateAsync("clearance-vault", GateDraft.Of(gate) with
        { Prompt = new PromptWords("The <vault>", "Say it.", "Word", "old-…", null), Link = new SiteLink("/visit", "Ask us") }, tag!, Stop);
        using var guest = site.NewBrowser();
        var prompt = await guest.PageAsync("/shop/clearance-vault");
        foreach (var words in new[] { "The &lt;vault&gt;", "Say it.", ">Word<", "placeholder=\"old-…\"", "Let me in", "href=\"/visit\"" })
        {
            WebUtility.HtmlDecode(prompt).ShouldContain(WebUtility.HtmlDecode(words));
        }

        prompt.ShouldNotContain("<vault>");
        (await guest.PageAsync("/account/unlock")).ShouldContain("For friends");
        await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "settings-invalid", "PUT", "settings", new
        { prompt = new { button = new string('x', 60) } }, "*");
    }

    private Task<SharedPasswordView> AddAsync(SharedPasswordDraft draft) => site.Client.AddPasswordAsync(draft, Stop);

    private async Task<HttpResponseMessage> TypeAsync(string password)
    {
        using var browser = site.NewBrowser();
        return await browser.FillAsync("/account/unlock", "/account/unlock", ("password", password));
    }
}
