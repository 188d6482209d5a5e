using System.Globalization;
using System.Xml;

namespace WarySentinel.Core.Facts;

/// <summary>
/// Moments as people write them. A day without a time means that whole day in the site's time zone: as a start its beginning, as an end its end.
/// A time without an offset is meant in that zone too (RFC 3339, with the offset left out).
/// </summary>
public sealed class SiteDates
{
    private static readonly string[] Days = ["yyyy-MM-dd"];
    private static readonly string[] Times =
        ["yyyy-MM-dd'T'HH:mm", "yyyy-MM-dd'T'HH:mm:ss", "yyyy-MM-dd'T'HH:mm:ss.FFFFFFF", "yyyy-MM-dd HH:mm", "yyyy-MM-dd HH:mm:ss"];
    private static readonly string[] Moments =
        ["yyyy-MM-dd'T'HH:mmzzz", "yyyy-MM-dd'T'HH:mm:sszzz", "yyyy-MM-dd'T'HH:mm:ss.FFFFFFFzzz", "yyyy-MM-dd'T'HH:mm'Z'", "yyyy-MM-dd'T'HH:mm:ss'Z'",
            "yyyy-MM-dd'T'HH:mm:ss.FFFFFFF'Z'"];

    /// <summary>The last moment that is reckoned with; what would end later ends then.</summary>
    public static readonly DateTimeOffset Last = new(9000, 12, 31, 0, 0, 0, TimeSpan.Zero);

    private readonly TimeZoneInfo zone;

    /// <summary>Reads dates in the zone of that name; in UTC where there is no such zone.</summary>
    public SiteDates(string zone) => this.zone = TimeZoneInfo.TryFindSystemTimeZoneById(zone, out var found) ? found : TimeZoneInfo.Utc;

    /// <summary>Whether there is a zone of that name on this machine.</summary>
    public static bool IsZone(string name) => name.Length is > 0 and < 64 && TimeZoneInfo.TryFindSystemTimeZoneById(name, out _);

    /// <summary>Reads a moment; false when the text is none. A day is the moment of its beginning, or of its end.</summary>
    public bool TryRead(string text, bool end, out DateTimeOffset moment)
    {
        text = text.Trim();
        if (DateTime.TryParseExact(text, Days, CultureInfo.InvariantCulture, DateTimeStyles.None, out var day))
        {
            moment = default;
            if (day.Year is < 1900 or > 9000)
            {
                return false;
            }

            moment = Local(end ? day.AddDays(1) : day);
            return true;
        }

        if (DateTimeOffset.TryParseExact(text, Moments, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out moment))
        {
            moment = moment.ToUniversalTime();
            return moment.Year is >= 1900 and <= 9000;
        }

        var isTime = DateTime.TryParseExact(text, Times, CultureInfo.InvariantCulture, DateTimeStyles.None, out var time) && time.Year is >= 1900 and <= 9000;
        moment = isTime ? Local(time) : default;
        return isTime;
    }

    /// <summary>Reads a start and an end, either of which may be left out; tells what is wrong by field and code.</summary>
    public static (DateTimeOffset? From, DateTimeOffset? Until) ReadBoth(string zone, string? from, string? until, Action<string, string, object?[]> bad)
    {
        var dates = new SiteDates(zone);
        DateTimeOffset? Read(string field, string? text, bool end)
        {
            if (string.IsNullOrWhiteSpace(text))
            {
                return null;
            }

            if (dates.TryRead(text, end, out var moment))
            {
                return moment;
            }

            bad(field, "time-form", [text]);
            return null;
        }

        var (start, stop) = (Read("from", from, false), Read("until", until, true));
        if (start >= stop)
        {
            bad("until", "dates-order", []);
        }

        return (start, stop);
    }

    /// <summary>A moment as it is written down: in UTC (RFC 3339).</summary>
    public static string Write(DateTimeOffset moment) => XmlConvert.ToString(moment.ToUniversalTime());

    /// <summary>
    /// A moment as people would type it: the day where it is one's beginning (as an end, the last that counts), else the time in the site's
    /// zone.
    /// </summary>
    public string Type(DateTimeOffset moment, bool end)
    {
        var local = TimeZoneInfo.ConvertTime(moment, zone);
        return Local(local.Date) == moment ? (end ? local.Date.AddDays(-1) : local.Date).ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)
            : local.ToString(local.Second == 0 ? "yyyy-MM-dd'T'HH:mm" : "yyyy-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);
    }

    /// <summary>
    /// A moment as people read it: the day, with the time where it is not the beginning of one; as an end, the last day that counts. In the language of
    /// whoever asks, where staff are spoken to in it.
    /// </summary>
    public string Say(DateTimeOffset moment, bool end) => SayIn(CultureInfo.GetCultureInfo(Words.Current.Language), moment, end);

    /// <summary>The same with the names of months in a language; as in English where this machine does not know it.</summary>
    public string SayIn(CultureInfo language, DateTimeOffset moment, bool end)
    {
        var local = TimeZoneInfo.ConvertTime(moment, zone);
        var isWholeDay = Local(local.Date) == moment;
        var day = isWholeDay && end ? local.Date.AddDays(-1) : local.Date;
        return SiteCulture.Day(language, day) + (isWholeDay ? "" : local.ToString(", HH:mm", CultureInfo.InvariantCulture));
    }

    /// <summary>The day of the site's calendar in which a moment lies.</summary>
    public DateOnly DayOf(DateTimeOffset moment) => DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(moment, zone).DateTime);

    /// <summary>The moment at which a day of the site's calendar begins.</summary>
    public DateTimeOffset StartOf(DateOnly day) => Local(day.ToDateTime(TimeOnly.MinValue));

    /// <summary>The moment so many lengths after another, by the site's calendar and clock; the last day of the calendar where there is none so late.</summary>
    /// <param name="start">The moment.</param>
    /// <param name="length">The length.</param>
    /// <param name="times">How often.</param>
    public DateTimeOffset After(DateTimeOffset start, PlanLength length, int times)
    {
        var local = TimeZoneInfo.ConvertTime(start, zone).DateTime;
        var (months, days) = ((long)length.Months * times, (long)length.Days * times);
        return months > 12L * (9000 - local.Year) || days > 365L * (9000 - local.Year) ? Last
            : Local(local.AddMonths((int)months).AddDays(days));
    }

    /// <summary>The moment of which another is one length after, or nearly, where months are of different lengths.</summary>
    public DateTimeOffset Before(DateTimeOffset end, PlanLength length)
    {
        var local = TimeZoneInfo.ConvertTime(end, zone).DateTime;
        return local.Year < 200 ? end : Local(local.AddDays(-length.Days).AddMonths(-length.Months));
    }

    /// <summary>The first moment at which clocks in the zone show that time, or the first after it where they skip it.</summary>
    private DateTimeOffset Local(DateTime local)
    {
        while (zone.IsInvalidTime(local))
        {
            local = local.AddMinutes(1);
        }

        var offset = zone.IsAmbiguousTime(local) ? zone.GetAmbiguousTimeOffsets(local).Max() : zone.GetUtcOffset(local);
        return new DateTimeOffset(DateTime.SpecifyKind(local, DateTimeKind.Unspecified), offset).ToUniversalTime();
    }
}
