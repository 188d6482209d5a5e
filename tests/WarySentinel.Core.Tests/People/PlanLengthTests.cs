using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using NodaTime;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.People;

/// <summary>How long plans last, against a calendar library that we did not write.</summary>
public sealed class PlanLengthTests
{
    private static readonly string[] Zones = ["UTC", "Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "Pacific/Apia",
        "America/Sao_Paulo"];

    public sealed record Start(DateTimeOffset At, string Zone);

    public static Arbitrary<Start> Starts() => (
        from minutes in Gen.Choose(0, 60 * 24 * 365 * 40)
        from zone in Gen.Elements(Zones)
        select new Start(new DateTimeOffset(2000, 1, 1, 0, 0, 0, TimeSpan.Zero).AddMinutes(minutes), zone)).ToArbitrary();

    public static Arbitrary<PlanLength> Lengths() => (
        from months in Gen.Choose(0, 30) from days in Gen.Choose(0, 120) where months + days > 0 select new PlanLength(months, days)).ToArbitrary();

    [Property(MaxTest = 3000, Arbitrary = [typeof(PlanLengthTests)])]
    public void Its_end_is_where_the_calendar_has_it(Start start, PlanLength length, PositiveInt times)
    {
        var count = (times.Get % 24) + 1;
        var zone = DateTimeZoneProviders.Bcl[start.Zone];
        var local = Instant.FromDateTimeOffset(start.At).InZone(zone).LocalDateTime.PlusMonths(length.Months * count).PlusDays(length.Days * count);
        var there = zone.MapLocal(local);
        // Where the clock skips that time, the moment at which it does.
        var right = there.Count == 0 ? there.LateInterval.Start : there.First().ToInstant();
        new SiteDates(start.Zone).After(start.At, length, count).ShouldBe(right.ToDateTimeOffset(), $"{local} in {start.Zone}");
    }

    [Property(MaxTest = 1000, Arbitrary = [typeof(PlanLengthTests)])]
    public void Renewed_early_or_late_in_it_nothing_is_lost(Start start, PlanLength length, int seed)
    {
        var (dates, random, held) = (new SiteDates(start.Zone), new Random(seed), new List<Grant>());
        for (var n = 1; n <= 14; n++)
        {
            var open = held.Count == 0 ? start.At : held[^1].From!.Value;
            var until = held.Count == 0 ? start.At : held[^1].Until!.Value;
            // Anywhere in what is held, and before it has begun where it has been renewed early already.
            var now = held.Count == 0 ? start.At : open.AddTicks((long)((until - open).Ticks * random.NextDouble() * 0.999));
            var (from, end) = PlanRun.Next(held, length, now, dates);
            (from, end).ShouldBe((until, dates.After(start.At, length, n)));
            held.Add(new Grant(FactKind.Plan, "p", from, end));
        }
    }

    [Property(MaxTest = 500, Arbitrary = [typeof(PlanLengthTests)])]
    public void What_is_written_is_read_back(PlanLength length)
    {
        PlanLength.TryParse(length.ToString(), out var read).ShouldBeTrue(length.ToString());
        read.ShouldBe(length);
    }

    [Theory]
    [InlineData("")]
    [InlineData("P")]
    [InlineData("P0D")]
    [InlineData("PT5H")]
    [InlineData("P-1M")]
    [InlineData("1M")]
    [InlineData("P1D1M")]
    [InlineData("P101Y")]
    [InlineData("P99999D")]
    [InlineData("P1.5M")]
    public void What_is_no_length_is_refused(string text) => PlanLength.TryParse(text, out _).ShouldBeFalse();

    [Fact]
    public void A_plan_ends_by_itself_unless_its_end_is_said()
    {
        var now = new DateTimeOffset(2027, 1, 31, 10, 0, 0, TimeSpan.Zero);
        var policy = Core.Access.Policy.Build([], [], [new(FactKind.Plan, "night", "Night pass") { Length = new PlanLength(1, 0) },
            new(FactKind.Role, "guide", "Guides")],
            new SiteSettings { TimeZone = "Europe/Lisbon" }).Value;
        var member = new Member(Guid.NewGuid(), "mira@hill.example", "Mira", null, null, MemberStatus.Active, [], now);
        Grant Given(Member to, GrantDraft draft, DateTimeOffset at) => GrantCommands.Give(policy, to, draft, at).Value.Value.Grant;
        var first = Given(member, new GrantDraft("plan:night", null, null, "order:1"), now);
        first.Until.ShouldBe(new DateTimeOffset(2027, 2, 28, 10, 0, 0, TimeSpan.Zero));
        var held = member with { Grants = [first] };
        // Told again it gives nothing; another order goes on where this one ends, on the 31st again.
        GrantCommands.Give(policy, held, new GrantDraft("plan:night", null, null, "order:1"), now.AddDays(3)).Value.Value.Changed.ShouldBeFalse();
        var second = Given(held, new GrantDraft("plan:night", null, null, "order:2"), now.AddDays(3));
        (second.From, second.Until).ShouldBe((first.Until, new DateTimeOffset(2027, 3, 31, 9, 0, 0, TimeSpan.Zero)));
        Given(held, new GrantDraft("plan:night", null, "never", "order:3"), now).Until.ShouldBeNull();
        Given(held, new GrantDraft("plan:night", null, "2030-01-01", "order:4"), now).Until.ShouldBe(new DateTimeOffset(2030, 1, 2, 0, 0, 0, TimeSpan.Zero));
        Given(held, new GrantDraft("plan:night", "2027-06-15", null, "order:5"), now).Until.ShouldBe(new DateTimeOffset(2027, 7, 14, 23, 0, 0, TimeSpan.Zero));
        Given(member, new GrantDraft("role:guide"), now).Until.ShouldBeNull();
        // Lapsed, it begins anew.
        Given(held, new GrantDraft("plan:night", null, null, "order:6"), now.AddDays(60)).From.ShouldBe(now.AddDays(60));
    }
}
