using System.Text.RegularExpressions;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.People.Forms;

/// <summary>How an answer is looked for.</summary>
public enum AnswerMatch
{
    /// <summary>Anything was answered.</summary>
    Given,
    /// <summary>It holds a part, whatever its case and accents.</summary>
    Part,
    /// <summary>It is just that, whatever its case and accents.</summary>
    Is,
    /// <summary>A number or day of at least that.</summary>
    AtLeast,
    /// <summary>A number or day of at most that.</summary>
    AtMost,
}

/// <summary>
/// Whose answers are meant, as people write it: <c>town</c> (answered at all), <c>town:port</c> (a part of it), <c>sky=moon</c> (the very answer, an
/// option's key), <c>telescopes&gt;=2</c>, <c>since&lt;=2024-05-01</c>; <c>*:port</c> looks into the answers to all fields.
/// </summary>
/// <param name="Field">The key of the field; it need not be there any more. <see cref="AnyField"/> for all.</param>
/// <param name="Match">How.</param>
/// <param name="Text">What is looked for.</param>
public sealed partial record AnswerFilter(string Field, AnswerMatch Match, string Text)
{
    /// <summary>The answers to every field.</summary>
    public const string AnyField = "*";

    /// <summary>Most filters of one question.</summary>
    public const int Most = 10;

    private const int Longest = 200;

    /// <summary>Reads it; null where it is none.</summary>
    public static AnswerFilter? Read(string? text)
    {
        var parts = text is { Length: <= Longest } ? Form().Match(text.Trim()) : System.Text.RegularExpressions.Match.Empty;
        if (!parts.Success || (parts.Groups[1].Value != AnyField && !CatalogueKey.IsValid(parts.Groups[1].Value)))
        {
            return null;
        }

        AnswerMatch? match = parts.Groups[2].Value switch
        {
            ":" => AnswerMatch.Part,
            "=" => AnswerMatch.Is,
            ">=" => AnswerMatch.AtLeast,
            "<=" => AnswerMatch.AtMost,
            _ => AnswerMatch.Given,
        };
        var sought = parts.Groups[3].Value.Trim();
        var isBound = match is AnswerMatch.AtLeast or AnswerMatch.AtMost;
        return (match != AnswerMatch.Given && sought.Length == 0) || (isBound && Numbers.Read(sought) is null && !AnswerReader.IsDay(sought)) ? null
            : new AnswerFilter(parts.Groups[1].Value, match.Value, isBound ? Numbers.Read(sought) ?? sought : sought);
    }

    /// <summary>The number of a bound; null where it is a day.</summary>
    public decimal? Number => Numbers.Read(Text) is { } number ? Numbers.ValueOf(number) : null;

    [GeneratedRegex(@"^([^:=<>\s]+)\s*(?:(:|=|>=|<=)(.*))?$", RegexOptions.Singleline)]
    private static partial Regex Form();
}
