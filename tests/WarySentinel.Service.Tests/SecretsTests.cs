using Shouldly;
using WarySentinel.Service.People;
using Xunit;

namespace WarySentinel.Service.Tests;

public sealed class SecretsTests
{
    private static readonly Secrets Ours = new(new ServiceOptions { Secret = Convert.ToBase64String(new byte[32]) });

    [Fact]
    public void A_ticket_stands_for_its_session_and_purpose_alone()
    {
        var session = Guid.NewGuid();
        var ticket = Ours.TicketOf(session, 0);
        Ours.TryReadTicket(ticket, 0, out var read).ShouldBeTrue();
        read.ShouldBe(session);
        Ours.TryReadTicket(ticket, 1, out _).ShouldBeFalse();
        new Secrets(new ServiceOptions { Secret = Convert.ToBase64String(Enumerable.Repeat((byte)1, 32).ToArray()) }).TryReadTicket(ticket, 0, out _)
            .ShouldBeFalse();
    }

    [Fact]
    public void No_changed_letter_of_a_ticket_goes_unseen()
    {
        var ticket = Ours.TicketOf(Guid.NewGuid(), 0);
        for (var at = 0; at < ticket.Length - 1; at++)
        {
            var changed = ticket[..at] + (ticket[at] == 'A' ? 'B' : 'A') + ticket[(at + 1)..];
            Ours.TryReadTicket(changed, 0, out _).ShouldBeFalse();
        }

        foreach (var odd in new[] { "", "x", ticket[..^1], ticket + "A", new string('=', 66), new string('é', 66) })
        {
            Ours.TryReadTicket(odd, 0, out _).ShouldBeFalse();
        }
    }

    [Fact]
    public async Task A_password_proves_itself_and_nothing_else()
    {
        var passwords = new PasswordHashing(new ServiceOptions());
        var hash = await passwords.HashAsync("correct horse", TestContext.Current.CancellationToken);
        (await passwords.HashAsync("correct horse", TestContext.Current.CancellationToken)).ShouldNotBe(hash);
        (await passwords.ProvesAsync("correct horse", hash, TestContext.Current.CancellationToken)).ShouldBeTrue();
        (await passwords.ProvesAsync("Correct horse", hash, TestContext.Current.CancellationToken)).ShouldBeFalse();
        (await passwords.ProvesAsync("correct horse", null, TestContext.Current.CancellationToken)).ShouldBeFalse();
        (await passwords.ProvesAsync("x", "not a hash", TestContext.Current.CancellationToken)).ShouldBeFalse();
    }

    [Fact]
    public async Task The_queue_of_slow_hashes_is_bounded()
    {
        var passwords = new PasswordHashing(new ServiceOptions { HashWorkers = 1 });
        using var left = CancellationTokenSource.CreateLinkedTokenSource(TestContext.Current.CancellationToken);
        var tries = Enumerable.Range(0, 260).Select(_ => passwords.ProvesAsync("x", null, left.Token)).ToList();
        tries.Count(t => t.IsFaulted && t.Exception!.InnerException is BusyException).ShouldBe(60);
        var first = await Task.WhenAny(tries.Where(t => !t.IsFaulted));
        (await first).ShouldBeFalse();
        // Whoever waits may leave, and makes room for others.
        await left.CancelAsync();
        await Task.WhenAll(tries.Where(t => !t.IsFaulted && t != first)).ShouldThrowAsync<OperationCanceledException>();
        (await passwords.ProvesAsync("x", null, TestContext.Current.CancellationToken)).ShouldBeFalse();
    }

    [Theory]
    [InlineData("SiteListen", "ftp://x")]
    [InlineData("Origin", "shop")]
    [InlineData("Database", "oracle")]
    [InlineData("AccountPrefix", "/")]
    [InlineData("MachinePrefix", "sentinel")]
    [InlineData("AdminUrl", "")]
    public void A_setting_that_cannot_be_is_named(string name, string value)
    {
        var options = new ServiceOptions();
        options.Fault().ShouldBeNull();
        typeof(ServiceOptions).GetProperty(name)!.SetValue(options, value);
        options.Fault().ShouldNotBeNull().ShouldContain($"“{value}”");
    }
}
