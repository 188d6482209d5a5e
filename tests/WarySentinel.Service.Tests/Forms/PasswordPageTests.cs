using System.Net;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Forgotten, set and changed passwords; new addresses; invitations; signing in by letter.</summary>
public sealed partial class PasswordPageTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example", Old = "orchard-quiet-91", Fresh = "a-ladder-in-the-orchard";
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private readonly List<(string To, Guid Id, string Text)> taken = [];
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=5000"], time: clock);

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task A_forgotten_password_is_set_anew_by_the_letter_and_every_other_device_is_signed_out()
    {
        using var phone = site.NewBrowser();
        await phone.SignInAsync(Nell, Old);
        (await AskAsync(Nell)).ShouldContain("Look into your mailbox");
        var link = await LinkAsync(Nell);
        using var desk = site.NewBrowser();
        foreach (var _ in Enumerable.Range(0, 3))
        {
            (await desk.PageAsync(link)).ShouldContain("Set a new password");
        }

        (await SetAsync(desk, link, "short")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await SetAsync(desk, link, "nell@orchard-optics.example")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await SetAsync(desk, link, "passwordpassword")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await SetAsync(desk, link, Fresh)).Headers.Location!.ToString().ShouldBe("/account/");
        (await desk.PageAsync("/account/")).ShouldContain("Nell Orchard");
        (await phone.PageAsync("/account/")).ShouldContain("You are not signed in.");
        using var again = site.NewBrowser();
        (await again.SignInAsync(Nell, Old)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await again.SignInAsync(Nell, Fresh)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        using var other = site.NewBrowser();
        (await other.StatusAsync(link)).ShouldBe(HttpStatusCode.Gone);
        (await other.PageAsync(link)).ShouldContain("used already");
        (await LettersAsync(Nell)).ShouldContain(t => t.Contains("was changed on", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_link_counts_no_more_after_a_newer_one_a_change_of_password_or_a_suspension_and_for_no_other_purpose()
    {
        await AskAsync(Nell);
        var first = await LinkAsync(Nell);
        clock.Advance(TimeSpan.FromMinutes(6));
        await AskAsync(Nell);
        var second = await LinkAsync(Nell);
        using var somebody = site.NewBrowser();
        (await somebody.StatusAsync(first)).ShouldBe(HttpStatusCode.Gone, "a newer one was sent");
        foreach (var page in new[] { "/account/confirm", "/account/address/confirm", "/account/sign-in/link", "/account/join" })
        {
            (await somebody.StatusAsync($"{page}?link={second.Split('=')[1]}")).ShouldBe(HttpStatusCode.Gone, page);
        }

        await site.Client.SetStatusAsync(Nell, "suspended", null, Stop);
        (await somebody.StatusAsync(second)).ShouldBe(HttpStatusCode.Gone, "she is suspended");
        await site.Client.SetStatusAsync(Nell, "active", null, Stop);
        (await somebody.StatusAsync(second)).ShouldBe(HttpStatusCode.Gone, "it stays closed when she is back");
        clock.Advance(TimeSpan.FromMinutes(6));
        await AskAsync(Nell);
        var third = await LinkAsync(Nell);
        using var nell = site.NewBrowser();
        await nell.SignInAsync(Nell, Old);
        (await nell.FillAsync("/account/password", "/account/password", ("current", "wrong-guess-here"), ("password", Fresh))).StatusCode
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await nell.FillAsync("/account/password", "/account/password", ("current", Old), ("password", Fresh))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync("/account/")).ShouldContain("Nell Orchard", customMessage: "she stays signed in here");
        (await somebody.StatusAsync(third)).ShouldBe(HttpStatusCode.Gone, "the password was changed since");
        clock.Advance(TimeSpan.FromHours(25));
        await AskAsync(Nell);
        var late = await LinkAsync(Nell);
        clock.Advance(TimeSpan.FromMinutes(61));
        (await somebody.PageAsync(late)).ShouldContain("Send me a new letter");
        (await somebody.FillAsync(late, "/account/link/again", ("link", late.Split('=')[1]))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await LinkAsync(Nell)).ShouldNotBe(late);
    }

    [Fact]
    public async Task One_letter_a_while_goes_to_one_address_however_often_it_is_asked_for_by_however_many_at_once()
    {
        await Task.WhenAll(Enumerable.Range(0, 12).Select(_ => AskAsync(Nell)));
        (await LettersAsync(Nell)).Count.ShouldBe(1);
        clock.Advance(TimeSpan.FromMinutes(4));
        await AskAsync(Nell);
        (await LettersAsync(Nell)).ShouldBeEmpty();
        clock.Advance(TimeSpan.FromMinutes(2));
        await AskAsync(Nell);
        (await LettersAsync(Nell)).Count.ShouldBe(1);
        for (var n = 0; n < 30; n++)
        {
            clock.Advance(TimeSpan.FromMinutes(6));
            await AskAsync(Nell);
        }

        (await LettersAsync(Nell)).Count.ShouldBe(18, "twenty a day at most");
    }

    [Fact]
    public async Task Eight_uses_of_a_link_at_once_set_one_password()
    {
        await AskAsync(Nell);
        var link = await LinkAsync(Nell);
        var browsers = Enumerable.Range(0, 8).Select(_ => site.NewBrowser()).ToList();
        var answers = await Task.WhenAll(browsers.Select((b, n) => SetAsync(b, link, $"ladder-number-{n}-of-eight")));
        var won = answers.ToList().FindIndex(a => a.StatusCode == HttpStatusCode.SeeOther);
        answers.Count(a => a.StatusCode == HttpStatusCode.SeeOther).ShouldBe(1);
        using var check = site.NewBrowser();
        (await check.SignInAsync(Nell, $"ladder-number-{won}-of-eight")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        browsers.ForEach(b => b.Dispose());
    }

    /// <summary>Neither the words nor the status tell whether anybody has an address; and the time does not (docs/explanation/links.md).</summary>
    [Fact]
    public async Task Asking_answers_the_same_for_whoever_is_there_and_whoever_is_not()
    {
        var pages = new HashSet<string>();
        // The beat hides what was done: the medians are no further apart than two of the same kind are. What others do on this machine may part them once.
        var times = await TimesAsync();
        (await LettersAsync(Nell)).Count.ShouldBe(20);
        for (var again = 0; again < 2 && times.Apart >= times.Most; again++)
        {
            times = await TimesAsync();
        }

        times.Apart.ShouldBeLessThan(times.Most);
        pages.Count.ShouldBe(1);
        using var nell = site.NewBrowser();
        await nell.SignInAsync(Nell, Old);
        var taken = await (await nell.FillAsync("/account/address", "/account/address", ("email", "pia@lanternlane.example"))).Content.ReadAsStringAsync();
        var free = await (await nell.FillAsync("/account/address", "/account/address", ("email", "free@lanternlane.example"))).Content.ReadAsStringAsync();
        taken.ShouldBe(free, "nor does asking for an address tell who has it");

        async Task<(double Apart, double Most)> TimesAsync()
        {
            var (there, nobody) = (new List<double>(), new List<double>());
            for (var n = 0; n < 20; n++)
            {
                foreach (var (who, took) in new[] { (Nell, there), ($"nobody{n}@x.example", nobody) })
                {
                    var watch = System.Diagnostics.Stopwatch.StartNew();
                    pages.Add(await AskAsync(who));
                    took.Add(watch.Elapsed.TotalMilliseconds);
                }

                clock.Advance(TimeSpan.FromMinutes(80));
            }

            return (Math.Abs(Median(there) - Median(nobody)), Math.Max(60, Spread(nobody) * 3));
        }
    }

    [Fact]
    public async Task An_address_changes_once_the_new_one_is_proved_and_both_are_told()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync(Nell, Old);
        await LettersAsync(Nell);
        (await nell.FillAsync("/account/address", "/account/address", ("email", "Nell.New@orchard-optics.example"))).StatusCode.ShouldBe(HttpStatusCode.OK);
        var link = await LinkAsync("nell.new@orchard-optics.example");
        (await site.Client.MemberAsync(Nell, Stop)).Value.Email.ShouldBe(Nell, "nothing changes until then");
        using var elsewhere = site.NewBrowser();
        (await elsewhere.PageAsync(link)).ShouldContain("nell.new@orchard-optics.example");
        (await elsewhere.FillAsync(link, "/account/address/confirm", ("link", link.Split('=')[1]))).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await LettersAsync(Nell)).ShouldHaveSingleItem().ShouldContain("nell.new@orchard-optics.example");
        (await TextAsync("nell.new@orchard-optics.example")).ShouldContain("was changed from");
        (await elsewhere.SignInAsync("nell.new@orchard-optics.example", Old)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await elsewhere.PageAsync("/account/")).ShouldContain("Nell Orchard");
        using var old = site.NewBrowser();
        (await old.SignInAsync(Nell, Old)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task An_invitation_brings_facts_and_words_and_is_sent_again_or_taken_back()
    {
        var told = await site.Client.InviteAsync(
            new InvitationsDraft(
                ["Ada Quill <Ada@Quill.example>", "no address", Nell, "bo@quill.example"], ["dealer"], Until: "2099-01-31", Words: "See <b>you</b>"), Stop);
        told.Select(i => i.Invited).ShouldBe([true, false, false, true]);
        var text = await TextAsync("ada@quill.example");
        text.ShouldContain("Hello Ada Quill,");
        text.ShouldContain("> See <b>you</b>");
        var first = "/account" + Link().Match(text).Groups[1].Value;
        (await site.Client.InviteAsync(new InvitationsDraft(["ada@quill.example"]), Stop))[0].Invited.ShouldBeTrue("written to again");
        var second = await LinkAsync("ada@quill.example");
        using var ada = site.NewBrowser();
        (await ada.StatusAsync(first)).ShouldBe(HttpStatusCode.Gone);
        var set = await ada.FillAsync(second, "/account/password/set", ("link", second.Split('=')[1]), ("name", "Ada Q."), ("password", Fresh));
        set.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await ada.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var member = (await site.Client.MemberAsync("ada@quill.example", Stop)).Value;
        (member.Name, member.Status, member.Grants[0].Source).ShouldBe(("Ada Q.", "active", "invitation"));
        (await site.Client.LinksAsync("ada@quill.example", Stop)).Select(l => l.State).ShouldBe(["used", "replaced"]);

        var bo = await LinkAsync("bo@quill.example");
        await site.Client.WithdrawLinksAsync("bo@quill.example", Stop);
        (await ada.PageAsync(bo)).ShouldContain("counts no longer");
        var made = await site.Client.GeneratePasswordAsync("bo@quill.example", Stop);
        made.Bits.ShouldBeGreaterThan(70);
        using var withIt = site.NewBrowser();
        (await withIt.SignInAsync("bo@quill.example", made.Password.Reveal())).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
    }

    [Fact]
    public async Task Members_sign_in_by_letter_where_the_owner_allows_it_and_staff_never_do()
    {
        using var nell = site.NewBrowser();
        (await nell.StatusAsync("/account/sign-in/letter")).ShouldBe(HttpStatusCode.NotFound);
        await AllowAsync(false);
        await LetterAsync(nell, Nell);
        var link = await LinkAsync(Nell);
        (await nell.PageAsync(link)).ShouldContain(Nell);
        (await nell.FillAsync(link, "/account/sign-in/link", ("link", link.Split('=')[1]))).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await nell.StatusAsync(link)).ShouldBe(HttpStatusCode.Gone);
        using var owner = site.NewBrowser();
        await LetterAsync(owner, RunningSite.Owner);
        (await LettersAsync(RunningSite.Owner)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_code_works_in_the_browser_that_asked_for_it_with_few_tries_and_for_its_purpose()
    {
        await AllowAsync(true);
        using var nell = site.NewBrowser();
        await LetterAsync(nell, Nell);
        var code = Code().Match(await TextAsync(Nell)).Value.Replace(" ", "", StringComparison.Ordinal);
        using var thief = site.NewBrowser();
        await LetterAsync(thief, "nobody@x.example");
        (await TypeAsync(thief, "/account/sign-in/code", code)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "another browser");
        (await TypeAsync(nell, "/account/password/code", code)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "another purpose");
        var wrong = code == "000000" ? "000001" : "000000";
        (await TypeAsync(nell, "/account/sign-in/code", wrong)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await TypeAsync(nell, "/account/sign-in/code", code[..3] + " " + code[3..])).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await TypeAsync(nell, "/account/sign-in/code", code)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "it works once");

        clock.Advance(TimeSpan.FromMinutes(6));
        using var guesser = site.NewBrowser();
        await LetterAsync(guesser, Nell);
        var next = Code().Match(await TextAsync(Nell)).Value.Replace(" ", "", StringComparison.Ordinal);
        for (var n = 0; n < 5; n++)
        {
            (await TypeAsync(guesser, "/account/sign-in/code", next == "000000" ? "000001" : "000000")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        }

        (await TypeAsync(guesser, "/account/sign-in/code", next)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, "too many tries");

        clock.Advance(TimeSpan.FromMinutes(6));
        using var hasty = site.NewBrowser();
        await LetterAsync(hasty, Nell);
        await LetterAsync(hasty, Nell);
        var only = Code().Match((await LettersAsync(Nell)).Single(l => Code().IsMatch(l))).Value;
        (await TypeAsync(hasty, "/account/sign-in/code", only)).StatusCode.ShouldBe(HttpStatusCode.SeeOther, "asked for twice, and one letter came");

        clock.Advance(TimeSpan.FromMinutes(6));
        using var forgetful = site.NewBrowser();
        await forgetful.FillAsync("/account/password/forgotten", "/account/password/forgotten", ("name", Nell));
        var reset = Code().Match(await TextAsync(Nell)).Value;
        var typed = await TypeAsync(forgetful, "/account/password/code", reset);
        var to = typed.Headers.Location!.ToString();
        (await SetAsync(forgetful, to, Fresh)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
    }

    private async Task AllowAsync(bool codes)
    {
        using var caller = new Caller(site, site.Token);
        var set = await caller.AskAsync("PUT", "settings", new { letters = new { signIn = true, codes, hold = false } }, "*");
        set.Status.ShouldBe(HttpStatusCode.OK);
    }

    private async Task<string> AskAsync(string who)
    {
        using var browser = site.NewBrowser();
        var answer = await browser.FillAsync("/account/password/forgotten", "/account/password/forgotten", ("name", who));
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        return await answer.Content.ReadAsStringAsync();
    }

    private static async Task LetterAsync(Browser browser, string who) =>
        (await browser.FillAsync("/account/sign-in/letter", "/account/sign-in/letter", ("name", who))).StatusCode.ShouldBe(HttpStatusCode.OK);

    private static Task<HttpResponseMessage> TypeAsync(Browser browser, string to, string code) =>
        browser.FillAsync("/account/password/forgotten", to, ("code", code));

    private static Task<HttpResponseMessage> SetAsync(Browser browser, string link, string password) =>
        browser.FillAsync(link, "/account/password/set", ("link", link.Split('=')[1]), ("password", password));

    private async Task<string> LinkAsync(string to) => "/account" + Link().Match(await TextAsync(to)).Groups[1].Value;

    private async Task<string> TextAsync(string to) => (await LettersAsync(to))[^1];

    /// <summary>The texts of letters that wait for somebody, the last at the end; each is given once.</summary>
    private async Task<List<string>> LettersAsync(string to)
    {
        var (store, envelopes) = (site.Services.GetRequiredService<Store>(), site.Services.GetRequiredService<Envelopes>());
        foreach (var urgent in new[] { true, false })
        {
            foreach (var letter in await store.TakeMessagesAsync(urgent, 1000, clock.GetUtcNow().AddDays(100), "test", Stop))
            {
                taken.Add((letter.To, letter.Id, envelopes.Open(letter.Body).Text));
            }
        }

        var mine = taken.Where(l => l.To == to).OrderBy(l => l.Id).ToList();
        taken.RemoveAll(mine.Contains);
        return [.. mine.Select(l => l.Text)];
    }

    private static double Median(List<double> all) => all.Order().ElementAt(all.Count / 2);

    private static double Spread(List<double> all) => Median([.. all.Select(t => Math.Abs(t - Median(all)))]);

    [GeneratedRegex(@"/account(/\S+\?link=[\w-]+)")]
    private static partial Regex Link();

    [GeneratedRegex(@"\d{3} \d{3}")]
    private static partial Regex Code();
}
