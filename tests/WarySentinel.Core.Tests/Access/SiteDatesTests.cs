using System.Globalization;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

public sealed class SiteDatesTests
{
    [Theory]
    [InlineData("UTC", "2026-05-03", "2026-05-03T00:00Z", "2026-05-04T00:00Z")]
    [InlineData("Europe/Lisbon", "2026-07-01", "2026-06-30T23:00Z", "2026-07-01T23:00Z")]
    [InlineData("Pacific/Auckland", "2026-01-01", "2025-12-31T11:00Z", "2026-01-01T11:00Z")]
    // The day on which clocks go forward has 23 hours, that on which they go back 25.
    [InlineData("Europe/Berlin", "2026-03-29", "2026-03-28T23:00Z", "2026-03-29T22:00Z")]
    [InlineData("Europe/Berlin", "2026-10-25", "2026-10-24T22:00Z", "2026-10-25T23:00Z")]
    // Where midnight itself is skipped, the day begins an hour later.
    [InlineData("Africa/Cairo", "2026-04-24", "2026-04-23T22:00Z", "2026-04-24T21:00Z")]
    public void A_day_is_that_whole_day_in_the_site_s_zone(string zone, string day, string begins, string ends)
    {
        var dates = new SiteDates(zone);
        dates.TryRead(day, false, out var from).ShouldBeTrue();
        dates.TryRead(day, true, out var until).ShouldBeTrue();
        (from, until).ShouldBe((Moment(begins), Moment(ends)));
        dates.Say(from, false).ShouldBe(dates.Say(until, true));
    }

    [Theory]
    [InlineData("2026-05-03T18:00:00Z", "2026-05-03T18:00Z")]
    [InlineData("2026-05-03T18:00+02:00", "2026-05-03T16:00Z")]
    [InlineData("2026-05-03T18:00", "2026-05-03T16:00Z")]
    [InlineData("2026-05-03 18:00:30", "2026-05-03T16:00:30Z")]
    [InlineData("2026-03-29T02:30", "2026-03-29T01:00Z")]
    [InlineData("2026-10-25T02:30", "2026-10-25T00:30Z")]
    public void A_time_without_an_offset_is_meant_there_too(string text, string moment)
    {
        new SiteDates("Europe/Berlin").TryRead(text, true, out var read).ShouldBeTrue();
        read.ShouldBe(Moment(moment));
    }

    [Theory]
    [InlineData("03.05.2026")]
    [InlineData("2026-13-01")]
    [InlineData("2026-02-30")]
    [InlineData("tomorrow")]
    [InlineData("")]
    [InlineData("0001-01-01")]
    [InlineData("9999-12-31")]
    [InlineData("2026-05-03T25:00")]
    public void What_is_no_date_is_refused(string text) => new SiteDates("UTC").TryRead(text, true, out _).ShouldBeFalse();

    [Fact]
    public void A_gate_until_a_day_is_in_force_all_that_day_in_the_site_s_zone()
    {
        var policy = Policy.Build(Scene.Shop(), [], [], new SiteSettings { TimeZone = "America/Lima" }).Value;
        var gate = new GateDraft { Key = "g", Title = "G", Covers = ["site"], Audience = "signed-in", From = "2026-05-01", Until = "2026-05-03" }.Read(
            policy, new KnownKeys(policy, _ => false), []).Value;
        gate.IsInForce(Moment("2026-05-01T04:59Z")).ShouldBeFalse();
        gate.IsInForce(Moment("2026-05-01T05:00Z")).ShouldBeTrue();
        gate.IsInForce(Moment("2026-05-04T04:59Z")).ShouldBeTrue();
        gate.IsInForce(Moment("2026-05-04T05:00Z")).ShouldBeFalse();
        GateSentence.Of(gate, policy).ToString().ShouldStartWith("From 1 May 2026 until 3 May 2026, ");
        GateDraft.Of(gate).Read(policy, new KnownKeys(policy, _ => false), []).Value.Until.ShouldBe(gate.Until);
    }

    [Fact]
    public void Any_zone_and_any_day_begin_and_end_where_clocks_say()
    {
        var random = new Random(7);
        var zones = TimeZoneInfo.GetSystemTimeZones();
        for (var n = 0; n < 3000; n++)
        {
            var zone = zones[random.Next(zones.Count)];
            var day = new DateTime(2000, 1, 1).AddDays(random.Next(0, 15_000));
            var dates = new SiteDates(zone.Id);
            dates.TryRead(day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), false, out var from).ShouldBeTrue();
            dates.TryRead(day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture), true, out var until).ShouldBeTrue();
            until.ShouldBeGreaterThan(from);
            TimeZoneInfo.ConvertTime(from, zone).Date.ShouldBeGreaterThanOrEqualTo(day, $"{zone.Id} {day:d}");
            TimeZoneInfo.ConvertTime(from.AddTicks(-1), zone).Date.ShouldBeLessThanOrEqualTo(day, $"{zone.Id} {day:d}");
        }
    }

    private static DateTimeOffset Moment(string text) => DateTimeOffset.Parse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal);
}
