using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.People.Consents;

/// <summary>The words of terms in another language; what is left out stays in the site's own.</summary>
/// <param name="Title">What they are called.</param>
/// <param name="Text">The text, in Markdown (CommonMark).</param>
/// <param name="Note">What is new in this version.</param>
public sealed record TermsWords(string? Title = null, string? Text = null, string? Note = null);

/// <summary>Terms as people write them: whom they are for, and the newest text.</summary>
public sealed record TermsDraft
{
    /// <summary>Their name, in addresses, forms and files.</summary>
    public string? Key { get; init; }

    /// <summary>What they are called.</summary>
    public string? Title { get; init; }

    /// <summary>Whom they are asked of, as an audience; every member where nothing is said.</summary>
    public string? Audience { get; init; }

    /// <summary>Whether members come in without agreeing; they have to where nothing is said.</summary>
    public bool? Optional { get; init; }

    /// <summary>The order among terms, lowest first.</summary>
    public int? Position { get; init; }

    /// <summary>What is new in this version.</summary>
    public string? Note { get; init; }

    /// <summary>From when on this version counts; at once where nothing is said.</summary>
    public string? From { get; init; }

    /// <summary>Whether those who agreed to an older version stay so, since nothing that matters has changed.</summary>
    public bool? Minor { get; init; }

    /// <summary>The text, in Markdown (CommonMark).</summary>
    public string? Text { get; init; }

    /// <summary>Words in other languages, by their tags (RFC 5646).</summary>
    public IReadOnlyDictionary<string, TermsWords>? In { get; init; }

    /// <summary>The longest text in characters.</summary>
    public const int LongestText = 100_000;

    private const int LongestTitle = 200;
    private const int LongestNote = 2000;
    private const int MostLanguages = 40;

    /// <summary>Reads the audience and from when on the text counts, or gives every fault found.</summary>
    /// <param name="known">The keys that audiences may name.</param>
    /// <param name="zone">The site's time zone.</param>
    public Outcome<(Audience Audience, DateTimeOffset? From)> Read(IKnownKeys known, string zone)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key) && Key!.Length <= 60 && !Key.Contains('.', StringComparison.Ordinal), "key", "field-key", Key);
        var audience = AudienceParser.Parse(string.IsNullOrWhiteSpace(Audience) ? "signed-in" : Audience, known);
        if (audience.Problem is { } problem)
        {
            faults.Take(problem);
        }

        Words("", new TermsWords(Title, Text, Note), true, faults);
        faults.Unless((In?.Count ?? 0) <= MostLanguages, "in", "field-languages", MostLanguages);
        foreach (var (tag, words) in (In ?? new Dictionary<string, TermsWords>()).Take(MostLanguages))
        {
            faults.Unless(Spelling.IsLanguage(tag), $"in.{tag}", "language", tag);
            Words($"in.{tag}.", words ?? new TermsWords(), false, faults);
        }

        var (from, _) = SiteDates.ReadBoth(zone, From, null, faults.Bad);
        return faults.Any ? faults.ToProblem() : (audience.Value, from);
    }

    /// <summary>Whether a text says the same, whatever was noted beside it.</summary>
    internal bool SaysWhat(TermsText other) => Title == other.Title && Text == other.Text && SameWords(In, other.In);

    private static bool SameWords(IReadOnlyDictionary<string, TermsWords>? a, IReadOnlyDictionary<string, TermsWords>? b) =>
        (a?.Count ?? 0) == (b?.Count ?? 0) && (a is null || a.All(p => b!.TryGetValue(p.Key, out var other) && other == p.Value));

    private static void Words(string at, TermsWords words, bool needed, Faults faults)
    {
        void Check(string? text, string name, int longest, bool isLong, bool isNeeded) => faults.Unless(
            text is null ? !isNeeded : text.Length <= longest && PlainText.IsClean(text, isLong) && Blank.Off(text).Length > 0, at + name, "form-words",
                longest);
        Check(words.Title, "title", LongestTitle, false, needed);
        Check(words.Text, "text", LongestText, true, needed);
        Check(words.Note, "note", LongestNote, true, false);
    }
}

/// <summary>A version of terms. What was published stays as it is.</summary>
/// <param name="Number">Counts versions, from 1.</param>
/// <param name="Title">What they are called.</param>
/// <param name="Text">The text, in Markdown (CommonMark).</param>
/// <param name="Note">What is new in it.</param>
/// <param name="From">From when on it counts.</param>
/// <param name="IsMinor">Whether those who agreed to an older one stay so.</param>
/// <param name="In">Words in other languages, by their tags.</param>
/// <param name="At">When it was published.</param>
/// <param name="By">Who published it.</param>
public sealed record TermsText(
    int Number, string Title, string Text, string? Note, DateTimeOffset From, bool IsMinor, IReadOnlyDictionary<string, TermsWords>? In, DateTimeOffset At,
        string By)
{
    /// <summary>The words in a language, those that are missing in the site's own, and the language of the text.</summary>
    /// <param name="language">A tag; null for the site's own.</param>
    public (TermsWords Words, string? Language) WordsIn(string? language)
    {
        var own = new TermsWords(Title, Text, Note);
        var other = Language.Find(In, language);
        return other is null ? (own, null) : (new TermsWords(other.Title ?? own.Title, other.Text ?? own.Text, other.Note ?? own.Note),
            other.Text is null ? null : In!.First(p => ReferenceEquals(p.Value, other)).Key);
    }
}
