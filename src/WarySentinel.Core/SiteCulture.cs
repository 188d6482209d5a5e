using System.Collections.Concurrent;
using System.Globalization;

namespace WarySentinel.Core;

/// <summary>How a language writes: its direction, the names of its months. Days are always of the Gregorian calendar, as the dates of a site are.</summary>
public static class SiteCulture
{
    private const int Most = 200;
    private static readonly ConcurrentDictionary<string, CultureInfo> Known = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>What is known of a language (RFC 5646 tag); the invariant culture, which writes as English does, where this machine knows nothing.</summary>
    public static CultureInfo Of(string language)
    {
        if (Known.TryGetValue(language, out var known))
        {
            return known;
        }

        var found = Find(language);
        return Known.Count < Most ? Known.GetOrAdd(language, found) : found;
    }

    /// <summary>A day as people of a language read it, such as <c>3 May 2027</c>.</summary>
    public static string Day(CultureInfo language, DateTime day)
    {
        var form = language.TwoLetterISOLanguageName switch
        {
            "de" => "d. MMMM yyyy",
            "es" => "d 'de' MMMM 'de' yyyy",
            "fr" when day.Day == 1 => "d'er' MMMM yyyy",
            "ja" => "yyyy年M月d日",
            _ => "d MMMM yyyy",
        };
        return day.ToString(form, language);
    }

    private static CultureInfo Find(string language)
    {
        try
        {
            var own = (CultureInfo)CultureInfo.GetCultureInfo(language).Clone();
            own.DateTimeFormat.Calendar = own.OptionalCalendars.OfType<GregorianCalendar>()
                .OrderBy(c => c.CalendarType == GregorianCalendarTypes.Localized ? 0 : 1).FirstOrDefault() ?? own.DateTimeFormat.Calendar;
            return CultureInfo.ReadOnly(own);
        }
        catch (CultureNotFoundException)
        {
            return CultureInfo.InvariantCulture;
        }
    }
}
