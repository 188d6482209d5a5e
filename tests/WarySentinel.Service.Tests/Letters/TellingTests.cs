using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Contract.Passwords;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Letters;

/// <summary>Letters that tell of something that happened: too many tries, erasure, a shared password.</summary>
public sealed class TellingTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Store Store => site.Services.GetRequiredService<Store>();

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync(settings: ["--Wary:ProofsBurst=5000", "--Wary:TrustedProxies:0=127.0.0.1"]);

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task A_member_is_told_once_that_too_many_tries_failed_and_nobody_is_who_has_no_account()
    {
        var sources = Enumerable.Range(0, 24).Select(n => $"203.0.113.{n + 1}").ToList();
        foreach (var name in new[] { Nell, "nobody@orchard-optics.example" })
        {
            foreach (var source in sources)
            {
                using var browser = new Network(site, source);
                await browser.SignInAsync(name, "guess-number-1");
            }
        }

        IReadOnlyList<MessageState> letters;
        for (var n = 0; (letters = await LettersAsync("locked")).Count == 0 && n < 100; n++)
        {
            await Task.Delay(50, Stop);
        }

        letters.ShouldHaveSingleItem().To.ShouldBe(Nell);
    }

    [Fact]
    public async Task The_last_letter_says_that_all_is_erased_and_goes_with_its_address_once_it_is_sent()
    {
        await site.Client.EraseMemberAsync(Nell, true, Stop);
        var letter = (await LettersAsync("erased")).ShouldHaveSingleItem();
        letter.To.ShouldBe(Nell);
        var taken = (await Store.TakeMessagesAsync(false, 5, DateTimeOffset.UtcNow.AddMinutes(5), "test", Stop)).ShouldHaveSingleItem();
        site.Services.GetRequiredService<Envelopes>().Open(taken.Body).Text.ShouldContain("erased", Case.Insensitive);
        (await Store.HandOverAsync(taken, Stop)).ShouldBeTrue();
        await Store.MessageSentAsync(taken, "250 OK", Stop);
        (await Store.MessagesAsync(50, to: Nell, stop: Stop)).ShouldBeEmpty();
        (await Store.AuditAsync(null, 100, null, null, Stop)).ShouldNotContain(a => a.Subject.Contains(Nell, StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_new_shared_password_is_sent_to_those_who_are_named_and_to_no_address_that_is_none()
    {
        var draft = new SharedPasswordDraft("clearance-vault", "Autumn list", Tell: ["Ada@x.example", "ada@x.example", "bo@x.example"]);
        var made = await site.Client.AddPasswordAsync(draft, Stop);
        (await LettersAsync("shared-password")).Select(l => l.To).Order().ShouldBe(["ada@x.example", "bo@x.example"]);
        var taken = await Store.TakeMessagesAsync(false, 5, DateTimeOffset.UtcNow.AddMinutes(5), "test", Stop);
        taken.ShouldAllBe(t => site.Services.GetRequiredService<Envelopes>().Open(t.Body).Text.Contains(made.Password!.Reveal(), StringComparison.Ordinal));
        using var caller = new Caller(site, site.Token);
        (await caller.AskAsync("POST", "passwords", new { gate = "clearance-vault", label = "x", tell = new[] { "nobody" } })).Status
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await LettersAsync("shared-password")).Count.ShouldBe(2);
    }

    private async Task<IReadOnlyList<MessageState>> LettersAsync(string kind) =>
        [.. (await Store.MessagesAsync(200, stop: Stop)).Where(l => l.Kind == kind)];
}
