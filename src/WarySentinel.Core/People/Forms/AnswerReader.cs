using System.Globalization;
using PhoneNumbers;

namespace WarySentinel.Core.People.Forms;

/// <summary>What somebody answered a field, in its one spelling.</summary>
/// <param name="Field">The key of the field.</param>
/// <param name="Values">One, or several where several can be chosen; none takes back what was answered.</param>
public sealed record FieldAnswer(string Field, IReadOnlyList<string> Values);

/// <summary>Reads what is typed into fields.</summary>
public static class AnswerReader
{
    /// <summary>The lines of an address in order: street, postal code, town, country.</summary>
    public const int AddressParts = 4;

    private const string DayForm = "yyyy-MM-dd";

    /// <summary>Whether a text is a day (RFC 3339 full-date).</summary>
    public static bool IsDay(string text) =>
        text.Length == 10 && DateOnly.TryParseExact(text, DayForm, CultureInfo.InvariantCulture, DateTimeStyles.None, out _) && text.All(char.IsAscii);

    /// <summary>What conditions see of what was typed; null where nothing was. The browser's script does the very same.</summary>
    public static PlainAnswer? PlainOf(Field field, IReadOnlyList<string> typed)
    {
        List<string> values = [.. typed.Select(t => Blank.Off(t)).Where(t => t.Length > 0)];
        values = field.Kind switch
        {
            FieldKind.SeveralOf => [.. values.Distinct(StringComparer.Ordinal)],
            FieldKind.YesNo => [.. values.Take(1).Where(v => v is "yes" or "no")],
            FieldKind.Consent => [.. values.Take(1).Where(v => v is "yes")],
            FieldKind.Number => [.. values.Take(1).Select(v => Numbers.Read(v) ?? v)],
            FieldKind.Text => [.. values.Take(1).Select(Blank.Small)],
            _ => [.. values.Take(1)],
        };
        return values.Count == 0 ? null : new PlainAnswer(field.Kind, values);
    }

    /// <summary>The answer in its one spelling, none where nothing was typed; or what is wrong with it.</summary>
    /// <param name="field">The field.</param>
    /// <param name="typed">What was typed or chosen: the four parts of an address, the options chosen, else one text.</param>
    public static Outcome<IReadOnlyList<string>> Read(Field field, IReadOnlyList<string> typed)
    {
        if (PlainOf(field, typed) is not { } plain)
        {
            return new List<string>();
        }

        var text = plain.Values[0];
        return field.Kind switch
        {
            FieldKind.Text or FieldKind.LongText => ReadText(field, Blank.Off(typed.First(t => Blank.Off(t).Length > 0))),
            FieldKind.OneOf => field.Options.Contains(text) ? One(text) : Bad("answer-option"),
            FieldKind.SeveralOf => ReadSeveral(field, plain.Values),
            FieldKind.Number => ReadNumber(field, text),
            FieldKind.Date => ReadDay(field, text),
            FieldKind.Country => Countries.IsKnown(text) ? One(text) : Bad("answer-country", text.Length > 20 ? text[..20] : text),
            FieldKind.Phone => ReadPhone(field, text),
            FieldKind.Address => ReadAddress(typed),
            FieldKind.Url => ReadUrl(text),
            _ => One(text),
        };
    }

    private static Outcome<IReadOnlyList<string>> One(string text) => new List<string> { text };

    private static Problem Bad(string code, params object?[] values) => Problem.Of(ProblemKind.Invalid, code, values);

    private static Outcome<IReadOnlyList<string>> ReadText(Field field, string typed)
    {
        var text = typed.ReplaceLineEndings("\n");
        if (!PlainText.IsClean(text, field.Kind == FieldKind.LongText))
        {
            return Bad("answer-text");
        }

        if (text.Length > field.Longest || text.Length < (field.Draft.Shortest ?? 0))
        {
            return text.Length > field.Longest ? Bad("answer-long", field.Longest) : Bad("answer-short", field.Draft.Shortest);
        }

        if (field.Pattern?.IsMatch(text) == false)
        {
            return Bad("answer-pattern");
        }

        var country = field.Draft.Country;
        return field.Format switch
        {
            TextFormat.Vat => VatNumber.Read(text, country) is { } number ? One(number) : Bad("answer-vat"),
            TextFormat.Iban => Iban.Read(text) is { } number ? One(number) : Bad("answer-iban"),
            TextFormat.PostalCode => PostalCodes.Read(text, country) is { } code ? One(code) : Bad("answer-postcode"),
            TextFormat.Email => EmailAddress.Normalise(text) is { } address ? One(address) : Bad("answer-email"),
            _ => One(text),
        };
    }

    private static Outcome<IReadOnlyList<string>> ReadSeveral(Field field, IReadOnlyList<string> chosen)
    {
        int? Bound(string? text) => text is null ? null : int.Parse(text, CultureInfo.InvariantCulture);
        var (least, most) = (Bound(field.Draft.Least) ?? 0, Bound(field.Draft.Most) ?? int.MaxValue);
        if (chosen.Any(c => !field.Options.Contains(c)))
        {
            return Bad("answer-option");
        }

        return chosen.Count < least ? Bad("answer-few", least) : chosen.Count > most ? Bad("answer-many", most)
            : new List<string>(field.Options.Where(o => chosen.Contains(o)));
    }

    private static Outcome<IReadOnlyList<string>> ReadNumber(Field field, string text)
    {
        if (Numbers.Read(text) is not { } number)
        {
            return Bad("answer-number");
        }

        var (value, least, most) = (Numbers.ValueOf(number), field.Draft.Least, field.Draft.Most);
        return least is not null && value < Numbers.ValueOf(Numbers.Read(least)!) ? Bad("answer-least", least)
            : most is not null && value > Numbers.ValueOf(Numbers.Read(most)!) ? Bad("answer-most", most) : One(number);
    }

    private static Outcome<IReadOnlyList<string>> ReadDay(Field field, string text) => !IsDay(text) ? Bad("answer-date")
        : field.Draft.Least is { } least && string.CompareOrdinal(text, least) < 0 ? Bad("answer-least", least)
        : field.Draft.Most is { } most && string.CompareOrdinal(text, most) > 0 ? Bad("answer-most", most) : One(text);

    private static Outcome<IReadOnlyList<string>> ReadPhone(Field field, string text)
    {
        var numbers = PhoneNumberUtil.GetInstance();
        try
        {
            var number = text.Length > 40 ? null : numbers.Parse(text, field.Draft.Country);
            return number is not null && numbers.IsValidNumber(number) && !number.HasExtension ? One(numbers.Format(number, PhoneNumberFormat.E164))
                : Bad("answer-phone");
        }
        catch (NumberParseException)
        {
            return Bad(field.Draft.Country is null ? "answer-phone-country" : "answer-phone");
        }
    }

    private static Outcome<IReadOnlyList<string>> ReadAddress(IReadOnlyList<string> typed)
    {
        List<string> parts = [.. typed.SelectMany(t => t.Split('\n')).Select(t => Blank.Off(t)).Take(AddressParts + 1)];
        if (parts.Count != AddressParts || parts.Exists(p => p.Length is 0 or > 200 || !PlainText.IsClean(p)) || !Countries.IsKnown(parts[3]))
        {
            return Bad("answer-address");
        }

        return PostalCodes.Read(parts[1], parts[3]) is { } code ? One(string.Join('\n', parts[0], code, parts[2], parts[3])) : Bad("answer-postcode");
    }

    private static Outcome<IReadOnlyList<string>> ReadUrl(string text)
    {
        var whole = text.Contains("://", StringComparison.Ordinal) ? text : "https://" + text;
        return whole.Length <= 1000 && PlainText.IsClean(whole) && Uri.TryCreate(whole, UriKind.Absolute, out var url) && url.Scheme is "http" or "https"
            && url.UserInfo.Length == 0 && url.Host.Contains('.', StringComparison.Ordinal) ? One(url.AbsoluteUri) : Bad("answer-url");
    }
}
