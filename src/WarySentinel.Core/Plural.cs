namespace WarySentinel.Core;

/// <summary>Which form of a sentence counts: the cardinal categories of a language for whole numbers (Unicode CLDR, Language Plural Rules).</summary>
public static class Plural
{
    /// <summary>The form that stands for every number without one of its own.</summary>
    public const string Other = "other";

    /// <summary>The forms that a sentence may have beside that one.</summary>
    public static readonly IReadOnlyList<string> Forms = ["zero", "one", "two", "few", "many"];

    /// <summary>The category of a count: <c>zero</c>, <c>one</c>, <c>two</c>, <c>few</c>, <c>many</c> or <c>other</c>.</summary>
    /// <param name="language">The language (RFC 5646 tag); one that is not known is counted in as in English.</param>
    /// <param name="count">What is counted.</param>
    public static string Of(string language, long count)
    {
        var n = Math.Abs(count);
        var (tens, hundreds) = (n % 10, n % 100);
        return language.Split('-')[0] switch
        {
            "ja" => Other,
            "fr" => n is 0 or 1 ? "one" : Millions(n),
            "es" or "it" => n == 1 ? "one" : Millions(n),
            "pl" => n == 1 ? "one" : tens is >= 2 and <= 4 && hundreds is not (>= 12 and <= 14) ? "few" : "many",
            "ar" => n switch
            {
                0 => "zero",
                1 => "one",
                2 => "two",
                _ => hundreds is >= 3 and <= 10 ? "few" : hundreds >= 11 ? "many" : Other,
            },
            _ => n == 1 ? "one" : Other,
        };
    }

    /// <summary>"Un million de …": whole millions take a preposition in the languages of the Romance family.</summary>
    private static string Millions(long n) => n != 0 && n % 1_000_000 == 0 ? "many" : Other;
}
