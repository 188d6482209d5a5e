using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.People;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>What a form is given out with, and what is known of mail domains.</summary>
public sealed class JoinDeskTests
{
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private readonly EphemeralDataProtectionProvider keys = new();

    [Fact]
    public void A_seal_counts_once_for_a_while_and_nobody_makes_one()
    {
        var seals = new FormSeals(keys, clock);
        var seal = seals.Issue();
        clock.Advance(TimeSpan.FromSeconds(5));
        seals.Take(seal.Text).ShouldNotBeNull().At.ShouldBe(seal.At);
        seals.Use(seal);
        seals.Take(seal.Text).ShouldBeNull("it was used");
        var random = new Random(3);
        foreach (var odd in new[] { null, "", "x", new string('x', 5000), keys.CreateProtector("other").Protect("1|2|3"),
            keys.CreateProtector("form-seal").Protect("1|2") })
        {
            seals.Take(odd).ShouldBeNull();
        }

        for (var trial = 0; trial < 200; trial++)
        {
            var other = seals.Issue().Text.ToCharArray();
            other[random.Next(other.Length)] ^= (char)1;
            seals.Take(new string(other)).ShouldBeNull();
        }

        var late = seals.Issue();
        clock.Advance(FormSeals.Lasts);
        seals.Take(late.Text).ShouldBeNull("it has grown old");
    }

    [Fact]
    public void Work_is_done_or_it_is_not()
    {
        var seal = new FormSeals(keys, clock).Issue();
        var work = Enumerable.Range(0, int.MaxValue).Select(n => n.ToString(System.Globalization.CultureInfo.InvariantCulture)).First(n =>
        {
            var digest = SHA256.HashData(Encoding.UTF8.GetBytes(seal.Text + ":" + n));
            return digest[0] == 0 && digest[1] >> (16 - seal.Bits) == 0;
        });
        FormSeals.IsDone(seal, work).ShouldBeTrue();
        FormSeals.IsDone(seal with { Text = seal.Text + "x" }, work).ShouldBeFalse("it is this seal's work");
        Enumerable.Range(0, 200).Count(n => FormSeals.IsDone(seal, "guess" + n)).ShouldBeLessThan(3);
        FormSeals.IsDone(seal, "").ShouldBeFalse();
        FormSeals.IsDone(seal, new string('1', 5000)).ShouldBeFalse();
    }

    [Fact]
    public void The_more_forms_come_in_the_more_is_asked_and_it_passes()
    {
        var seals = new FormSeals(keys, clock);
        var (bits, pace) = (seals.Issue().Bits, seals.Pace);
        for (var n = 0; n < 4000; n++)
        {
            seals.Use(seals.Issue());
            (seals.Issue().Bits, seals.Pace).ShouldSatisfyAllConditions(s => s.Bits.ShouldBeInRange(bits, 19), s => s.Pace.ShouldBeInRange(pace,
                TimeSpan.FromMinutes(1)));
        }

        seals.Issue().Bits.ShouldBe(19);
        seals.Pace.ShouldBeGreaterThan(pace * 4);
        clock.Advance(TimeSpan.FromSeconds(61));
        (seals.Issue().Bits, seals.Pace).ShouldBe((bits, pace));
    }

    [Fact]
    public void The_owners_lists_go_before_ours_and_count_for_what_lies_beneath()
    {
        var domains = new MailDomains(new ServiceOptions());
        var joining = new JoinSettings { Blocked = ["spam.example", "partly.example"], Trusted = ["school.example", "good.partly.example"] };
        MailDomain Kind(string domain) => domains.KindOf(domain, joining);
        Kind("spam.example").ShouldBe(MailDomain.Blocked);
        Kind("deep.in.spam.example").ShouldBe(MailDomain.Blocked);
        Kind("notspam.example").ShouldBe(MailDomain.Unknown);
        Kind("class.school.example").ShouldBe(MailDomain.Trusted);
        Kind("good.partly.example").ShouldBe(MailDomain.Blocked, "of two that say otherwise the stricter");
        Kind("example").ShouldBe(MailDomain.Unknown);
        Kind("").ShouldBe(MailDomain.Unknown);
        var file = Path.GetTempFileName();
        File.WriteAllText(file, "# ours\nMinutes.Example\n\n");
        new MailDomains(new ServiceOptions { DisposableDomains = file }).KindOf("x.minutes.example", joining).ShouldBe(MailDomain.Disposable);
        File.Delete(file);
    }

    [Theory]
    [InlineData("meadow.example", "meadov.example", true)]
    [InlineData("meadow.example", "meado.example", true)]
    [InlineData("meadow.example", "meadoww.example", true)]
    [InlineData("meadow.example", "maedow.example", true)]
    [InlineData("meadow.example", "meadow.example", false)]
    [InlineData("meadow.example", "moadov.example", false)]
    [InlineData("meadow.example", "mead.example", false)]
    [InlineData("", "a", true)]
    [InlineData("a", "b", true)]
    [InlineData("", "", false)]
    public void Looking_alike_is_one_slip(string one, string other, bool alike)
    {
        MailDomains.IsOneAway(one, other).ShouldBe(alike);
        MailDomains.IsOneAway(other, one).ShouldBe(alike);
    }
}
