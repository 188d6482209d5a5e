using System.Net;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

public sealed class UnlockTests
{
    [Fact]
    public async Task The_right_password_opens_the_gate_for_its_unlock_time()
    {
        var time = new FakeTimeProvider(DateTimeOffset.UtcNow);
        await using var site = await RunningSite.StartAsync(time: time);
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.Unauthorized);
        var wrong = await guest.UnlockAsync("not-the-word");
        wrong.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await wrong.Content.ReadAsStringAsync()).ShouldContain("open this.");
        var right = await guest.UnlockAsync("  " + RunningSite.VaultPassword + " ");
        right.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        right.Headers.GetValues("Set-Cookie").ShouldAllBe(c => !c.Contains("dome", StringComparison.Ordinal));
        (await guest.StatusAsync("/product/old-hood")).ShouldBe(HttpStatusCode.OK);
        time.Advance(TimeSpan.FromDays(13));
        (await guest.StatusAsync("/product/old-hood")).ShouldBe(HttpStatusCode.OK);
        time.Advance(TimeSpan.FromDays(1));
        (await guest.StatusAsync("/product/old-hood")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_withdrawn_password_closes_what_it_opened_at_once()
    {
        await using var site = await RunningSite.StartAsync();
        using var guest = site.NewBrowser();
        await guest.UnlockAsync(RunningSite.VaultPassword);
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
        var password = (await site.Client.PasswordsAsync("clearance-vault", CancellationToken.None)).ShouldHaveSingleItem();
        password.Uses.ShouldBe(1);
        await site.Client.WithdrawAsync(password.Id, CancellationToken.None);
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.Unauthorized);
        (await guest.UnlockAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Repeated_wrong_tries_slow_down()
    {
        await using var site = await RunningSite.StartAsync();
        using var guest = site.NewBrowser();
        for (var n = 0; n < 4; n++)
        {
            (await guest.UnlockAsync("guess-" + n)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        }

        (await guest.UnlockAsync("guess-5")).StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        (await guest.UnlockAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
    }

    [Fact]
    public async Task Signing_in_keeps_what_was_unlocked()
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        await nell.UnlockAsync(RunningSite.VaultPassword);
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Passwords_are_stored_so_that_they_cannot_be_read_back()
    {
        await using var site = await RunningSite.StartAsync();
        var bytes = await File.ReadAllBytesAsync(Path.Combine(site.Data, "sentinel.db-wal"));
        var text = System.Text.Encoding.Latin1.GetString([.. bytes, .. await File.ReadAllBytesAsync(Path.Combine(site.Data, "sentinel.db"))]);
        text.ShouldNotContain(RunningSite.VaultPassword);
        text.ShouldNotContain("orchard-quiet-91");
        text.ShouldNotContain(site.Token);
        text.ShouldContain("$argon2id$v=19$m=19456,t=2,p=1$");
    }
}
