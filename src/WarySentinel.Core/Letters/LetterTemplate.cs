using WarySentinel.Core.Access;

namespace WarySentinel.Core.Letters;

/// <summary>The owner's own words for a kind of letter in one language, in Liquid.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Language">The language (RFC 5646 tag).</param>
/// <param name="Subject">The subject line.</param>
/// <param name="Html">What stands in the letter's frame; null for a letter of plain text.</param>
/// <param name="Text">The plain text; null where it is made from <paramref name="Html"/>.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record LetterTemplate(string Kind, string Language, string Subject, string? Html, string? Text, int Version = 1)
{
    /// <summary>How it is spoken of, such as <c>invitation.de</c>.</summary>
    public string Name => $"{Kind}.{Language}";
}

/// <summary>The template that a letter is written by.</summary>
/// <param name="Template">The template.</param>
/// <param name="IsOurs">Whether it is the one that comes with the service.</param>
public sealed record ChosenTemplate(LetterTemplate Template, bool IsOurs);

/// <summary>The owner's templates. Immutable.</summary>
public sealed record LetterBook : IPolicyPart
{
    private readonly Dictionary<(string Kind, string Language), LetterTemplate> byName = [];

    /// <summary>None.</summary>
    public LetterBook()
    {
    }

    /// <summary>Some, by kind and language.</summary>
    public LetterBook(IEnumerable<LetterTemplate> templates)
    {
        All = [.. templates.OrderBy(t => t.Kind, StringComparer.Ordinal).ThenBy(t => t.Language, StringComparer.Ordinal)];
        byName = All.ToDictionary(t => (t.Kind, t.Language));
    }

    /// <summary>All of them.</summary>
    public IReadOnlyList<LetterTemplate> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>Those of a policy.</summary>
    public static LetterBook Of(Policy policy) => policy.Parts.Of<LetterBook>();

    /// <summary>The owner's template of that kind in that very language, or null.</summary>
    public LetterTemplate? Find(string kind, string language) => byName.GetValueOrDefault((kind, language));

    /// <summary>
    /// The template that somebody is written to by. The reader's language comes first, then the same without its region, then the site's, then English;
    /// in each the owner's words come before ours (docs/how-to/letters.md).
    /// </summary>
    /// <param name="kind">The kind.</param>
    /// <param name="reader">The language that the reader chose; null where none is known.</param>
    /// <param name="site">The language of the site.</param>
    public ChosenTemplate Choose(string kind, string? reader, string site)
    {
        foreach (var language in Languages(reader).Concat(Languages(site)))
        {
            if (Find(kind, language) is { } own)
            {
                return new ChosenTemplate(own, false);
            }

            if (OurLetters.Find(kind, language) is { } ours)
            {
                return new ChosenTemplate(ours, true);
            }
        }

        return Find(kind, "en") is { } english ? new ChosenTemplate(english, false) : new ChosenTemplate(OurLetters.Get(kind), true);
    }

    private static IEnumerable<string> Languages(string? tag)
    {
        for (var rest = tag; !string.IsNullOrEmpty(rest); rest = rest.Contains('-', StringComparison.Ordinal) ? rest[..rest.LastIndexOf('-')] : null)
        {
            yield return rest;
        }
    }
}

/// <summary>Stores a template.</summary>
public sealed record TemplatePut(LetterTemplate Template) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new LetterBook(draft.Part<LetterBook>().All.Where(t => t.Name != Template.Name).Append(Template)));
}

/// <summary>Drops a template: ours counts again.</summary>
public sealed record TemplateDropped(string Kind, string Language) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new LetterBook(draft.Part<LetterBook>().All.Where(t => t.Kind != Kind || t.Language != Language)));
}
