using System.Text.RegularExpressions;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.People.Forms;

/// <summary>An option of a field.</summary>
/// <param name="Key">What is stored.</param>
/// <param name="Label">What is read.</param>
public sealed record OptionDraft(string? Key, string? Label);

/// <summary>The words of a field in another language; what is left out stays in the site's own.</summary>
/// <param name="Label">The name of the field.</param>
/// <param name="Help">A line beneath it.</param>
/// <param name="Placeholder">An example inside it.</param>
/// <param name="Message">What is said where an answer is not taken.</param>
/// <param name="Options">The labels of options, by their keys.</param>
public sealed record FieldWords(
    string? Label = null, string? Help = null, string? Placeholder = null, string? Message = null, IReadOnlyDictionary<string, string>? Options = null);

/// <summary>A field as people write it.</summary>
public sealed record FieldDraft
{
    /// <summary>Its name, in answers, conditions, files and letters.</summary>
    public string? Key { get; init; }

    /// <summary>One of <see cref="FieldNames.Kinds"/>; text where nothing is said.</summary>
    public string? Kind { get; init; }

    /// <summary>What people read beside it.</summary>
    public string? Label { get; init; }

    /// <summary>A line beneath it.</summary>
    public string? Help { get; init; }

    /// <summary>An example inside it.</summary>
    public string? Placeholder { get; init; }

    /// <summary>What is said where an answer is not taken, in place of our words.</summary>
    public string? Message { get; init; }

    /// <summary>What can be chosen.</summary>
    public IReadOnlyList<OptionDraft>? Options { get; init; }

    /// <summary>Fewest characters of a text.</summary>
    public int? Shortest { get; init; }

    /// <summary>Most characters of a text.</summary>
    public int? Longest { get; init; }

    /// <summary>A regular expression that the whole text has to match.</summary>
    public string? Pattern { get; init; }

    /// <summary>One of <see cref="FieldNames.Formats"/>.</summary>
    public string? Format { get; init; }

    /// <summary>The least number or first day; the fewest options.</summary>
    public string? Least { get; init; }

    /// <summary>The greatest number or last day; the most options.</summary>
    public string? Most { get; init; }

    /// <summary>The country (ISO 3166-1) that a telephone number, VAT number or postal code without one is of.</summary>
    public string? Country { get; init; }

    /// <summary>Endings of the files that are taken, such as <c>pdf</c>.</summary>
    public IReadOnlyList<string>? Types { get; init; }

    /// <summary>The largest file in kilobytes.</summary>
    public int? Kilobytes { get; init; }

    /// <summary>One of <see cref="FieldNames.Profiles"/>.</summary>
    public string? Profile { get; init; }

    /// <summary>The order among fields, lowest first.</summary>
    public int? Position { get; init; }

    /// <summary>Words in other languages, by their tags (RFC 5646).</summary>
    public IReadOnlyDictionary<string, FieldWords>? In { get; init; }

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Field> Read() => new FieldReader(this).Read();
}

/// <summary>A field that answers can be given to. Immutable.</summary>
public sealed class Field
{
    internal Field(FieldDraft draft, FieldKind kind, TextFormat format, ProfileUse profile)
    {
        (Draft, Kind, Format, Profile) = (draft, kind, format, profile);
        Options = [.. (draft.Options ?? []).Select(o => o.Key!)];
        Pattern = draft.Pattern is { } pattern ? new Regex($"\\A(?:{pattern})\\z", RegexOptions.NonBacktracking | RegexOptions.CultureInvariant) : null;
    }

    /// <summary>What is written of it.</summary>
    public FieldDraft Draft { get; }

    /// <summary>Its name.</summary>
    public string Key => Draft.Key!;

    /// <summary>What sort of answer it takes.</summary>
    public FieldKind Kind { get; }

    /// <summary>What its text has to be.</summary>
    public TextFormat Format { get; }

    /// <summary>What its member does with it.</summary>
    public ProfileUse Profile { get; }

    /// <summary>The keys of what can be chosen.</summary>
    public IReadOnlyList<string> Options { get; }

    /// <summary>What the whole text has to match; null for anything. Takes a time that grows with the text and no faster.</summary>
    public Regex? Pattern { get; }

    /// <summary>Most characters of an answer.</summary>
    public int Longest => Draft.Longest ?? (Kind == FieldKind.LongText ? 4000 : 200);

    /// <summary>The largest file in bytes.</summary>
    public long MostBytes => (Draft.Kilobytes ?? 2048) * 1024L;

    /// <summary>The words in a language, those that are missing in the site's own.</summary>
    /// <param name="language">A tag (RFC 5646); <c>de-AT</c> falls back to <c>de</c>. Null for the site's own.</param>
    public FieldWords WordsIn(string? language)
    {
        var own = new FieldWords(
            Draft.Label, Draft.Help, Draft.Placeholder, Draft.Message, (Draft.Options ?? []).ToDictionary(o => o.Key!, o => o.Label ?? o.Key!));
        return Language.Find(Draft.In, language) is not { } other ? own : new FieldWords(
            other.Label ?? own.Label, other.Help ?? own.Help, other.Placeholder ?? own.Placeholder, other.Message ?? own.Message,
            own.Options!.ToDictionary(o => o.Key, o => other.Options?.GetValueOrDefault(o.Key) ?? o.Value));
    }
}

/// <summary>Finds what is written in a language.</summary>
public static class Language
{
    /// <summary>What stands under a tag, or under the same with less after its hyphens; null where nothing does.</summary>
    public static T? Find<T>(IReadOnlyDictionary<string, T>? all, string? tag)
        where T : class
    {
        for (var rest = tag; !string.IsNullOrEmpty(rest); rest = rest.LastIndexOf('-') is > 0 and var cut ? rest[..cut] : null)
        {
            if (all?.FirstOrDefault(p => p.Key.Equals(rest, StringComparison.OrdinalIgnoreCase)).Value is { } found)
            {
                return found;
            }
        }

        return null;
    }
}
