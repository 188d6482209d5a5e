using System.Collections.Concurrent;

namespace WarySentinel.Core.Access;

/// <summary>The owner's own words on visitor pages in one language: in place of ours, and what they say themselves, for readers of another language.</summary>
/// <param name="Language">The language (RFC 5646 tag).</param>
/// <param name="Words">The texts by key (<c>sign-in.title</c>, <c>gate:dealer-stock.message</c>).</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record SiteTexts(string Language, IReadOnlyDictionary<string, string> Words, int Version = 1)
{
    /// <summary>Those of a language that nothing is said in.</summary>
    public static SiteTexts None(string language) => new(language, new Dictionary<string, string>(), 0);

    /// <summary>The texts as people write them.</summary>
    public TextsDraft ToDraft() =>
        new(Language, new SortedDictionary<string, string?>(Words.ToDictionary(w => w.Key, string? (w) => w.Value), StringComparer.Ordinal));
}

/// <summary>Texts of a language as people write them.</summary>
/// <param name="Language">The language (RFC 5646 tag).</param>
/// <param name="Words">The texts by key; null or blank goes back to ours.</param>
public sealed record TextsDraft(string? Language, IReadOnlyDictionary<string, string?>? Words);

/// <summary>The owner's words on visitor pages, in every language. Immutable.</summary>
public sealed record TextBook : IPolicyPart
{
    private const int MostSpoken = 100;
    private readonly ConcurrentDictionary<(string, string), Wordbook> spoken = new();
    private readonly Dictionary<string, SiteTexts> byLanguage = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>None.</summary>
    public TextBook()
    {
    }

    /// <summary>Some, one for each language.</summary>
    public TextBook(IEnumerable<SiteTexts> texts)
    {
        All = [.. texts.OrderBy(t => t.Language, StringComparer.Ordinal)];
        byLanguage = All.ToDictionary(t => t.Language, StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>All of them, by language.</summary>
    public IReadOnlyList<SiteTexts> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>Those of a policy.</summary>
    public static TextBook Of(Policy policy) => policy.Parts.Of<TextBook>();

    /// <summary>What is said in that very language.</summary>
    public SiteTexts In(string language) => byLanguage.GetValueOrDefault(language) ?? SiteTexts.None(language);

    /// <summary>
    /// The sentences that a reader gets: the owner's in that language and in the same without its region, then ours; where we have none in it, those of the
    /// site's language, and English at last. Put together once for each language.
    /// </summary>
    public Wordbook SpokenIn(string language, string site)
    {
        if (spoken.TryGetValue((language, site), out var known))
        {
            return known;
        }

        var ours = Wordbook.Find(language);
        var book = ours ?? (string.Equals(language, site, StringComparison.OrdinalIgnoreCase) ? Wordbook.English : SpokenIn(site, site));
        foreach (var tag in Widest(language))
        {
            book = book.With(language, In(tag).Words);
        }

        return spoken.Count < MostSpoken ? spoken.GetOrAdd((language, site), book) : book;
    }

    private static IEnumerable<string> Widest(string language) =>
        language.Split('-').Select((_, n) => string.Join('-', language.Split('-').Take(n + 1)));
}

/// <summary>Stores the owner's words of a language.</summary>
public sealed record TextsPut(SiteTexts Texts) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new TextBook(
        draft.Part<TextBook>().All.Where(t => !string.Equals(t.Language, Texts.Language, StringComparison.OrdinalIgnoreCase)).Append(Texts)));
}

/// <summary>Removes the owner's words of a language.</summary>
public sealed record TextsDropped(string Language) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new TextBook(draft.Part<TextBook>().All.Where(t => t.Language != Language)));
}
