using System.Globalization;

namespace WarySentinel.Core.People.Forms;

/// <summary>Answers as people read them.</summary>
public static class AnswerWords
{
    /// <summary>The name of a field in a language; its key where the field is there no more.</summary>
    public static string LabelOf(FormBook book, string field, string? language = null) => book.FindField(field)?.WordsIn(language).Label ?? field;

    /// <summary>An answer in a language: labels of options, names of countries, an address in one line.</summary>
    /// <param name="book">The fields.</param>
    /// <param name="answer">The answer.</param>
    /// <param name="words">Words for <c>yes</c> and <c>no</c>, in that language.</param>
    /// <param name="language">A tag (RFC 5646); null for the site's own.</param>
    public static string Of(FormBook book, FieldAnswer answer, Func<string, string> words, string? language = null)
    {
        var field = book.FindField(answer.Field);
        var options = field?.WordsIn(language).Options;
        var culture = language is not null && Spelling.IsLanguage(language) ? CultureInfo.GetCultureInfo(language) : CultureInfo.InvariantCulture;
        return string.Join(", ", answer.Values.Select(value => field?.Kind switch
        {
            FieldKind.OneOf or FieldKind.SeveralOf => options!.GetValueOrDefault(value, value),
            FieldKind.Country => Countries.NameOf(value, culture),
            FieldKind.YesNo or FieldKind.Consent => value is "yes" or "no" ? words(value) : value,
            FieldKind.Address => AddressOf(value, culture),
            _ => value,
        }));
    }

    private static string AddressOf(string value, CultureInfo culture) => value.Split('\n') is [var street, var code, var town, var country]
        ? $"{street}, {code} {town}, {Countries.NameOf(country, culture)}" : value.Replace('\n', ' ');
}
